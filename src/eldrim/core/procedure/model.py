"""A plan and its steps, as data. The JSON form of :class:`Plan` is a public contract."""

import itertools
from typing import Any, Literal

from pydantic import Field, model_validator

from eldrim.core.access.alternatives import Alternative, Stay
from eldrim.core.access.explain import ReasonLine
from eldrim.core.base.frozen import Frozen
from eldrim.core.job import Job
from eldrim.core.operations import Operation, Phase
from eldrim.core.procedure.photos import Photo
from eldrim.core.procedure.plan_format_1 import PLAN_FORMAT_1, from_format_1
from eldrim.core.rules.house import Departure
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.stack import Stack
from eldrim.core.tools.wrench_setting import Setting


class Caution(Frozen):
    """A warning that follows from what a step does; it cannot be edited away.

    A trainer may add more; the keys of those start with ``own/``.
    """

    key: str
    text: str


class Check(Frozen):
    """Something to be proven before the step counts as done."""

    key: str
    text: str


class StepFigure(Frozen):
    """A figure on a step: as printed, as numbers, with source, variant and what to aim for."""

    key: str
    name: str
    printed: str
    converted: str = ""
    value: float
    unit: str
    min: float
    max: float
    aim: float
    source: str
    variant: str
    sum: tuple[str, ...] = Field((), description="What was done to the number, line by line.")
    setting: Setting | None = None
    against: tuple[str, ...] = Field((), description="What speaks against the other wrenches.")
    plus: str = Field("", description="A further turn after the torque.")
    fallback: bool = Field(False, description="The maker is silent; a band stands in.")
    rivals: tuple[str, ...] = Field((), description="What other sources say instead.")
    settled: str = Field("", description="Why this source is used.")
    unsettled: bool = Field(False, description="Nobody has said yet which source holds.")
    unsourced: bool = Field(False, description="Its source is still to be stated.")


PLAN_FORMAT: Literal["eldrim.plan/2"] = "eldrim.plan/2"
SIGNING = StepKey(Operation.SIGN)
CONFIRMING = StepKey(Operation.CONFIRM_UNIT)
# The air beside what cools down: asked only where one has to wait.
AIR = "air"


class Says(Frozen):
    """What a value says from ``least`` on, in the unit of its reading; None: from nothing on."""

    least: float | None = None
    text: str


class Falls(Frozen):
    """That a value may fall only so far under another reading of the run; else ``text`` holds."""

    under: str
    most: float
    text: str


class Turning(Frozen):
    """How the distributor's body is turned for a value out of its window.

    Degrees of the crank. ``over_to`` and ``under_to`` are where the value has to come to. ``edge``
    is how far the body's edge goes for one of them, in mm; None where its diameter is not stated.
    ``advance`` and ``retard`` are sentences with ``[body]`` and ``[edge]`` to be filled. Below its
    window the body goes forward only while ``other``, a reading of the same run, stays at or under
    ``room``; else ``tired`` holds.
    """

    over_to: float
    under_to: float
    edge: float | None = None
    right: str
    advance: str
    retard: str
    other: str = ""
    room: float | None = None
    tired: str = ""


class CurveLimits(Frozen):
    """Between what the value of another reading of the step has to lie."""

    key: str
    low: float
    high: float


class Curve(Frozen):
    """What a whole advance curve says, told at the reading that closes it: back at idle.

    ``stuck``: it does not return. ``steps``: it stands still and then jumps. ``tired``: under its
    limits to the end. ``late`` and ``early``: under or over them on the way. ``well``: none of it.
    """

    points: tuple[CurveLimits, ...]
    stuck: str
    steps: str
    tired: str
    late: str
    early: str
    well: str


class Reading(Frozen):
    """Something the technician enters. ``low``, ``high`` and ``resolution`` are in ``unit``.

    ``resolution`` is the step of the gauge in hand: closer to a limit than half of it, a value is
    *at the limit*, neither in nor out (docs/craft.md §8). ``choices`` are ids, ``shown`` the same
    as they are read; ``several`` may hold at once, and those from ``folded`` on are looked for
    less often.
    """

    key: str
    label: str
    kind: Literal["number", "choice", "text", "date"]
    unit: str = ""
    low: float | None = None
    high: float | None = None
    resolution: float = 0.0
    choices: tuple[str, ...] = ()
    shown: tuple[str, ...] = Field((), description="The choices as they are read, in order.")
    several: bool = False
    folded: int | None = None
    required: bool = True
    why_limit: str = ""
    awaited: bool = Field(False, description="Outside its window one waits, and reads it again.")
    says: tuple[Says, ...] = Field((), description="What its values say, by rising least value.")
    falls: Falls | None = None
    turning: Turning | None = None
    curve: Curve | None = None

    @property
    def again(self) -> bool:
        """Whether a value outside its window is kept as found and read again: once it has cooled,
        or once the body was turned.
        """
        return self.awaited or self.turning is not None


class Step(Frozen):
    """One act. ``key`` is stable: it names what is done to what, never a position.

    ``pattern`` and ``detail_pattern`` are the computed sentences with ``{hole}`` in the place of
    the hole, where they name it: steps alike but for their hole share them. ``detail`` of a step at
    a hole is ``detail_shared``, said of every hole of the act, and ``here``, of this one alone.
    ``setup`` is what is in hand, as tool ids.
    """

    key: StepKey
    phase: Phase
    verb: str
    object: str
    cylinder: int | None = None
    hole: str | None = None
    part: str | None = None
    text: str
    pattern: str = ""
    detail: str = ""
    detail_pattern: str = ""
    detail_shared: str = ""
    here: tuple[str, ...] = ()
    brief: str = Field("", description="The text without its part, where that is named already.")
    note: str = ""
    edited: bool = False
    computed_before: str = Field(
        "", description="The computed wording the edit was made on, where it is another now."
    )
    hold: bool = Field(False, description="A lead releases it before it can be closed.")
    own: bool = Field(False, description="Added by the trainer.")
    moved: bool = Field(False, description="The trainer put it elsewhere.")
    tools: tuple[ToolRef, ...] = ()
    setup: tuple[str, ...] = ()
    stacks: tuple[Stack, ...] = Field((), description="What reaches, for each action of the step.")
    figures: tuple[StepFigure, ...] = ()
    cautions: tuple[Caution, ...] = ()
    checks: tuple[Check, ...] = ()
    readings: tuple[Reading, ...] = ()
    photos: tuple[Photo, ...] = ()
    minutes: float
    because: tuple[str, ...] = ()
    after: tuple[StepKey, ...] = ()
    changes_setup: bool = False
    places: tuple[str, ...] = Field(
        (), description="Where a search for a cause has to stand for it to be done; none: always."
    )
    only_after: tuple[StepKey, ...] = Field(
        (), description="Done only where one of these was: what was not opened is not closed."
    )
    resets: tuple[StepKey, ...] = Field(
        (), description="To be done anew, where they come again, once this one is done."
    )


class Move(Frozen):
    """One part moved out of the way, and why."""

    number: int
    part: str
    name: str
    way: str
    kind: str
    what: str
    why: str
    because: tuple[str, ...]
    reasons: tuple[ReasonLine, ...] = ()
    serves: tuple[str, ...]
    minutes: float
    persons: int = 1


class PartLine(Frozen):
    """Something to have on the bench: how many, which, and why."""

    name: str
    part_number: str
    quantity: int
    why: str


class RollItem(Frozen):
    """One tool to lay out, in order of use. Lengths in mm, for drawing; 0 where they say nothing.

    ``missing`` is why it is not there, ``cure`` what would help; ``cautions`` come with a
    substitute.
    """

    id: str
    name: str
    kind: str
    first: str
    uses: int
    length: float = 0
    outside: float = 0
    missing: str = ""
    cure: str = ""
    cautions: tuple[str, ...] = ()


class Want(Frozen):
    """Tools the crib lacks that would save minutes, and the way in they would open."""

    tools: tuple[str, ...]
    words: str
    minutes: float
    price: float = 0


class OpenPoint(Frozen):
    """Something to settle or accept before a release. ``bars`` cannot be accepted away."""

    key: str
    text: str
    steps: tuple[str, ...] = ()
    bars: bool = False


class LeftOut(Frozen):
    """A step the trainer leaves out, and why; ``pattern`` as a step has it."""

    key: str
    text: str
    reason: str
    pattern: str = ""


class ChangeCost(Frozen):
    """What a change of set-up costs, in minutes, and each piece exchanged at it."""

    change: float = 0
    piece: float = 0


class PhaseMinutes(Frozen):
    """What one phase takes."""

    phase: Phase
    minutes: float


class SearchCause(Frozen):
    """What may be behind a complaint, and how likely it was at the start."""

    key: str
    cylinder: int = 0
    title: str
    probability: float


class SearchAct(Frozen):
    """A test or a repair of a search: what the hands do, and the step that takes its outcome.

    ``likely`` is, for a test, the chance of yes by cause; ``cures``, for a repair, the places of
    the causes it cures. ``swaps`` is what changes places between its two ``cylinders``, ``renews``
    what is new at them afterwards.
    """

    kind: Literal["test", "repair", "hand"]
    title: str
    hands: StepKey | None = None
    sees: StepKey
    cylinders: tuple[int, ...] = ()
    swaps: str = ""
    renews: tuple[str, ...] = ()
    likely: tuple[float, ...] = ()
    cures: tuple[int, ...] = ()


class SearchNode(Frozen):
    """A node of the tree: an act, and which node follows each outcome; none where it ends."""

    act: str
    then: dict[str, str] = Field(default_factory=dict)


class CauseSearch(Frozen):
    """The tree of a search for a cause, followed in the bay (docs/faults.md).

    ``complaint`` is what was complained of, in words; ``name`` the same in no language.
    """

    kind: str
    complaint: str
    name: str = ""
    cylinders: tuple[int, ...]
    causes: tuple[SearchCause, ...]
    acts: dict[str, SearchAct]
    nodes: dict[str, SearchNode]
    first: str
    expected_minutes: float


class Plan(Frozen):
    """The answer to a job on an engine. docs/plan-json.md describes its JSON form."""

    format: Literal["eldrim.plan/2"] = PLAN_FORMAT
    engine: str
    engine_name: str
    revision: int
    variant: str
    variant_name: str
    job: Job
    title: str
    rules_version: int
    moves: tuple[Move, ...]
    steps: tuple[Step, ...]
    tools: tuple[ToolRef, ...]
    parts: tuple[PartLine, ...]
    stays: tuple[Stay, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    roll: tuple[RollItem, ...] = Field((), description="The tools in order of use.")
    wants: tuple[Want, ...] = ()
    open_points: tuple[OpenPoint, ...] = ()
    accepted: str = Field("", description="Why it was released with points open.")
    left_out: tuple[LeftOut, ...] = ()
    crib_version: int = 0
    notes: tuple[str, ...] = ()
    numbers: dict[str, str] = Field(
        default_factory=dict,
        description="Part numbers by plug, coil, lead, boot, part, or part/joint.",
    )
    search: CauseSearch | None = Field(None, description="Of a run that finds a cause: its tree.")
    schools: dict[str, str] = Field(default_factory=dict)
    departures: dict[str, Departure] = Field(default_factory=dict)
    minutes: float
    phases: tuple[PhaseMinutes, ...]
    tool_changes: int
    change_cost: ChangeCost = ChangeCost()
    proven_optimal: bool
    access_minutes: float
    change_minutes: float = Field(0, description="What the set-up changes take, in minutes.")
    least_sum: float = Field(
        0, description="No job costs less, way in and set-up changes together, in minutes."
    )
    access_bound: float = Field(0, description="Of plans that proved way in and order apart.")
    order_gap: float = Field(0, description="Of plans that proved way in and order apart.")
    defers_to: str

    @model_validator(mode="before")
    @classmethod
    def _from_format_1(cls, document: Any) -> Any:
        """Plans kept before they said their format are in format 1."""
        if isinstance(document, dict) and document.get("format", PLAN_FORMAT_1) == PLAN_FORMAT_1:
            return from_format_1(document, PLAN_FORMAT)
        return document


def segments(plan: Plan) -> list[tuple[Phase, list[Step]]]:
    """The steps in order, cut where the phase changes; a phase may come again for another bank."""
    cut: list[tuple[Phase, list[Step]]] = []
    for step in plan.steps:
        if not cut or cut[-1][0] is not step.phase:
            cut.append((step.phase, []))
        cut[-1][1].append(step)
    return cut


def numbered(plan: Plan) -> list[tuple[Phase, list[tuple[int, Step]]]]:
    """:func:`segments` with each step's number in the whole procedure, from 1 up."""
    count = itertools.count(1)
    return [(phase, [(next(count), step) for step in steps]) for phase, steps in segments(plan)]
