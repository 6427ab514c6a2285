"""Too hot to start: when it will not be. And what goes into a bag goes back somewhere."""

import math
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import RunError
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.run.admission import admit
from eldrim.core.run.bags import bags
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.report import report
from eldrim.core.run.state import RunState, fold
from eldrim.core.run.waiting import waiting
from tests.builders import job, tug

K = EntryKind
PLAN = compile_plan(tug(), job(2))
STEP = next(s for s in PLAN.steps if s.key == "ready/temperature")
START = datetime(2026, 7, 2, 9, 0, tzinfo=UTC)


def wrote(kind: EntryKind, minute: float, value: float, reading: str = "temperature") -> Recorded:
    """A temperature written so many minutes after nine."""
    at = START + timedelta(minutes=minute)
    entry = Entry(id=uuid4(), kind=kind, step=STEP.key, reading=reading, value=value, made=at)
    return Recorded(entry=entry, by="tam", role=Role.TECHNICIAN, at=at)


def test_two_readings_and_the_air_say_when_to_start() -> None:
    """80 °C, ten minutes later 65, air 20: Newton's law reaches 40 °C in 38.2 minutes."""
    seen = [wrote(K.WATCH, 0, 80), wrote(K.WATCH, 10, 65)]
    assert waiting(STEP, RunState()) is None
    assert waiting(STEP, fold(seen[:1])).lacks == "second"
    assert waiting(STEP, fold(seen)).lacks == "air"
    found = waiting(STEP, fold([*seen, wrote(K.READING, 11, 20, "air")]))
    minutes = 10 * math.log(60 / 20) / math.log(60 / 45)
    assert (found.ready - START).total_seconds() / 60 == pytest.approx(minutes, abs=0.06)
    assert waiting(STEP, fold([*seen, wrote(K.READING, 40, 39)])) is None, "it is over"


def test_what_cannot_be_said_is_not_said() -> None:
    """No fall, warm air, run again meanwhile."""
    air = wrote(K.READING, 0, 20, "air")
    assert waiting(STEP, fold([air, wrote(K.WATCH, 0, 80), wrote(K.WATCH, 9, 79.5)])).lacks == (
        "second"
    )
    warm = [wrote(K.READING, 0, 41, "air"), wrote(K.WATCH, 0, 80), wrote(K.WATCH, 9, 70)]
    assert waiting(STEP, fold(warm)).lacks == "never"
    again = [air, wrote(K.WATCH, 0, 80), wrote(K.WATCH, 10, 60), wrote(K.WATCH, 15, 85)]
    assert waiting(STEP, fold(again)).lacks == "second"
    cooled = waiting(STEP, fold([*again, wrote(K.WATCH, 25, 70)]))
    assert cooled.curve.readings == ((0.0, 85), (10.0, 70)), "it cools from its hottest on"


@given(st.floats(45, 120), st.floats(-10, 30), st.floats(0.01, 0.2), st.floats(2, 30))
def test_the_time_is_the_one_at_which_the_limit_is_met(
    hot: float, air: float, share: float, later: float
) -> None:
    """Whatever it cools by, at ``ready`` it has come down to the limit."""
    second = air + (hot - air) * math.exp(-share * later)
    if second <= STEP.readings[0].high or hot - second < 1:
        return
    seen = [wrote(K.READING, 0, air, "air"), wrote(K.WATCH, 0, hot), wrote(K.WATCH, later, second)]
    minutes = (waiting(STEP, fold(seen)).ready - START).total_seconds() / 60
    assert air + (hot - air) * math.exp(-share * minutes) == pytest.approx(40, abs=0.8)


def test_only_what_is_outside_its_window_is_waited_for() -> None:
    """A watch is no way past the window, and another one takes a good value back."""
    for value, says in ((30, "inside its window"), (70, None)):
        made = wrote(K.WATCH, 0, value).entry
        if says:
            with pytest.raises(RunError, match=says):
                admit(PLAN, RunState(), made, Role.TECHNICIAN)
        else:
            admit(PLAN, RunState(), made, Role.TECHNICIAN)
    volts = Entry(id=uuid4(), kind=K.WATCH, step="ready/battery", reading="volts", value=11.0)
    with pytest.raises(RunError, match="does not wait for this"):
        admit(PLAN, RunState(), volts, Role.TECHNICIAN)
    state = fold([wrote(K.READING, 0, 30), wrote(K.WATCH, 60, 75)])
    assert (STEP.key, "temperature") not in state.values


def test_the_run_sheet_tells_that_one_waited() -> None:
    """Each hot reading is a mark at its step."""
    line = next(x for x in report(PLAN, [wrote(K.WATCH, 0, 71)]) if x.key == STEP.key)
    assert line.marks == ("71: waited",)


def test_each_bag_goes_back_where_its_content_does() -> None:
    """The plenum's bolts at their tightening, the plenum at its fitting."""
    found = {b.off.key: b.back.key for b in bags(compile_plan(tug(), job(1, 3, 5))) if b.back}
    assert found["release/plenum/bolts"] == "tighten/plenum/bolts"
    assert found["remove/plenum"] == "fit/plenum"
    numbers = [b.number for b in bags(PLAN)]
    assert numbers == list(range(1, len(numbers) + 1))
