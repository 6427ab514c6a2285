"""The quick sums there are: what each asks, works out, and where it comes from."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from pydantic import Field as ModelField

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.figures.battery import battery
from eldrim.core.figures.cooling import Cooling, cooling, idle_minutes
from eldrim.core.figures.gap import Advice, GapRange, advise, wear
from eldrim.core.figures.torque import Window, angle_after_seating, window
from eldrim.core.frozen import Frozen
from eldrim.core.quantity import (
    UNITS,
    Dimension,
    Quantity,
    convert,
    format_number,
    make,
    parse,
    working_unit,
)
from eldrim.core.sums.given import Given
from eldrim.core.tools.crib import WRENCH_UNITS, Wrench
from eldrim.core.tools.fit import fit
from eldrim.core.tools.stock import socket
from eldrim.core.tools.wrench_setting import Adapter, Setting, adapter_factor, setting, why_not

Value = float | str | bool | None
PI = 3.14159265358979


class SumResult(Frozen):
    """A worked sum: the result in words, the formula, the numbers in it, and its source.

    ``values`` are the results as data; the rest carries what a drawing needs: torques in N·m,
    gaps in mm, turns in degrees.
    """

    result: str
    formula: str
    working: tuple[str, ...]
    source: str
    values: dict[str, Value] = ModelField(default_factory=dict)
    setting: Setting | None = None
    window: tuple[float, float, float] | None = None
    cooling: Cooling | None = None
    advice: Advice | None = None
    gap: tuple[float, float, float] | None = None
    reading: float | None = None
    step: float | None = None
    turn: tuple[float, float] | None = None


@dataclass(frozen=True)
class Field:
    """One thing a sum asks: its label, an example that is also its start, words to choose from."""

    name: str
    label: str
    example: str
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Sum:
    """A quick sum."""

    key: str
    name: str
    fields: tuple[Field, ...]
    work: Callable[[Given], SumResult]


def work_out(key: str, given: Mapping[str, str]) -> SumResult:
    """Work a sum out; fields left away have the value of their example.

    Raises :class:`ProblemsError` naming the field, or the sum when there is none of this key.
    """
    chosen = SUMS.get(key)
    if chosen is None:
        known = ", ".join(SUMS)
        raise ProblemsError([Problem(key, "there is no such sum", f"use one of {known}")])
    names = {field.name for field in chosen.fields}
    strange = [
        Problem(n, f"{key} asks no such thing", f"use {', '.join(sorted(names))}")
        for n in given
        if n not in names
    ]
    if strange:
        raise ProblemsError(strange)
    asked = Given({f.name: given.get(f.name) or f.example for f in chosen.fields})
    return chosen.work(asked)


def _torque(given: Given) -> SumResult:
    return _converted(given, Dimension.TORQUE)


def _length(given: Given) -> SumResult:
    return _converted(given, Dimension.LENGTH)


def _converted(given: Given, dimension: Dimension) -> SumResult:
    value = given.quantity("value", dimension)
    given.raise_problems()
    others = [unit for unit in UNITS if unit.dimension is dimension and unit.symbol != value.unit]
    base = working_unit(dimension).symbol
    lines, values = [], {}
    for other in others:
        factor = convert(1, value.unit, other.symbol)
        lines.append(f"{value} × {factor:.6g} = {value.printed_in(other.symbol)}")
        values[other.symbol] = float(f"{convert(value.mid, base, other.symbol):.6g}")
    shown = [value.printed_in(o.symbol) for o in others]
    return SumResult(
        result=" = ".join([str(value), *shown]),
        formula="new = old × factor of the two units",
        working=tuple(lines),
        source="international definitions of foot, pound and standard gravity",
        values=dict(values),
    )


def _wrench(given: Given) -> Wrench:
    chosen = given.choice("unit", WRENCH_UNITS)
    scale = given.number("full_scale", least=0.1)
    step = given.number("graduation", least=0.001)
    tolerance = given.number("tolerance", least=0) / 100
    length = given.quantity("wrench_length", Dimension.LENGTH)
    given.raise_problems()
    return Wrench.model_validate(
        {
            "id": "asked",
            "drive": "3/8",
            "unit": chosen,
            "full_scale": scale,
            "graduation": step,
            "tolerance": min(tolerance, 0.2),
            "length": length,
            "head": "30 mm",
        }
    )


def _setting(given: Given) -> SumResult:
    printed = given.quantity("torque", Dimension.TORQUE)
    extra = given.quantity("adapter", Dimension.LENGTH).mid
    angle = given.quantity("angle", Dimension.ANGLE).mid
    wrench = _wrench(given)
    if extra >= wrench.length.mid:
        raise ProblemsError([Problem("adapter", "it is longer than the wrench", "measure again")])
    adapter = Adapter(extra, angle) if extra else None
    wanted = window(printed, "mid", 0.1)
    found = setting(wanted, wrench, adapter)
    lines = [*wanted.sum, *_setting_lines(wanted, wrench, adapter)]
    if found is None:
        refused = f"This wrench cannot be set for it: {why_not(wanted, wrench, adapter)}"
        return _setting_answer(refused, lines, wanted, None)
    low, high = (format_number(convert(value, wrench.unit, "N·m"), 2) for value in found.truly)
    lines.append(f"true torque {low} to {high} N·m at ± {_n(found.tolerance * 100)} %")
    return _setting_answer(f"Set {found.text}", lines, wanted, found)


def _setting_lines(wanted: Window, wrench: Wrench, adapter: Adapter | None) -> list[str]:
    t, lines, factor = wrench.share, [], 1.0
    if adapter:
        factor = adapter_factor(wrench.length.mid, adapter)
        lines.append(
            f"adapter: {_n(wrench.length.mid)} ÷ ({_n(wrench.length.mid)} + {_n(adapter.length)} "
            f"× cos {_n(adapter.angle)}°) = {format_number(factor, 4)}"
        )
    low, high = (convert(value, "N·m", wrench.unit) * factor for value in (wanted.low, wanted.high))
    lines.append(
        f"setting window: {_n(low)} ÷ (1 − {_n(t)}) to {_n(high)} ÷ (1 + {_n(t)}) = "
        f"{_n(low / (1 - t))} to {_n(high / (1 + t))} {wrench.unit}"
    )
    return lines


def _setting_answer(
    result: str, lines: list[str], wanted: Window, found: Setting | None
) -> SumResult:
    return SumResult(
        result=result,
        formula="low ÷ (1 − t) ≤ setting ≤ high ÷ (1 + t); with an adapter, × L ÷ (L + E·cos θ)",
        working=tuple(lines),
        source="law of the lever; shop practice, docs/craft.md §7",
        setting=found,
        window=(wanted.low, wanted.high, wanted.aim),
        values={"setting": found.value if found else None, "unit": found.unit if found else None},
    )


def _gap(given: Given) -> SumResult:
    wanted = given.quantity("range", Dimension.LENGTH)
    readings = given.lengths("readings")
    step = given.quantity("gauge", Dimension.LENGTH).mid
    construction = given.choice("construction", CONSTRUCTIONS)
    used = given.choice("state", ("new", "used")) == "used"
    allowed = given.choice("maker", ("not allowed", "allowed")) == "allowed"
    given.raise_problems()
    goal = GapRange(wanted.low, wanted.high, wanted.mid, step)
    advice = advise(construction, goal, readings, used=used, maker_allows=allowed)
    verdict = f" ({advice.verdict})" if advice.verdict else ""
    working = (
        f"range {wanted}, aim {format_number(goal.aim, 3)} mm, gauge in steps of {_n(step)} mm: "
        f"within {format_number(step / 2, 3)} mm of a limit is at limit",
        *([advice.sum] if advice.sum else []),
    )
    return SumResult(
        result=f"{advice.words}{verdict}",
        formula="in: low + step ÷ 2 ≤ reading ≤ high − step ÷ 2",
        working=working,
        source="shop practice, docs/craft.md §8",
        advice=advice,
        gap=(goal.low, goal.high, goal.aim),
        reading=readings[-1] if readings else None,
        step=step,
        values={
            "act": advice.action.value,
            "by": advice.by,
            "to": advice.to,
            "reversals": advice.reversals,
            "moved": advice.moved,
        },
    )


def _wear(given: Given) -> SumResult:
    fitted = (
        given.number("meter_fitted", least=0),
        given.quantity("gap_fitted", Dimension.LENGTH).mid,
    )
    found = (
        given.number("meter_found", least=0),
        given.quantity("gap_found", Dimension.LENGTH).mid,
    )
    limit = given.quantity("limit", Dimension.LENGTH).high
    given.raise_problems()
    worn = wear(fitted, found, limit)
    if worn is None:
        raise ProblemsError([Problem("meter_found", "the meter has not moved on", "read it again")])
    leaves = (
        "The gap has not grown"
        if worn.leaves_at is None
        else (f"Leaves its range at {format_number(worn.leaves_at, 0)} on the meter")
    )
    return SumResult(
        result=leaves,
        formula="rate = growth ÷ run; meter = now + (limit − found) ÷ rate",
        working=worn.sum,
        source="shop practice, docs/craft.md §8",
        values={"rate": worn.rate, "leaves_at": worn.leaves_at},
    )


def _angle(given: Given) -> SumResult:
    seat = given.choice("seat", ("gasket", "conical"))
    thread = given.choice("thread", ("M14", "M18", "M12", "M10", "M8"))
    ring = given.choice("ring", ("new", "the same again"))
    given.raise_problems()
    turn: Quantity = parse(angle_after_seating(seat, thread, ring != "new"))
    return SumResult(
        result=f"Hand-tight to the seat, then {turn}, {turn.printed_in('°')}",
        formula="degrees = turns × 360",
        working=(f"{turn} × 360 = {turn.printed_in('°')}",),
        source="shop practice, docs/craft.md §9; the maker's own angle wins",
        values={"low": turn.low, "high": turn.high, "unit": "°"},
        turn=(turn.low, turn.high),
    )


def _cooling(given: Given) -> SumResult:
    names = ("first", "second", "air", "limit")
    first, second, air, limit = (given.quantity(name, Dimension.TEMPERATURE).mid for name in names)
    minutes = given.quantity("minutes", Dimension.TIME).mid
    given.raise_problems()
    found = cooling(first, second, minutes, air, limit)
    when = (
        "It may start now"
        if found.wait == 0
        else (f"Start {_n(found.wait)} min after the second reading")
    )
    return SumResult(
        result=f"{when}; at {_n(limit)} °C or below",
        formula="T(t) = air + (first − air)·e^(−k·t)",
        working=found.sum,
        source="Newton's law of cooling",
        cooling=found,
        values={"wait": found.wait, "ready": found.ready, "constant": found.constant},
    )


def _idle(given: Given) -> SumResult:
    air = given.quantity("air", Dimension.TEMPERATURE).mid
    given.raise_problems()
    minutes = idle_minutes(air)
    return SumResult(
        result=f"Idle {_n(minutes)} min, then measure the head",
        formula="1 min from 15 °C of air, 2 min from 5 °C, 3 min below",
        working=(f"air at {_n(air)} °C: {_n(minutes)} min",),
        source="shop practice, docs/craft.md §11; the maker's window wins",
        values={"minutes": minutes},
    )


def _arc(given: Given) -> SumResult:
    diameter = given.quantity("diameter", Dimension.LENGTH).mid
    angle = given.quantity("angle", Dimension.ANGLE).mid
    given.raise_problems()
    length = PI * diameter * angle / 360
    return SumResult(
        result=f"{format_number(length, 1)} mm along the rim",
        formula="arc = π · D · angle ÷ 360",
        working=(f"3.1416 × {_n(diameter)} × {_n(angle)} ÷ 360 = {format_number(length, 2)} mm",),
        source="geometry of the circle",
        values={"arc": round(length, 3), "unit": "mm"},
    )


def _battery(given: Given) -> SumResult:
    volts = given.quantity("volts", Dimension.VOLTAGE).mid
    system = float(given.choice("system", ("12", "24", "6")))
    state = given.choice("state", ("at rest", "running"))
    given.raise_problems()
    found = battery(volts, system, running=state == "running")
    return SumResult(
        result=f"{found.verdict.capitalize()}. {found.act}",
        formula="volts × 12 ÷ system, against the bands of a 12 V lead-acid battery near 25 °C",
        working=(found.sum,),
        source="shop practice, docs/craft.md §16; the maker's figures win",
        values={"verdict": found.verdict},
    )


def _fit(given: Given) -> SumResult:
    head = given.quantity("head", Dimension.LENGTH)
    across = given.quantity("socket", Dimension.LENGTH)
    plug = given.choice("what", ("plug", "bolt or nut")) == "plug"
    given.raise_problems()
    asked = socket("3/8", across.mid, 60, across.mid + 6, 0).model_copy(update={"size": across})
    size = head if head.unit == "mm" else make(head.mid, "mm")
    found = fit(size, asked.head, asked, plug=plug)
    verdict = "It fits" if found.fits else "It does not fit"
    return SumResult(
        result=f"{verdict}: {found.words}",
        formula="play = socket − head, across flats",
        working=(
            f"{format_number(across.mid, 2)} − {format_number(head.mid, 2)} = "
            f"{format_number(found.play, 2)} mm",
        ),
        source="shop practice, docs/craft.md §7",
        values={"fits": found.fits, "play": found.play},
    )


def _n(value: float) -> str:
    return format_number(value, 2)


CONSTRUCTIONS = ("nickel", "fine_wire", "multi_ground", "surface_gap")
F = Field
_ALL = (
    Sum("torque", "Torque in other units", (F("value", "Torque", "18 lbf·ft"),), _torque),
    Sum("length", "Length in other units", (F("value", "Length", "5/8 in"),), _length),
    Sum("setting", "Wrench setting", (
        F("torque", "Torque as printed", "15 to 20 N·m"),
        F("unit", "Wrench reads", "N·m", WRENCH_UNITS), F("full_scale", "Full scale", "50"),
        F("graduation", "Graduation", "0.5"), F("tolerance", "Tolerance in %; 0: by rule", "0"),
        F("wrench_length", "Wrench, grip to drive", "320 mm"),
        F("adapter", "Adapter, drive to fastener", "0 mm"), F("angle", "Adapter's angle", "0°"),
    ), _setting),
    Sum("gap", "Gap of a plug", (
        F("range", "Range", "0.7 to 0.8 mm"), F("readings", "Readings so far, first first", "0.86"),
        F("gauge", "Gauge steps", "0.02 mm"),
        F("construction", "Construction", "nickel", CONSTRUCTIONS),
        F("state", "Plug", "new", ("new", "used")),
        F("maker", "Setting fine wire", "not allowed", ("not allowed", "allowed")),
    ), _gap),
    Sum("wear", "Wear of a gap", (
        F("meter_fitted", "Meter when fitted", "20000"), F("gap_fitted", "Gap then", "0.75 mm"),
        F("meter_found", "Meter now", "60000"), F("gap_found", "Gap now", "0.85 mm"),
        F("limit", "Upper limit", "1.0 mm"),
    ), _wear),
    Sum("angle", "Turn after seating", (
        F("seat", "Seat", "gasket", ("gasket", "conical")),
        F("thread", "Thread", "M14", ("M14", "M18", "M12", "M10", "M8")),
        F("ring", "Ring", "new", ("new", "the same again")),
    ), _angle),
    Sum("cooling", "When it is cool enough", (
        F("first", "First reading", "82 °C"), F("second", "Second reading", "70 °C"),
        F("minutes", "Between them", "10 min"), F("air", "Air", "18 °C"),
        F("limit", "May start at", "40 °C"),
    ), _cooling),
    Sum("idle", "How long to idle it warm", (F("air", "Air", "12 °C"),), _idle),
    Sum("arc", "Arc on a pulley", (
        F("diameter", "Pulley diameter", "140 mm"), F("angle", "Angle", "10°"),
    ), _arc),
    Sum("battery", "Battery and charging", (
        F("volts", "Measured", "12.4 V"), F("system", "System, V", "12", ("12", "24", "6")),
        F("state", "State", "at rest", ("at rest", "running")),
    ), _battery),
    Sum("fit", "Socket on a hex", (
        F("head", "Hex", "16 mm"), F("socket", "Socket", "5/8 in"),
        F("what", "On a", "plug", ("plug", "bolt or nut")),
    ), _fit),
)  # fmt: skip
SUMS = {s.key: s for s in _ALL}
