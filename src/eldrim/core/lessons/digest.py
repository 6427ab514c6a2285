"""What one signed run leaves to learn from, as plain rows.

A digest is made once, when a run is signed. Whatever learns from many runs reads these rows and
never the runs themselves (docs/log.md).
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.faults.codes import codes_in
from eldrim.core.lessons.fitments import FittedNew, FoundFailed, failed_in, new_in
from eldrim.core.operations import Operation, Phase
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.procedure.whole_job.setup_changes import without_changes
from eldrim.core.reading_choices import IN_ORDER
from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.gaps import GAP_LEFT, gaps_in
from eldrim.core.run.history import Past
from eldrim.core.run.readings import at_limit, is_number, outside, picked
from eldrim.core.run.report import marked_words, step_minutes
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import reason_of
from eldrim.core.step_key import StepKey

K = EntryKind
SUPPLIED = "gap_supplied"
# A step that takes this many times its plan, and so many minutes more, held a pause.
PAUSE_TIMES, PAUSE_MINUTES = 4.0, 10.0
# What marks a step as one that did not hold; what is found ``slow`` is worked out over many runs.
FAILS = (K.SKIP, K.DEVIATION, K.OVER, K.REOPEN, K.STOP, K.DIFFERS)


class MarkRow(Frozen):
    """Something marked at a step: its kind, why, in words, by whom, with which photo."""

    kind: str
    reason: str = ""
    words: str = ""
    by: str = ""
    photo: str = ""


class StepRow(Frozen):
    """One step: what was planned for it, what it took (None where there was a pause or it was not
    done), both in minutes and without a change of set-up; and what was marked at it. ``pace`` is
    how many times the usual minutes were planned. ``moves`` is the part whose way its minutes are
    of, ``out`` whether it comes off.
    """

    step: str
    moves: str = ""
    out: bool = False
    planned: float
    pace: float = 1.0
    took: float | None = None
    marks: tuple[MarkRow, ...] = ()


class ValueRow(Frozen):
    """A number that was written down: at which operation and hole, as what, against which limits.

    ``place`` is ``in``, ``at`` a limit, ``under`` or ``over``.
    """

    operation: str
    reading: str
    label: str = ""
    hole: str = ""
    value: float
    low: float | None = None
    high: float | None = None
    unit: str = ""
    place: str = "in"


class ClickRow(Frozen):
    """What a torque wrench showed, and what it was set to; both in its own unit."""

    wrench: str
    name: str
    set_to: float
    value: float
    unit: str


class GapRow(Frozen):
    """The gap of a hole in mm: as it was found, as it was left in a new plug; None: not read."""

    hole: str
    found: float | None = None
    left: float | None = None
    low: float | None = None
    high: float | None = None


class SearchRow(Frozen):
    """A search for a cause: the minutes its tree expected, and what proved to be behind it."""

    kind: str
    expected: float
    proven: tuple[str, ...] = ()


class RunDigest(Frozen):
    """All of it. ``found`` are ids of what was found: conditions, stops, what differed, codes;
    ``ways`` says how each part that moved was moved.
    """

    planned: float
    took: float
    steps: tuple[StepRow, ...]
    ways: dict[str, str] = Field(default_factory=dict)
    values: tuple[ValueRow, ...] = ()
    clicks: tuple[ClickRow, ...] = ()
    gaps: tuple[GapRow, ...] = ()
    new: tuple[FittedNew, ...] = ()
    failed: tuple[FoundFailed, ...] = ()
    found: tuple[str, ...] = ()
    numbers: tuple[str, ...] = ()
    search: SearchRow | None = None


@dataclass(frozen=True)
class Signed:
    """A digest with its run: which, of which engine and procedure, on which unit, when, by whom."""

    run: UUID
    at: datetime
    unit: str
    engine: str
    edition: UUID
    procedure: UUID
    title: str
    by: str
    digest: RunDigest


def digest(past: Past, pace: Mapping[str, float]) -> RunDigest:
    """What a signed run leaves to learn from; ``pace`` is that of the sheet its edition is of."""
    plan, state = past.plan, past.state
    steps = tuple(_steps(past, pace))
    return RunDigest(
        planned=plan.minutes,
        took=round(sum(step_minutes(plan, past.entries).values()), 1),
        steps=steps,
        ways={move.part: move.way for move in plan.moves},
        values=tuple(_values(plan, state)),
        clicks=tuple(_clicks(plan, state)),
        gaps=tuple(
            GapRow(hole=hole, found=found, left=left, low=span and span[0], high=span and span[1])
            for hole, found, left, span in gaps_in(past)
        ),
        new=tuple(new_in(past)),
        failed=tuple(failed_in(past)),
        found=tuple(sorted({*_found(plan, state), *_marked(steps)})),
        numbers=_numbers(past),
        search=_search(past),
    )


def _steps(past: Past, pace: Mapping[str, float]) -> Iterator[StepRow]:
    real = step_minutes(past.plan, past.entries)
    alone = without_changes(past.plan.steps, past.plan.change_cost)
    # Nothing tells when the first of them was begun.
    real.pop(first_closed(past.entries), None)
    here = {recorded.entry.step for recorded in past.entries}
    for step in past.plan.steps:
        # Of a search only what belongs to the branches taken.
        if past.plan.search is not None and step.key not in here:
            continue
        mine = [one for one in past.entries if one.entry.step == step.key]
        yield StepRow(
            step=step.key,
            # Seals and openings have minutes of their own.
            moves=step.part or "" if step.key.rule.minutes is None else "",
            out=step.phase is Phase.UNCOVER,
            planned=alone[step.key],
            pace=pace.get(step.key.operation.value, 1.0),
            took=_took(step, real.get(step.key), alone[step.key]),
            marks=tuple(_marks(mine)),
        )


def first_closed(entries: Sequence[Recorded]) -> str:
    """The step that was closed first."""
    closed = [one for one in entries if one.entry.kind in (K.DONE, K.SIGN)]
    return min(closed, key=lambda one: one.written).entry.step if closed else ""


def _took(step: Step, real: float | None, alone: float) -> float | None:
    """What a step took without the change of set-up planned on it; None where a pause was in it."""
    if real is None or paused(step, real):
        return None
    return round(own_share(step, alone, real), 2)


def own_share(step: Step, alone: float, real: float) -> float:
    """The minutes of a step that are its own: changing the set-up has its share of what it took as
    it has of the plan.
    """
    return real * alone / step.minutes if step.minutes > 0 else real


def paused(step: Step, real: float) -> bool:
    """Whether a step took so long that a pause was in it."""
    return real > PAUSE_TIMES * step.minutes + PAUSE_MINUTES


def _marks(entries: Sequence[Recorded]) -> Iterator[MarkRow]:
    for recorded in entries:
        entry = recorded.entry
        if entry.kind in FAILS:
            yield MarkRow(
                kind=entry.kind.value,
                reason=entry.reason,
                words=marked_words(entry) or reason_of(entry),
                by=recorded.by,
                photo=entry.photo,
            )


def _values(plan: Plan, state: RunState) -> Iterator[ValueRow]:
    for step, asked, value in _numbers_read(plan, state):
        reading = _held_to(step, asked)
        if reading.low is None and reading.high is None:
            continue
        side = outside(reading, value)
        yield ValueRow(
            operation=StepKey.parse(step.key).operation.value,
            reading=reading.key,
            label=reading.label,
            hole=step.hole or "",
            value=value,
            low=reading.low,
            high=reading.high,
            unit=reading.unit,
            place=side or ("at" if at_limit(reading, value) else "in"),
        )


def _held_to(step: Step, reading: Reading) -> Reading:
    """A gap as supplied is held to what it is to be left at."""
    left = next((one for one in step.readings if one.key == GAP_LEFT), None)
    if reading.key != SUPPLIED or left is None:
        return reading
    limits = {"low": left.low, "high": left.high, "resolution": left.resolution}
    return reading.model_copy(update=limits)


def _numbers_read(plan: Plan, state: RunState) -> Iterator[tuple[Step, Reading, float]]:
    for step in plan.steps:
        for reading in step.readings:
            had = state.values.get((step.key, reading.key))
            if had is not None and is_number(had.entry.value):
                yield step, reading, float(had.entry.value)


def _clicks(plan: Plan, state: RunState) -> Iterator[ClickRow]:
    for step, reading, value in _numbers_read(plan, state):
        setting = next((f.setting for f in step.figures if f.setting), None)
        if reading.key == "torque" and setting is not None and reading.unit == setting.unit:
            yield ClickRow(
                wrench=setting.wrench_id,
                name=setting.wrench,
                set_to=setting.value,
                value=value,
                unit=setting.unit,
            )


def _found(plan: Plan, state: RunState) -> Iterator[str]:
    """Conditions and codes that were found."""
    for step in plan.steps:
        for reading in step.readings:
            had = state.values.get((step.key, reading.key))
            if had is None or isinstance(had.entry.value, float | int) or not had.entry.value:
                continue
            if reading.key == "condition":
                yield from (one for one in picked(reading, had.entry.value) if one not in IN_ORDER)
            elif step.key.operation is Operation.READ_CODES:
                yield from codes_in(str(had.entry.value))


def _marked(steps: Sequence[StepRow]) -> Iterator[str]:
    """What was stopped for, and what differed."""
    for step in steps:
        yield from (m.reason for m in step.marks if m.kind in (K.STOP, K.DIFFERS) and m.reason)


def _numbers(past: Past) -> tuple[str, ...]:
    """The part numbers that went in: of what was fitted new, and of the parts of the job."""
    if past.state.unfinished:
        return tuple(sorted({new.number for new in new_in(past) if new.number}))
    fitted = {new.number for new in new_in(past)}
    listed = {line.part_number for line in past.plan.parts}
    # Boots are laid out for coils that stay; they count where they were renewed.
    spare = {past.plan.numbers.get("boot", "")} - fitted
    return tuple(sorted((listed | fitted) - spare - {""}))


def _search(past: Past) -> SearchRow | None:
    search, path = past.plan.search, past.state.path(past.plan)
    if search is None or path is None:
        return None
    act = search.acts[path.proven.act] if path.proven else None
    proven = [search.causes[place].key for place in act.cures] if act else []
    return SearchRow(kind=search.kind, expected=search.expected_minutes, proven=tuple(proven))
