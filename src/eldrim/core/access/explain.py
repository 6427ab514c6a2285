"""Why each thing moves: from the part back to the holes that need it."""

from collections.abc import Iterator
from dataclasses import dataclass

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.access.solve import WayIn
from eldrim.core.base.frozen import Frozen
from eldrim.core.engine import Engine, Target
from eldrim.core.engine.glossary import word
from eldrim.core.engine.model import Coil, Lead
from eldrim.core.engine.parts import HindranceKind, Joint
from eldrim.core.engine.targets import hole_order
from eldrim.core.words import listed, say, the


@dataclass(frozen=True)
class Reason:
    """``part`` is in the way of holes, parts or places of work, in the manner ``kind``."""

    part: str
    kind: HindranceKind
    holes: tuple[str, ...]
    parts: tuple[str, ...]
    items: tuple[str, ...] = ()
    joints: tuple[Target, ...] = ()
    places: tuple[str, ...] = ()


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


def _reason(part: str, kind: HindranceKind, blocks: list[MetHindrance]) -> Reason:
    targets = [block.target for block in blocks]
    return Reason(
        part,
        kind,
        tuple(dict.fromkeys(target.hole for target in targets if target.hole)),
        tuple(dict.fromkeys(t.part for t in targets if t.part)),
        tuple(dict.fromkeys(t.item for t in targets if t.item and t.hole)),
        tuple(dict.fromkeys(target for target in targets if target.joint)),
        tuple(dict.fromkeys(t.item for t in targets if t.item and not t.hole)),
    )


def reason_text(engine: Engine, reason: Reason) -> str:
    """The reason in words: ``over plugs 1, 3, 5``."""
    whole = {target.hole for target in reason.joints}
    holes = [hole for hole in reason.holes if hole not in whole]
    found = []
    if holes:
        item = reason.items[0] if len(reason.items) == 1 else "plug"
        many = "s" if len(holes) > 1 else ""
        found.append(say(f"things.{item}{many}", holes=", ".join(holes)))
    found += [place_name(engine, place) for place in reason.places]
    found += [_joint_text(engine, target) for target in reason.joints]
    apart = {target.part for target in reason.joints}
    found += [the(engine.parts[part].name) for part in reason.parts if part not in apart]
    return say(f"hinders.{reason.kind}", things=listed(found))


def place_name(engine: Engine, place: str) -> str:
    """What is worked on at no hole, in words: the cap, or a companion of the sheet."""
    companion = engine.companions.get(place)
    return the(word(engine, companion.name)) if companion else say(f"place.{place}")


def _joint_text(engine: Engine, target: Target) -> str:
    """One joint, or some of its pieces, in words: ``the bolts 2, 3 of the plenum``."""
    if target.part:
        owner = engine.parts[target.part]
        joint, of = owner.joints[target.joint], the(owner.name)
    else:
        of = say(f"item.{target.item}", hole=target.hole)
        joint = _carried(engine, target)
    name = joint.name or say(f"joint.{joint.kind}.{'many' if joint.count > 1 else 'one'}")
    pieces = f" {target.pieces.replace(',', ', ')}" if target.pieces else ""
    return say("things.joint", joint=f"{name}{pieces}", of=of)


def _carried(engine: Engine, target: Target) -> Joint:
    fits: list[Coil | Lead] = [*engine.coils, *engine.leads]
    return next(fit.joints[target.joint] for fit in fits if target.joint in fit.joints)


class ReasonLine(Frozen):
    """One line of a chain of reasons: ``part`` is in the way of parts and holes, in words too."""

    part: str
    kind: HindranceKind
    parts: tuple[str, ...] = ()
    holes: tuple[str, ...] = ()
    text: str


class Reasons:
    """Why each chosen option is there, down to the holes it serves."""

    def __init__(self, engine: Engine, met: list[tuple[MetHindrance, Option]]) -> None:
        """Sort the hindrances met by the option that answers them, one reason a kind."""
        grouped: dict[Option, dict[HindranceKind, list[MetHindrance]]] = {}
        for hindrance, answer in met:
            kinds = grouped.setdefault(answer, {})
            kinds.setdefault(hindrance.kind, []).append(hindrance)
        self._engine = engine
        self._why = {
            option: [_reason(option.part, kind, blocks) for kind, blocks in kinds.items()]
            for option, kinds in grouped.items()
        }
        self._moved = {option.part: option for option in self._why if option.is_way}
        self._lines: dict[Option, tuple[ReasonLine, ...]] = {}
        self._below: dict[Option, list[Option]] = {}

    def of(self, option: Option) -> list[Reason]:
        """What an option answers; empty where it was only asked for."""
        return self._why.get(option, [])

    def chain(self, option: Option) -> tuple[ReasonLine, ...]:
        """From a move to the holes: each line names one part and why it is in the way.

        What hinders stands before what it hinders, so the last lines end at the holes.
        """
        return tuple(line for other in self._downward(option) for line in self._lines_of(other))

    def serves(self, option: Option) -> tuple[str, ...]:
        """The holes that need a move, directly or through other parts."""
        below = self._downward(option)
        holes = {hole for other in below for reason in self.of(other) for hole in reason.holes}
        return tuple(sorted(holes, key=hole_order))

    def _lines_of(self, option: Option) -> tuple[ReasonLine, ...]:
        if option not in self._lines:
            name = self._engine.parts[option.part].name
            self._lines[option] = tuple(
                ReasonLine(
                    part=option.part,
                    kind=reason.kind,
                    parts=reason.parts,
                    holes=reason.holes,
                    text=say("reason", part=name, why=reason_text(self._engine, reason)),
                )
                for reason in self.of(option)
            )
        return self._lines[option]

    def _downward(self, start: Option) -> list[Option]:
        """``start`` and all it serves, each before what it hinders."""
        if start not in self._below:
            order: list[Option] = []
            seen = {start}
            stack = [(start, self._next(start))]
            while stack:
                after = next((other for other in stack[-1][1] if other not in seen), None)
                if after is None:
                    order.append(stack.pop()[0])
                else:
                    seen.add(after)
                    stack.append((after, self._next(after)))
            self._below[start] = order[::-1]
        return self._below[start]

    def _next(self, option: Option) -> Iterator[Option]:
        parts = (part for reason in self.of(option) for part in reason.parts)
        return (self._moved[part] for part in parts if part in self._moved)
