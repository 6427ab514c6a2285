"""Why each thing moves: from the part back to the holes that need it."""

from dataclasses import dataclass

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.access.solve import WayIn
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import HindranceKind
from eldrim.core.engine.targets import hole_order
from eldrim.core.frozen import Frozen
from eldrim.core.words import listed, say, the


@dataclass(frozen=True)
class Reason:
    """``part`` is in the way of ``of`` (part keys or hole ids), in the manner ``kind``."""

    part: str
    kind: HindranceKind
    holes: tuple[str, ...]
    parts: tuple[str, ...]
    items: tuple[str, ...] = ()


def active_hindrances(problem: AccessProblem, way_in: WayIn) -> list[MetHindrance]:
    """All blocks the chosen set has to answer: those of the job and those of its own moves."""
    return [
        *problem.roots,
        *(b for option in sorted(way_in.chosen) for b in problem.blocks.get(option, ())),
    ]


def answered_by(block: MetHindrance, way_in: WayIn) -> Option:
    """The chosen node that answers a block; a work-round, once paid for, goes first."""
    return next(
        option for option in sorted(block.options, key=_rounds_first) if option in way_in.chosen
    )


def _rounds_first(node: Option) -> tuple[bool, Option]:
    return (node.is_way, node)


def reasons(problem: AccessProblem, way_in: WayIn) -> dict[Option, list[Reason]]:
    """For each chosen node, what it answers, one reason per kind of hindrance."""
    grouped: dict[Option, dict[HindranceKind, list[MetHindrance]]] = {}
    for block in active_hindrances(problem, way_in):
        node = answered_by(block, way_in)
        grouped.setdefault(node, {}).setdefault(block.kind, []).append(block)
    return {
        node: [_reason(node.part, kind, blocks) for kind, blocks in kinds.items()]
        for node, kinds in grouped.items()
    }


def _reason(part: str, kind: HindranceKind, blocks: list[MetHindrance]) -> Reason:
    targets = [block.target for block in blocks]
    return Reason(
        part,
        kind,
        tuple(dict.fromkeys(target.hole for target in targets if target.hole)),
        tuple(dict.fromkeys(t.part for t in targets if t.part)),
        tuple(dict.fromkeys(t.item for t in targets if t.item)),
    )


def reason_text(engine: Engine, reason: Reason) -> str:
    """The reason in words: ``covers plugs 1, 3, 5``."""
    found = []
    if reason.holes:
        item = "coil" if reason.items == ("coil",) else "plug"
        many = "s" if len(reason.holes) > 1 else ""
        found.append(say(f"things.{item}{many}", holes=", ".join(reason.holes)))
    found += [the(engine.parts[part].name) for part in reason.parts]
    return say(f"hinders.{reason.kind}", things=listed(found))


class ReasonLine(Frozen):
    """One line of a chain of reasons: ``part`` is in the way of parts and holes, in words too."""

    part: str
    kind: HindranceKind
    parts: tuple[str, ...] = ()
    holes: tuple[str, ...] = ()
    text: str


def chain(
    engine: Engine, why: dict[Option, list[Reason]], option: Option
) -> tuple[ReasonLine, ...]:
    """From this move to the holes: each line names one part and why it is in the way.

    What hinders stands before what it hinders, so the last lines end at the holes.
    """
    return tuple(
        ReasonLine(
            part=other.part,
            kind=reason.kind,
            parts=reason.parts,
            holes=reason.holes,
            text=f"{engine.parts[other.part].name} {reason_text(engine, reason)}",
        )
        for other in _downward(why, option)
        for reason in why.get(other, ())
    )


def _downward(why: dict[Option, list[Reason]], start: Option) -> list[Option]:
    """``start`` and all it serves, each before what it hinders."""
    order: list[Option] = []
    seen: set[Option] = set()
    moved = {option.part: option for option in why if option.is_way}

    def visit(node: Option) -> None:
        seen.add(node)
        for reason in why.get(node, ()):
            for part in reason.parts:
                if part in moved and moved[part] not in seen:
                    visit(moved[part])
        order.append(node)

    visit(start)
    return order[::-1]


def serves(why: dict[Option, list[Reason]], node: Option) -> tuple[str, ...]:
    """The holes that need this move, directly or through other parts."""
    holes = {
        hole
        for option in _downward(why, node)
        for reason in why.get(option, ())
        for hole in reason.holes
    }
    return tuple(sorted(holes, key=hole_order))
