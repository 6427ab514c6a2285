"""From a sheet and a job to the question the solver answers: which nodes, at which cost.

An *option* is one way of one part, or one work-round of one hindrance. A hindrance *met* at a
target is answered by any one of its options. Costs are whole hundredths of a minute.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from eldrim.core.engine import Engine, Hindrance, Target, Way, WorkRound, applies, parse_target
from eldrim.core.engine.parts import HindranceKind, Part, Risk, RoundKind
from eldrim.core.job import Job, targets
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import fold
from eldrim.core.tools.shop_capability import ShopCapability


@dataclass(frozen=True, order=True)
class Option:
    """A way (``part``, ``way``) or a work-round (``part``, ``round``, ``index`` of hindrance)."""

    part: str
    way: str = ""
    round: str = ""
    index: int = -1

    @property
    def is_way(self) -> bool:
        """Whether choosing this moves the part."""
        return bool(self.way)


@dataclass(frozen=True)
class MetHindrance:
    """``part`` stands in the way of ``target``; ``options`` answer it, cheapest first."""

    part: str
    target: Target
    kind: HindranceKind
    options: tuple[Option, ...]


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
    builder = _Builder(engine, job, rules, capability)
    roots = tuple(b for target in targets(job, engine, rules) for b in builder.blocks_at(target))
    forced = tuple(_way_node(text) for text in job.force)
    blocks = builder.reach(roots, forced)
    return AccessProblem(roots, blocks, builder.cost, forced, builder.short)


def _way_node(text: str) -> Option:
    part, _, way = text.partition("/")
    return Option(part, way)


class _Builder:
    def __init__(
        self, engine: Engine, job: Job, rules: HouseRules, capability: ShopCapability | None
    ) -> None:
        self.engine, self.job, self.rules, self.capability = engine, job, rules, capability
        self.lacking = {fold(name) for name in job.without_tools}
        self.cost: dict[Option, int] = {}
        self.short = False
        self._at: dict[tuple[str, str], list[tuple[int, Hindrance, Target]]] = {}
        for index, hindrance in enumerate(engine.hindrances):
            if applies(hindrance.variants, job.variant) and self._present(hindrance.part):
                for text in hindrance.of:
                    target = parse_target(text)
                    if target is not None:
                        key = (target.hole, target.part)
                        self._at.setdefault(key, []).append((index, hindrance, target))

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
        met = self._at.get((target.hole, target.part), ())
        torque = self._needs_torque(target)
        return [
            MetHindrance(hole.part, target, hole.kind, self._options(i, hole, torque))
            for i, hole, stated in met
            if stated.covers(target)
        ]

    def _needs(self, node: Option) -> tuple[MetHindrance, ...]:
        """What has to be away before a work-round can be used at all."""
        hindrance = self.engine.hindrances[node.index]
        blocks = []
        for part in hindrance.rounds[node.round].needs:
            ways = self.engine.parts[part].ways
            allowed = [
                Option(part, k) for k, way in ways.items() if self._allowed(Option(part, k), way)
            ]
            for option in allowed:
                self._price(option, ways[option.way])
            options = tuple(sorted(allowed, key=lambda n: (self.cost[n], n)))
            for target in (parse_target(t) for t in hindrance.of):
                if target is not None:
                    blocks.append(MetHindrance(part, target, HindranceKind.BLOCKS_TOOL, options))
        return tuple(blocks)

    def _needs_torque(self, target: Target) -> bool:
        if target.item == "plug":
            return True
        if target.item:
            fits = self.engine.coils if target.item == "coil" else self.engine.leads
            items = [fit for fit in fits if applies(fit.variants, self.job.variant)]
            return any(joint.torque for item in items for joint in item.joints.values())
        part = self.engine.parts[target.part]
        return any(j.torque for j in part.released(part.ways[target.way]).values())

    def _options(self, index: int, hindrance: Hindrance, torque: bool) -> tuple[Option, ...]:
        part = self.engine.parts[hindrance.part]
        nodes = [
            Option(hindrance.part, key)
            for key, way in part.ways.items()
            if (not hindrance.cleared_by or key in hindrance.cleared_by)
            and (way.good_for_torque or not torque)
            and self._allowed(Option(hindrance.part, key), way)
        ]
        nodes += [
            Option(hindrance.part, round=key, index=index)
            for key, work in hindrance.rounds.items()
            if (work.good_for_torque or not torque)
            and f"{hindrance.part}/{key}" not in self.job.forbid
            and self._open_to_us(work, part)
        ]
        for node in nodes:
            self._price(node, part.ways[node.way] if node.is_way else hindrance.rounds[node.round])
        return tuple(sorted(nodes, key=lambda n: (self.cost[n], n)))

    def _allowed(self, node: Option, way: Way) -> bool:
        names = {node.part, f"{node.part}/{node.way}"}
        forced = {f for f in self.job.force if f.startswith(f"{node.part}/")}
        if forced and f"{node.part}/{node.way}" not in forced:
            return False
        return not names & set(self.job.forbid) and self._open_to_us(
            way, self.engine.parts[node.part]
        )

    def _open_to_us(self, way: Way | WorkRound, part: Part) -> bool:
        feel = way.by_feel if isinstance(way, Way) else way.kind is RoundKind.BY_FEEL
        if feel and self.rules.school("work_by_feel") == "forbidden":
            return False
        if any(fold(name) in self.lacking for name in (*way.tools, *way.skills)):
            return False
        able = self.capability is None or self.capability.can(way, part)
        self.short = self.short or not able
        return able

    def _price(self, node: Option, way: Way | WorkRound) -> None:
        minutes = way.out.mid + way.back.mid + risk_minutes(way.risks, self.rules)
        self.cost[node] = round(minutes * 100)


def risk_minutes(risks: tuple[Risk, ...], rules: HouseRules) -> float:
    """What the stated risks weigh when ways are compared, in minutes."""
    return sum(rules.risk_minutes[risk.level] for risk in risks)
