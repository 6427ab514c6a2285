"""Cases the core and the tablet answer alike: numbers, plates, units, limits, cooling."""

import json
from datetime import UTC, datetime, timedelta
from math import exp, log
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.quantity import in_unit, scan
from eldrim.core.figures.gap import GapRange, judge
from eldrim.core.figures.limits import limits, side
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Reading
from eldrim.core.run.admission import same_serial
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.readings import dialled, limits_of
from eldrim.core.run.state import fold
from eldrim.core.run.told import told
from eldrim.core.run.waiting import waiting
from eldrim.demo.load import demo_engines
from eldrim.web.bay.wire import outline, rules
from tests.builders import engine, job
from tests.twin.node import ask_tablet

VECTORS = Path(__file__).parents[1] / "vectors"
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def cases(name: str) -> list[dict[str, Any]]:
    """The cases of a file."""
    found: list[dict[str, Any]] = json.loads((VECTORS / f"{name}.json").read_text())
    return found


def test_a_typed_number_is_read_alike() -> None:
    """With a point, a comma, a fraction, a unit; and what is no number is none on both sides."""
    told = ask_tablet("given.map((one) => rules.number(one.typed))", cases("numbers"))
    for case, tablet in zip(cases("numbers"), told, strict=True):
        wanted = None if case["value"] is None else {k: case[k] for k in ("value", "unit")}
        assert tablet == wanted, case["typed"]
        if wanted is None:
            with pytest.raises(QuantityError):
                scan(case["typed"])
        else:
            assert scan(case["typed"]).low == case["value"]


def test_a_plate_is_read_alike() -> None:
    """Signs and case do not matter; what is read is the whole serial, or a label of it."""
    told = ask_tablet("given.map((one) => rules.sameSerial(one.read, one.serial))", cases("plates"))
    for case, tablet in zip(cases("plates"), told, strict=True):
        assert tablet is same_serial(case["read"], case["serial"]) is case["same"], case


def test_a_unit_is_converted_alike() -> None:
    """Rounded to the places of the unit asked for; what measures something else is nothing."""
    script = "given.cases.map((one) => rules.converted(given.units, one.value, one.from, one.to))"
    told = ask_tablet(script, {"cases": cases("units"), "units": rules()["units"]})
    for case, tablet in zip(cases("units"), told, strict=True):
        assert tablet == case["is"], case
        if case["is"] is None:
            with pytest.raises(QuantityError):
                in_unit(case["value"], case["from"], case["to"])
        else:
            assert in_unit(case["value"], case["from"], case["to"]) == case["is"], case


def test_a_limit_is_judged_alike() -> None:
    """Under, over, at the limit or inside: on the tablet, in the core and by the gap adviser."""
    tested = [
        limits(case["low"], case["high"], case["resolution"]).model_dump()
        for case in cases("limits")
    ]
    given = [
        {"reading": t, "value": c["value"]} for t, c in zip(tested, cases("limits"), strict=True)
    ]
    script = """given.map(({ reading, value }) =>
        [rules.outside(reading, value), rules.atLimit(reading, value)])"""
    for case, tablet in zip(cases("limits"), ask_tablet(script, given), strict=True):
        own = limits(case["low"], case["high"], case["resolution"])
        outside = side(own.accepted, case["value"])
        certain = side(own.certain, case["value"])
        assert tablet == [case["side"], case["at_limit"]], case
        assert (outside, not outside and certain != "") == (case["side"], case["at_limit"]), case
        if case["resolution"]:
            wanted = GapRange(case["low"], case["high"], 0, case["resolution"])
            verdict = "at limit" if case["at_limit"] else case["side"] or "in"
            assert judge(case["value"], wanted) == verdict, case


PLAN = compile_plan(engine(1), job(1))
STEP = next(step for step in PLAN.steps if step.key == "ready/temperature")


def test_cooling_is_foretold_alike() -> None:
    """What is lacking, when it is ready and until when; and Newton's law worked out by hand."""
    known = {step["key"]: step for step in outline(PLAN)}
    given = [_tablet_case(case, known[STEP.key]) for case in cases("cooling")]
    script = "given.cases.map(({ step, state }) => rules.waiting(step, state, given.cooling))"
    told = ask_tablet(script, {"cases": given, "cooling": rules()["cooling"]})
    for case, tablet in zip(cases("cooling"), told, strict=True):
        core = _core_answer(case)
        assert core is not None
        assert tablet["lacks"] == core.lacks == case["lacks"], case["about"]
        assert tablet["cold"] is core.cold is case.get("cold", False), case["about"]
        assert (tablet.get("ready") is None) == (core.ready is None), case["about"]
        if core.ready:
            assert tablet["ready"] / 1000 == pytest.approx(core.ready.timestamp(), abs=4)
            assert _by_hand(case) == pytest.approx(
                (core.ready - START).total_seconds() / 60, abs=0.1
            )


def _reading(case: dict[str, Any]) -> Reading:
    return STEP.readings[0].model_copy(update={"low": case["low"], "high": case["high"]})


def _at(minutes: float) -> datetime:
    return START + timedelta(minutes=minutes)


def _tablet_case(case: dict[str, Any], step: dict[str, Any]) -> dict[str, Any]:
    tested = limits(case["low"], case["high"]).model_dump()
    reading = {**step["readings"][0], "low": case["low"], "high": case["high"], **tested}
    place = f"{STEP.key}|temperature"
    seen = [{"value": value, "at": _at(minutes).isoformat()} for minutes, value in case["seen"]]
    values = {} if case["air"] is None else {f"{STEP.key}|air": {"value": case["air"]}}
    return {
        "step": {**step, "readings": [reading]},
        "state": {"watched": {place: seen}, "values": values},
    }


def _core_answer(case: dict[str, Any]) -> Any:
    entries = [("watch", "temperature", value, minutes) for minutes, value in case["seen"]]
    if case["air"] is not None:
        entries.append(("reading", "air", case["air"], 0))
    recorded = [
        Recorded(
            entry=Entry(
                id=uuid4(),
                kind=EntryKind(kind),
                step=STEP.key,
                reading=reading,
                value=value,
                made=_at(minutes),
            ),
            by="x",
            role=Role.TECHNICIAN,
            at=START,
        )
        for kind, reading, value, minutes in entries
    ]
    step = STEP.model_copy(update={"readings": (_reading(case), STEP.readings[1])})
    return waiting(step, fold(recorded))


def _by_hand(case: dict[str, Any]) -> float:
    """Minutes from the start until the limit is reached, by Newton's law of cooling."""
    start, hottest = max(case["seen"], key=lambda one: (one[1], one[0]))
    end, last = case["seen"][-1]
    rate = log((hottest - case["air"]) / (last - case["air"])) / (end - start)
    ready = start + log((hottest - case["air"]) / (case["high"] - case["air"])) / rate
    left = (hottest - case["air"]) * exp(-rate * (ready - start))
    assert left == pytest.approx(case["high"] - case["air"])
    return float(ready)


def test_what_a_value_says_is_said_alike() -> None:
    """Bands of a battery and of charging, the turn of a body to either side, an advance that is
    tired: whatever is written, and whatever the idle was.
    """
    asked = Job(work=(Work.TIMING, Work.BATTERY, Work.CHARGING))
    plans = [
        compile_plan(one, asked) for one in demo_engines() if Work.TIMING in possible_work(one)
    ]
    readings = [r for plan in plans for step in plan.steps for r in step.readings]
    speaking_ones = [r for r in readings if r.says or r.turning]
    assert len(plans) >= 3
    assert any(r.turning and r.turning.other for r in speaking_ones)
    given, wanted = [], []
    for reading in speaking_ones:
        for value in _values_round(reading):
            for other in (None, 0.0, 6.0, 7.4, 12.0, 14.2, 28.4):
                known = {"advance_idle": other, "volts_idle": other}
                wanted.append(told(reading, value, known.get))
                plain = {**reading.model_dump(), **limits_of(reading).model_dump()}
                given.append({"reading": plain, "value": value, "other": other})
    script = "given.map((one) => rules.told(one.reading, one.value, () => one.other, String))"
    assert ask_tablet(script, given) == wanted
    assert len(set(wanted)) > 25


def _values_round(reading: Reading) -> list[float]:
    """Values at, beside and far from every limit of a reading."""
    ends = [one for one in (reading.low, reading.high) if one is not None]
    ends += [one.least for one in reading.says if one.least is not None]
    return [round(end + by, 3) for end in ends for by in (-7.3, -1.5, -0.2, 0.0, 0.2, 1.5, 7.3)]


def test_a_whole_curve_is_told_alike() -> None:
    """Well, stuck, in steps, tired, late, early; nothing until every point is read."""
    [plan] = [
        compile_plan(one, Job(work=(Work.TIMING,)))
        for one in demo_engines()
        if one.id == "ostler-16-flat-four"
    ]
    readings = [r for step in plan.steps for r in step.readings]
    [back] = [r for r in readings if r.curve]
    cases_ = {
        "well": ([11.0, 18.0, 25.0, 30.0], 7.5),
        "stuck": ([11.0, 18.0, 25.0, 30.0], 14.0),
        "steps": ([12.0, 12.2, 25.0, 30.0], 7.5),
        "tired": ([9.0, 13.0, 18.0, 22.0], 7.5),
        "late": ([9.0, 15.0, 22.0, 29.0], 7.5),
        "early": ([12.0, 23.0, 27.0, 31.0], 7.5),
        "": ([11.0, 18.0, 25.0], 7.5),
    }
    assert back.curve is not None
    keys = [point.key for point in back.curve.points]
    given, wanted = [], []
    for name, (found, value) in cases_.items():
        others = dict(zip(keys, found, strict=False))
        words = told(back, value, others.get)
        assert words == (getattr(back.curve, name) if name else "")
        wanted.append(words)
        plain = {**back.model_dump(), **limits_of(back).model_dump()}
        given.append({"reading": plain, "value": value, "others": others})
    script = """given.map((one) =>
        rules.told(one.reading, one.value, (key) => one.others[key] ?? null, String))"""
    assert ask_tablet(script, given) == wanted


@pytest.mark.parametrize(
    ("typed", "advance"),
    [
        ("20 + 2", 22),
        ("20+2.5", 22.5),
        ("20 − 1,5", 18.5),
        ("20°+3°", 23),
        ("20", None),
        ("+2", None),
    ],
)
def test_a_dial_and_what_is_left_are_added_alike(typed: str, advance: float | None) -> None:
    """As a lamp with a dial tells it; anything else is read as a number."""
    assert dialled(typed) == advance
    assert ask_tablet("rules.dialled(given)", typed) == advance
