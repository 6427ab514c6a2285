"""From a weighed complaint to a procedure that is followed in the bay, branch by branch.

The way in and back are the steps of the planner's own procedure for the cylinders the tree comes
to. They stand once each: the search opens what the act in hand needs, closes what the engine needs
to run before it runs, and what was closed is opened anew where a later act needs it.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import ALL_PLUGS, CARRIER, NOTHING, OVER, PLUG
from eldrim.core.faults.diagnosis import Diagnosis
from eldrim.core.faults.find_steps import FindSteps, Released
from eldrim.core.faults.followed import Act, Followed, Follower
from eldrim.core.job import Job, Work
from eldrim.core.operations import Operation, PartChange, Phase
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import (
    SIGNING,
    CauseSearch,
    Check,
    PhaseMinutes,
    Plan,
    SearchAct,
    SearchCause,
    SearchNode,
    Step,
)
from eldrim.core.procedure.steps.prove_steps import SAFE_AGAIN, count_again, count_tools
from eldrim.core.procedure.steps.ready_steps import lay_out
from eldrim.core.rules.house import HouseRules
from eldrim.core.run.path import END, HANDS, SEE, place_of
from eldrim.core.step_key import StepKey
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.naming import ToolRef
from eldrim.core.words import listed, say
from eldrim.core.words.language import Language, reading_in

# Done before anything is opened, and again after the engine ran; the first needs plugs out.
COLD = Operation.MEASURE_TEMPERATURE
SAFE = (Operation.SWITCH_OFF, Operation.SHUT_GAS, Operation.ISOLATE_BATTERY)
# Of the procedure of a job, what a search has steps of its own for, or does not do.
LEFT_OUT = (
    Operation.CHECK_PARTS,
    Operation.READ_PLUG,
    Operation.READ_COIL,
    Operation.START_BETWEEN,
    Operation.CLEAR_CODES,
    Operation.TEST_LOAD,
    Operation.READ_CODES_AGAIN,
)
# Asked before a start only where a part was off that the engine needs.
_ASKED_IF_OPENED = (
    Operation.CHECK_OPENINGS,
    Operation.PRIME_FUEL,
    Operation.FILL_COOLANT,
    Operation.CHECK_AIR_LEAK,
)
_PLUG_OUT = (Operation.CLEAN_WELL, Operation.REMOVE_PLUG)
_CARRIER_OFF = (Operation.REMOVE_COIL, Operation.REMOVE_LEAD)
_PLUG_IN = (
    Operation.CHECK_GAP,
    Operation.CHASE_THREAD,
    Operation.PREPARE_THREAD,
    Operation.START_PLUG,
    Operation.TIGHTEN_PLUG,
)
_LEVELS = {NOTHING: 0, OVER: 1, CARRIER: 2, PLUG: 3, ALL_PLUGS: 3}


@dataclass(frozen=True)
class Asked:
    """What a search is computed from, beside the weighed complaint.

    ``complaint`` is it in words, ``name`` what tells it from another.
    ``released`` finds the edition that holds a repair at a cylinder, if there is one.
    """

    engine: Engine
    variant: str
    rules: HouseRules
    crib: Crib
    language: Language = "en"
    complaint: str = ""
    name: str = ""
    released: Callable[[frozenset[Work], tuple[int, ...]], Released | None] = lambda _, __: None


def follow_plan(asked: Asked, found: Diagnosis) -> Plan:
    """The procedure that follows a tree.

    Raises :class:`~eldrim.core.base.errors.JobError` where no way opens a cylinder of it.
    """
    with reading_in(asked.language):
        return _Compiler(asked, found).plan()


class _Compiler:
    def __init__(self, asked: Asked, found: Diagnosis) -> None:
        self.asked, self.found = asked, found
        engine = asked.engine
        follower = Follower(found.where.cylinders, found.partners, tuple(sorted(engine.cylinders)))
        self.followed: Followed = follower.follow(found.strategy.tree)
        self.steps_of = FindSteps(asked.engine, asked.variant, asked.rules, asked.crib, self.base)
        # The steps of editions, where a repair has one: with the trainer's notes and holds.
        self.edited: dict[StepKey, Step] = {}
        self.made: dict[str, tuple[Step | None, Step]] = {
            key: self._own_steps(key, act) for key, act in self.followed.acts.items()
        }

    @cached_property
    def base(self) -> Plan:
        """The planner's procedure for every cylinder the tree comes to: plugs out and in."""
        at = {n for act in self.followed.acts.values() for n in act.cylinders}
        cylinders = tuple(sorted(at)) or tuple(sorted(self.asked.engine.cylinders))[:1]
        job = Job(
            cylinders=cylinders,
            work=(Work.PLUG,),
            variant=self.asked.variant,
            language=self.asked.language,
        )
        return compile_plan(self.asked.engine, job, self.asked.rules, self.asked.crib)

    def _own_steps(self, key: str, act: Act) -> tuple[Step | None, Step]:
        """What the hands do of an act, where they change something; and the step that sees it."""
        make = self.steps_of
        cures = getattr(act.row, "cures", ())
        work = frozenset(WORK_OF[c] for c in cures if c in WORK_OF)
        released = self.asked.released(work, act.cylinders) if work else None
        if released:
            holes = self.asked.engine.holes_of_all(act.cylinders)
            self.edited |= {s.key: s for s in released.steps if s.hole in holes}
        hands = make.hands(key, act, released) if act.has_hands else None
        if hands:
            hands = hands.model_copy(update={"places": (place_of(key, HANDS),)})
        resets = self._run_again if act.runs else ()
        seen = {"places": (place_of(key, SEE),), "resets": resets}
        return hands, make.see(key, act).model_copy(update=seen)

    # Where things are opened and closed.

    def _opens_at(
        self, level: int, holes: Iterable[str] = (), *, running: bool = False
    ) -> tuple[str, ...]:
        """The places that need so much open, at one of these holes if any are named.

        ``running`` takes those in at which the engine runs at once: what it runs without is off.
        """
        wanted = set(holes)
        places = []
        for key, act in self.followed.acts.items():
            at = set(self.asked.engine.holes_of_all(act.cylinders))
            if _LEVELS[act.row.needs] < level or (wanted and not wanted & at) or not at:
                continue
            if act.has_hands or not act.runs or running:
                places.append(place_of(key, HANDS if act.has_hands else SEE))
        return tuple(places)

    @cached_property
    def _shuts_at(self) -> tuple[str, ...]:
        """The places at which the engine runs."""
        return tuple(place_of(key, SEE) for key, act in self.followed.acts.items() if act.runs)

    @cached_property
    def _lifts(self) -> dict[str, StepKey]:
        """The step in which each part comes away."""
        away = (s.key for s in self.base.steps if s.key.rule.part is PartChange.AWAY)
        return {key.item: key for key in away}

    @cached_property
    def _late(self) -> frozenset[str]:
        """The parts that go back after the engine ran."""
        return frozenset(
            step.key.item
            for step in self.base.steps
            if step.key.rule.part is PartChange.BACK and step.phase is Phase.PROVE
        )

    @cached_property
    def _serves(self) -> dict[str, tuple[str, ...]]:
        return {move.part: move.serves for move in self.base.moves}

    def _placed(self, step: Step) -> Step | None:
        """A step of the planner's, at the places of the search it belongs to; None for none."""
        if step.key.operation in LEFT_OUT:
            return None
        places, only_after = self._where(step)
        if places is None:
            return step
        if not places:
            return None
        after = only_after if all(k in self._keys for k in only_after) else ()
        added = self._added_by_edition(step)
        return step.model_copy(update={"places": places, "only_after": after, **added})

    def _added_by_edition(self, step: Step) -> dict[str, Any]:
        """What an edition adds to a step; its sentences may be of another job."""
        edited = self.edited.get(step.key)
        if edited is None:
            return {}
        return {"note": edited.note, "photos": edited.photos, "cautions": edited.cautions}

    @cached_property
    def _keys(self) -> frozenset[StepKey]:
        return frozenset(step.key for step in self.base.steps)

    def _where(self, step: Step) -> tuple[tuple[str, ...] | None, tuple[StepKey, ...]]:
        """The places of a step (None: anywhere), and what has to be open for it."""
        act = step.key.operation
        if act is COLD:
            return self._opens_at(_LEVELS[PLUG]), ()
        if act in SAFE:
            return self._opens_at(_LEVELS[OVER], running=True) or self._touches(), ()
        if step.hole:
            return self._at_hole(step)
        if step.part:
            return self._on_part(step)
        if act in (Operation.CLEAN_COILS, Operation.CLEAN_LEADS):
            return self._opens_at(_LEVELS[CARRIER]), ()
        if act in SAFE_AGAIN:
            open_before = self._only_after(act)
            # What was left open when the search ended is made good all the same.
            ends = (END,) if open_before and act is not Operation.CHECK_AIR_LEAK else ()
            return (*self._shuts_at, *ends), open_before
        if act in (Operation.COUNT_TOOLS_AGAIN, Operation.SIGN):
            return (END,), ()
        return None, ()

    def _touches(self) -> tuple[str, ...]:
        """The places at which hands touch the engine, though nothing is opened."""
        stages = ((k, HANDS if a.has_hands else SEE, a) for k, a in self.followed.acts.items())
        return tuple(place_of(k, stage) for k, stage, a in stages if a.has_hands or not a.runs)

    def _at_hole(self, step: Step) -> tuple[tuple[str, ...], tuple[StepKey, ...]]:
        hole, act = step.hole or "", step.key.operation
        if act in _PLUG_IN:
            # A plug that only was out for a test goes back as it was.
            back = self._renews_plug(hole) if act is Operation.CHECK_GAP else (*self._shuts_at, END)
            return back, (StepKey(Operation.REMOVE_PLUG, hole=hole),)
        if act in _PLUG_OUT:
            return self._opens_at(_LEVELS[PLUG], [hole]), ()
        if step.phase is Phase.REFIT:
            off = tuple(StepKey(one, hole=hole) for one in _CARRIER_OFF)
            return (*self._shuts_at, END), tuple(key for key in off if key in self._keys)
        return self._opens_at(_LEVELS[CARRIER], [hole]), ()

    def _renews_plug(self, hole: str) -> tuple[str, ...]:
        """The places at which a new plug goes into a hole."""
        found = []
        for key, act in self.followed.acts.items():
            renews = {"plug", "plugs"} & set(getattr(act.row, "cures", ()))
            if renews and hole in self.asked.engine.holes_of_all(act.cylinders):
                found.append(place_of(key, SEE))
        return tuple(found)

    def _on_part(self, step: Step) -> tuple[tuple[str, ...], tuple[StepKey, ...]]:
        part = step.key.item
        if step.phase is Phase.UNCOVER:
            late = part in self._late
            return self._opens_at(_LEVELS[OVER], self._serves.get(part, ()), running=late), ()
        back = (END,) if part in self._late else (*self._shuts_at, END)
        return back, (self._lifts[part],) if part in self._lifts else ()

    def _only_after(self, act: Operation) -> tuple[StepKey, ...]:
        """What has to be open for a check before the start to be asked for."""
        if act is Operation.RECONNECT_BATTERY:
            return (StepKey(Operation.ISOLATE_BATTERY),)
        if act is Operation.PRIME_FUEL and self.asked.engine.layout.fuel == "gas":
            return (StepKey(Operation.SHUT_GAS),)
        if act in _ASKED_IF_OPENED:
            return tuple(key for part, key in self._lifts.items() if part not in self._late)
        return ()

    @cached_property
    def _run_again(self) -> tuple[StepKey, ...]:
        """What is done anew once the engine ran: all that opens, closes or makes safe."""
        found = []
        for step in self.base.steps:
            late = step.part is not None and step.key.item in self._late
            placed = None if late else self._where(step)[0]
            if placed and placed != (END,) and step.key.operation not in LEFT_OUT:
                found.append(step.key)
        return tuple(found)

    # The whole.

    def plan(self) -> Plan:
        """The steps in an order that is right on every branch, with the tree beside them."""
        placed = [p for step in self.base.steps if (p := self._placed(step)) is not None]
        opening = [s for s in placed if s.phase in _OPENING]
        closing = [s for s in placed if s.phase in (Phase.FIT, Phase.REFIT)]
        before = [s for s in placed if s.key.operation in SAFE_AGAIN]
        kept = {s.key for s in (*opening, *closing, *before)}
        last = [*self._counted_at_end(), *(s for s in placed if s.key not in kept)]
        hands = [hand for hand, _ in self.made.values() if hand]
        still = [see for key, (_, see) in self.made.items() if not self.followed.acts[key].runs]
        running = [see for key, (_, see) in self.made.items() if self.followed.acts[key].runs]
        settled = [
            self.steps_of.settle(key, act, self.made[key][0])
            for key, act in self.followed.acts.items()
            if act.swaps
        ]
        return self._with([*opening, *still, *hands, *closing, *before, *running, *settled, *last])

    def _counted_at_end(self) -> list[Step]:
        """Where no cover goes on last, tools are counted if anything was still open at the end."""
        if StepKey(Operation.COUNT_TOOLS_AGAIN) in self._keys:
            return []
        opened = [s.key for s in self.base.steps if s.key.operation in _CARRIER_OFF]
        after = (*opened, *self._lifts.values())
        return [count_again(()).model_copy(update={"places": (END,), "only_after": after})]

    def _with(self, made: list[Step]) -> Plan:
        every = {tool.id: tool for step in made for tool in step.tools}
        tools = tuple({**{tool.id: tool for tool in self.base.tools}, **every}.values())
        steps = tuple(_counting(step, tools) for step in made)
        title = say("find.title", what=self._about())
        minutes = round(self.found.strategy.expected, 1)
        return self.base.model_copy(
            update={
                "title": title,
                "steps": steps,
                "tools": tools,
                "moves": self.base.moves,
                "parts": (),
                "open_points": (),
                "notes": (say("find.note"),),
                "wants": (),
                "alternatives": (),
                "stays": (),
                "minutes": minutes,
                "phases": _phases(steps),
                "search": self._search(minutes),
            }
        )

    def _about(self) -> str:
        said = [code.text for code in self.found.codes]
        return listed(said) if said else say(f"fault.kind.{self.found.where.kind}")

    def _search(self, minutes: float) -> CauseSearch:
        causes = tuple(
            SearchCause(
                key=one.key,
                cylinder=one.cylinder,
                title=say(f"fault.cause.{one.key}", cylinder=one.cylinder or ""),
                probability=round(one.probability, 6),
            )
            for one in self.found.causes
        )
        return CauseSearch(
            kind=self.found.where.kind,
            complaint=self.asked.complaint,
            name=self.asked.name,
            cylinders=self.found.where.cylinders,
            causes=causes,
            acts={key: self._act(key, act) for key, act in self.followed.acts.items()},
            nodes={
                key: SearchNode(act=act, then=then)
                for key, (act, then) in self.followed.nodes.items()
            },
            first=self.followed.first,
            expected_minutes=minutes,
        )

    def _act(self, key: str, act: Act) -> SearchAct:
        hands, see = self.made[key]
        keys = [one.key for one in self.found.causes]
        yes: Mapping[str, float] = getattr(act.row, "yes", {})
        return SearchAct(
            kind="hand" if act.hands_over else "test" if yes else "repair",
            title=self.steps_of.title(act),
            hands=hands.key if hands else None,
            sees=see.key,
            cylinders=act.cylinders,
            swaps=act.swaps,
            renews=act.renews,
            likely=tuple(yes.get(k, act.row.otherwise) for k in keys) if yes else (),  # type: ignore[union-attr]
            cures=tuple(keys.index(k) for k in getattr(act.row, "cures", ()) if k in keys),
        )


WORK_OF = {"coil": Work.COIL, "boot": Work.COIL, "plug": Work.PLUG, "lead": Work.LEAD}
_OPENING = (Phase.READY, Phase.UNCOVER, Phase.CLEAN, Phase.PULL)


# The steps that list or count all tools of a procedure.
_COUNTS: dict[Operation, Callable[[tuple[ToolRef, ...]], Step]] = {
    Operation.LAY_OUT_TOOLS: lay_out,
    Operation.COUNT_TOOLS: count_tools,
    Operation.COUNT_TOOLS_AGAIN: count_again,
}


def _counting(step: Step, tools: tuple[ToolRef, ...]) -> Step:
    """A step that counts tools, with those of the tests among them; the signing as it is here."""
    if step.key == SIGNING:
        return step.model_copy(update={"checks": (Check(key="ok", text=say("sign.nothing")),)})
    count = _COUNTS.get(step.key.operation)
    if count is None:
        return step
    made = count(tools)
    return step.model_copy(update={"detail": made.detail, "checks": made.checks})


def _phases(steps: tuple[Step, ...]) -> tuple[PhaseMinutes, ...]:
    return tuple(
        PhaseMinutes(
            phase=phase, minutes=round(sum(s.minutes for s in steps if s.phase is phase), 1)
        )
        for phase in Phase
    )
