"""Why each thing moves: from the part back to the holes that need it."""

from dataclasses import dataclass

from eldrim.core import words
from eldrim.core.access.problem import AccessProblem, Block, Node
from eldrim.core.access.solve import WayIn
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import HindranceKind


@dataclass(frozen=True)
class Reason:
    """``part`` is in the way of ``of`` (part keys or hole ids), in the manner ``kind``."""

    part: str
    kind: HindranceKind
    holes: tuple[str, ...]
    parts: tuple[str, ...]
    items: tuple[str, ...] = ()


def active_blocks(problem: AccessProblem, way_in: WayIn) -> list[Block]:
    """All blocks the chosen set has to answer: those of the job and those of its own moves."""
    return [*problem.roots, *(b for n in sorted(way_in.chosen) for b in problem.blocks.get(n, ()))]


def answered_by(block: Block, way_in: WayIn) -> Node:
    """The chosen node that answers a block; a work-round, once paid for, goes first."""
    return next(n for n in sorted(block.options, key=_rounds_first) if n in way_in.chosen)


def _rounds_first(node: Node) -> tuple[bool, Node]:
    return (node.is_way, node)


def reasons(problem: AccessProblem, way_in: WayIn) -> dict[Node, list[Reason]]:
    """For each chosen node, what it answers, one reason per kind of hindrance."""
    grouped: dict[Node, dict[HindranceKind, list[Block]]] = {}
    for block in active_blocks(problem, way_in):
        node = answered_by(block, way_in)
        grouped.setdefault(node, {}).setdefault(block.kind, []).append(block)
    return {
        node: [_reason(node.part, kind, blocks) for kind, blocks in kinds.items()]
        for node, kinds in grouped.items()
    }


def _reason(part: str, kind: HindranceKind, blocks: list[Block]) -> Reason:
    targets = [b.target for b in blocks]
    return Reason(
        part,
        kind,
        tuple(dict.fromkeys(t.hole for t in targets if t.hole)),
        tuple(dict.fromkeys(t.part for t in targets if t.part)),
        tuple(dict.fromkeys(t.item for t in targets if t.item)),
    )


def say(engine: Engine, reason: Reason) -> str:
    """The reason in words: ``covers plugs 1, 3, 5``."""
    found = []
    if reason.holes:
        item = "coil" if reason.items == ("coil",) else "plug"
        many = "s" if len(reason.holes) > 1 else ""
        found.append(words.say(f"things.{item}{many}", holes=", ".join(reason.holes)))
    found += [words.the(engine.parts[p].name) for p in reason.parts]
    return words.say(reason.kind.value, things=words.listed(found))


def chain(engine: Engine, why: dict[Node, list[Reason]], node: Node) -> tuple[str, ...]:
    """From this move to the holes: each line names one part and why it is in the way.

    What hinders stands before what it hinders, so the last lines end at the holes.
    """
    return tuple(
        f"{engine.parts[n.part].name} {say(engine, reason)}"
        for n in _downward(why, node)
        for reason in why.get(n, ())
    )


def _downward(why: dict[Node, list[Reason]], start: Node) -> list[Node]:
    """``start`` and all it serves, each before what it hinders."""
    order: list[Node] = []
    seen: set[Node] = set()
    moved = {n.part: n for n in why if n.is_way}

    def visit(node: Node) -> None:
        seen.add(node)
        for reason in why.get(node, ()):
            for part in reason.parts:
                if part in moved and moved[part] not in seen:
                    visit(moved[part])
        order.append(node)

    visit(start)
    return order[::-1]


def serves(why: dict[Node, list[Reason]], node: Node) -> tuple[str, ...]:
    """The holes that need this move, directly or through other parts."""
    holes = {h for n in _downward(why, node) for reason in why.get(n, ()) for h in reason.holes}
    return tuple(sorted(holes, key=lambda h: (len(h), h)))
