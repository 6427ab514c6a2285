"""Slips are caught at the desk; what is right is never held."""

import pytest

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.quantity import Dimension, Quantity, parse
from eldrim.core.figures.bands import Band, band_for, fastener_torque, fixed, plug_gap, plug_torque
from eldrim.core.figures.slips import Held, Sibling, examine
from tests.builders import document, engine
from tests.tables import table

D = Dimension


def _plug(thread: str, seat: str, head: str = "aluminium") -> Band:
    made = engine(plugs=[{**document()["plugs"][0], "thread": thread, "seat": seat}])
    band = plug_torque(made.plugs[0], head)
    assert band is not None
    return band


def _bolt(size: str, coil: bool = False, head: str = "hex") -> Band:
    joint = {"kind": "bolt", "head": head, "size": size, "torque": "t"}
    coils = [{"part_number": "C", "joints": {"b": joint}}]
    band = fastener_torque(engine(coils=coils).coils[0].joints["b"], coil)
    assert band is not None
    return band


def _fixed(key: str, volts: float = 12) -> Band:
    band = fixed(key, volts)
    assert band is not None
    return band


M14, M12, M14C = (
    _plug("M14×1.25", "gasket"),
    _plug("M12×1.25", "gasket"),
    _plug("M14×1.25", "conical"),
)
M18, M10, M8 = _plug("M18×1.5", "gasket"), _plug("M10×1.0", "gasket"), _plug("M8×1.0", "gasket")
M12C, M10C, M16C = (
    _plug("M12×1.25", "conical"),
    _plug("M10×1.0", "conical"),
    _plug("M16×1.5", "conical"),
)
IRON = _plug("M14×1.25", "gasket", "iron")
COIL, M6, M8B, SCREW = (
    _bolt("10 mm", True),
    _bolt("10 mm"),
    _bolt("13 mm"),
    _bolt("6 mm", head="slot"),
)
FREE, BLOWN = plug_gap("natural"), plug_gap("forced")
WORK, REST, LOAD, IDLE = map(_fixed, ("work-temperature", "battery-rest", "charging", "idle-speed"))
TURN, REST24 = _fixed("plug-angle"), _fixed("battery-rest", 24)


# What was typed, where, and the reading that must be offered.
SLIPS = [
    ("18 in-lb", M12, D.TORQUE, "18 N·m"),
    ("20 to 22 in-lb", M14, D.TORQUE, "20 to 22 lbf·ft"),
    ("275 Nm", M14, D.TORQUE, "27.5 N·m"),
    ("1,75 Nm", M12, D.TORQUE, "17.5 N·m"),
    ("20-15 Nm", M12, D.TORQUE, "15 to 20 N·m"),
    ("15-2 Nm", M12, D.TORQUE, "15 to 20 N·m"),
    ("28 lbf·ft", M14, D.TORQUE, "28 N·m"),
    ("18", M12, D.TORQUE, "18 N·m"),
    ("15-20 Nm", COIL, D.TORQUE, ""),
    ("85 Nm", COIL, D.TORQUE, "85 lbf·in"),
    ("8 Nm", M14, D.TORQUE, ""),
    ("100 Nm", M6, D.TORQUE, "10 N·m"),
    ("25 Nm (22 ft-lb)", M14, D.TORQUE, "25 N·m"),
    ("1.1 in", FREE, D.LENGTH, "1.1 mm"),
    ("40 mm", FREE, D.LENGTH, "40 thou"),
    ("0.39 in", FREE, D.LENGTH, "0.039 in"),
    ("1.0 to 11 mm", FREE, D.LENGTH, "1 to 1.1 mm"),
    ("07 mm", BLOWN, D.LENGTH, "0.7 mm"),
    ("104 °C", WORK, D.TEMPERATURE, "104 °F"),
    ("125 V", REST, D.VOLTAGE, "12.5 V"),
    ("12.5 V", REST24, D.VOLTAGE, ""),
    ("8000 rpm", IDLE, D.SPEED, "800 rev/min"),
    ("250 Nm", M14, D.TORQUE, "25 N·m"),
    ("2.5 Nm", M14, D.TORQUE, "25 N·m"),
    ("22000 Nm", M14, D.TORQUE, ""),
    ("150 Nm", M14C, D.TORQUE, "15 N·m"),
    ("120 Nm", M10, D.TORQUE, "12 N·m"),
    ("1.2 Nm", M10, D.TORQUE, "12 N·m"),
    ("400 Nm", M18, D.TORQUE, "40 N·m"),
    ("200 Nm", M16C, D.TORQUE, "20 N·m"),
    ("170 Nm", M12C, D.TORQUE, "17 N·m"),
    ("90 lbf·ft", M12C, D.TORQUE, ""),
    ("80 Nm", M8, D.TORQUE, "8 N·m"),
    ("300 Nm", IRON, D.TORQUE, "30 N·m"),
    ("0.08 mm", FREE, D.LENGTH, "0.8 mm"),
    ("8 mm", FREE, D.LENGTH, "0.8 mm"),
    ("700 mm", BLOWN, D.LENGTH, "0.7 mm"),
    ("0.35 in", BLOWN, D.LENGTH, ""),
    ("1.26 V", REST, D.VOLTAGE, "12.6 V"),
    ("145 V", LOAD, D.VOLTAGE, "14.5 V"),
    ("75 rpm", IDLE, D.SPEED, "750 rev/min"),
    ("900 Nm", M8B, D.TORQUE, ""),
    ("0.25 turn - 0.1 turn", TURN, D.ANGLE, ""),
]

CORRECT = [
    ("25 to 30 Nm", M14, D.TORQUE),
    ("27.5 N·m", M14, D.TORQUE),
    ("20-28 Nm", M14, D.TORQUE),
    ("18 ft-lb", M14, D.TORQUE),
    ("20 to 22 lbf·ft", M14, D.TORQUE),
    ("2.5-3.0 kgm", M14, D.TORQUE),
    ("25 ± 2 Nm", M14, D.TORQUE),
    ("216 in-lbs", M14, D.TORQUE),
    ("30 Nm (22 ft-lb)", M14, D.TORQUE),
    ("17 Nm", M14, D.TORQUE),
    ("15 to 20 Nm", M12, D.TORQUE),
    ("12 Nm", M12, D.TORQUE),
    ("17,5 Nm", M12, D.TORQUE),
    ("13 lbf·ft", M12, D.TORQUE),
    ("22 Nm", M12, D.TORQUE),
    ("10 to 12 Nm", M10, D.TORQUE),
    ("8 Nm", M8, D.TORQUE),
    ("35-40 Nm", M18, D.TORQUE),
    ("30 lbf·ft", M18, D.TORQUE),
    ("15 lbf·ft", M14C, D.TORQUE),
    ("10-20 Nm", M14C, D.TORQUE),
    ("35 Nm", IRON, D.TORQUE),
    ("7 to 9 Nm", COIL, D.TORQUE),
    ("88 lbf·in", COIL, D.TORQUE),
    ("4 Nm", COIL, D.TORQUE),
    ("10 Nm", M6, D.TORQUE),
    ("16 to 20 Nm", M6, D.TORQUE),
    ("22-28 Nm", M8B, D.TORQUE),
    ("2.5 Nm", SCREW, D.TORQUE),
    ("0.8 mm", FREE, D.LENGTH),
    ("1.0–1.1 mm", FREE, D.LENGTH),
    (".040 to .045 in", FREE, D.LENGTH),
    ("35 thou", FREE, D.LENGTH),
    ("0,6-0,7 mm", BLOWN, D.LENGTH),
    ("0.5 mm", BLOWN, D.LENGTH),
    ("5 to 40 °C", WORK, D.TEMPERATURE),
    ("41 to 104 °F", WORK, D.TEMPERATURE),
    ("12.3 to 12.9 V", REST, D.VOLTAGE),
    ("13.5-14.5 V", LOAD, D.VOLTAGE),
    ("750 ± 50 rpm", IDLE, D.SPEED),
    ("1/2 to 2/3 turn", TURN, D.ANGLE),
    ("90°", TURN, D.ANGLE),
    ("14 to 22 Nm", M12C, D.TORQUE),
    ("10 Nm", M10C, D.TORQUE),
    ("15 to 20 Nm", M16C, D.TORQUE),
    ("20 N·m (15 lbf·ft)", M14, D.TORQUE),
    ("25 Nm +/- 3", M14, D.TORQUE),
    ("2.5 kgf·m", M14, D.TORQUE),
    ("2.5 mkp", M14, D.TORQUE),
    ("2.5 daNm", M14, D.TORQUE),
    ("18 pound-feet", M14, D.TORQUE),
    ("18 foot lbs", M14, D.TORQUE),
    ("20 bis 25 Nm", M14, D.TORQUE),
    ("25 Newton meter", M14, D.TORQUE),
    ("45 Nm", M18, D.TORQUE),
    ("60 lbf·in", COIL, D.TORQUE),
    ("450 Ncm", COIL, D.TORQUE),
    ("0.7/0.8 mm", FREE, D.LENGTH),
    ("0.7…0.8 mm", FREE, D.LENGTH),
    ("1.1±0.1 mm", FREE, D.LENGTH),
    ("0.028 in", BLOWN, D.LENGTH),
    ("60 to 100 °F", WORK, D.TEMPERATURE),
    ("25.6 V", REST24, D.VOLTAGE),
    ("850 min-1", IDLE, D.SPEED),
    ("1/16 turn", TURN, D.ANGLE),
]


@table(("typed", "band", "dimension", "meant"), SLIPS)
def test_no_slip_gets_through(typed: str, band: Band, dimension: D, meant: str) -> None:
    """Each is held, with what was meant among the readings, all of them in band and converted."""
    held = examine(typed, band, dimension)
    assert isinstance(held, Held)
    assert held.why
    offered = [r.text for r in held.readings]
    assert not meant or meant in offered[:2], offered
    for reading in held.readings:
        value = parse(reading.text, dimension)
        assert band.holds(value.low, value.high)
        assert reading.how


@table(("typed", "band", "dimension"), CORRECT)
def test_no_correct_figure_is_held(typed: str, band: Band, dimension: D) -> None:
    """What is right goes through as typed."""
    assert isinstance(examine(typed, band, dimension), Quantity)


def test_the_tables_are_as_long_as_promised() -> None:
    """Forty slips and sixty figures at the least, no two alike."""
    assert len({t[:2] for t in SLIPS}) >= 40
    assert len({t[:2] for t in CORRECT}) >= 60


def test_a_plug_s_torque_on_a_coil_bolt_is_named_as_that() -> None:
    """The likely mix-up is said, not only that it is too much."""
    held = examine("15-20 Nm", COIL, D.TORQUE, (Sibling("this engine's plug", M12),))
    assert isinstance(held, Held)
    assert "it would fit this engine's plug" in held.why


def test_another_dimension_is_an_error_not_a_slip() -> None:
    """A length has no reading as a torque."""
    with pytest.raises(QuantityError, match="a torque is wanted"):
        examine("22 mm", M14, D.TORQUE)


def test_without_a_band_only_the_form_is_looked_at() -> None:
    """Nothing general is known of it: backwards or without unit is still held."""
    assert isinstance(examine("5000 Nm", None, D.TORQUE), Quantity)
    assert isinstance(examine("30 to 20 Nm", None, D.TORQUE), Held)


def test_running_time_is_said_in_the_hours_a_meter_counts() -> None:
    """Not in the minutes we work with."""
    found = band_for(engine(), "interval-hours", "all", Dimension.TIME)
    assert found is not None
    assert found.usual_words == "50 to 3000 h"
    assert found.plausible_words == "20 to 100000 h"
