"""Quick sums: what is blank is asked for, what cannot be is held, and each comes out by hand."""

import math
from itertools import pairwise
from math import cos, hypot, radians, sin
from typing import Any

import pytest

from eldrim.core.base.errors import ProblemsError
from eldrim.core.figures.sheet import plug_window
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.sums import SUMS, Shop, examples, timing_sums, work_out
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.builders import document, engine
from tests.tables import table


def answer(key: str, **given: str) -> Any:
    """A sum with its examples but for these fields."""
    return work_out(key, {**examples(key), **given})


@pytest.mark.parametrize("key", list(SUMS))
def test_every_sum_works_with_its_own_examples(key: str) -> None:
    """With formula, the numbers in it, and a source."""
    found = answer(key)
    assert found.result
    assert found.formula
    assert any(c.isdigit() for c in " ".join(found.working))
    assert found.source


REQUIRED = [(key, f.name) for key, s in SUMS.items() for f in s.fields if not f.optional]


@table(("key", "field"), REQUIRED)
def test_a_blank_field_is_asked_for(key: str, field: str) -> None:
    """Never taken from the example."""
    for blank in ({**examples(key), field: "  "}, {**examples(key)}):
        if blank[field].strip():
            del blank[field]
        with pytest.raises(ProblemsError) as caught:
            work_out(key, blank)
        assert [p.path for p in caught.value.problems] == [field]


NONSENSE = ["nan", "inf", "9" * 400, "1/0", "abc", "−", "1e9", "\u0663", "5 bananas"]


@table("typed", NONSENSE)
@table("key", list(SUMS))
def test_nonsense_is_refused_in_words_in_every_field(key: str, typed: str) -> None:
    """No traceback, and the field is named."""
    for field in SUMS[key].fields:
        with pytest.raises(ProblemsError) as caught:
            work_out(key, {**examples(key), field.name: typed})
        assert caught.value.problems[0].path == field.name
        assert caught.value.problems[0].fix


FAULTS = [
    ("torque", {"value": "18 mm"}, "value", "N·m"),
    ("setting", {"unit": "stone"}, "unit", "use"),
    ("setting", {"adapter": "400 mm"}, "adapter", "measure"),
    ("setting", {"graduation": "60"}, "graduation", "0.5"),
    ("gap", {"readings": "0.8 wide"}, "readings", ""),
    ("gap", {"readings": "8 mm"}, "readings", "0.8 mm"),
    ("gap", {"readings": "-0.8"}, "readings", ""),
    ("gap", {"range": "35 mm"}, "range", "35 thou"),
    ("gap", {"construction": "gold"}, "construction", "nickel"),
    ("wear", {"meter_found": "10000"}, "meter_found", "read it again"),
    ("wear", {"gap_found": "8.5 mm"}, "gap_found", "0.85 mm"),
    ("cooling", {"second": "900"}, "second", ""),
    ("cooling", {"second": "90"}, "second", ""),
    ("battery", {"system": "48"}, "system", "12"),
    ("battery", {"volts": "25.2 V"}, "volts", "24 V system"),
    ("battery", {"volts": "4.0 V"}, "volts", "range the meter"),
    ("battery", {"volts": "12.4", "system": "24"}, "volts", "12 V system"),
    ("stack", {"depth": "1180 mm"}, "depth", "118 mm"),
    ("compression", {"readings": "11 bar"}, "readings", "give all"),
    ("resistance", {"length": ""}, "length", "600 mm"),
    ("wrench", {"weight": "", "arm": "", "other": ""}, "weight", "other wrench"),
    ("arc", {"radius": "3"}, "radius", "diameter"),
    ("nothing", {}, "nothing", "torque"),
]


@pytest.mark.parametrize(("key", "given", "field", "fix"), FAULTS)
def test_a_fault_in_a_sum_names_its_field(
    key: str, given: dict[str, str], field: str, fix: str
) -> None:
    """And what was most likely meant."""
    filled = {**(examples(key) if key in SUMS else {}), **given}
    with pytest.raises(ProblemsError) as caught:
        work_out(key, filled)
    [problem] = [p for p in caught.value.problems if p.path == field]
    assert fix in f"{problem.message} {problem.fix}"


# The sum, its fields, one value of the answer: worked by hand.
KNOWN: list[tuple[str, dict[str, str], str, Any]] = [
    ("torque", {"value": "18 lbf·ft"}, "N·m", 24.4047),
    ("torque", {"value": "20"}, "lbf·ft", 14.7512),
    ("torque", {"value": "15 to 20 N·m"}, "lbf·ft low", 11.0634),
    ("torque", {"value": "15 to 20 N·m"}, "lbf·ft high", 14.7512),
    ("torque", {"value": "38.5 lbf·in"}, "N·m", 4.34990),
    ("length", {"value": "5/8 in"}, "mm", 15.875),
    ("temperature", {"value": "104 °F"}, "°C", 40.0),
    ("temperature", {"value": "40 °C"}, "°F", 104.0),
    ("distance", {"value": "60,000 mi"}, "km", 96560.6),
    ("volts", {"value": "450 mV"}, "V", 0.45),
    ("setting", {"torque": "20 N·m", "adapter": "40 mm", "graduation": "0.1"}, "setting", 17.8),
    ("setting", {"torque": "20 N·m", "adapter": "40 mm", "angle": "90°"}, "setting", 20.0),
    (
        "setting",
        {"torque": "20 N·m", "full_scale": "50 N·m", "graduation": "0.5 N·m"},
        "setting",
        20,
    ),
    ("applied", {"setting": "17.78 N·m", "adapter": "40 mm"}, "torque", 20.0),
    ("applied", {"setting": "18 N·m"}, "low", 17.28),
    ("aim", {"torque": "20 N·m"}, "low", 18.0),
    ("aim", {"torque": "20 to 28 N·m", "thread": "lubricated, figure for dry"}, "aim", 16.8),
    ("wrench", {"reading": "24.8 N·m", "weight": "5 kg", "arm": "500 mm"}, "true", 24.5166),
    ("wrench", {"reading": "27 N·m", "weight": "5 kg", "arm": "500 mm"}, "within", False),
    ("wrench", {"reading": "24.8 N·m", "other": "25 N·m"}, "within", True),
    ("arc", {"diameter": "140", "angle": "10"}, "arc", 12.217),
    ("arc", {"diameter": "5 1/2 in", "angle": "10°"}, "arc_in", 0.47997),
    ("cooling", {}, "wait", 41.4),
    ("cooling", {"second": "38 °C"}, "wait", 0.0),
    ("idle", {"air": "41 °F"}, "minutes", 2.0),
    ("wear", {}, "leaves_at", 120000.0),
    ("wear", {"gap_found": "1.05 mm"}, "out", True),
    ("wear", {"gap_found": "34 thou"}, "out", False),
    ("battery", {"volts": "12,1"}, "verdict", "poor"),
    ("battery", {"volts": "13.25"}, "verdict", "surface charge"),
    ("battery", {"volts": "25.0 V", "system": "24"}, "verdict", "charged"),
    ("battery", {"volts": "6.2 V", "system": "6"}, "verdict", "low"),
    ("load", {"idle": "14.1", "loaded": "13.8"}, "verdict", "keeps up"),
    ("load", {"idle": "14.1", "loaded": "13.4"}, "verdict", "falls too far"),
    ("load", {"idle": "12.9", "loaded": "12.4"}, "verdict", "down at rest voltage"),
    ("cranking", {"volts": "9.5"}, "verdict", "low"),
    ("cranking", {"volts": "19.4", "system": "24"}, "verdict", "good"),
    ("cranking", {"volts": "10.4", "cable": "0.5 V"}, "cable", "bad"),
    (
        "resistance",
        {"what": "lead, carbon core", "measured": "9 kΩ", "length": "600 mm"},
        "verdict",
        "in",
    ),
    (
        "resistance",
        {"what": "lead, wound core", "measured": "9 kΩ", "length": "600 mm"},
        "verdict",
        "over",
    ),
    ("resistance", {"what": "coil primary", "measured": "0.1 ohm"}, "verdict", "under"),
    (
        "resistance",
        {"what": "coil secondary", "measured": "9 kΩ", "limits": "10 to 12 kΩ"},
        "verdict",
        "under",
    ),
    ("compression", {"readings": "11.5 11.2 11.4 10.9 bar"}, "verdict", "even"),
    ("compression", {"readings": "160 158 118 161 psi"}, "lowest", 3.0),
    ("fit", {"head": "10 mm", "socket": "3/8 in", "what": "bolt or nut"}, "fits", False),
    ("fit", {"head": "13 mm", "socket": "1/2 in", "what": "bolt or nut"}, "fits", False),
    ("fit", {"head": "1/2 in", "socket": "13 mm", "what": "bolt or nut"}, "fits", True),
    ("angle", {"seat": "conical"}, "high", 22.5),
    ("gap", {"readings": "0.75"}, "act", "fit"),
    ("gap", {"readings": "0.86 mm"}, "to", 0.79),
    ("gap", {"readings": "34 thou"}, "act", "close"),
    ("body", {}, "body", 2.0),
    ("body", {}, "way", "left"),
    ("body", {"found": "14°", "rotor": "left"}, "way", "left"),
    ("body", {"diameter": "3 in"}, "edge", 1.3299),
    ("body", {"found": "10°"}, "way", "none"),
    ("dial", {}, "advance", 28.0),
    ("dial", {"side": "after the mark"}, "advance", 20.0),
    ("lamp", {"idle": "10.5°", "total": "30°", "total_range": "28 to 32°"}, "verdict", "leave"),
    ("lamp", {"idle": "14°"}, "verdict", "set"),
    ("lamp", {"idle": "14°"}, "error", -4.0),
    ("lamp", {"idle": "14°", "rotor": "left"}, "way", "left"),
    ("lamp", {"idle": "12°", "total": "34°", "total_range": "28 to 32°"}, "verdict", "back"),
    ("lamp", {"idle": "12°", "total": "34°", "total_range": "28 to 32°"}, "body", 1.0),
    ("lamp", {"idle": "9°", "total": "27°", "total_range": "28 to 32°"}, "verdict", "forward"),
    ("lamp", {"idle": "10°", "total": "24°", "total_range": "28 to 32°"}, "verdict", "tired"),
    ("lamp", {"idle": "10°", "total": "36°", "total_range": "28 to 32°"}, "verdict", "back"),
    ("lamp", {"idle": "14°", "total": "31°", "total_range": "26 to 32°"}, "verdict", "set"),
    (
        "lamp",
        {"idle": "14°", "total": "29°", "total_range": "28 to 32°"},
        "verdict",
        "total counts",
    ),
    ("lamp", {"static": "8 to 12°", "idle": "8°"}, "verdict", "leave"),
    ("dwell", {}, "percent", 55.556),
    ("dwell", {"dwell": "58°"}, "verdict", "over"),
    ("dwell", {"dwell": "40°"}, "verdict", "under"),
    ("advance", {}, "advance", 19.0),
    ("advance", {"at": "500 rpm"}, "advance", 8.0),
    ("advance", {"at": "9000 rpm"}, "advance", 30.0),
    ("advance", {"speeds": "3500 800 rpm", "angles": "30 8°", "at": "2150 rpm"}, "advance", 19.0),
    ("stack", {}, "reaches", True),
    ("stack", {"depth": "390 mm", "room": "60 mm"}, "reaches", False),
]


@table(("key", "given", "name", "wanted"), KNOWN)
def test_known_sums_come_out(key: str, given: dict[str, str], name: str, wanted: Any) -> None:
    """Worked by hand beside."""
    found = answer(key, **given).values[name]
    if isinstance(wanted, float):
        assert found == pytest.approx(wanted, rel=0.002)
    else:
        assert found == wanted


@pytest.mark.parametrize("crank", [0.5, 2, 7.5, 30])
@pytest.mark.parametrize("diameter", [40.0, 76.0, 120.0])
def test_an_edge_moves_as_far_as_its_chords_add_up_to(crank: float, diameter: float) -> None:
    """Against walking along the rim in small straight steps."""
    steps, turn = 2_000, radians(crank / 2)
    at = [(cos(turn * n / steps), sin(turn * n / steps)) for n in range(steps + 1)]
    walked = sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(at)) * diameter / 2
    assert timing_sums.edge(diameter, crank) == pytest.approx(walked, rel=1e-5)


@pytest.mark.parametrize(
    ("key", "given", "field", "fix"),
    [
        ("dwell", {"dwell": "100°"}, "dwell", "one cylinder of 4 has 90°"),
        ("advance", {"angles": "8 14°"}, "angles", "one advance for each speed"),
        ("advance", {"speeds": "800 rpm", "angles": "8°"}, "speeds", "two speeds"),
        ("advance", {"speeds": "800 800 rpm", "angles": "8 9°"}, "speeds", "each once"),
    ],
)
def test_a_curve_or_dwell_that_cannot_be_is_refused(
    key: str, given: dict[str, str], field: str, fix: str
) -> None:
    """With its field and the fix."""
    with pytest.raises(ProblemsError) as caught:
        answer(key, **given)
    assert [(p.path, fix in p.fix) for p in caught.value.problems] == [(field, True)]


# Readings in thou on a nickel plug of 0.039 to 0.043 in, and what is done.
NEAREST = [("29", "open"), ("36", "open"), ("41", "fit"), ("46", "close"), ("20", "reject")]


@pytest.mark.parametrize(("reading", "act"), NEAREST)
def test_a_gap_is_moved_to_the_nearest_safe_point(reading: str, act: str) -> None:
    """Half a gauge step inside the limit, not to the middle (docs/craft.md §8)."""
    found = answer("gap", range="0.039-0.043 in", readings=f"{reading} thou", gauge="0.001 in")
    assert found.values["act"] == act
    if act == "open":
        assert found.values["to"] == pytest.approx(0.0395 * 25.4, abs=1e-3)
    if act == "close":
        assert found.values["to"] == pytest.approx(0.0425 * 25.4, abs=1e-3)
    assert ("reject" in found.result.lower()) == (act == "reject")


def test_several_values_share_the_last_unit() -> None:
    """As people write a row of readings."""
    for typed in ("36 39 41 thou", "36 thou; 39 thou; 41 thou", "0.036 0.039 0.041 in"):
        found = answer("gap", range="0.039-0.043 in", readings=typed, gauge="0.001 in")
        assert found.values["moved"] == pytest.approx(0.127, abs=1e-3)


@pytest.mark.parametrize("school", ["mid", "low_third"])
@pytest.mark.parametrize("plating", ["nickel", "bare"])
@pytest.mark.parametrize("printed", ["20 to 28 N·m", "24 N·m", "18 lbf·ft"])
def test_a_setting_says_the_same_as_the_sheet(school: str, plating: str, printed: str) -> None:
    """House rules, allowance of a single value and lubrication alike."""
    rules = DEFAULT_RULES.using(tightening=school)
    plug = {**document()["plugs"][0], "plating": plating}
    torque = [{"value": printed, "source": "wm", "page": "3"}]
    made = engine(plugs=[plug], figures={**document()["figures"], "plug-torque": torque})
    stated = plug_window(made, "all", rules)
    assert stated is not None
    thread = "lubricated, figure for dry" if plating == "bare" else "dry"
    typed = {**examples("aim"), "torque": printed, "thread": thread}
    found = work_out("aim", typed, Shop(rules))
    window = stated[1]
    assert (found.values["low"], found.values["high"], found.values["aim"]) == pytest.approx(
        (window.low, window.high, window.aim)
    )


def test_what_is_set_is_what_is_applied() -> None:
    """Forth and back, through an adapter at an angle."""
    for angle in ("0°", "45°", "90°"):
        typed = {"adapter": "60 mm", "angle": angle, "graduation": "0.1"}
        dialled = answer("setting", torque="20 N·m", **typed).values["setting"]
        back = answer("applied", setting=f"{dialled} N·m", adapter="60 mm", angle=angle)
        assert back.values["torque"] == pytest.approx(20, abs=0.1)
        reach = 320 + 60 * math.cos(math.radians(float(angle[:-1])))
        assert dialled == pytest.approx(20 * 320 / reach, abs=0.06)


def test_a_stack_comes_from_the_shop_s_own_crib() -> None:
    """With an empty one nothing reaches."""
    assert work_out("stack", examples("stack"), Shop(crib=STANDARD_CRIB)).values["reaches"]
    assert not work_out("stack", examples("stack"), Shop(crib=Crib())).values["reaches"]


def test_no_field_is_cut_short_silently() -> None:
    """What is too long is refused by name."""
    with pytest.raises(ProblemsError) as caught:
        work_out("gap", {**examples("gap"), "readings": "0.8 " * 200})
    assert caught.value.problems[0].path == "readings"


def test_a_choice_of_a_number_may_carry_its_unit() -> None:
    """12 V is 12; a system there is none of is refused."""
    plain, said = answer("battery", system="12"), answer("battery", system="12 V")
    assert plain.values == said.values
    with pytest.raises(ProblemsError, match="not one of these"):
        answer("battery", system="13 V")
