"""A run as it is read afterwards: step by step, each reading against its window, who did what."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from eldrim.core.base.quantity import format_number, with_unit
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.reading_choices import IN_ORDER
from eldrim.core.run.entries import Entry, EntryKind, Recorded
from eldrim.core.run.readings import at_limit, outside, shown
from eldrim.core.run.state import RunState, fold, fold_all
from eldrim.core.run.stops import BY_KEY, reason_of
from eldrim.core.run.told import told
from eldrim.core.run.verdicts import TAKEN, verdict_words
from eldrim.core.words import say
from eldrim.core.words.language import moment_words

K = EntryKind
DEVIATES = (K.DEVIATION, K.OVER)
# A longer gap between two steps is a pause, not work.
MAX_STEP_MINUTES = 45.0


@dataclass(frozen=True)
class Value:
    """One reading: what was written and how it came in, its window, what was said of it.

    ``judged`` is what a lead said of it, with the word they gave; ``typed`` the value as it was
    typed, where that was in another unit; ``says`` what it says and what to do next.
    """

    label: str
    value: str
    unit: str
    window: str
    outside: bool = False
    reason: str = ""
    accepted: str = ""
    at_limit: bool = False
    how: str = ""
    judged: str = ""
    typed: str = ""
    says: str = ""

    @property
    def verdict(self) -> str:
        """How it stands to its window: outside, at limit or in; empty where it has none."""
        if self.outside or self.at_limit:
            return "outside" if self.outside else "at limit"
        return "in" if self.window else ""


@dataclass(frozen=True)
class Line:
    """One step: who closed it when, with which proofs, its readings, what was marked at it.

    ``tools`` and ``settings`` are those the edition gave for it, ``photos`` the digests of those
    taken at it.
    """

    key: str
    text: str
    phase: str
    by: str
    at: datetime | None
    values: tuple[Value, ...] = ()
    marks: tuple[str, ...] = ()
    left_out: bool = False
    proofs: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    settings: tuple[str, ...] = ()
    photos: tuple[str, ...] = ()


def report(
    plan: Plan, entries: list[Recorded], called: Mapping[str, str] | None = None
) -> tuple[Line, ...]:
    """The whole run, in the order of its edition; ``called`` is how people are called by name."""
    if called:
        entries = [
            entry.model_copy(update={"by": called.get(entry.by, entry.by)}) for entry in entries
        ]
    state = fold_all(entries)
    return tuple(_line(plan, step, entries, state) for step in _of_this_run(plan, entries, state))


def _of_this_run(plan: Plan, entries: list[Recorded], state: RunState) -> list[Step]:
    """All steps; of a search those of the branches taken, and those something was said at."""
    if plan.search is None:
        return list(plan.steps)
    said = {entry.entry.step for entry in entries} | set(state.closings)
    ahead = {step.key for step in fold(entries).ahead(plan)}
    return [step for step in plan.steps if step.key in said or step.key in ahead]


def _line(plan: Plan, step: Step, entries: list[Recorded], state: RunState) -> Line:
    mine = [entry for entry in entries if entry.entry.step == step.key]
    closing = state.closings.get(step.key)
    values = [
        _value(reading, state.values.get((step.key, reading.key)), state)
        for reading in step.readings
    ]
    marks = [m for e in mine if (m := _mark(e, entries, state, step))]
    left_out = closing is not None and closing.entry.kind is K.SKIP
    if closing is not None and left_out:
        marks.insert(0, _not_done(plan, step, closing, state))
    checked = closing.entry.checks if closing and not left_out else ()
    return Line(
        key=step.key,
        text=step.text,
        phase=step.phase.value,
        by=closing.by if closing else "",
        at=closing.written if closing else None,
        values=tuple(value for value in values if value),
        marks=tuple(marks),
        left_out=left_out,
        proofs=tuple(check.text for check in step.checks if check.key in checked),
        tools=tuple(tool.name for tool in step.tools),
        settings=tuple(f"{f.setting.text}, {f.setting.wrench}" for f in step.figures if f.setting),
        photos=tuple(e.entry.photo for e in mine if e.entry.photo),
    )


def _not_done(plan: Plan, step: Step, closing: Recorded, state: RunState) -> str:
    """That a step was not done, why, and by whom that was accepted."""
    why = reason_of(closing.entry)
    if closing.entry.step != step.key:
        first = next((s.text for s in plan.steps if s.key == closing.entry.step), "")
        why = say("bay.not_done_with", step=first)
    return f"{say('bay.not_done').upper()}: {why}{_acceptance(closing, state)}"


def _acceptance(recorded: Recorded, state: RunState) -> str:
    said = judged_words(recorded.entry.id, state)
    return f"; {said}" if said else ""


def judged_words(deviation: UUID, state: RunState, called: Mapping[str, str] | None = None) -> str:
    """What a lead said of a deviation, and with which word; empty while none did.

    ``called`` is how people are called by the name they sign in with.
    """
    names = called or {}
    accepted = state.accepted.get(deviation)
    if accepted:
        note = f" ({accepted.entry.note})" if accepted.entry.note else ""
        return f"{say('bay.accepted')}: {names.get(accepted.by, accepted.by)}{note}"
    refused = state.refused.get(deviation)
    if refused is None:
        return ""
    words = "bay.again_by" if refused.entry.kind is K.AGAIN else "bay.refused_by"
    return say(words, by=names.get(refused.by, refused.by), why=refused.entry.note)


def _value(reading: Reading, had: Recorded | None, state: RunState) -> Value | None:
    if had is None:
        return None
    entry = had.entry
    accepted = state.accepted.get(entry.id)
    return Value(
        label=reading.label,
        value=shown(reading, entry.value),
        unit=reading.unit,
        window=window(reading),
        outside=bool(outside(reading, entry.value)) or entry.kind in DEVIATES,
        reason=reason_of(entry) if entry.kind in DEVIATES else entry.reason,
        accepted=accepted.by if accepted else "",
        judged=judged_words(entry.id, state),
        typed=entry.note if entry.kind is K.READING else "",
        at_limit=at_limit(reading, entry.value),
        how=say(f"how.{entry.how}") if entry.how else "",
        says=told(reading, entry.value, state.value_of),
    )


def window(reading: Reading) -> str:
    """The limits of a reading in words; empty where it has none."""
    low, high = reading.low, reading.high
    if low is not None and high is not None:
        ends = {
            "low": format_number(low, 3),
            "high": with_unit(format_number(high, 3), reading.unit),
        }
        return say("sum.span", **ends, unit="").rstrip()
    if low is not None:
        return f"≥ {with_unit(format_number(low, 3), reading.unit)}"
    return f"≤ {with_unit(format_number(high, 3), reading.unit)}" if high is not None else ""


def _mark(recorded: Recorded, entries: list[Recorded], state: RunState, step: Step) -> str:
    entry = recorded.entry
    said = with_unit(_plain(entry.value), entry.unit)
    if entry.kind is K.STOP:
        return f"{reason_of(entry)}: {_cleared(entry, entries)}"
    if entry.kind in (*DEVIATES, K.READING):
        return _replaced(recorded, state, said)
    if entry.kind is K.REOPEN:
        return f"{say('bay.reopened')}: {recorded.by}"
    if entry.kind is K.RELEASE:
        return f"{say('doc.hold')}: {recorded.by}"
    if entry.kind is K.VERDICT:
        return f"{words}: {recorded.by}" if (words := verdict_words(entry)) else ""
    if entry.kind is K.HEARD:
        return say("bay.heard", value=said)
    if entry.kind is K.WATCH:
        reading = next((one for one in step.readings if one.key == entry.reading), None)
        if reading is None or reading.turning is None:
            return say("watched", value=said)
        return f"{say('bay.as_found', value=said)} {told(reading, entry.value, state.value_of)}"
    if entry.kind is K.NOTE:
        return f"{reason_of(entry)} ({recorded.by}, {moment_words(recorded.written)} UTC)"
    return reason_of(entry) if entry.kind is K.DIFFERS else ""


def _cleared(stop: Entry, entries: list[Recorded]) -> str:
    """How a stop ended, by whom and when; that it is open, where it did not."""
    ended = (e for e in entries if e.entry.kind is K.RESUME and e.entry.refers_to == stop.id)
    cleared = next(ended, None)
    if cleared is None:
        return say("bay.open")
    words = cleared.entry.note or BY_KEY[stop.reason].clear
    return f"{words} ({cleared.by}, {moment_words(cleared.written)} UTC)"


def _replaced(recorded: Recorded, state: RunState, said: str) -> str:
    """A value that no longer holds, as it was; empty where it holds."""
    entry = recorded.entry
    holds = state.values.get((entry.step, entry.reading))
    if holds is None and entry.id not in state.refused:
        return ""
    if holds is not None and holds.entry.id == entry.id:
        return ""
    why = f": {reason_of(entry)}" if entry.kind in DEVIATES else ""
    return f"{say('how.before')}: {said}{why} ({recorded.by}){_acceptance(recorded, state)}"


def step_minutes(plan: Plan, entries: list[Recorded]) -> dict[str, float]:
    """How long each step really took: from the closing of the step before it. Pauses left out."""
    closed = [entry for entry in entries if entry.entry.kind in (K.DONE, K.SIGN)]
    closed.sort(key=lambda e: e.written)
    known = {step.key for step in plan.steps}
    found: dict[str, float] = {}
    before = min((e.written for e in entries), default=None)
    for recorded in closed:
        at = recorded.written
        if before is not None and recorded.entry.step in known:
            minutes = (at - before).total_seconds() / 60
            if 0 <= minutes <= MAX_STEP_MINUTES:
                found[recorded.entry.step] = round(minutes, 2)
        before = at
    return found


def finding_words(step: Step, entry: Entry) -> str:
    """What an entry found at its step, to be looked for later; empty where it found nothing."""
    words = marked_words(entry)
    reading = next((r for r in step.readings if r.key == entry.reading), None)
    if entry.kind is K.READING and entry.reading == "condition" and entry.value not in IN_ORDER:
        words = shown(reading, entry.value) if reading else ""
    if words and entry.kind is K.SKIP:
        words = f"{say('bay.not_done').upper()}: {words}"
    return f"{step.text}: {words}" if words else ""


def marked_words(entry: Entry) -> str:
    """What an entry marks at its step, in words; empty where it marks nothing."""
    if entry.kind is K.VERDICT and entry.value == TAKEN:
        return verdict_words(entry)
    if entry.kind is K.STOP:
        return reason_of(entry)
    if entry.kind in DEVIATES:
        return f"{_plain(entry.value)} {entry.unit}: {reason_of(entry)}".strip()
    return reason_of(entry) if entry.kind in (K.DIFFERS, K.SKIP) else ""


def _plain(value: float | str | None) -> str:
    return format_number(value, 3) if isinstance(value, int | float) else str(value)
