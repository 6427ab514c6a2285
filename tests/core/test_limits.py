"""Limits of a reading: which values may stand, which are certain, and on which side others lie."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.figures.limits import limits, side
from eldrim.core.figures.listing import spec_rows
from eldrim.core.rules.house import DEFAULT_RULES
from tests.core.demo_sheets import ENGINES
from tests.tables import table


@table(
    ("low", "high", "step", "value", "accepted", "certain"),
    [
        # A gauge without a step tells every value from a limit; a limit itself is inside.
        (0.7, 0.8, 0, 0.7, "", ""),
        (0.7, 0.8, 0, 0.8, "", ""),
        (0.7, 0.8, 0, 0.69, "under", "under"),
        (0.7, 0.8, 0, 0.81, "over", "over"),
        # Blades of 0.05 mm: within half a step of a limit a value is at it.
        (0.7, 0.8, 0.05, 0.72, "", "under"),
        (0.7, 0.8, 0.05, 0.725, "", ""),
        (0.7, 0.8, 0.05, 0.78, "", "over"),
        (0.7, 0.8, 0.05, 0.775, "", ""),
        (0.7, 0.8, 0.05, 0.675, "", "under"),
        (0.7, 0.8, 0.05, 0.674, "under", "under"),
        (0.7, 0.8, 0.05, 0.826, "over", "over"),
        # A window no wider than the step: certain is what lies within half a step of its middle.
        (0.7, 0.75, 0.05, 0.70, "", ""),
        (0.7, 0.75, 0.05, 0.75, "", ""),
        (0.7, 0.75, 0.05, 0.755, "", "over"),
        (0.7, 0.76, 0.05, 0.72, "", "under"),
        # With one limit alone the other side is open.
        (None, 40, 0, -10, "", ""),
        (None, 40, 0, 41, "over", "over"),
        (12.5, None, 0, 14, "", ""),
        (12.5, None, 0, 12, "under", "under"),
    ],
)
def test_which_values_may_stand_and_which_are_certain(
    low: float | None, high: float | None, step: float, value: float, accepted: str, certain: str
) -> None:
    """docs/craft.md §8: a reading within half a step of a limit is at the limit, not in."""
    found = limits(low, high, step)
    assert (side(found.accepted, value), side(found.certain, value)) == (accepted, certain)


@given(
    low=st.floats(0, 100), width=st.floats(0, 100), step=st.floats(0, 5), value=st.floats(-20, 220)
)
def test_what_is_certain_may_stand(low: float, width: float, step: float, value: float) -> None:
    """And what may not stand lies on one side only, the same by both intervals."""
    found = limits(low, low + width, step)
    if side(found.certain, value) == "":
        assert side(found.accepted, value) == ""
    elif side(found.accepted, value):
        assert side(found.accepted, value) == side(found.certain, value)


OF_A_DISTRIBUTOR = {"timing-static", "timing-total", "timing-speed", "points-gap", "air-gap"}
OF_LEADS = {"lead-resistance", "coil-primary", "coil-secondary"}


@pytest.mark.parametrize("key", sorted(ENGINES))
def test_a_sheet_asks_for_the_figures_of_what_carries_its_spark(key: str) -> None:
    """Timing where there is a distributor, with points or a pick-up and never both; resistances
    where there are leads; and what is stated in any case.
    """
    engine = ENGINES[key]
    rows = {row.key for row in spec_rows(engine, next(iter(engine.variants)), DEFAULT_RULES)}
    assert set(engine.figures) <= rows
    if engine.ignition.kind == "distributor":
        assert {"timing-static", "timing-total", "timing-speed"} <= rows
        assert len({"points-gap", "air-gap"} & rows) == 1
    else:
        assert not OF_A_DISTRIBUTOR & rows - set(engine.figures)
    if engine.ignition.kind == "coil_on_plug":
        assert not OF_LEADS & rows - set(engine.figures)
    else:
        assert rows >= OF_LEADS
