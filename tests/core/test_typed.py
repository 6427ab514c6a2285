"""Figures as people type and print them: read right, or refused with the nearest form."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.quantity import Dimension, parse, read_number, scan
from eldrim.core.engine.model import Figure
from eldrim.core.engine.sizes import read_size, read_thread
from tests.tables import table

T, L, A, V, C, M, K, S = (
    Dimension.TORQUE,
    Dimension.LENGTH,
    Dimension.ANGLE,
    Dimension.VOLTAGE,
    Dimension.TEMPERATURE,
    Dimension.TIME,
    Dimension.DISTANCE,
    Dimension.SPEED,
)
# As typed, what is expected, the two limits in the unit named.
READ: list[tuple[str, Dimension, float, float, str]] = [
    ("22 Nm", T, 22, 22, "N·m"),
    ("22Nm", T, 22, 22, "N·m"),
    ("22 N.m", T, 22, 22, "N·m"),
    ("22 N m", T, 22, 22, "N·m"),
    ("22 N*m", T, 22, 22, "N·m"),
    ("22 n-m", T, 22, 22, "N·m"),
    ("22 newton metres", T, 22, 22, "N·m"),
    ("15-20 Nm", T, 15, 20, "N·m"),
    ("15–20 Nm", T, 15, 20, "N·m"),
    ("15 — 20 Nm", T, 15, 20, "N·m"),
    ("15 to 20 Nm", T, 15, 20, "N·m"),
    ("15 bis 20 Nm", T, 15, 20, "N·m"),
    ("between 15 and 20 Nm", T, 15, 20, "N·m"),
    ("von 15 bis 20 Nm", T, 15, 20, "N·m"),
    ("15…20 Nm", T, 15, 20, "N·m"),
    ("15...20 Nm", T, 15, 20, "N·m"),
    ("15..20 Nm", T, 15, 20, "N·m"),
    ("15 ~ 20 Nm", T, 15, 20, "N·m"),
    ("15 Nm - 20 Nm", T, 15, 20, "N·m"),
    ("15 Nm to 20", T, 15, 20, "N·m"),
    ("20 ± 2 Nm", T, 18, 22, "N·m"),
    ("20±2Nm", T, 18, 22, "N·m"),
    ("20+-2 Nm", T, 18, 22, "N·m"),
    ("20 +/- 2 Nm", T, 18, 22, "N·m"),
    ("20 Nm ± 2 Nm", T, 18, 22, "N·m"),
    ("20 Nm ± 2", T, 18, 22, "N·m"),
    ("20 +2/-1 Nm", T, 19, 22, "N·m"),
    ("20 +2 -1 Nm", T, 19, 22, "N·m"),
    ("20 Nm +2/-1", T, 19, 22, "N·m"),
    ("20 (+2/-1) Nm", T, 19, 22, "N·m"),
    ("20 Nm (+2/-1)", T, 19, 22, "N·m"),
    ("25 Nm (18 lb-ft)", T, 25, 25, "N·m"),
    ("15-20 N·m (11-15 lbf·ft)", T, 15, 20, "N·m"),
    ("18 lbf·ft (24 N·m)", T, 18, 18, "lbf·ft"),
    ("18 lbf.ft", T, 18, 18, "lbf·ft"),
    ("18 ft-lb", T, 18, 18, "lbf·ft"),
    ("18 ft lb", T, 18, 18, "lbf·ft"),
    ("18 ft.lbs", T, 18, 18, "lbf·ft"),
    ("18 lb-ft", T, 18, 18, "lbf·ft"),
    ("18 lbs ft", T, 18, 18, "lbf·ft"),
    ("18 foot pounds", T, 18, 18, "lbf·ft"),
    ("18 pound-feet", T, 18, 18, "lbf·ft"),
    ("18 foot lbs", T, 18, 18, "lbf·ft"),
    ("11 to 15 ft-lb", T, 11, 15, "lbf·ft"),
    ("11-15ft-lb", T, 11, 15, "lbf·ft"),
    ("100 in-lb", T, 100, 100, "lbf·in"),
    ("100 in lb", T, 100, 100, "lbf·in"),
    ("100 inch lbs", T, 100, 100, "lbf·in"),
    ("100 inch-pounds", T, 100, 100, "lbf·in"),
    ("100 lbf in", T, 100, 100, "lbf·in"),
    ("80 - 100 in.lbs", T, 80, 100, "lbf·in"),
    ("2.5 kgf·m", T, 2.5, 2.5, "kgf·m"),
    ("2,5 mkg", T, 2.5, 2.5, "kgf·m"),
    ("2.5 mkp", T, 2.5, 2.5, "kgf·m"),
    ("2.5 kg-m", T, 2.5, 2.5, "kgf·m"),
    ("2.5 kpm", T, 2.5, 2.5, "kgf·m"),
    ("250 kgf cm", T, 250, 250, "kgf·cm"),
    ("2.5 daNm", T, 2.5, 2.5, "daN·m"),
    ("2,0-2,5 daN.m", T, 2.0, 2.5, "daN·m"),
    ("900 Ncm", T, 900, 900, "N·cm"),
    ("60 ozf·in", T, 60, 60, "ozf·in"),
    ("60 in oz", T, 60, 60, "ozf·in"),
    ("17.5 Nm", T, 17.5, 17.5, "N·m"),
    ("17,5 Nm", T, 17.5, 17.5, "N·m"),
    ("0,9 Nm", T, 0.9, 0.9, "N·m"),
    (" 8  -  10   Nm ", T, 8, 10, "N·m"),
    ("8\u00a0Nm", T, 8, 8, "N·m"),
    ("9.000 Nm", T, 9, 9, "N·m"),
    ("22,000 Nm", T, 22, 22, "N·m"),
    ("0.8 mm", L, 0.8, 0.8, "mm"),
    ("0,8 mm", L, 0.8, 0.8, "mm"),
    (".8 mm", L, 0.8, 0.8, "mm"),
    ("0.7-0.8 mm", L, 0.7, 0.8, "mm"),
    ("0,7 - 0,8mm", L, 0.7, 0.8, "mm"),
    ("0.7/0.8 mm", L, 0.7, 0.8, "mm"),
    ("0,7/0,8 mm", L, 0.7, 0.8, "mm"),
    ("0.7…0.8 mm", L, 0.7, 0.8, "mm"),
    ("0.7...0.8 mm", L, 0.7, 0.8, "mm"),
    (".7 to .8 mm", L, 0.7, 0.8, "mm"),
    ("1.1±0.1 mm", L, 1.0, 1.2, "mm"),
    ("1.1+-0.1 mm", L, 1.0, 1.2, "mm"),
    ("1.1 +0.1/-0 mm", L, 1.1, 1.2, "mm"),
    ("1,1 +0,1 -0,05 mm", L, 1.05, 1.2, "mm"),
    ("0.75 mm ± 0.05", L, 0.7, 0.8, "mm"),
    (".039 in", L, 0.039, 0.039, "in"),
    ("0.039-0.043 in", L, 0.039, 0.043, "in"),
    (".039 to .043 inch", L, 0.039, 0.043, "in"),
    ('0.039"', L, 0.039, 0.039, "in"),
    ("0,039 inches", L, 0.039, 0.039, "in"),
    ("39 thou", L, 39, 39, "thou"),
    ("39-43 thou", L, 39, 43, "thou"),
    ("31 mils", L, 31, 31, "thou"),
    ("31 thousandths", L, 31, 31, "thou"),
    ("31 thousandths of an inch", L, 31, 31, "thou"),
    ("29 to 33 thousandths of an inch", L, 29, 33, "thou"),
    ("3 hundredths of an inch", L, 0.03, 0.03, "in"),
    ("5 tenths of an inch", L, 0.5, 0.5, "in"),
    ("3 to 4 hundredths of an inch", L, 0.03, 0.04, "in"),
    ("5/8 in", L, 0.625, 0.625, "in"),
    ("5⁄8 in", L, 0.625, 0.625, "in"),
    ("⅝ in", L, 0.625, 0.625, "in"),
    ("13/16 in", L, 0.8125, 0.8125, "in"),
    ("1 1/16 in", L, 1.0625, 1.0625, "in"),
    ("1-1/16 in", L, 1.0625, 1.0625, "in"),
    ("1½ in", L, 1.5, 1.5, "in"),
    ("3/4 - 7/8 in", L, 0.75, 0.875, "in"),
    ("19 mm", L, 19, 19, "mm"),
    ("12 cm", L, 12, 12, "cm"),
    ("25,400 mm", L, 25.4, 25.4, "mm"),
    ("118 mm", L, 118, 118, "mm"),
    ("0.8 mm (0.031 in)", L, 0.8, 0.8, "mm"),
    ("0.031 in (0.8 mm)", L, 0.031, 0.031, "in"),
    ("0.800 mm", L, 0.8, 0.8, "mm"),
    ("0,800 mm", L, 0.8, 0.8, "mm"),
    ("90°", A, 90, 90, "°"),
    ("90 deg", A, 90, 90, "°"),
    ("90 degrees", A, 90, 90, "°"),
    ("1/2 turn", A, 0.5, 0.5, "turn"),
    ("½ turn", A, 0.5, 0.5, "turn"),
    ("1/2 to 2/3 turn", A, 0.5, 2 / 3, "turn"),
    ("½–⅔ turn", A, 0.5, 2 / 3, "turn"),
    ("1 1/2 turns", A, 1.5, 1.5, "turn"),
    ("1/16 turn", A, 0.0625, 0.0625, "turn"),
    ("hand tight + 1/2 turn", A, 0.5, 0.5, "turn"),
    ("hand-tight then 90°", A, 90, 90, "°"),
    ("finger tight plus 1/4 turn", A, 0.25, 0.25, "turn"),
    ("-5°", A, -5, -5, "°"),
    ("12.5 V", V, 12.5, 12.5, "V"),
    ("12,5V", V, 12.5, 12.5, "V"),
    ("13.5-14.5 V", V, 13.5, 14.5, "V"),
    ("12.5 volts", V, 12.5, 12.5, "V"),
    ("200 mV", V, 200, 200, "mV"),
    ("12,500 V", V, 12.5, 12.5, "V"),
    ("40 °C", C, 40, 40, "°C"),
    ("40C", C, 40, 40, "°C"),
    ("-5 to 40 °C", C, -5, 40, "°C"),
    ("−5 °C", C, -5, -5, "°C"),
    ("104 °F", C, 104, 104, "°F"),
    ("35 - 45 deg C", C, 35, 45, "°C"),
    ("5 min", M, 5, 5, "min"),
    ("90 s", M, 90, 90, "s"),
    ("1,5 h", M, 1.5, 1.5, "h"),
    ("500 hours", M, 500, 500, "h"),
    ("12 months", M, 12, 12, "months"),
    ("30 000 km", K, 30_000, 30_000, "km"),
    ("30,000 km", K, 30_000, 30_000, "km"),
    ("30.000 km", K, 30_000, 30_000, "km"),
    ("30000 km", K, 30_000, 30_000, "km"),
    ("30\u202f000 km", K, 30_000, 30_000, "km"),
    ("1,500 km", K, 1500, 1500, "km"),
    ("30,000 to 60,000 km", K, 30_000, 60_000, "km"),
    ("60.000 mi", K, 60_000, 60_000, "mi"),
    ("120,000 miles", K, 120_000, 120_000, "mi"),
    ("1,234,567 km", K, 1_234_567, 1_234_567, "km"),
    ("850 rpm", S, 850, 850, "rev/min"),
    ("850 min-1", S, 850, 850, "rev/min"),
    ("850 1/min", S, 850, 850, "rev/min"),
    ("850 min⁻¹", S, 850, 850, "rev/min"),
    ("850 /min", S, 850, 850, "rev/min"),
    ("1,500 rpm", S, 1500, 1500, "rev/min"),
    ("800-900 U/min", S, 800, 900, "rev/min"),
    ("850 rev/min", S, 850, 850, "rev/min"),
    ("5 kΩ", Dimension.RESISTANCE, 5, 5, "kΩ"),
    ("0.8 ohm", Dimension.RESISTANCE, 0.8, 0.8, "Ω"),
    ("11 bar", Dimension.PRESSURE, 11, 11, "bar"),
    ("160 psi", Dimension.PRESSURE, 160, 160, "psi"),
]


@table(("typed", "dimension", "low", "high", "unit"), READ)
def test_a_figure_is_read_as_people_type_it(
    typed: str, dimension: Dimension, low: float, high: float, unit: str
) -> None:
    """The limits in the unit written; and what is printed of it reads the same again."""
    found = scan(
        typed.partition(" (")[0] if "(" in typed and "+" not in typed else typed, dimension
    )
    assert (found.low, found.high) == pytest.approx((low, high))
    value = parse(typed, dimension)
    assert value.unit == unit
    again = parse(value.text, dimension)
    assert (again.low, again.high) == pytest.approx((value.low, value.high))


def test_there_are_rows_enough() -> None:
    """A hundred and fifty as people type them."""
    assert len({row[0] for row in READ}) >= 150


# Other units at the ends: limits in N·m, °C or mm.
MIXED = [
    ("18 lbf.ft - 25 Nm", T, 24.405, 25),
    ("15 Nm - 15 ft-lb", T, 15, 20.337),
    ("0.9 mm to .043 in", L, 0.9, 1.0922),
    ("20 °C to 104 °F", C, 20, 40),
    ("100 in-lb to 15 Nm", T, 11.298, 15),
]


@pytest.mark.parametrize(("typed", "dimension", "low", "high"), MIXED)
def test_each_end_of_a_range_has_its_own_unit(
    typed: str, dimension: Dimension, low: float, high: float
) -> None:
    """None is dropped."""
    found = parse(typed, dimension)
    assert (found.low, found.high) == pytest.approx((low, high), rel=1e-3)
    again = parse(found.text, dimension)
    assert (again.low, again.high) == pytest.approx((found.low, found.high))


# As typed, what is expected, words of the refusal.
REFUSED: list[tuple[str, Dimension | None, tuple[str, ...]]] = [
    ("25 Nm - 15 ft-lb", T, ("runs backwards",)),
    ("20-15 Nm", T, ("runs backwards",)),
    ("25 Nm (30 lb-ft)", T, ("not the same",)),
    ("15 Nm to 5 mm", T, ("torque at one end",)),
    ("15 to 20 Nm then 90°", T, ("15 to 20 Nm here", "90°", "plus")),
    ("20 Nm + 90°", T, ("20 Nm here", "90°")),
    ("hand tight + 1/2 turn", T, ("plug-angle",)),
    ("1,500 mm", L, ("1.5 mm or 1500 mm",)),
    ("1.500 h", M, ("1.5 h or 1500 h",)),
    ("nan mm", L, ("not a quantity",)),
    ("inf mm", L, ("not a quantity",)),
    ("infinity", L, ("not a quantity",)),
    ("1e3 mm", L, ("",)),
    ("9" * 400 + " mm", L, ("at most 80",)),
    ("9" * 20 + " mm", L, ("too many digits",)),
    ("5/0 in", L, ("divides by nothing",)),
    ("1/0 turn", A, ("divides by nothing",)),
    ("-0.8 mm", L, ("less than nothing",)),
    ("-22 Nm", T, ("less than nothing",)),
    ("0.8 - -0.9 mm", L, ("",)),
    ("22", L, ("mm, in or thou",)),
    ("22 xyz", L, ("xyz", "mm, in or thou")),
    ("22 newtonmetr", T, ("did you mean N·m",)),
    ("0.8 Nm", L, ("a length is wanted", "mm, in or thou")),
    ("22 mm", T, ("N·m, lbf·ft or lbf·in",)),
    ("", L, ("as 0.8 mm",)),
    ("abc", V, ("as 12.5 V",)),
    ("0.8 mm 0.9 mm", L, ("",)),
    ("1.2.3 mm", L, ("not a number",)),
    ("１２ mm", L, ("not a quantity",)),
    ("22 N·m" + " x" * 60, T, ("at most 80",)),
    ("--5 mm", L, ("",)),
    ("5 + mm", L, ("",)),
]


@table(("typed", "dimension", "words"), REFUSED)
def test_what_is_no_figure_is_refused_in_words(
    typed: str, dimension: Dimension | None, words: tuple[str, ...]
) -> None:
    """With the nearest form and where it goes; never a traceback."""
    with pytest.raises(QuantityError) as raised:
        parse(typed, dimension)
    assert all(word in str(raised.value) for word in words), str(raised.value)
    assert "22 N·m" not in str(raised.value) or dimension is T or dimension is None


@pytest.mark.parametrize("blanks", [1, 80, 3000, 100_000])
def test_blanks_are_gathered_before_anything_is_matched(blanks: int) -> None:
    """However many: the figure is what is left."""
    assert parse(f"{' ' * blanks}22{' ' * blanks}N·m{' ' * blanks}").low == 22


@given(st.text(max_size=120), st.sampled_from([None, *Dimension]))
def test_whatever_is_typed_is_read_or_refused(typed: str, dimension: Dimension | None) -> None:
    """Nothing else happens, and what is read reads the same again."""
    try:
        found = parse(typed, dimension)
    except QuantityError:
        return
    again = parse(found.text, found.dimension)
    assert (again.low, again.high) == pytest.approx((found.low, found.high))


@given(st.text(alphabet="0123456789.,-+/± NmltofbinV°()…", max_size=40))
def test_figures_in_pieces_are_read_or_refused(typed: str) -> None:
    """The same with what figures are made of."""
    test_whatever_is_typed_is_read_or_refused.hypothesis.inner_test(typed, None)  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("typed", "value"),
    [("1,234,567", 1_234_567), ("0,750", 0.75), ("30 000", 30_000), ("1 1/2", 1.5), ("-3", -3)],
)
def test_a_plain_number(typed: str, value: float) -> None:
    """Without a unit."""
    assert read_number(typed) == value


@pytest.mark.parametrize("typed", ["1,500", "30.000", "inf", "1_000", "5/0", "9" * 30, "12 V", ""])
def test_no_plain_number(typed: str) -> None:
    """Two readings are asked about; nonsense is refused."""
    with pytest.raises(QuantityError):
        read_number(typed)


def test_a_torque_with_a_further_turn_is_two_facts_of_a_figure() -> None:
    """Wherever a figure is read."""
    stated = {"source": "wm", "page": "3"}
    for typed, torque, turn in (
        ("15 to 20 Nm then 90°", "15 to 20 N·m", 90),
        ("20 Nm + 90°", "20 N·m", 90),
        ("20 N·m, then 1/4 turn", "20 N·m", 90),
    ):
        figure = Figure.model_validate({"value": typed, **stated})
        assert figure.value.text == torque
        assert figure.plus is not None
        assert figure.plus.mid == turn


@pytest.mark.parametrize(
    ("typed", "thread"),
    [
        ("M14×1.25", "M14×1.25"),
        ("M14x1.25", "M14×1.25"),
        ("m14 X 1,25", "M14×1.25"),
        ("M14*1.25", "M14×1.25"),
        ("M 12 × 1.25", "M12×1.25"),
        ("M10x1", "M10×1"),
    ],
)
def test_a_thread_with_whatever_cross(typed: str, thread: str) -> None:
    """Kept the one way."""
    assert read_thread(typed) == thread


def test_sizes_of_six_lobes_have_numbers() -> None:
    """And others are lengths."""
    assert read_size("T30").mid == 5.6
    assert read_size("e10").text == "E10"
    assert read_size("10 mm").mid == 10
    for wrong in ("T31", "E3", "30", "Q10", "10 Nm"):
        with pytest.raises(QuantityError):
            read_size(wrong)


# A quantity, another unit, how it is printed there.
PRINTED = [
    ("0.5 N·m", "lbf·ft", "0.37 lbf·ft"),
    ("38.5 lbf·in", "N·m", "4.35 N·m"),
    ("1/16 turn", "°", "22.5°"),
    ("18 lbf·ft", "N·m", "24.4 N·m"),
    ("90°", "turn", "0.25 turn"),
    ("0.035 in", "mm", "0.89 mm"),
    ("0.8 mm", "in", "0.0315 in"),
    ("15 to 20 N·m", "lbf·ft", "11.1 to 14.8 lbf·ft"),
    ("40 °C", "°F", "104 °F"),
    ("5 N·m", "lbf·ft", "3.69 lbf·ft"),
    ("250 N·m", "lbf·ft", "184.4 lbf·ft"),
    ("7 N·m", "lbf·in", "62 lbf·in"),
    ("0.05 N·m", "lbf·in", "0.44 lbf·in"),
]


@pytest.mark.parametrize(("typed", "unit", "printed"), PRINTED)
def test_small_figures_keep_their_digits(typed: str, unit: str, printed: str) -> None:
    """Three that count from one upwards, two below."""
    assert parse(typed).printed_in(unit) == printed
