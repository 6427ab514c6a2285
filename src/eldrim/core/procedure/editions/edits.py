"""A trainer's edits hang on step keys, so they survive recompiling."""

from typing import Annotated, Literal

from pydantic import AliasChoices, Field, StringConstraints

from eldrim.core.base.frozen import Frozen
from eldrim.core.operations import Operation, Phase
from eldrim.core.procedure.editions.placement import Placement, place, place_act
from eldrim.core.procedure.editions.wording import but_hole, worded
from eldrim.core.procedure.model import (
    Caution,
    Check,
    LeftOut,
    OpenPoint,
    PhaseMinutes,
    Plan,
    Reading,
    RollItem,
    Step,
)
from eldrim.core.procedure.photos import Photo
from eldrim.core.procedure.whole_job.setup_changes import recounted
from eldrim.core.step_key import EVERY, StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.words import say, sentences
from eldrim.core.words.language import reading_in

Wording = Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)]
OWN = f"{Operation.OWN}/"


class OwnStep(Frozen):
    """A step the trainer adds: it follows ``after``, and may ask for a proof of its own.

    ``after`` the key of an act at every hole, it follows the last of them.
    """

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300)]
    detail: Note = ""
    proof: Wording = ""
    minutes: float = Field(1.0, ge=0, le=240)
    after: str = Field(max_length=200)


class Edit(Frozen):
    """What a trainer changed about one step, or about an act at all its holes; empty: as computed.

    The edit of an act is kept by its key at :data:`~eldrim.core.step_key.EVERY` hole, and its
    sentences may name the hole and the setting (:mod:`eldrim.core.procedure.editions.wording`). A
    step has what its act has and what it has itself, its own wording in the place of the act's;
    ``apart`` it has nothing of its act.

    ``computed`` is the wording the edit was made on; ``left_out`` the reason the step is
    left out for; ``hold`` makes it a hold point that a lead releases; ``placed`` is where it was
    put, move by move; ``cautions`` come beside the computed ones, never in their place. ``detail``
    and ``minutes`` stand in the place of the computed ones; ``tools`` and ``readings`` are added,
    a reading as its label, with its unit behind a comma where it is a number.
    """

    text: Wording = ""
    note: Note = ""
    left_out: Wording = ""
    hold: bool = False
    computed: str = Field("", validation_alias=AliasChoices("computed", "ground"))
    own: OwnStep | None = None
    placed: tuple[Placement, ...] = Field((), max_length=60)
    cautions: tuple[Wording, ...] = Field((), max_length=5)
    photos: tuple[Photo, ...] = Field((), max_length=6)
    detail: Note = ""
    minutes: float | None = Field(None, ge=0, le=240)
    tools: tuple[Wording, ...] = Field((), max_length=6)
    readings: tuple[Wording, ...] = Field((), max_length=4)
    apart: bool = False

    @property
    def empty(self) -> bool:
        """Whether the step stands as computed."""
        return self == Edit(computed=self.computed)


def apply_edits(plan: Plan, edits: dict[str, Edit]) -> Plan:
    """Return the plan with the edits in place. Cautions, checks and figures are out of reach."""
    with reading_in(plan.job.language):
        return _applied(plan, edits)


def _applied(plan: Plan, edits: dict[str, Edit]) -> Plan:
    gone = {
        step.key: reason
        for step in plan.steps
        if may_be_left_out(step) and (reason := _left_out(step, edits))
    }
    placed, _ = placements(plan, edits)
    whole = _with_own([_with_edits(step, edits) for step in placed], edits)
    whole = _counting_more(whole, edits)
    before = {s.key: s.after for s in whole}
    steps = [_without_waits(s, before, set(gone)) for s in whole if s.key not in gone]
    left_out = tuple(
        LeftOut(key=s.key, text=s.text, pattern=s.pattern, reason=gone[s.key])
        for s in plan.steps
        if s.key in gone
    )
    lost = tuple(
        OpenPoint(key=f"lost/{key}", text=say("open.lost", words=_words_of(key, edit)))
        for key, edit in orphans(plan, edits).items()
    )
    plan = plan.model_copy(update={"open_points": (*plan.open_points, *lost)})
    timed = any(edit.minutes is not None for edit in edits.values())
    if not timed and [s.key for s in steps] == [s.key for s in plan.steps]:
        return plan.model_copy(update={"steps": tuple(steps)})
    return _added_up(plan, recounted(steps, plan.steps, plan.change_cost), left_out)


def _words_of(key: str, edit: Edit) -> str:
    """An edit as it can be recognised where its step is gone."""
    return (edit.own.text if edit.own else edit.text or edit.note) or key


def _added_up(plan: Plan, steps: list[Step], left_out: tuple[LeftOut, ...]) -> Plan:
    phases = tuple(
        PhaseMinutes(phase=p, minutes=round(sum(s.minutes for s in steps if s.phase is p), 1))
        for p in Phase
    )
    off = {
        step.part: index
        for index, step in enumerate(steps)
        if step.phase is Phase.UNCOVER and step.key.rule.beside is None
    }
    # A part whose steps are all left out keeps its place among those that are taken off.
    was = {s.part: i for i, s in reversed(list(enumerate(plan.steps))) if s.phase is Phase.UNCOVER}
    here = {s.key: i for i, s in enumerate(steps)}
    moves = sorted(
        plan.moves, key=lambda move: off.get(move.part, _place(plan, was[move.part], here))
    )
    laid_out = _in_order_of_use(plan.roll, steps)
    return plan.model_copy(
        update={
            "steps": tuple(steps),
            "left_out": left_out,
            "phases": phases,
            "roll": laid_out,
            "tools": tuple(ToolRef(id=i.id, name=i.name) for i in laid_out),
            "minutes": round(sum(s.minutes for s in steps), 1),
            "tool_changes": sum(s.changes_setup for s in steps),
            "moves": tuple(m.model_copy(update={"number": i}) for i, m in enumerate(moves, 1)),
        }
    )


def _place(plan: Plan, index: int, here: dict[StepKey, int]) -> float:
    """Where the computed step at ``index`` would stand now: right after what stands before it."""
    before = (here[step.key] for step in reversed(plan.steps[:index]) if step.key in here)
    return next(before, -1) + 0.5


def _in_order_of_use(roll: tuple[RollItem, ...], steps: list[Step]) -> tuple[RollItem, ...]:
    """The tools by their first use now. One no step needs any more lies last: it was counted."""
    users: dict[str, list[int]] = {}
    for i, step in enumerate(steps):
        for tool in step.tools:
            users.setdefault(tool.id, []).append(i)
    used = [(users[r.id][0] if r.id in users else len(steps), r) for r in roll]
    return tuple(
        r.model_copy(update={"first": steps[i].key, "uses": len(users[r.id])})
        if i < len(steps)
        else r.model_copy(update={"first": "", "uses": 0})
        for i, r in sorted(used, key=lambda u: u[0])
    )


def placements(plan: Plan, edits: dict[str, Edit]) -> tuple[list[Step], dict[str, str]]:
    """The computed steps where the trainer put them, and the moves that do not hold: why not."""
    steps, refused = list(plan.steps), {}
    there: set[str] = {key for step in steps for key in (step.key, step.key.at_every_hole)}
    asked = [(m.order, key, m) for key, edit in edits.items() if key in there for m in edit.placed]
    for _, key, move in sorted(asked, key=lambda one: one[:2]):
        steps, against = put(plan, steps, key, move)
        if against:
            refused[key] = against
    return steps, refused


def put(plan: Plan, steps: list[Step], key: str, move: Placement) -> tuple[list[Step], str]:
    """The steps with a step, or an act at all its holes, where it is to be; or why it cannot be."""
    if StepKey.parse(key).hole == EVERY:
        return place_act(plan, steps, key, move)
    return place(plan, steps, key, move.follows)


def may_be_left_out(step: Step) -> bool:
    """Whether a trainer may leave a step out, with a reason.

    Without some nobody knows what was worked on, what is left inside, or who answers for it.
    """
    return not step.key.rule.required


def act_edit(step: Step, edits: dict[str, Edit]) -> Edit:
    """What a step has of the edit of its act at all holes."""
    apart = edits.get(step.key, Edit()).apart
    return Edit() if apart else edits.get(step.key.at_every_hole, Edit())


def with_act(step: Step, edits: dict[str, Edit]) -> Step:
    """A computed step as its act's edit has it, before any edit of its own."""
    edit = act_edit(step, edits)
    return step if edit.empty else _edited(step, edit).model_copy(update=_worded_by_act(step, edit))


def _left_out(step: Step, edits: dict[str, Edit]) -> str:
    """Why a step is left out; empty where it is not."""
    return edits.get(step.key, Edit()).left_out or act_edit(step, edits).left_out


def _with_edits(step: Step, edits: dict[str, Edit]) -> Step:
    """A step with what its act has, and with what it has itself in its place or beside it."""
    step, own = with_act(step, edits), edits.get(step.key, Edit())
    return step if own.empty else _edited(step, own).model_copy(update=_worded_alone(step, own))


def _edited(step: Step, edit: Edit) -> Step:
    return step.model_copy(
        update={
            "note": edit.note or step.note,
            "edited": bool(edit.text) or step.edited,
            "hold": edit.hold or step.hold,
            "cautions": (*step.cautions, *_own_cautions(edit, step)),
            "photos": (*step.photos, *edit.photos),
            "minutes": step.minutes if edit.minutes is None else edit.minutes,
            "tools": (*step.tools, *map(_own_tool, edit.tools)),
            "readings": (*step.readings, *_own_readings(edit, step)),
        }
    )


def _worded_alone(step: Step, edit: Edit) -> dict[str, object]:
    """The sentences of a step, said of it alone: nothing in them stands for anything."""
    said: dict[str, object] = {}
    if edit.text:
        changed = edit.computed and edit.computed != step.text
        said |= {"text": edit.text, "pattern": "", "brief": ""}
        said |= {"computed_before": edit.computed if changed else ""}
    if edit.detail:
        said |= {"detail": edit.detail, "detail_pattern": "", "detail_shared": "", "here": ()}
    return said


def _worded_by_act(step: Step, edit: Edit) -> dict[str, str]:
    """The sentences of a step as its act words them; what is said of its hole alone stays."""
    said: dict[str, str] = {}
    if edit.text:
        changed = edit.computed and edit.computed != (step.pattern or step.text)
        said |= {"text": worded(edit.text, step), "pattern": but_hole(edit.text, step)}
        said |= {"computed_before": worded(edit.computed, step) if changed else ""}
    if edit.detail:
        shared = but_hole(edit.detail, step)
        said |= {
            "detail": sentences(worded(edit.detail, step), *step.here),
            "detail_pattern": sentences(shared, *step.here),
            "detail_shared": shared,
        }
    return said


def _own_tool(name: str) -> ToolRef:
    return ToolRef(id=f"own/{name.lower()}", name=name)


def _own_readings(edit: Edit, step: Step) -> tuple[Reading, ...]:
    """Readings a trainer asks for: a text, or a number where its unit stands behind a comma."""
    found = []
    before = sum(reading.key.startswith("own-") for reading in step.readings)
    for index, said in enumerate(edit.readings, before + 1):
        label, _, unit = (part.strip() for part in said.partition(","))
        kind: Literal["number", "text"] = "number" if unit else "text"
        found.append(Reading(key=f"own-{index}", label=label, kind=kind, unit=unit))
    return tuple(found)


COUNTING = (Operation.LAY_OUT_TOOLS, Operation.COUNT_TOOLS, Operation.COUNT_TOOLS_AGAIN)


def _counting_more(steps: list[Step], edits: dict[str, Edit]) -> list[Step]:
    """The steps, those that count tools counting what the trainer added as well."""
    added = list(dict.fromkeys(name for edit in edits.values() for name in edit.tools))
    if not added:
        return steps
    also = say("tools.also", count=len(added), tools="; ".join(added))
    more = Check(key="own_tools", text=also)
    return [
        step.model_copy(update={"checks": (*step.checks, more)})
        if step.key.operation in COUNTING
        else step
        for step in steps
    ]


def _own_cautions(edit: Edit, step: Step | None = None) -> tuple[Caution, ...]:
    """A trainer's cautions, behind those that a step has of its act."""
    before = sum(c.key.startswith(OWN) for c in step.cautions) if step else 0
    return tuple(
        Caution(key=f"{OWN}{index}", text=caution)
        for index, caution in enumerate(edit.cautions, before + 1)
        if caution
    )


def _without_waits(
    step: Step, before: dict[StepKey, tuple[StepKey, ...]], gone: set[StepKey]
) -> Step:
    """A step waits on what a left-out one waited on, never on the one that is not there."""
    waits = list(step.after)
    while any(wait in gone for wait in waits):
        waits = [w for key in waits for w in (before[key] if key in gone else (key,))]
    unchanged = waits == list(step.after)
    return step if unchanged else step.model_copy(update={"after": tuple(dict.fromkeys(waits))})


def _with_own(steps: list[Step], edits: dict[str, Edit]) -> list[Step]:
    """Put each own step behind the step it follows, which may be an own step itself."""
    waiting = {key: edit for key, edit in edits.items() if edit.own is not None}
    while placed := _next_own(steps, waiting):
        key, place = placed
        steps = [
            *steps[: place + 1],
            _own(key, waiting.pop(key), steps[place]),
            *steps[place + 1 :],
        ]
    return steps


def _next_own(steps: list[Step], waiting: dict[str, Edit]) -> tuple[str, int] | None:
    """The first own step whose place is known, and the place it follows."""
    places: dict[str, int] = {
        key: index for index, step in enumerate(steps) for key in (step.key, step.key.at_every_hole)
    }
    known = (
        (key, places[edit.own.after])
        for key, edit in waiting.items()
        if edit.own is not None and edit.own.after in places
    )
    return next(known, None)


def _own(key: str, edit: Edit, before: Step) -> Step:
    assert edit.own is not None
    own = edit.own
    checks = (Check(key="own", text=own.proof),) if own.proof else ()
    return Step(
        key=StepKey.parse(key),
        phase=before.phase,
        verb="do",
        object=say("thing.own"),
        text=own.text,
        detail=own.detail,
        note=edit.note,
        minutes=own.minutes,
        checks=checks,
        hold=edit.hold,
        cautions=_own_cautions(edit),
        photos=edit.photos,
        cylinder=before.cylinder,
        because=(say("because.own"),),
        after=(before.key,),
        own=True,
    )


def orphans(plan: Plan, edits: dict[str, Edit]) -> dict[str, Edit]:
    """The edits whose step the plan no longer has; they are shown, never dropped."""
    whole = _with_own(list(plan.steps), edits)
    placed: set[str] = {key for step in whole for key in (step.key, step.key.at_every_hole)}
    return {k: e for k, e in edits.items() if k not in placed and not e.empty}
