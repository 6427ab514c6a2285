"""Whether one more entry may be added to a run."""

import re
from dataclasses import dataclass

from eldrim.core.base.days import find_day, read_day
from eldrim.core.base.errors import RunError
from eldrim.core.procedure.model import CONFIRMING, SIGNING, Plan, Reading, Step
from eldrim.core.reading_choices import IN_ORDER
from eldrim.core.run.blockers import closing_blockers, first_open, signing_blockers
from eldrim.core.run.due import NEXT_METER, meter_now
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.path import OUTCOME, applying
from eldrim.core.run.plausible import doubt, meter_doubt
from eldrim.core.run.readings import is_number, outside, outside_words, picked
from eldrim.core.run.state import RunState
from eldrim.core.run.stops import DIFFERS, ENDS, LEAD_CLEARS, NOTES, OTHER_NOTE, stops_at
from eldrim.core.run.verdicts import DOUBTED, TAKEN, said_of
from eldrim.core.words import say

K = EntryKind
VALUES = (K.READING, K.DEVIATION, K.WATCH, K.HEARD, K.OVER)


def _refusal(code: str, **slots: object) -> RunError:
    """The error that says, in the language in use, why an entry is not taken."""
    return RunError(say(f"refuse.{code}", **slots))


@dataclass(frozen=True)
class Known:
    """What is known of the unit: the serial of its card, and where its meter stood last."""

    serial: str = ""
    meter: float | None = None


NOTHING_KNOWN = Known()


def admit(
    plan: Plan, state: RunState, entry: Entry, role: Role, known: Known = NOTHING_KNOWN
) -> None:
    """Raise :class:`RunError`, saying why, when ``entry`` may not be added in this state."""
    if entry.kind is K.NOTE:
        return _admit_note(state, entry)
    if state.signed is not None:
        raise _refusal("signed")
    if entry.kind in (K.ACCEPT, K.REFUSE, K.AGAIN):
        return _admit_judgement(state, entry, role)
    if entry.kind is K.RESUME:
        return _admit_resumption(state, entry, role)
    if entry.kind is K.END:
        return _admit_end(entry, role)
    step = next((s for s in plan.steps if s.key == entry.step), None)
    if step is None:
        raise _refusal("no_step", step=entry.step)
    return _admit_at_step(plan, state, step, entry, role, known)


def _admit_at_step(
    plan: Plan, state: RunState, step: Step, entry: Entry, role: Role, known: Known
) -> None:
    # A signing is told what is still open.
    if entry.kind not in (K.STOP, K.DIFFERS, K.REOPEN, K.SIGN):
        _require_branch(plan, state, step)
    if entry.kind is K.RELEASE:
        _admit_release(step, state, role)
    elif entry.kind in VALUES:
        before = first_open(plan, state, step)
        if before is not None:
            raise _refusal("first", step=before.text)
        _require_open_outcome(state, step, entry)
        _admit_value(state, step, entry, known)
    elif entry.kind in (K.STOP, K.DIFFERS):
        _admit_mark(step, entry)
    elif entry.kind is K.REOPEN:
        _admit_opening(state, step, entry)
        _require_last_outcome(plan, state, step)
    elif entry.kind is K.VERDICT:
        _admit_verdict(plan, state, step, entry)
    elif entry.kind is K.SIGN:
        _admit_signing(plan, state)
    else:
        _admit_close(plan, state, step, entry)


def _require_branch(plan: Plan, state: RunState, step: Step) -> None:
    """What belongs to a branch that was not taken is not done."""
    applies = applying(plan, state.closings, state.values)
    if step.key not in state.closings and not applies(step):
        raise _refusal("other_branch", step=step.text)


def _require_open_outcome(state: RunState, step: Step, entry: Entry) -> None:
    """An outcome the search went on by is not written over; its step is opened again first."""
    if entry.reading == OUTCOME and step.key in state.closings:
        raise _refusal("outcome_closed", step=step.text)


def _require_last_outcome(plan: Plan, state: RunState, step: Step) -> None:
    """Only the last outcome of a search is opened again, while nothing was done on it."""
    path = state.path(plan)
    if plan.search is None or path is None or not any(r.key == OUTCOME for r in step.readings):
        return
    last = path.taken[-1].act if path.taken else ""
    since = state.closings[step.key].at
    goes_on = any(closing.at > since for closing in state.closings.values())
    if not last or plan.search.acts[last].sees != step.key or goes_on:
        raise _refusal("outcome_used", step=step.text)


def _admit_verdict(plan: Plan, state: RunState, step: Step, entry: Entry) -> None:
    """A verdict is on what was read: known, at holes of this plan, and doubted only with why."""
    said = said_of(entry)
    holes = {one.hole for one in plan.steps if one.hole}
    if said is None or entry.value not in (TAKEN, DOUBTED) or not set(said.holes) <= holes:
        raise _refusal("no_verdict")
    before = first_open(plan, state, step)
    if before is not None:
        raise _refusal("first", step=before.text)
    if entry.value == DOUBTED and not entry.note:
        raise _refusal("doubt_why")


def _admit_judgement(state: RunState, entry: Entry, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_accepts")
    judged = state.deviations.get(entry.refers_to) if entry.refers_to else None
    if judged is None or entry.step not in ("", judged.entry.step):
        raise _refusal("no_deviation")
    if entry.kind is K.ACCEPT:
        return
    if not entry.note:
        raise _refusal("refuse_why")
    if entry.kind is K.AGAIN and not entry.step:
        raise _refusal("no_step", step="")


def _admit_release(step: Step, state: RunState, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_releases")
    if not step.hold or step.key in state.released:
        raise _refusal("not_held", step=step.text)


def _admit_resumption(state: RunState, entry: Entry, role: Role) -> None:
    stop = state.stops.get(entry.refers_to) if entry.refers_to else None
    if stop is None:
        raise _refusal("no_stop")
    if stop.entry.reason in LEAD_CLEARS and role is not Role.LEAD:
        raise _refusal("lead_clears")
    if not entry.note:
        raise _refusal("clear_how")


def _admit_note(state: RunState, entry: Entry) -> None:
    """Only what is signed or ended is noted on; a note of no kind of its own has words."""
    if state.signed is None:
        raise _refusal("note_later")
    if entry.reason not in NOTES:
        raise _refusal("note_what")
    if entry.reason == OTHER_NOTE and not entry.note:
        raise _refusal("note_words")


def _admit_end(entry: Entry, role: Role) -> None:
    if role is not Role.LEAD:
        raise _refusal("lead_ends")
    if entry.reason not in ENDS:
        raise _refusal("end_why")


def _admit_mark(step: Step, entry: Entry) -> None:
    if entry.kind is K.DIFFERS and entry.reason not in DIFFERS:
        raise _refusal("differs")
    if entry.kind is K.STOP and entry.reason not in {stop.key for stop in stops_at(step)}:
        raise _refusal("stop_elsewhere")


def _admit_value(state: RunState, step: Step, entry: Entry, known: Known) -> None:
    reading = next((r for r in step.readings if r.key == entry.reading), None)
    if reading is None:
        raise _refusal("no_reading", step=step.key, reading=entry.reading)
    _require_kind(reading, entry)
    hardly = doubt(reading, entry.value)
    why = hardly or outside_words(reading, entry.value) or _not_this(reading, state, entry, known)
    if entry.kind is K.READING and why:
        raise RunError(why)
    if entry.kind is K.WATCH and (not reading.again or hardly or step.key in state.closings):
        raise RunError(hardly) if hardly else _refusal("no_wait", label=reading.label)
    if entry.kind is K.OVER and outside(reading, entry.value) != "over":
        raise _refusal("inside", label=reading.label)
    if entry.kind in (K.DEVIATION, K.WATCH) and not why:
        raise _refusal("inside", label=reading.label)
    if entry.kind in (K.DEVIATION, K.OVER) and not entry.reason:
        raise _refusal("why")


def _require_kind(reading: Reading, entry: Entry) -> None:
    """Refuse a value of another kind than the reading takes."""
    value, label = entry.value, reading.label
    if reading.kind == "number":
        if not isinstance(value, int | float) or value != value:
            raise _refusal("number", label=label, unit=reading.unit or say("refuse.figures"))
    elif not isinstance(value, str) or not value.strip():
        raise _refusal("empty", label=label)
    elif reading.choices and not _offered(reading, value):
        raise _refusal("choose", label=label)
    elif reading.kind == "date" and find_day(value) is None:
        raise _refusal("day", label=label, value=value)


def _offered(reading: Reading, value: str) -> bool:
    """Whether what was picked was there to pick; several only where several may hold."""
    some = picked(reading, value)
    alone = len(some) == 1 or not set(some) & set(IN_ORDER)
    return alone and len(set(some)) == len(some) and set(some) <= set(reading.choices)


def _not_this(reading: Reading, state: RunState, entry: Entry, known: Known) -> str:
    """Why a value cannot be taken on this unit; empty where it can."""
    value = entry.value
    if reading.key == "serial" and known.serial and not same_serial(str(value), known.serial):
        return say("refuse.plate", value=value, serial=known.serial)
    if reading.key == "meter" and is_number(value):
        return meter_doubt(value, known.meter)
    if reading.key == NEXT_METER and is_number(value):
        stands = meter_now(state)
        if stands is not None and value <= stands:
            return say("refuse.meter_past", value=f"{value:g}", now=f"{stands:g}")
    started = entry.made or state.first
    if reading.kind == "date" and started and read_day(str(value)) <= started.date():
        return say("refuse.day_past", label=reading.label, value=value)
    return ""


def same_serial(read: str, serial: str) -> bool:
    """Whether what was read off a plate is the serial: blanks, dashes and case aside.

    A label of ours says more before it.
    """
    label = re.fullmatch(r"ELDRIM UNIT \S+ (.*)", read.strip())
    said, card = (
        "".join(c for c in text.upper() if c.isalnum())
        for text in (label[1] if label else read, serial)
    )
    return bool(said) and said == card


def _admit_opening(state: RunState, step: Step, entry: Entry) -> None:
    """Closed by mistake, or done after all: whatever comes after it waits for it again."""
    closing = state.closings.get(step.key)
    if closing is None:
        raise _refusal("not_done", step=step.text)
    if entry.refers_to != closing.entry.id:
        raise _refusal("closed_anew", step=step.text)


def _admit_close(plan: Plan, state: RunState, step: Step, entry: Entry) -> None:
    if step.key in state.closings:
        raise _refusal("done", step=step.text)
    if step.key == SIGNING:
        raise _refusal("sign_it")
    if entry.kind is K.SKIP:
        if step.key == CONFIRMING:
            raise _refusal("unit_first")
        if not entry.reason:
            raise _refusal("skip_why")
        return
    blockers = closing_blockers(plan, state, step, entry.checks)
    if blockers:
        raise RunError(blockers[0].words)


def _admit_signing(plan: Plan, state: RunState) -> None:
    blockers = signing_blockers(plan, state)
    if blockers:
        raise RunError(blockers[0].words)
