"""A plan and its steps, as data. The JSON form of :class:`Plan` is a public contract."""

from enum import StrEnum
from typing import Literal

from pydantic import Field

from eldrim.core.figures.torque import Setting
from eldrim.core.frozen import Frozen
from eldrim.core.job import Job
from eldrim.core.rules.house import Departure


class Phase(StrEnum):
    """The eight phases of the job (handbook §2), in order."""

    READY = "Ready"
    UNCOVER = "Uncover"
    CLEAN = "Clean"
    PULL = "Pull"
    READ = "Read"
    FIT = "Fit"
    REFIT = "Refit"
    PROVE = "Prove"


class Caution(Frozen):
    """A warning that follows from what a step does; it cannot be edited away."""

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
    sum: str = ""
    setting: Setting | None = None


class Reading(Frozen):
    """Something the technician enters. ``low`` and ``high`` are limits in ``unit``."""

    key: str
    label: str
    kind: Literal["number", "choice", "text"]
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[str, ...] = ()
    required: bool = True
    why_limit: str = ""


class Step(Frozen):
    """One act. ``key`` is stable: it names what is done to what, never a position."""

    key: str
    phase: Phase
    verb: str
    object: str
    cylinder: int | None = None
    hole: str | None = None
    part: str | None = None
    text: str
    detail: str = ""
    note: str = ""
    edited: bool = False
    tools: tuple[str, ...] = ()
    setup: str = ""
    figures: tuple[StepFigure, ...] = ()
    cautions: tuple[Caution, ...] = ()
    checks: tuple[Check, ...] = ()
    readings: tuple[Reading, ...] = ()
    minutes: float
    because: tuple[str, ...] = ()
    after: tuple[str, ...] = ()
    changes_setup: bool = False


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
    serves: tuple[str, ...]
    minutes: float
    persons: int = 1


class Stay(Frozen):
    """A part that stays where it is, and what saved it."""

    part: str
    name: str
    why: str


class Alternative(Frozen):
    """A next-best way in: what differs, and by how much against the chosen one.

    ``forbid`` is what to forbid in the job to get it; ``minutes`` and ``risk`` are differences in
    minutes; ``tools`` are special tools it needs more, ``spared`` those it does without.
    """

    words: str
    forbid: tuple[str, ...]
    minutes: float
    risk: float
    tools: tuple[str, ...]
    spared: tuple[str, ...]
    parts: tuple[str, ...]


class PartLine(Frozen):
    """Something to have on the bench: how many, which, and why."""

    name: str
    part_number: str
    quantity: int
    why: str


class PhaseMinutes(Frozen):
    """What one phase takes."""

    phase: Phase
    minutes: float


class Plan(Frozen):
    """The answer to a job on an engine."""

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
    tools: tuple[str, ...]
    parts: tuple[PartLine, ...]
    stays: tuple[Stay, ...] = ()
    alternatives: tuple[Alternative, ...] = ()
    notes: tuple[str, ...] = ()
    schools: dict[str, str] = Field(default_factory=dict)
    departures: dict[str, Departure] = Field(default_factory=dict)
    minutes: float
    phases: tuple[PhaseMinutes, ...]
    tool_changes: int
    proven_optimal: bool
    access_minutes: float
    access_bound: float = 0
    order_gap: float = 0
    defers_to: str


def segments(plan: Plan) -> list[tuple[Phase, list[Step]]]:
    """The steps in order, cut where the phase changes; a phase may come again for another bank."""
    cut: list[tuple[Phase, list[Step]]] = []
    for step in plan.steps:
        if not cut or cut[-1][0] is not step.phase:
            cut.append((step.phase, []))
        cut[-1][1].append(step)
    return cut
