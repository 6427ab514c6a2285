"""What comes due: a day's use, intervals whichever first, wear as a span that holds."""

import random
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.days import months_on
from eldrim.core.engine import Engine
from eldrim.core.interval.foreseen import Foreseen, Since, UnitNow, foreseen, wear_foreseen
from eldrim.core.interval.use import Use, fleet_use, use_per_day, when
from eldrim.core.interval.wear_forecast import Crossing, crossing
from eldrim.core.job import Job
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.words.language import speaking
from eldrim.demo.load import demo_engines
from tests.builders import engine, tug
from tests.sweeps import examples

ENGINES = {one.id: one for one in demo_engines()}
TODAY = date(2026, 11, 27)


def days(*readings: tuple[int, float]) -> list[tuple[date, float]]:
    """Readings so many days ago."""
    return [(TODAY - timedelta(days=ago), value) for ago, value in readings]


# A day's use


def test_use_comes_from_the_unit_s_own_readings() -> None:
    """From the first to the last; wide where there are only two."""
    two = use_per_day(days((100, 2_000), (0, 2_150)))
    assert two is not None
    assert (two.per_day, two.readings, two.by) == (1.5, 2, "unit")
    assert two.low == pytest.approx(1.5 * 0.7)
    steady = use_per_day(days((200, 1_700), (150, 1_775), (100, 1_850), (0, 2_000)))
    assert steady is not None
    assert (steady.low, steady.high) == pytest.approx((1.35, 1.65))
    uneven = use_per_day(days((200, 1_700), (150, 1_710), (100, 1_840), (50, 1_860), (0, 2_000)))
    assert uneven is not None
    assert uneven.high - uneven.low > steady.high - steady.low


@pytest.mark.parametrize(
    "readings", [[], [(10, 2_000.0)], [(3, 2_000.0), (0, 2_010.0)], [(90, 2_000.0), (0, 2_000.0)]]
)
def test_too_little_says_nothing(readings: list[tuple[int, float]]) -> None:
    """One reading, two days apart, or a meter that stands."""
    assert use_per_day(days(*readings)) is None


def test_a_new_meter_begins_anew() -> None:
    """What went back is another meter."""
    use = use_per_day(days((300, 9_000), (200, 9_200), (100, 10), (0, 60)))
    assert use is not None
    assert (use.per_day, use.readings) == (0.5, 2)


def test_others_stand_in_wide_and_marked() -> None:
    """What its like run; nothing where nobody knows."""
    alike = fleet_use([Use(1, 0.9, 1.1, 4), Use(3, 2.7, 3.3, 5)])
    assert alike is not None
    assert (alike.per_day, alike.low, alike.high, alike.by) == (2, 1, 3, "fleet")
    assert alike.readings == 9
    assert fleet_use([]) is None


@settings(max_examples=examples(200), deadline=None)
@given(left=st.floats(-500, 5_000), rate=st.floats(0.05, 40), spread=st.floats(0.05, 0.9))
def test_a_span_holds_its_likely_day(left: float, rate: float, spread: float) -> None:
    """Also of what is past already."""
    use = Use(rate, rate * (1 - spread), rate * (1 + spread), 3)
    span = when(1_000 + left, (TODAY, 1_000), use)
    assert span.first <= span.likely <= span.last


def test_months_on_end_in_the_month() -> None:
    """The last day where it is shorter."""
    assert months_on(date(2026, 8, 31), 6) == date(2027, 2, 28)
    assert months_on(date(2026, 11, 27), 24) == date(2028, 11, 27)


# By interval


def unit(sheet: Engine | None = None, **more: Any) -> UnitNow:
    """The vee six, fitted throughout at 2 000 h a year ago, now at 3 000 h."""
    made = sheet or tug()
    since = Since(TODAY - timedelta(days=365), 2_000)
    fitted = {(thing, hole): since for thing in ("plug", "coil") for hole in made.holes}
    fitted |= {(key, ""): since for key in made.companions}
    plain = UnitNow(
        engine=made,
        variant=next(iter(made.variants)),
        counts="h",
        stood=(TODAY, 3_000.0),
        use=Use(2.7, 2.4, 3.0, 6),
        fitted=fitted,
    )
    return replace(plain, **more)


def by_thing(now: UnitNow) -> dict[tuple[str, str], Foreseen]:
    """What comes due, by thing and act."""
    return {(one.thing, one.act): one for one in foreseen(now, DEFAULT_RULES)}


def test_intervals_of_the_sheet_come_due_from_when_things_were_fitted() -> None:
    """Alike at all holes they are one; each says every so much, by whom, done when."""
    found = by_thing(unit())
    plugs = found["plug", "replace"]
    assert (plugs.meter, plugs.band) == (3_500, False)
    assert plugs.cylinders == (1, 2, 3, 4, 5, 6)
    assert plugs.words == "Plugs 1, 2, 3, 4, 5 and 6: renew"
    assert "every 1\u202f500 h (Skerry Field fleet handbook" in plugs.why
    assert "done at 2\u202f000 h" in plugs.why
    assert "18.9 h a week by 6 readings" in plugs.why
    assert plugs.span is not None
    assert plugs.span.likely == TODAY + timedelta(days=round(500 / 2.7))
    assert found["coil", "inspect"].words.endswith(": look at")
    assert ("coil", "replace") not in found, "a band alone is no interval"


def test_whichever_comes_first() -> None:
    """By months where the unit stands, by the meter where it runs."""
    running = by_thing(unit())["air-filter", "replace"]
    assert running.meter == 3_000
    assert running.span is not None
    assert running.span.likely == TODAY
    standing = by_thing(unit(use=Use(0.1, 0.05, 0.2, 4)))["breather-hose", "replace"]
    assert standing.span is not None
    assert standing.span.likely == months_on(TODAY - timedelta(days=365), 96)
    assert standing.span.first == standing.span.last


def test_severe_use_shortens_what_is_due() -> None:
    """By the meter and by the calendar."""
    severe = by_thing(unit(severe=True))["air-filter", "replace"]
    assert severe.meter == 2_500
    assert severe.span is not None
    assert severe.span.likely < TODAY


def test_what_was_only_seen_is_looked_at_from_then_on() -> None:
    """Looking does not renew."""
    seen = {("coil", hole): Since(TODAY, 3_000) for hole in ("2", "4", "6")}
    found = [one for one in foreseen(unit(seen=seen), DEFAULT_RULES) if one.act == "inspect"]
    coils = {one.holes: one.meter for one in found if one.thing == "coil"}
    assert coils == {("1", "3", "5"): 3_500, ("2", "4", "6"): 4_500}
    assert by_thing(unit(seen=seen))["plug", "replace"].meter == 3_500


def test_without_a_use_it_is_due_by_the_meter_alone() -> None:
    """No day is made up; what is by the calendar keeps its day."""
    found = by_thing(unit(use=None))
    assert found["plug", "replace"].span is None
    assert found["plug", "replace"].meter == 3_500
    assert found["coolant-strength", "inspect"].span is not None


def test_what_nobody_fitted_is_not_made_up() -> None:
    """Nothing is known of it, so nothing is due."""
    assert foreseen(unit(fitted={}), DEFAULT_RULES) == ()


def test_a_silent_sheet_goes_by_the_band_and_says_so() -> None:
    """Of a plain engine by its construction; of a two-stroke and at sea by the season."""
    plain = engine()
    since = Since(date(2026, 5, 1), 100)
    now = unit(plain, fitted={("plug", hole): since for hole in plain.holes})
    [plugs] = foreseen(now, DEFAULT_RULES)
    assert plugs.band
    assert plugs.meter == 600
    triple = ENGINES["sulair-750-triple"]
    by_season = UnitNow(
        engine=triple,
        variant=next(iter(triple.variants)),
        counts="",
        fitted={("plug", hole): Since(date(2026, 5, 1), None) for hole in triple.holes},
    )
    [plugs] = foreseen(by_season, DEFAULT_RULES)
    assert plugs.span is not None
    assert plugs.span.likely == date(2027, 3, 1)
    assert plugs.band


def test_months_alone_bring_no_band_of_the_meter() -> None:
    """A coil that is due by the calendar is not due by what half of its like last."""
    plain = {"format": tug().format, **tug().model_dump(mode="json", exclude_defaults=True)}
    stated = [{"of": "coil", "months": 60, "source": "fleet", "page": "9"}]
    sheet = Engine.model_validate({**plain, "intervals": stated})
    coils = by_thing(unit(sheet))["coil", "replace"]
    assert coils.meter is None
    assert coils.span is not None
    assert coils.span.likely == months_on(TODAY - timedelta(days=365), 60)
    assert not coils.band


def test_it_is_told_in_german() -> None:
    """Every line."""
    with speaking("de"):
        found = foreseen(unit(), DEFAULT_RULES)
    assert {one.words.split(": ")[-1] for one in found} == {"erneuern", "ansehen"}
    assert all(one.why.startswith("alle ") for one in found)


# By wear


@pytest.mark.parametrize("points", [2, 3, 5])
def test_nine_in_ten_leave_their_range_inside_the_span(points: int) -> None:
    """Simulated: a steady wear, each gap measured as a gauge does."""
    chance, inside, asked = random.Random(points), 0, 0
    while asked < 300:
        rate, new = chance.uniform(0.0001, 0.0003), chance.uniform(1.0, 1.06)
        true = (1.3 - new) / rate
        at = [0.0, *sorted(chance.uniform(0.15, 0.85) * true for _ in range(points - 1))]
        found = [(meter, new + rate * meter + chance.gauss(0, 0.015)) for meter in at]
        span = crossing(found, 1.3)
        if span is None or span.out:
            continue
        asked += 1
        inside += span.first <= true and (span.last is None or true <= span.last)
        assert span.first <= span.likely
    assert inside >= 0.9 * asked


def test_more_measurements_make_the_span_narrower() -> None:
    """And it says how many there are."""
    line = [(meter, 1.0 + meter * 0.0002) for meter in (0, 200, 400, 600, 800)]
    few, many = crossing(line[:3], 1.3), crossing(line, 1.3)
    assert few is not None
    assert many is not None
    assert few.last is not None
    assert many.last is not None
    assert few.likely == pytest.approx(1_500) == pytest.approx(many.likely)
    assert many.last - many.first < few.last - few.first
    assert (few.points, many.points) == (3, 5)


def test_what_does_not_grow_or_is_out_already() -> None:
    """Nothing is forecast of the one; the other says so."""
    assert crossing([(0, 1.0), (500, 1.005)], 1.3) is None
    assert crossing([(0, 1.0)], 1.3) is None
    assert crossing([(0, 1.0), (0, 1.1)], 1.3) is None
    out = crossing([(0, 1.0), (500, 1.35)], 1.3)
    assert out is not None
    assert out.out
    carried = crossing([(0, 1.0), (500, 1.35)], 1.3, seen=False)
    assert carried is not None
    assert not carried.out
    assert carried.likely < 500


def test_wear_is_told_where_it_comes_before_the_interval() -> None:
    """The others are told by their interval."""
    now = unit()
    due = foreseen(now, DEFAULT_RULES)
    fast, slow = Crossing(3_200, 3_100, 3_300, 3), Crossing(4_200, 3_900, None, 2)
    found = wear_foreseen(now, {"5": fast, "3": slow}, due)
    assert [one.holes for one in found] == [("5",)]
    assert found[0].words == "Plug 5: its gap leaves the range"
    assert found[0].why == "between 3\u202f100 h and 3\u202f300 h, by 3 measurements"
    assert found[0].span is not None
    assert found[0].span.first < found[0].span.likely < found[0].span.last
    assert wear_foreseen(now, {"3": slow}) == (), "it may never leave"
    two = replace(fast, points=2)
    assert wear_foreseen(now, {"5": two}) == (), "two measurements are no trend"
    assert wear_foreseen(now, {"5": replace(two, out=True)})[0].words.endswith("out of the range")


@pytest.mark.parametrize(
    ("job", "thing", "at", "inspect", "does"),
    [
        ({"work": ["plug"], "cylinders": [1, 2, 3]}, "plug", (1, 3), False, True),
        ({"work": ["plug"], "cylinders": [1]}, "plug", (1, 3), False, False),
        ({"work": ["plug"], "cylinders": [1]}, "coil", (1,), False, False),
        ({"work": ["plug"], "cylinders": [1]}, "coil", (1,), True, True),
        ({"work": ["coil"], "cylinders": [1]}, "coil", (1,), False, True),
        ({"work": ["air-filter"]}, "air-filter", (), False, True),
        ({"work": ["cap"]}, "cap", (), False, True),
        ({"work": ["plug"], "cylinders": [1]}, "air-filter", (), False, False),
    ],
)
def test_a_procedure_does_what_is_due(
    job: dict[str, Any], thing: str, at: tuple[int, ...], inspect: bool, does: bool
) -> None:
    """At all its cylinders; what is only looked at is in hand with the plug."""
    assert Job.model_validate(job).does(thing, at, looks=inspect) is does
