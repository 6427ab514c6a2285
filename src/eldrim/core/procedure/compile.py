"""From facts and a job to a plan: choose the way in, make the steps, order them, add it all up."""

from collections.abc import Callable
from functools import partial
from itertools import pairwise

from eldrim.core.access import Node, NoWayInError, build, solve
from eldrim.core.access.alternatives import alternatives, stays
from eldrim.core.access.explain import say as say_reason
from eldrim.core.access.explain import serves
from eldrim.core.engine import Engine, applies
from eldrim.core.engine.glossary import lacking, translated
from eldrim.core.engine.joints import JointKind
from eldrim.core.errors import JobError, Problem
from eldrim.core.job import Job, settle
from eldrim.core.language import speaking
from eldrim.core.order.sequence import Task, sequence
from eldrim.core.procedure import prove, refit, service
from eldrim.core.procedure.context import Context, name_of
from eldrim.core.procedure.listing import parts, roll, tool_names
from eldrim.core.procedure.model import ChangeCost, Move, OpenPoint, Phase, PhaseMinutes, Plan, Step
from eldrim.core.procedure.points import open_points, wants
from eldrim.core.procedure.readable import with_tools_named
from eldrim.core.procedure.ready import bench, ready
from eldrim.core.procedure.setups import change_minutes
from eldrim.core.procedure.uncover import lift_key, uncover
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.rules.topics import TOPICS
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.kit import Kit
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import listed, say, the

Rank = Callable[[Step], tuple[float, ...]]


def plan(
    engine: Engine, job: Job, rules: HouseRules = DEFAULT_RULES, crib: Crib = STANDARD_CRIB
) -> Plan:
    """Answer a job on a consistent engine sheet, with the tools of a crib.

    A way whose tool is missing is not chosen, unless nothing else opens the holes; what is
    missing then stands on the plan with what to get.

    Raises :class:`JobError` when the job names what the sheet has not, or when no way reaches a
    hole; the message then carries the chain of parts. Minutes are minutes of work; one change of
    set-up costs what the house rules say and is counted on the step that needs it.
    """
    job = settle(job, engine)
    with speaking(job.language):
        if job.language == "en":
            return _compiled(engine, job, rules, crib)
        made = _compiled(translated(engine, job.language), job, rules, crib)
        return with_tools_named(_with_lacking_words(made, engine))


def _with_lacking_words(plan: Plan, engine: Engine) -> Plan:
    """The plan with a point open for the words of the sheet that are not in its language."""
    words = lacking(engine, plan.job.language)
    if not words:
        return plan
    said = say("open.words", count=len(words), words="; ".join(words[:5]))
    point = OpenPoint(key="words", text=said)
    return plan.model_copy(update={"open_points": (*plan.open_points, point)})


def _compiled(engine: Engine, job: Job, rules: HouseRules, crib: Crib) -> Plan:
    kit = Kit(engine, job.variant, rules, crib.without(job.without_tools))
    ctx, barred = _context(kit, job)
    return _Compiler(ctx, barred).plan()


def _context(kit: Kit, job: Job) -> tuple[Context, bool]:
    """The way in with this crib; where it opens nothing, with tools still to get (True)."""
    engine, barred = kit.engine, False
    try:
        problem = build(engine, job, kit.rules, kit)
        try:
            way_in = solve(problem)
        except NoWayInError:
            problem, barred = build(engine, job, kit.rules), True
            way_in = solve(problem)
        return Context(kit, job, problem, way_in), barred
    except NoWayInError as error:
        chain = " → ".join(_name(engine, key) for key in error.chain)
        what = "each must be off before the other" if error.loop else "nothing opens it"
        problem_found = Problem(
            "hindrances",
            f"no way in: {chain}: {what}",
            "state another way or a work-round for one of them",
        )
        raise JobError([problem_found]) from error


def _name(engine: Engine, key: str) -> str:
    part = engine.parts.get(key.split("/")[0])
    return part.name if part else key.replace("/", " ")


class _Compiler:
    def __init__(self, ctx: Context, barred: bool) -> None:
        self.ctx, self.barred = ctx, barred
        self.changes = 0
        rules = ctx.rules
        self.cost = ChangeCost(change=rules.set_up_minutes, piece=rules.piece_minutes)
        self.in_hand = ""
        self.gap = 0.0
        self.proven = ctx.way_in.proven

    def plan(self) -> Plan:
        body = self._body()
        needed = parts(self.ctx)
        listing = tuple(f"{p.quantity} × {p.name} {p.part_number}".strip() for p in needed)
        first, proof = ready(self.ctx), self._proof()
        tools = tool_names([*first, *body, *proof])
        head = [*first, *bench(self.ctx, tools, listing)]
        counted = prove.count_tools(len(tools))
        steps = self._count_changes([*head, *body, counted, *proof])
        laid_out = roll(self.ctx, steps)
        engine, job = self.ctx.engine, self.ctx.job
        return Plan(
            engine=engine.id,
            engine_name=engine.title,
            revision=engine.revision,
            variant=job.variant,
            variant_name=engine.variants[job.variant].name,
            job=job,
            title=job.title,
            rules_version=self.ctx.rules.version,
            moves=self._moves(steps),
            steps=tuple(steps),
            tools=tuple(i.name for i in laid_out),
            parts=needed,
            roll=laid_out,
            wants=wants(self.ctx, self.barred),
            open_points=open_points(steps, laid_out),
            crib_version=self.ctx.kit.crib.version,
            minutes=_sum(steps),
            phases=_phases(steps),
            tool_changes=self.changes,
            change_cost=self.cost,
            proven_optimal=self.proven,
            access_minutes=self.ctx.way_in.cost / 100,
            access_bound=self.ctx.way_in.bound / 100,
            order_gap=round(self.gap, 2),
            notes=self._notes(),
            schools={t.key: self.ctx.rules.school(t.key) for t in TOPICS},
            stays=stays(engine, self.ctx.problem, self.ctx.way_in, self._present()),
            alternatives=alternatives(engine, self.ctx.problem, self.ctx.way_in, self.ctx.rules),
            defers_to=say("defers_to"),
        )

    def _present(self) -> list[str]:
        parts = self.ctx.engine.parts.items()
        return [k for k, p in parts if applies(p.variants, self.ctx.job.variant)]

    def _body(self) -> list[Step]:
        ctx = self.ctx
        self.covers = refit.covers(ctx)
        before = ctx.rules.school("first_start") != "after_refit"
        self.late = refit.late(ctx) if before else set()
        early = [s for s in self.covers if s.part not in self.late]
        body = self._order(uncover(ctx), self._part_by_part)
        body += self._order(service.clean(ctx), self._by_stage)
        for index, holes in enumerate(ctx.groups):
            last = index == len(ctx.groups) - 1
            body += self._at_holes(holes, early if last else [])
            if not last and self._bank_ends(index):
                body += self._start_between(holes)
        return body

    def _at_holes(self, holes: list[str], covers: list[Step]) -> list[Step]:
        ctx = self.ctx
        return [
            *self._order(service.pull(ctx, holes), self._by_stage),
            *service.read(ctx, holes),
            *self._order(service.fit(ctx, holes), self._by_stage),
            *self._order(_within([*refit.carriers(ctx, holes), *covers]), self._part_by_part),
        ]

    def _bank_of(self, holes: list[str]) -> str:
        return self.ctx.engine.cylinders[self.ctx.engine.holes[holes[0]][0]].bank

    def _bank_ends(self, index: int) -> bool:
        groups = self.ctx.groups
        return self._bank_of(groups[index]) != self._bank_of(groups[index + 1])

    def _start_between(self, holes: list[str]) -> list[Step]:
        if not self.ctx.start_between():
            return []
        return [prove.start_between(self.ctx, self._bank_of(holes))]

    def _notes(self) -> tuple[str, ...]:
        ctx = self.ctx
        banks = {self._bank_of(g) for g in ctx.groups}
        if not ctx.by_bank or ctx.start_between() or len(banks) < 2:
            return ()
        names = [the(ctx.part(n).name) for n in ctx.moves if ctx.part(n).needed_to_run]
        return (say("no_start_between", parts=listed(names)),)

    def _proof(self) -> list[Step]:
        covers = [
            s.model_copy(update={"phase": Phase.PROVE}) for s in self.covers if s.part in self.late
        ]
        return [
            *prove.before_start(self.ctx),
            *prove.start(self.ctx),
            *self._order(covers, self._part_by_part),
            *prove.finish(self.ctx),
        ]

    def _order(self, steps: list[Step], rank: Rank) -> list[Step]:
        chain = self._hole_after_hole(steps)
        tasks = [
            Task(s.key, s.setup, frozenset((*s.after, *chain.get(s.key, ()))), (*rank(s), i))
            for i, s in enumerate(steps)
        ]
        done = sequence(tasks, self.in_hand, partial(change_minutes, self.cost))
        self.proven = self.proven and done.proven
        self.gap += done.cost - done.bound
        by_key = {s.key: s for s in steps}
        ordered = [by_key[k] for k in done.order]
        self.in_hand = next((s.setup for s in reversed(ordered) if s.setup), self.in_hand)
        return ordered

    def _hole_after_hole(self, steps: list[Step]) -> dict[str, tuple[str, ...]]:
        """The chosen school orders the holes: within a stage each waits for the one before.

        These waits order the document only; they are no part of a step's own ``after``, because
        nothing about the engine demands them.
        """
        stages: dict[str, list[Step]] = {}
        for step in sorted((s for s in steps if s.hole), key=self._hole_rank):
            kind = "/".join(w for w in step.key.split("/") if w != step.hole)
            stages.setdefault(kind, []).append(step)
        pairs = [pair for stage in stages.values() for pair in pairwise(stage)]
        return {later.key: (first.key,) for first, later in pairs}

    def _hole_rank(self, step: Step) -> int:
        return self.ctx.holes.index(step.hole) if step.hole in self.ctx.holes else 0

    def _by_stage(self, step: Step) -> tuple[float, ...]:
        """Stage by stage over all wells; within a stage, holes in the school's order."""
        verb = "/".join(w for w in step.key.split("/") if w != step.hole)
        return (STAGES.get(verb.split("/")[0], 5), self._hole_rank(step))

    def _part_by_part(self, step: Step) -> tuple[float, ...]:
        """What is at the holes first, then one part after the other, each whole where it can be."""
        if step.part is None:
            return (0, 0, *self._by_stage(step))
        depth = self.ctx.depth[step.part]
        sign = 1 if step.phase is Phase.UNCOVER else -1
        return (1, sign * depth, PART_STAGES.get(step.key.split("/")[0], 3))

    def _count_changes(self, steps: list[Step]) -> list[Step]:
        counted, in_hand = [], ""
        for step in steps:
            if step.setup and step.setup != in_hand:
                cost = change_minutes(self.cost, in_hand, step.setup)
                in_hand = step.setup
                self.changes += 1
                minutes = round(step.minutes + cost, 1)
                step = step.model_copy(update={"minutes": minutes, "changes_setup": True})
            counted.append(step)
        return counted

    def _moves(self, steps: list[Step]) -> tuple[Move, ...]:
        ctx = self.ctx
        position = {s.key: i for i, s in enumerate(steps)}
        nodes = sorted(ctx.moves, key=lambda n: position[lift_key(ctx, n)])
        return tuple(_move(ctx, node, i) for i, node in enumerate(nodes, 1))


STAGES = {
    "release": 0,
    "remove": 2,
    "clean": 3,
    "gap": 0,
    "chase": 0.5,
    "prepare": 1,
    "start": 2,
    "torque": 3,
    "fit": 1,
    "tighten": 2,
    "connect": 3,
}
# An opening is plugged right after it opens, and unplugged right before it closes.
PART_STAGES = {
    "plug-opening": -1,
    "release": 0,
    "remove": 1,
    "swing": 1,
    "unclip": 1,
    "shift": 1,
    "renew": 0,
    "unplug-opening": 1,
    "fit": 2,
    "back": 2,
}


def _within(steps: list[Step]) -> list[Step]:
    """Drop waits on steps of groups already finished, so that each group can be ordered alone."""
    keys = {s.key for s in steps}
    return [s.model_copy(update={"after": tuple(k for k in s.after if k in keys)}) for s in steps]


def _move(ctx: Context, node: Node, number: int) -> Move:
    part, way = ctx.part(node), ctx.way(node)
    said = [say_reason(ctx.engine, r) for r in ctx.why.get(node, ())]
    joints = [name_of(j) for j in ctx.released(node).values() if j.kind is not JointKind.GASKET]
    return Move(
        number=number,
        part=node.part,
        name=part.name,
        way=node.way,
        kind=way.kind.value,
        what=", ".join(joints),
        why="; ".join(said) or say("move.asked"),
        because=ctx.because(node),
        serves=serves(ctx.why, node),
        minutes=round(way.out.mid + way.back.mid, 1),
        persons=way.persons,
    )


def _sum(steps: list[Step]) -> float:
    return round(sum(s.minutes for s in steps), 1)


def _phases(steps: list[Step]) -> tuple[PhaseMinutes, ...]:
    return tuple(
        PhaseMinutes(phase=p, minutes=_sum([s for s in steps if s.phase is p])) for p in Phase
    )
