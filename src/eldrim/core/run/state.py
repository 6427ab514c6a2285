"""The state of a run is the fold of its entries; whether one more may be added is decided here."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from uuid import UUID

from eldrim.core.errors import RunError
from eldrim.core.procedure.model import Plan, Reading, Step, segments
from eldrim.core.quantity import format_number
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.stops import DIFFERS, stops_at

K = EntryKind


@dataclass(frozen=True)
class RunState:
    """What holds after some entries. ``values`` is keyed by step and reading, the latest wins."""

    done: frozenset[str] = frozenset()
    values: dict[tuple[str, str], Recorded] = field(default_factory=dict)
    open_deviations: dict[UUID, Recorded] = field(default_factory=dict)
    accepted: dict[UUID, Recorded] = field(default_factory=dict)
    released: frozenset[str] = frozenset()
    stops: dict[UUID, Recorded] = field(default_factory=dict)
    differs: tuple[Recorded, ...] = ()
    signed: Recorded | None = None

    def current(self, plan: Plan) -> Step | None:
        """The first step not done; None when all are."""
        return next((s for s in plan.steps if s.key not in self.done), None)

    def open_checks(self, plan: Plan) -> list[Step]:
        """The steps still open, the signing step aside."""
        return [s for s in plan.steps if s.key not in self.done and s.key != SIGNING]

    def minutes_left(self, plan: Plan) -> float:
        """Planned minutes of the steps not yet done."""
        return round(sum(s.minutes for s in plan.steps if s.key not in self.done), 1)


SIGNING = "prove/sign"


def fold(entries: Iterable[Recorded]) -> RunState:
    """Return the state after ``entries`` in their order of acceptance."""
    state = RunState()
    for recorded in entries:
        state = after(state, recorded)
    return state


def after(state: RunState, recorded: Recorded) -> RunState:
    """Return the state with one more accepted entry."""
    entry = recorded.entry
    done, values = state.done, state.values
    waiting, accepted, signed = state.open_deviations, state.accepted, state.signed
    if entry.kind in (K.READING, K.DEVIATION):
        replaced = values.get((entry.step, entry.reading))
        values = {**values, (entry.step, entry.reading): recorded}
        if replaced is not None:
            waiting = {k: v for k, v in waiting.items() if k != replaced.entry.id}
    if entry.kind in (K.DEVIATION, K.SKIP):
        waiting = {**waiting, entry.id: recorded}
    if entry.kind in (K.DONE, K.SKIP, K.SIGN) and entry.step:
        done = done | {entry.step}
    if entry.kind is K.ACCEPT and entry.names is not None:
        waiting = {k: v for k, v in waiting.items() if k != entry.names}
        accepted = {**accepted, entry.names: recorded}
    released = state.released | ({entry.step} if entry.kind is K.RELEASE else set())
    stops, differs = state.stops, state.differs
    if entry.kind is K.STOP:
        stops = {**stops, entry.id: recorded}
    if entry.kind is K.RESUME:
        stops = {k: v for k, v in stops.items() if k != entry.names}
    if entry.kind is K.DIFFERS:
        differs = (*differs, recorded)
    if entry.kind is K.SIGN:
        signed = recorded
    return RunState(done, values, waiting, accepted, released, stops, differs, signed)


def admit(plan: Plan, state: RunState, entry: Entry, role: Role, serial: str = "") -> None:
    """Raise :class:`RunError`, saying why, when ``entry`` may not be added in this state.

    ``serial`` is what the card of the unit says; the plate must say the same.
    """
    if state.signed is not None:
        raise RunError("this run is signed; nothing can be added")
    if entry.kind is K.ACCEPT:
        return _admit_acceptance(state, entry, role)
    if entry.kind is K.RESUME:
        return _admit_resumption(state, entry)
    step = next((s for s in plan.steps if s.key == entry.step), None)
    if step is None:
        raise RunError(f"this edition has no step '{entry.step}'")
    if entry.kind is K.RELEASE:
        _admit_release(step, state, role)
    elif entry.kind in (K.READING, K.DEVIATION):
        _admit_value(step, entry, serial)
    elif entry.kind in (K.STOP, K.DIFFERS):
        _admit_mark(step, entry)
    elif entry.kind is K.SIGN:
        _admit_signing(plan, state)
    else:
        _admit_close(plan, state, step, entry)


def _admit_acceptance(state: RunState, entry: Entry, role: Role) -> None:
    if role is not Role.LEAD:
        raise RunError("only a lead accepts a deviation")
    if entry.names not in state.open_deviations:
        raise RunError("there is no such open deviation")


def _admit_release(step: Step, state: RunState, role: Role) -> None:
    if role is not Role.LEAD:
        raise RunError("only a lead releases a hold point")
    if not step.hold or step.key in state.released:
        raise RunError(f"'{step.text}' is not held")


def _admit_resumption(state: RunState, entry: Entry) -> None:
    if entry.names not in state.stops:
        raise RunError("there is no such open stop")


def _admit_mark(step: Step, entry: Entry) -> None:
    if entry.kind is K.DIFFERS and entry.reason not in DIFFERS:
        raise RunError("say from the list what differs")
    if entry.kind is K.STOP and entry.reason not in {s.key for s in stops_at(step)}:
        raise RunError("this stop cannot be met at this step")


def _admit_value(step: Step, entry: Entry, serial: str) -> None:
    reading = next((r for r in step.readings if r.key == entry.reading), None)
    if reading is None:
        raise RunError(f"step '{step.key}' takes no reading '{entry.reading}'")
    if reading.kind == "number":
        if not isinstance(entry.value, int | float) or entry.value != entry.value:
            raise RunError(f"{reading.label}: enter a number in {reading.unit or 'figures'}")
    elif not isinstance(entry.value, str) or not entry.value.strip():
        raise RunError(f"{reading.label}: nothing was entered")
    elif reading.choices and entry.value not in reading.choices:
        raise RunError(f"{reading.label}: choose one of the list")
    elif reading.kind == "date" and not _is_day(entry.value):
        raise RunError(f"{reading.label}: '{entry.value}' is no day; write it as 2027-05-31")
    verdict = judge(reading, entry.value) or _other_unit(reading, entry, serial)
    if entry.kind is K.READING and verdict:
        raise RunError(verdict)
    if entry.kind is K.DEVIATION and not verdict:
        raise RunError(f"{reading.label} is inside its window; record it as it is")
    if entry.kind is K.DEVIATION and not entry.reason:
        raise RunError("a value outside its window needs a reason")


def _other_unit(reading: Reading, entry: Entry, serial: str) -> str:
    if reading.key != "serial" or not serial or same_serial(str(entry.value), serial):
        return ""
    return f"the plate says {entry.value}, the card of this unit says {serial}: look again"


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
    said = f"{format_number(value, 3)} {reading.unit}".strip()
    why = f": {reading.why_limit}" if reading.why_limit else ""
    if reading.low is not None and value < reading.low:
        limit = f"{format_number(reading.low, 3)} {reading.unit}".strip()
        return f"{reading.label} {said} is under {limit}{why}"
    if reading.high is not None and value > reading.high:
        limit = f"{format_number(reading.high, 3)} {reading.unit}".strip()
        return f"{reading.label} {said} is over {limit}{why}"
    return ""


def _admit_close(plan: Plan, state: RunState, step: Step, entry: Entry) -> None:
    if step.key in state.done:
        raise RunError(f"'{step.text}' is already done")
    if step.key == SIGNING:
        raise RunError("the last step is closed by signing")
    if entry.kind is K.SKIP:
        if not entry.reason:
            raise RunError("a step is left out only with a reason")
        return
    admit_order(plan, state, step)
    if any(r.entry.step == step.key for r in state.stops.values()):
        raise RunError("a stop is open here: clear it, or hand it to the lead")
    if step.hold and step.key not in state.released:
        raise RunError("hold point: a lead looks and releases it, on this screen or their own")
    missing = [
        r.label for r in step.readings if r.required and (step.key, r.key) not in state.values
    ]
    missing += [c.text for c in step.checks if c.key not in entry.checks]
    if missing:
        raise RunError(f"still open here: {'; '.join(missing)}")


def admit_order(plan: Plan, state: RunState, step: Step) -> None:
    """Raise :class:`RunError` naming what comes first, when a step cannot be done yet."""
    reached = False
    for _, steps in segments(plan):
        reached = reached or step in steps
        for other in steps:
            waits = not reached or other.key in step.after
            if waits and other.key not in state.done:
                raise RunError(f"first: {other.text}")


def _admit_signing(plan: Plan, state: RunState) -> None:
    still_open = state.open_checks(plan)
    if still_open:
        more = f" and {len(still_open) - 1} more" if len(still_open) > 1 else ""
        raise RunError(f"cannot be signed, a check is open: {still_open[0].text}{more}")
    if state.stops:
        raise RunError("cannot be signed: a stop is still open")
    if state.open_deviations:
        count = len(state.open_deviations)
        raise RunError(
            f"cannot be signed: {count} deviation{'s' if count > 1 else ''} "
            "must be accepted by a lead"
        )
