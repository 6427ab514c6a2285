"""From the maker's torque to the wrench: inside the spec with tolerance, or refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.figures.torque import SHOP_WRENCHES, Wrench, aim, best_setting, setting
from eldrim.core.quantity import convert, make, parse

wrenches = st.builds(
    Wrench, name=st.just("w"), unit=st.sampled_from(["N·m", "lbf·ft", "lbf·in"]),
    full_scale=st.sampled_from([10.0, 20.0, 50.0, 100.0, 200.0]),
    graduation=st.sampled_from([0.1, 0.2, 0.5, 1.0, 2.5]), drive=st.just("3/8"),
    tolerance=st.sampled_from([0.02, 0.04, 0.06]),
)  # fmt: skip


@given(wrenches, st.integers(20, 900), st.integers(1, 400))
def test_the_setting_keeps_the_true_torque_in_the_spec(wrench, low, more) -> None:  # type: ignore[no-untyped-def]
    """Whatever the wrench's error within tolerance, the thread gets what the maker allows."""
    window = make(low / 10, "N·m", (low + more) / 10)
    found = setting(window, window.mid, wrench)
    if found is None:
        return
    worst = [convert(found.value * f, wrench.unit, "N·m")
             for f in (1 - wrench.tolerance, 1 + wrench.tolerance)]  # fmt: skip
    assert window.low - 1e-6 <= worst[0]
    assert worst[1] <= window.high + 1e-6
    assert found.value / wrench.graduation == pytest.approx(round(found.value / wrench.graduation))
    assert wrench.lowest - 1e-9 <= found.value <= wrench.full_scale + 1e-9


def test_a_window_narrower_than_the_tolerance_is_refused() -> None:
    """No graduation can be trusted: nothing is offered rather than something wrong."""
    narrow = make(17.4, "N·m", 17.6)
    assert setting(narrow, 17.5, SHOP_WRENCHES[1]) is None


def test_a_small_torque_is_not_set_on_a_big_wrench() -> None:
    """Under a fifth of full scale a click wrench is not trusted."""
    window = parse("7 to 9 N·m")
    assert setting(window, 8, SHOP_WRENCHES[1]) is None
    found = best_setting(window, 8, "1/4")
    assert found is not None
    assert found[1].text == "8 N·m"


def test_the_aim_follows_the_school() -> None:
    """Middle of the window, or its low third."""
    window = parse("15 to 21 N·m")
    assert aim(window, "mid") == 18
    assert aim(window, "low_third") == 17
