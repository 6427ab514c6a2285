"""Gap, cooling, battery: the small sums of the craft."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.figures.battery import battery
from eldrim.core.figures.cooling import cooling, idle_minutes
from eldrim.core.figures.gap import (
    MAX_MOVED_MM,
    MAX_REVERSALS,
    GapAction,
    GapRange,
    Verdict,
    advise,
    judge,
    wear,
)

RANGE = GapRange(0.7, 0.8, 0.75, resolution=0.02)


@pytest.mark.parametrize(
    ("construction", "readings", "action"),
    [
        ("nickel", (), GapAction.MEASURE),
        ("nickel", (0.75,), GapAction.FIT),
        ("nickel", (0.68,), GapAction.OPEN),
        ("nickel", (0.90,), GapAction.CLOSE),
        ("nickel", (0.90, 0.82, 0.76), GapAction.FIT),
        ("nickel", (1.20,), GapAction.REJECT),
        ("nickel", (0.90, 0.66, 0.85), GapAction.REJECT),
        ("nickel", (0.82, 0.79, 0.82, 0.79, 0.82), GapAction.REJECT),
        ("fine_wire", (0.75,), GapAction.FIT),
        ("fine_wire", (0.65,), GapAction.RETURN),
        ("multi_ground", (0.90,), GapAction.RETURN),
        ("surface_gap", (0.60,), GapAction.RETURN),
    ],
)
def test_construction_and_history_decide_the_next_act(
    construction: str, readings: tuple[float, ...], action: GapAction
) -> None:
    """Handbook §8: in, fit; out, construction decides; the strap is not bent for ever."""
    assert advise(construction, RANGE, readings).action is action


def test_a_maker_may_allow_a_fine_wire_to_be_set() -> None:
    """Only then, and only by the strap."""
    assert advise("fine_wire", RANGE, (0.68,), maker_allows=True).action is GapAction.OPEN


def test_a_used_plug_worn_wide_is_renewed_not_closed() -> None:
    """Its edges are gone; a new one of the same gap would be closed."""
    assert advise("nickel", RANGE, (0.9,), used=True).action is GapAction.REJECT
    assert advise("nickel", RANGE, (0.66,), used=True).action is GapAction.OPEN


def test_a_damaged_plug_is_scrapped_whatever_it_measures() -> None:
    """Dropped plug, scrapped plug."""
    assert advise("nickel", RANGE, (0.75,), damaged=True).action is GapAction.REJECT


def test_the_gauge_s_step_limits_the_verdict() -> None:
    """Within half a step of a limit it is at the limit, not in."""
    coarse = GapRange(0.7, 0.8, 0.75, resolution=0.05)
    assert judge(0.75, coarse) is Verdict.IN
    assert judge(0.71, coarse) is Verdict.AT_LIMIT
    assert judge(0.82, coarse) is Verdict.AT_LIMIT
    assert judge(0.83, coarse) is Verdict.OVER
    assert judge(0.67, coarse) is Verdict.UNDER


@given(st.lists(st.integers(40, 160).map(lambda n: n / 100), min_size=1, max_size=8))
def test_advice_never_asks_for_more_than_a_strap_takes(readings: list[float]) -> None:
    """Following any advice keeps total movement and reversals within what the craft allows, and
    ends safely inside the range.
    """
    advice = advise("nickel", RANGE, tuple(readings))
    if advice.action in (GapAction.OPEN, GapAction.CLOSE):
        assert advice.moved + advice.by <= MAX_MOVED_MM + RANGE.resolution / 2 + 1e-9
        assert advice.reversals < MAX_REVERSALS
        after = readings[-1] + (advice.by if advice.action is GapAction.OPEN else -advice.by)
        assert judge(after, RANGE) is Verdict.IN
        assert advice.by <= abs(RANGE.aim - readings[-1]) + 1e-9, "never further than the middle"


def test_movement_and_reversals_are_counted() -> None:
    """The sum shows what was done to the strap."""
    advice = advise("nickel", RANGE, (0.66, 0.82, 0.68))
    assert (advice.reversals, advice.moved) == (1, pytest.approx(0.3))
    assert advice.sum == "0.66 → 0.82 → 0.68 mm: moved 0.3 mm in all, 1 reversal"


def test_wear_gives_a_rate_and_the_meter_where_it_ends() -> None:
    """From 0.75 at 20 000 to 0.85 at 60 000: 0.0025 a thousand, 1.0 at 120 000."""
    found = wear((20_000, 0.75), (60_000, 0.85), 1.0)
    assert found is not None
    assert found.rate == pytest.approx(0.0025)
    assert found.leaves_at == pytest.approx(120_000)
    assert wear((20_000, 0.75), (20_000, 0.85), 1.0) is None
    grown = wear((0, 0.75), (1000, 0.75), 1.0)
    assert grown is not None
    assert grown.leaves_at is None


@given(st.floats(50, 110), st.floats(0.005, 0.08), st.floats(5, 40), st.floats(-10, 30))
def test_cooling_gives_back_newton_s_law(
    first: float, constant: float, minutes: float, air: float
) -> None:
    """Readings made by the law return its constant; at the minute told it is at the limit."""
    second = air + (first - air) * math.exp(-constant * minutes)
    if first - second < 1.5:
        return
    found = cooling(first, second, minutes, air, 40)
    assert found.constant == pytest.approx(constant, abs=2e-6)
    then = air + (first - air) * math.exp(-constant * found.ready)
    assert then == pytest.approx(40, abs=0.6)
    assert found.wait == pytest.approx(max(found.ready - minutes, 0), abs=0.1)


@pytest.mark.parametrize(
    ("readings", "place"),
    [
        ((80, 80, 10, 20, 40), "second"),
        ((80, 60, 0, 20, 40), "minutes"),
        ((80, 60, 10, 45, 40), "limit"),
        ((80, 60, 10, 70, 80), "air"),
    ],
)
def test_readings_that_tell_nothing_are_refused(
    readings: tuple[float, float, float, float, float], place: str
) -> None:
    """The place and what to do about it."""
    with pytest.raises(ProblemsError) as caught:
        cooling(*readings)
    assert place in {p.path for p in caught.value.problems}
    assert all(p.fix for p in caught.value.problems)


def test_idling_goes_by_the_air() -> None:
    """A minute in summer, two or three in winter (docs/craft.md §11)."""
    assert [idle_minutes(t) for t in (25, 8, -10)] == [1, 2, 3]


@pytest.mark.parametrize(
    ("volts", "system", "running", "verdict"),
    [
        (12.6, 12, False, "charged"),
        (12.5, 12, False, "charged"),
        (12.4, 12, False, "low"),
        (12.1, 12, False, "poor"),
        (11.7, 12, False, "flat"),
        (13.6, 12, False, "surface charge"),
        (25.2, 24, False, "charged"),
        (6.2, 6, False, "low"),
        (14.2, 12, True, "charging well"),
        (14.5, 12, True, "charging well"),
        (14.9, 12, True, "overcharging"),
        (13.1, 12, True, "not keeping up"),
        (28.4, 24, True, "charging well"),
    ],
)
def test_the_battery_s_verdict_goes_by_its_system(
    volts: float, system: float, running: bool, verdict: str
) -> None:
    """Half for 6 V, double for 24 V (docs/craft.md §16)."""
    assert battery(volts, system, running=running).verdict == verdict
