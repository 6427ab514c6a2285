"""From the maker's torque to the wrench: inside the spec with tolerance, or refused."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.quantity import convert, parse
from eldrim.core.figures.torque import Window, aim, window
from eldrim.core.tools.crib import Wrench
from eldrim.core.tools.stock import STANDARD_CRIB, WRENCHES
from eldrim.core.tools.wrench_choice import against, weigh
from eldrim.core.tools.wrench_setting import Adapter, adapter_factor, setting, why_not

QUARTER, THREE_EIGHTHS, HALF = WRENCHES


def a_wrench(**changes: object) -> Wrench:
    """A wrench said in a few words."""
    plain = {
        "id": "w",
        "drive": "3/8",
        "unit": "N·m",
        "full_scale": 50,
        "graduation": 0.5,
        "length": "320 mm",
        "head": "36 mm",
    }
    return Wrench.model_validate({**plain, **changes})


wrenches = st.builds(
    a_wrench,
    unit=st.sampled_from(["N·m", "lbf·ft", "lbf·in", "kgf·cm"]),
    full_scale=st.sampled_from([10.0, 20.0, 50.0, 100.0, 200.0]),
    graduation=st.sampled_from([0.1, 0.2, 0.5, 1.0, 2.5]),
    tolerance=st.sampled_from([0.0, 0.02, 0.04, 0.06]),
)
adapters = st.none() | st.builds(
    Adapter, st.floats(10, 120, allow_nan=False), st.sampled_from([0.0, 30.0, 45.0, 90.0])
)


@given(wrenches, st.integers(20, 900), st.integers(1, 400), adapters)
def test_the_setting_keeps_the_true_torque_in_the_spec(
    wrench: Wrench, low: int, more: int, adapter: Adapter | None
) -> None:
    """Whatever the wrench's error within tolerance, the thread gets what the maker allows."""
    wanted = Window(low / 10, (low + more) / 10, (2 * low + more) / 20)
    found = setting(wanted, wrench, adapter)
    if found is None:
        assert why_not(wanted, wrench, adapter)
        return
    assert not why_not(wanted, wrench, adapter)
    worst = [convert(v, wrench.unit, "N·m") for v in found.truly]
    assert wanted.low - 1e-6 <= worst[0]
    assert worst[1] <= wanted.high + 1e-6
    assert found.value / wrench.graduation == pytest.approx(round(found.value / wrench.graduation))
    assert wrench.trusted_from - 1e-9 <= found.value <= wrench.full_scale + 1e-9


@given(st.floats(210, 800), st.floats(5, 200))
def test_an_adapter_square_to_the_wrench_changes_nothing(length: float, offset: float) -> None:
    """At 90° the lever is as long as before; straight on it is longer, so the setting is less."""
    assert adapter_factor(length, Adapter(offset, 90)) == pytest.approx(1)
    assert adapter_factor(length, Adapter(offset, 0)) < 1
    assert adapter_factor(length, Adapter(offset, 180)) > 1


def test_an_adapter_is_set_by_the_law_of_the_lever() -> None:
    """T·L/(L + E·cos θ): 20 N·m with 40 mm straight on a 320 mm wrench is set at 17.8."""
    found = setting(Window(18, 22, 20), a_wrench(graduation=0.1), Adapter(40))
    assert found is not None
    assert found.value == pytest.approx(20 * 320 / 360, abs=0.05)
    assert math.isclose(found.factor, 320 / 360, rel_tol=1e-9)


@pytest.mark.parametrize(
    ("changes", "low", "high", "says"),
    [
        ({}, 17.4, 17.6, "wider than the figure allows"),
        ({}, 7, 9, "not trusted below 10"),
        ({}, 60, 70, "ends at 50"),
        ({"graduation": 10.0}, 22, 27, "no graduation"),
        ({"kind": "preset", "preset": 25}, 30, 36, "for good"),
    ],
)
def test_what_cannot_be_set_is_refused_with_the_reason(
    changes: dict[str, object], low: float, high: float, says: str
) -> None:
    """No graduation can be trusted: nothing is offered rather than something wrong."""
    wanted = Window(low, high, (low + high) / 2)
    assert setting(wanted, a_wrench(**changes)) is None
    assert says in why_not(wanted, a_wrench(**changes))


def test_the_rule_of_tolerance_and_trust() -> None:
    """4 %, 6 % up to 10 N·m, trusted from a fifth; what the tool states wins (docs/craft.md §7)."""
    assert a_wrench().share == 0.04
    assert a_wrench(full_scale=10).share == 0.06
    assert a_wrench(full_scale=80, unit="lbf·in").share == 0.06
    assert a_wrench(tolerance=0.03).share == 0.03
    assert a_wrench().trusted_from == 10
    assert a_wrench(least=5).trusted_from == 5


def test_the_best_wrench_is_chosen_and_the_others_are_told_why() -> None:
    """Nearest the aim first, then the finer tool; every other gets its reason."""
    wanted = window(parse("7 to 9 N·m"), "mid", 0.1)
    (best, dial), *_ = weigh(STANDARD_CRIB, wanted)
    assert best is QUARTER
    assert dial.text == "8 N·m"
    said = against(STANDARD_CRIB, wanted, dial)
    assert said == (
        f"{THREE_EIGHTHS.name}: not trusted below 10 N·m",
        f"{HALF.name}: not trusted below 40 N·m",
    )


def test_the_aim_follows_the_school() -> None:
    """Middle of the window, or its low third."""
    assert aim(15, 21, "mid") == 18
    assert aim(15, 21, "low_third") == 17


def test_a_single_printed_value_is_read_as_a_range_and_says_so() -> None:
    """Nobody can hit one number: the house states how far off still counts."""
    wanted = window(parse("20 N·m"), "mid", 0.1)
    assert (wanted.low, wanted.high, wanted.aim) == pytest.approx((18, 22, 20))
    assert wanted.sum[0] == "20 N·m printed alone, read as ± 10 %: 18 to 22 N·m"


def test_lubrication_reduces_the_aim_and_shows_the_sum() -> None:
    """Lubricated thread at dry torque is impossible (docs/craft.md §10)."""
    wanted = window(parse("15 to 20 N·m"), "mid", 0.1, reduction=0.3, floor=0.65)
    assert wanted.aim == pytest.approx(12.25)
    assert wanted.sum[-1] == "17.5 × (1 − 30 %) for a lubricated thread = 12.25 N·m"


@given(st.integers(50, 500), st.integers(1, 300), st.floats(0, 0.6), st.floats(0.3, 1))
def test_no_reduction_goes_below_the_stated_floor(
    low: int, more: int, reduction: float, floor: float
) -> None:
    """A plug too loose overheats: the floor holds, and the sum says that it did."""
    printed = parse(f"{low / 10} to {(low + more) / 10} N·m")
    wanted = window(printed, "mid", 0.1, reduction, floor)
    least = floor * printed.low
    assert wanted.aim >= least - 1e-9
    assert wanted.low >= min(least, printed.low) - 1e-9
    assert wanted.low <= wanted.aim + 1e-9 <= wanted.high + 2e-9
    stopped = printed.mid * (1 - reduction) < least - 1e-6
    assert ("held at the floor" in wanted.sum[-1]) is (stopped and bool(reduction))
