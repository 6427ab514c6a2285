"""The state of a run is the fold of its entries; whether one more may be added is decided here."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from functools import cached_property
from uuid import UUID

from eldrim.core.errors import RunError
from eldrim.core.procedure.model import Plan, Reading, Step, segments
from eldrim.core.quantity import format_number
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.stops import DIFFERS, ENDS, stops_at
from eldrim.core.words import say

K = EntryKind


def _refusal(name: str, **slots: object) -> RunError:
    """The error that says, in the language spoken, why an entry is not taken."""
    return RunError(say(f"refuse.{name}", **slots))


@dataclass(frozen=True)
class RunState:
    """What holds after some entries. ``values`` is keyed by step and reading, the latest wins.

    ``watched`` is what was read while waiting, in order; ``stops`` are the open ones, ``marks``
    every stop and whatever differed, open or not; ``conflicts`` are values two tablets wrote
    without knowing of each other, until a person says which holds; ``closings`` is the entry that
    closed each step done; ``first`` is when the first entry was written; ``signed`` is the
    signature, or the lead's word that it ends unfinished.
    """

    count: int = 0
    first: datetime | None = None
    closings: dict[str, UUID] = field(default_factory=dict)
    values: dict[tuple[str, str], Recorded] = field(default_factory=dict)
    open_deviations: dict[UUID, Recorded] = field(default_factory=dict)
    accepted: dict[UUID, Recorded] = field(default_factory=dict)
    released: frozenset[str] = frozenset()
    stops: dict[UUID, Recorded] = field(default_factory=dict)
    marks: tuple[Recorded, ...] = ()
    watched: dict[tuple[str, str], tuple[Recorded, ...]] = field(default_factory=dict)
    conflicts: dict[tuple[str, str], tuple[Recorded, ...]] = field(default_factory=dict)
    signed: Recorded | None = None

    @property
    def unfinished(self) -> bool:
        """Whether a lead ended it with something open."""
        return self.signed is not None and self.signed.entry.kind is K.END

    @cached_property
    def done(self) -> frozenset[str]:
        """The keys of the steps that are closed."""
        return frozenset(self.closings)

    def current(self, plan: Plan) -> Step | None:
        """The first step not done; None when all are."""
        return next((s for s in plan.steps if s.key not in self.done), None)

    @property
    def differs(self) -> tuple[Recorded, ...]:
        """Whatever was not as the edition says."""
        return tuple(m for m in self.marks if m.entry.kind is K.DIFFERS)

    def open_checks(self, plan: Plan) -> list[Step]:
        """The steps still open, the signing step aside."""
        return [s for s in plan.steps if s.key not in self.done and s.key != SIGNING]

    def minutes_left(self, plan: Plan) -> float:
        """Planned minutes of the steps not yet done."""
        return round(sum(s.minutes for s in plan.steps if s.key not in self.done), 1)


SIGNING = "prove/sign"
# Numbers this close are the same number.
HAIR = 1e-9


def fold(entries: Iterable[Recorded]) -> RunState:
    """Return the state after ``entries`` in their order of acceptance."""
    state = RunState()
    for recorded in entries:
        state = after(state, recorded)
    return state


def after(state: RunState, recorded: Recorded) -> RunState:
    """Return the state with one more accepted entry."""
    entry, kind = recorded.entry, recorded.entry.kind
    first = min(filter(None, (state.first, recorded.written)))
    state = replace(state, count=state.count + 1, first=first)
    if kind in (K.DONE, K.SKIP, K.SIGN) and entry.step:
        state = replace(state, closings={**state.closings, entry.step: entry.id})
    if kind in (K.STOP, K.DIFFERS):
        state = replace(state, marks=(*state.marks, recorded))
    change = CHANGES.get(kind)
    return change(state, recorded) if change else state


def _valued(state: RunState, recorded: Recorded) -> RunState:
    key = (recorded.entry.step, recorded.entry.reading)
    replaced = state.values.get(key)
    waiting = _without(state.open_deviations, replaced.entry.id if replaced else None)
    if recorded.entry.kind is K.DEVIATION:
        waiting[recorded.entry.id] = recorded
    return replace(
        state,
        values={**state.values, key: recorded},
        open_deviations=waiting,
        conflicts=_conflicts(state, key, recorded),
    )


def _conflicts(
    state: RunState, key: tuple[str, str], recorded: Recorded
) -> dict[tuple[str, str], tuple[Recorded, ...]]:
    """A value that does not name the one it stands for was written without knowing of it."""
    entry, replaced = recorded.entry, state.values.get(key)
    others = {k: v for k, v in state.conflicts.items() if k != key}
    if replaced is None or entry.names in (None, replaced.entry.id):
        return others
    before = state.conflicts.get(key, (replaced,))
    if all(r.entry.value == entry.value for r in before):
        return others
    return {**others, key: (*before, recorded)}


def _watched(state: RunState, recorded: Recorded) -> RunState:
    key = (recorded.entry.step, recorded.entry.reading)
    seen = (*state.watched.get(key, ()), recorded)
    # What was inside its window is so no longer.
    values = {k: v for k, v in state.values.items() if k != key}
    conflicts = {k: v for k, v in state.conflicts.items() if k != key}
    return replace(state, values=values, conflicts=conflicts, watched={**state.watched, key: seen})


def _left_out(state: RunState, recorded: Recorded) -> RunState:
    return replace(state, open_deviations={**state.open_deviations, recorded.entry.id: recorded})


def _accepted(state: RunState, recorded: Recorded) -> RunState:
    named = recorded.entry.names
    accepted = {**state.accepted, named: recorded} if named else state.accepted
    return replace(state, open_deviations=_without(state.open_deviations, named), accepted=accepted)


def _released(state: RunState, recorded: Recorded) -> RunState:
    return replace(state, released=state.released | {recorded.entry.step})


def _stopped(state: RunState, recorded: Recorded) -> RunState:
    return replace(state, stops={**state.stops, recorded.entry.id: recorded})


def _resumed(state: RunState, recorded: Recorded) -> RunState:
    return replace(state, stops=_without(state.stops, recorded.entry.names))


def _opened_again(state: RunState, recorded: Recorded) -> RunState:
    step = recorded.entry.step
    open_deviations = _without(state.open_deviations, state.closings.get(step))
    closings = {k: v for k, v in state.closings.items() if k != step}
    return replace(state, closings=closings, open_deviations=open_deviations)


def _signed(state: RunState, recorded: Recorded) -> RunState:
    return replace(state, signed=recorded)


def _without(kept: dict[UUID, Recorded], key: UUID | None) -> dict[UUID, Recorded]:
    return {k: v for k, v in kept.items() if k != key}


# What a kind of entry changes, beside closing its step. A tablet's twin: static/bay/rules.js.
CHANGES: dict[EntryKind, Callable[[RunState, Recorded], RunState]] = {
    K.READING: _valued,
    K.DEVIATION: _valued,
    K.WATCH: _watched,
    K.SKIP: _left_out,
    K.ACCEPT: _accepted,
    K.RELEASE: _released,
    K.STOP: _stopped,
    K.RESUME: _resumed,
    K.REOPEN: _opened_again,
    K.SIGN: _signed,
    K.END: _signed,
}


def admit(plan: Plan, state: RunState, entry: Entry, role: Role, serial: str = "") -> None:
    """Raise :class:`RunError`, saying why, when ``entry`` may not be added in this state.

    ``serial`` is what the card of the unit says; the plate must say the same.
    """
    if state.signed is not None:
        raise _refusal("signed")
    if entry.kind is K.ACCEPT:
        return _admit_acceptance(state, entry, role)
    if entry.kind is K.RESUME:
        return _admit_resumption(state, entry)
    if entry.kind is K.END:
        return _admit_end(entry, role)
    step = next((s for s in plan.steps if s.key == entry.step), None)
    if step is None:
        raise _refusal("no_step", step=entry.step)
    if entry.kind is K.RELEASE:
        _admit_release(step, state, role)
    elif entry.kind in (K.READING, K.DEVIATION, K.WATCH):
        _admit_value(state, step, entry, serial)
    elif entry.kind in (K.STOP, K.DIFFERS):
        _admit_mark(step, entry)
    elif entry.kind is K.REOPEN:
        _admit_opening(state, step, entry)
    elif entry.kind is K.SIGN:
        _admit_signing(plan, state)
    else:
        _admit_close(plan, state, step, entry)


def _admit_acceptance(state: RunState, entry: Entry, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_accepts")
    if entry.names not in state.open_deviations:
        raise _refusal("no_deviation")


def _admit_release(step: Step, state: RunState, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_releases")
    if not step.hold or step.key in state.released:
        raise _refusal("not_held", step=step.text)


def _admit_resumption(state: RunState, entry: Entry) -> None:
    if entry.names not in state.stops:
        raise _refusal("no_stop")


def _admit_end(entry: Entry, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_ends")
    if entry.reason not in ENDS:
        raise _refusal("end_why")


def _admit_mark(step: Step, entry: Entry) -> None:
    if entry.kind is K.DIFFERS and entry.reason not in DIFFERS:
        raise _refusal("differs")
    if entry.kind is K.STOP and entry.reason not in {s.key for s in stops_at(step)}:
        raise _refusal("stop_elsewhere")


def _admit_value(state: RunState, step: Step, entry: Entry, serial: str) -> None:
    reading = next((r for r in step.readings if r.key == entry.reading), None)
    if reading is None:
        raise _refusal("no_reading", step=step.key, reading=entry.reading)
    if reading.kind == "number":
        if not isinstance(entry.value, int | float) or entry.value != entry.value:
            raise _refusal(
                "number", label=reading.label, unit=reading.unit or say("refuse.figures")
            )
    elif not isinstance(entry.value, str) or not entry.value.strip():
        raise _refusal("empty", label=reading.label)
    elif reading.choices and entry.value not in reading.choices:
        raise _refusal("choose", label=reading.label)
    elif reading.kind == "date" and not _is_day(entry.value):
        raise _refusal("day", label=reading.label, value=entry.value)
    verdict = judge(reading, entry.value) or _other_unit(reading, entry, serial)
    if entry.kind is K.READING and verdict:
        raise RunError(verdict)
    if entry.kind is K.WATCH and (not reading.awaited or step.key in state.done):
        raise _refusal("no_wait", label=reading.label)
    if entry.kind in (K.DEVIATION, K.WATCH) and not verdict:
        raise _refusal("inside", label=reading.label)
    if entry.kind is K.DEVIATION and not entry.reason:
        raise _refusal("why")


def _other_unit(reading: Reading, entry: Entry, serial: str) -> str:
    if reading.key != "serial" or not serial or same_serial(str(entry.value), serial):
        return ""
    return say("refuse.plate", value=entry.value, serial=serial)


def same_serial(read: str, serial: str) -> bool:
    """Whether what was read off a plate, or scanned from its label, ends with the serial."""
    said, card = ("".join(c for c in t.upper() if c.isalnum()) for t in (read, serial))
    return bool(said) and said.endswith(card)


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def judge(reading: Reading, value: float | str | None) -> str:
    """Return why a value is outside its window, in words; empty when it is inside."""
    if not isinstance(value, int | float) or isinstance(value, bool):
        return ""
    blur = reading.resolution / 2 + HAIR
    if reading.low is not None and value < reading.low - blur:
        return _outside("bay.under", reading, value, reading.low)
    if reading.high is not None and value > reading.high + blur:
        return _outside("bay.over", reading, value, reading.high)
    return ""


def at_limit(reading: Reading, value: float | str | None) -> bool:
    """Whether the gauge cannot tell a value inside its window from one outside (handbook §8).

    A window no wider than the gauge's step has no inside: near its middle is as good as it gets.
    """
    if not reading.resolution or not isinstance(value, int | float) or judge(reading, value):
        return False
    half, edges = reading.resolution / 2, [e for e in (reading.low, reading.high) if e is not None]
    if len(edges) == 2 and edges[1] - edges[0] <= reading.resolution + HAIR:
        return abs(value - sum(edges) / 2) > half + HAIR
    return any(abs(value - edge) < half - HAIR for edge in edges)


def _outside(words: str, reading: Reading, value: float, limit: float) -> str:
    said, edge = (f"{format_number(v, 3)} {reading.unit}".strip() for v in (value, limit))
    why = f": {reading.why_limit}" if reading.why_limit else ""
    return say(words, said=f"{reading.label} {said}", limit=edge, why=why)


def _admit_opening(state: RunState, step: Step, entry: Entry) -> None:
    """Closed by mistake, or done after all: whatever comes after it waits for it again."""
    if step.key not in state.done:
        raise _refusal("not_done", step=step.text)
    if entry.names != state.closings[step.key]:
        raise _refusal("closed_anew", step=step.text)


def _admit_close(plan: Plan, state: RunState, step: Step, entry: Entry) -> None:
    if step.key in state.done:
        raise _refusal("done", step=step.text)
    if step.key == SIGNING:
        raise _refusal("sign_it")
    if entry.kind is K.SKIP:
        if not entry.reason:
            raise _refusal("skip_why")
        return
    admit_order(plan, state, step)
    if any(r.entry.step == step.key for r in state.stops.values()):
        raise _refusal("stop_open")
    if step.hold and step.key not in state.released:
        raise _refusal("held")
    missing = [
        r.label for r in step.readings if r.required and (step.key, r.key) not in state.values
    ]
    missing += [c.text for c in step.checks if c.key not in entry.checks]
    if missing:
        raise _refusal("open_here", missing="; ".join(missing))


def admit_order(plan: Plan, state: RunState, step: Step) -> None:
    """Raise :class:`RunError` naming what comes first, when a step cannot be done yet."""
    reached = False
    for _, steps in segments(plan):
        reached = reached or step in steps
        for other in steps:
            waits = not reached or other.key in step.after
            if waits and other.key not in state.done:
                raise _refusal("first", step=other.text)


def _admit_signing(plan: Plan, state: RunState) -> None:
    still_open = state.open_checks(plan)
    if still_open:
        raise _refusal("open", steps="; ".join(s.text for s in still_open))
    if state.conflicts:
        raise _refusal("conflicts", count=len(state.conflicts))
    if state.stops:
        raise _refusal("stops", count=len(state.stops))
    if state.open_deviations:
        raise _refusal("deviations", count=len(state.open_deviations))
