"""Units: what pint is told of is what its own file says."""

from itertools import permutations

import pint
import pytest

from eldrim.core.base.units import UNITS, convert

ITS_OWN = pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@pytest.mark.parametrize("value", [1.0, 37.5, -12.0])
def test_every_factor_is_the_one_of_pint_s_own_file(value: float) -> None:
    """Every pair of units of one dimension, to twelve figures."""
    for have, want in permutations(UNITS, 2):
        if have.dimension is want.dimension:
            amount = ITS_OWN.Quantity(value, have.pint_name).to(want.pint_name)
            told = convert(value, have.symbol, want.symbol)
            assert told == float(f"{float(amount.magnitude):.12g}"), (have.symbol, want.symbol)


def test_a_torque_wrench_of_each_unit_reads_the_same_pull() -> None:
    """The international definitions."""
    assert convert(1, "lbf·ft", "N·m") == pytest.approx(1.3558179483)
    assert convert(12, "lbf·in", "lbf·ft") == pytest.approx(1)
    assert convert(1, "kgf·m", "N·m") == pytest.approx(9.80665)
    assert convert(212, "°F", "°C") == pytest.approx(100)
