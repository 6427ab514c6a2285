"""From a sheet and a job to the question the solver answers: which nodes, at which cost.

An *option* is one way of one part, or one work-round of one hindrance. A hindrance *met* at a
target is answered by any one of its options. Costs are whole hundredths of a minute.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import NamedTuple

from eldrim.core.engine import Engine, Hindrance, Target, Way, WorkRound, applies, parse_target
from eldrim.core.engine.parts import HindranceKind, Part, Risk, RoundKind
from eldrim.core.engine.timing import Piece
from eldrim.core.engine.upkeep import Companion
from eldrim.core.job import Job, cap_way, carrier, carrier_cylinders, targets
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import fold
from eldrim.core.tools.shop_capability import ShopCapability


class Option(NamedTuple):
    """A way (``part``, ``way``) or a work-round (``part``, ``round`` of one ``hindrance``)."""

    part: str
    way: str = ""
    round: str = ""
    hindrance: int = -1

    @property
    def is_way(self) -> bool:
        """Whether choosing this moves the part."""
        return bool(self.way)


class ClosedBy(StrEnum):
    """Why a way or a work-round that the sheet states is not offered."""

    JOB = "job"
    FORCED = "forced"
    FEEL = "feel"
    LACKING = "lacking"
    CRIB = "crib"
    TORQUE = "torque"
    NOT_CLEARING = "not_clearing"


class Closed(NamedTuple):
    """A way or work-round of ``part`` that is not offered at some hindrance, and why not.

    ``what`` names the tool or skill that is lacking, where that is the reason.
    """

    part: str
    key: str
    by: ClosedBy
    what: str = ""


@dataclass(frozen=True)
class MetHindrance:
    """``part`` stands in the way of ``target``; ``options`` answer it, cheapest first.

    ``closed`` are the ways and work-rounds that the sheet states but that are not offered.
    """

    part: str
    target: Target
    kind: HindranceKind
    options: tuple[Option, ...]
    closed: tuple[Closed, ...] = field(default=(), compare=False)


@dataclass(frozen=True)
class AccessProblem:
    """``roots`` are the blocks of the job; ``blocks`` those that a node brings with it.

    ``short`` tells that ways were left out because the crib lacks their tools.
    """

    roots: tuple[MetHindrance, ...]
    blocks: Mapping[Option, tuple[MetHindrance, ...]]
    cost: Mapping[Option, int]
    forced: tuple[Option, ...] = ()
    short: bool = False


def build(
    engine: Engine, job: Job, rules: HouseRules, capability: ShopCapability | None = None
) -> AccessProblem:
    """Build the question for a settled job; ways ruled out by job or house rules are left out.

    With a ``capability``, so are the ways whose tools the crib lacks.
    """
    cap = cap_way(job, engine)
    if cap and cap.split("/")[0] not in {text.split("/")[0] for text in job.force}:
        job = job.model_copy(update={"force": (*job.force, cap)})
    builder = _Builder(engine, job, rules, capability)
    roots = tuple(b for target in targets(job, engine, rules) for b in builder.blocks_at(target))
    forced = tuple(_way_node(text) for text in job.force)
    blocks = builder.reach(roots, forced)
    return AccessProblem(roots, blocks, builder.cost, forced, builder.short)


def _way_node(text: str) -> Option:
    part, _, way = text.partition("/")
    return Option(part, way)


_Why = tuple[ClosedBy, str]
_Asked = tuple[Option, Way | WorkRound, _Why | None]


def _unfit(way: Way | WorkRound, clears: bool, torque: bool) -> _Why | None:
    if not clears:
        return ClosedBy.NOT_CLEARING, ""
    return (ClosedBy.TORQUE, "") if torque and not way.good_for_torque else None


class _Builder:
    def __init__(
        self, engine: Engine, job: Job, rules: HouseRules, capability: ShopCapability | None
    ) -> None:
        self.engine, self.job, self.rules, self.capability = engine, job, rules, capability
        self.lacking = {fold(name) for name in job.without_tools}
        self.forbidden = frozenset(job.forbid)
        self.opened = engine.holes_of_all(carrier_cylinders(job, engine, rules))
        self.forced = dict(_way_node(text)[:2] for text in job.force)
        self.cost: dict[Option, int] = {}
        self._answers: dict[tuple[int, bool], tuple[tuple[Option, ...], tuple[Closed, ...]]] = {}
        self.short = False
        self._at: dict[tuple[str, str], list[tuple[int, Hindrance, Target]]] = {}
        for index, hindrance in enumerate(engine.hindrances):
            if applies(hindrance.variants, job.variant) and self._present(hindrance.part):
                for text in hindrance.of:
                    target = self._target(text)
                    if target is not None:
                        key = (target.hole, target.part)
                        self._at.setdefault(key, []).append((index, hindrance, target))

    def _target(self, text: str) -> Target | None:
        """A target of the sheet; coil and lead both mean what brings the spark here."""
        target = parse_target(text)
        if target is None or target.item not in ("coil", "lead"):
            return target
        return replace(target, item=carrier(self.engine).value)

    def _present(self, part: str) -> bool:
        return applies(self.engine.parts[part].variants, self.job.variant)

    def reach(
        self, roots: tuple[MetHindrance, ...], forced: tuple[Option, ...]
    ) -> dict[Option, tuple[MetHindrance, ...]]:
        """Return the blocks of every node that can matter, by walking down from the roots."""
        found: dict[Option, tuple[MetHindrance, ...]] = {}
        waiting = [option for root in roots for option in root.options]
        for node in forced:
            self._price(node, self.engine.parts[node.part].ways[node.way])
            waiting.append(node)
        while waiting:
            node = waiting.pop()
            if node not in found:
                target = Target(part=node.part, way=node.way)
                found[node] = tuple(self.blocks_at(target)) if node.is_way else self._needs(node)
                waiting += [n for b in found[node] for n in b.options]
        return found

    def blocks_at(self, target: Target) -> list[MetHindrance]:
        return [
            self._met(index, hindrance, target.at(stated))
            for index, hindrance, stated in self._at.get((target.hole, target.part), ())
            if stated.covers(target) and self._let_go(target, stated.joint)
        ]

    def _let_go(self, target: Target, joint: str) -> bool:
        """Whether a joint that a hindrance speaks of is let go at all; so is every item's."""
        if not joint or not target.part:
            return True
        part = self.engine.parts[target.part]
        return joint in part.released(part.ways[target.way])

    def _met(self, index: int, hindrance: Hindrance, target: Target) -> MetHindrance:
        torque = self._needs_torque(target)
        key = (index, torque)
        if key not in self._answers:
            self._answers[key] = self._options(index, hindrance, torque)
        return MetHindrance(hindrance.part, target, hindrance.kind, *self._answers[key])

    def _needs(self, node: Option) -> tuple[MetHindrance, ...]:
        """What has to be away before a work-round can be used at all."""
        hindrance = self.engine.hindrances[node.hindrance]
        every = [t for text in hindrance.of if (t := self._target(text)) is not None]
        opened = self.opened
        targets_of = [t for t in every if not t.hole or t.hole in opened] or every
        blocks = []
        for part in hindrance.rounds[node.round].needs:
            ways = self.engine.parts[part].ways
            asked: list[_Asked] = [
                (Option(part, key), way, self._way_closed(part, key, way))
                for key, way in ways.items()
            ]
            options, closed = self._sorted_out(asked)
            blocks += [
                MetHindrance(part, target, HindranceKind.BLOCKS_TOOL, options, closed)
                for target in targets_of
            ]
        return tuple(blocks)

    def _needs_torque(self, target: Target) -> bool:
        if target.item == "plug":
            return True
        if target.item and not target.hole:
            owners: list[tuple[str, Piece | Companion]] = [
                *self.engine.pieces.items(),
                *self.engine.companions.items(),
            ]
            found = [owner.joints for key, owner in owners if key == target.item]
        elif target.item:
            fits = self.engine.coils if target.item == "coil" else self.engine.leads
            items = [fit for fit in fits if applies(fit.variants, self.job.variant)]
            found = [item.joints for item in items]
        else:
            part = self.engine.parts[target.part]
            found = [part.released(part.ways[target.way])]
        return any(
            joint.torque
            for joints in found
            for key, joint in joints.items()
            if target.joint in ("", key)
        )

    def _options(
        self, index: int, hindrance: Hindrance, torque: bool
    ) -> tuple[tuple[Option, ...], tuple[Closed, ...]]:
        part, name = self.engine.parts[hindrance.part], hindrance.part
        asked: list[_Asked] = []
        for key, way in part.ways.items():
            clears = not hindrance.cleared_by or key in hindrance.cleared_by
            why = self._way_closed(name, key, way) or _unfit(way, clears, torque)
            asked.append((Option(name, key), way, why))
        for key, work in hindrance.rounds.items():
            barred = (ClosedBy.JOB, "") if f"{name}/{key}" in self.job.forbid else None
            why = barred or self._not_ours(work, part) or _unfit(work, True, torque)
            asked.append((Option(name, round=key, hindrance=index), work, why))
        return self._sorted_out(asked)

    def _sorted_out(self, asked: "list[_Asked]") -> tuple[tuple[Option, ...], tuple[Closed, ...]]:
        """The options that are offered, cheapest first, and those that are closed."""
        offered = [option for option, _, why in asked if why is None]
        for option, work, why in asked:
            if why is None:
                self._price(option, work)
        closed = tuple(
            Closed(option.part, option.way or option.round, *why)
            for option, _, why in asked
            if why is not None
        )
        return tuple(sorted(offered, key=lambda option: (self.cost[option], option))), closed

    def _way_closed(self, part: str, key: str, way: Way) -> "_Why | None":
        if {part, f"{part}/{key}"} & self.forbidden:
            return ClosedBy.JOB, ""
        if self.forced.get(part, key) != key:
            return ClosedBy.FORCED, ""
        return self._not_ours(way, self.engine.parts[part])

    def _not_ours(self, way: Way | WorkRound, part: Part) -> "_Why | None":
        feel = way.by_feel if isinstance(way, Way) else way.kind is RoundKind.BY_FEEL
        if feel and self.rules.school["work_by_feel"] == "forbidden":
            return ClosedBy.FEEL, ""
        lacking = [name for name in (*way.tools, *way.skills) if fold(name) in self.lacking]
        if lacking:
            return ClosedBy.LACKING, lacking[0]
        if self.capability is not None and not self.capability.can(way, part):
            self.short = True
            return ClosedBy.CRIB, ""
        return None

    def _price(self, node: Option, way: Way | WorkRound) -> None:
        minutes = way.out.mid + way.back.mid + risk_minutes(way.risks, self.rules)
        self.cost[node] = round(minutes * 100)


def risk_minutes(risks: tuple[Risk, ...], rules: HouseRules) -> float:
    """What the stated risks weigh when ways are compared, in minutes."""
    return sum(rules.risk_minutes[risk.level] for risk in risks)
