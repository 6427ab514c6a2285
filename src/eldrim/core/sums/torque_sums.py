"""Sums of torque: units, settings forth and back, aims with all reductions, a wrench checked."""

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.quantity import (
    UNITS,
    Dimension,
    Quantity,
    convert,
    format_number,
    make,
    parse,
    working_unit,
)
from eldrim.core.figures.torque import Window, angle_after_seating, percent, window
from eldrim.core.rules.house import HouseRules
from eldrim.core.sums.field import SHOP, SumResult, Value
from eldrim.core.sums.given import Given
from eldrim.core.tools.crib import Wrench
from eldrim.core.tools.wrench_setting import Adapter, Setting, adapter_factor, setting, why_not
from eldrim.core.words.messages import gettext, gettext_noop

GRAVITY = 9.80665
TOO_MUCH = gettext_noop("It shows {off} % too much: {verdict}")
TOO_LITTLE = gettext_noop("It shows {off} % too little: {verdict}")
DRY, WET = "dry", "lubricated, figure for dry"


def number(value: float, places: int = 2) -> str:
    """A number of a sum's working."""
    return format_number(value, places)


def converted(given: Given) -> SumResult:
    """A quantity in the other units of its dimension, both limits of a range."""
    value = given.quantity("value")
    others = [u for u in UNITS if u.dimension is value.dimension and u.symbol != value.unit]
    base = working_unit(value.dimension).symbol
    values: dict[str, Value] = {}
    for other in others:
        low, high = (
            float(f"{convert(end, base, other.symbol):.6g}") for end in (value.low, value.high)
        )
        values[other.symbol] = float(f"{(low + high) / 2:.6g}")
        if value.is_range:
            values |= {f"{other.symbol} low": low, f"{other.symbol} high": high}
    usual = [u for u in others if u.usual] or others
    lines = tuple(f"{value} = {value.printed_in(other.symbol)}" for other in others)
    shown = [value.printed_in(other.symbol) for other in usual[:3]]
    return SumResult(
        result=" = ".join([str(value), *shown]),
        formula=gettext("new = old × factor of the two units (temperatures: × 9/5 + 32)"),
        working=lines,
        source=gettext("international definitions of foot, inch, pound, mile and standard gravity"),
        values=values,
    )


def wanted_window(printed: Quantity, thread: str, rules: HouseRules) -> Window:
    """The window of a printed torque as the sheet reads it: house rules, allowance, lubrication."""
    school = "low_third" if rules.school["tightening"] == "low_third" else "mid"
    reduction = rules.compound_reduction if thread == WET else 0.0
    return window(printed, school, rules.value_allowance, reduction, rules.compound_floor)


def _wrench(given: Given) -> Wrench:
    chosen = given.choice("unit")
    names = ("full_scale", "graduation")
    scale, step = (convert(given.quantity(n).mid, "N·m", chosen) for n in names)
    if step >= scale:
        raise given.refuse(
            "graduation", gettext("one step is as large as the scale"), gettext("write it as 0.5")
        )
    return Wrench.model_validate(
        {
            "id": "asked",
            "drive": "3/8",
            "unit": chosen,
            "full_scale": scale,
            "graduation": step,
            "tolerance": 0 if given.blank("tolerance") else given.number("tolerance") / 100,
            "length": given.quantity("wrench_length"),
            "head": "30 mm",
        }
    )


def _adapter(given: Given, length: float) -> Adapter | None:
    if given.blank("adapter") or not given.quantity("adapter").mid:
        return None
    extra = given.quantity("adapter").mid
    if extra >= length:
        raise given.refuse(
            "adapter", gettext("it is longer than the wrench"), gettext("measure both again")
        )
    return Adapter(extra, 0.0 if given.blank("angle") else given.quantity("angle").mid)


def wrench_setting(given: Given) -> SumResult:
    """What to dial for a printed torque."""
    wrench = _wrench(given)
    adapter = _adapter(given, wrench.length.mid)
    wanted = wanted_window(given.quantity("torque"), given.choice("thread"), given.shop.rules)
    found = setting(wanted, wrench, adapter)
    lines = [*wanted.sum, *_setting_lines(wanted, wrench, adapter)]
    if found is None:
        refused = gettext(
            "This wrench cannot be set for it: {adapter}", adapter=why_not(wanted, wrench, adapter)
        )
        return _setting_answer(refused, lines, wanted, None)
    low, high = (number(convert(value, wrench.unit, "N·m")) for value in found.truly)
    lines.append(
        gettext(
            "true torque {low} to {high} N·m at ± {tolerance} %",
            low=low,
            high=high,
            tolerance=number(found.tolerance * 100),
        )
    )
    return _setting_answer(gettext("Set {found}", found=found.text), lines, wanted, found)


def _setting_lines(wanted: Window, wrench: Wrench, adapter: Adapter | None) -> list[str]:
    t, lines, factor = wrench.share, [], 1.0
    if adapter:
        factor = adapter_factor(wrench.length.mid, adapter)
        lines.append(_adapter_line(wrench.length.mid, adapter, factor))
    low, high = (convert(value, "N·m", wrench.unit) * factor for value in (wanted.low, wanted.high))
    sums = gettext(
        "{low} ÷ (1 − {number}) to {high} ÷ (1 + {number})",
        low=number(low),
        number=number(t),
        high=number(high),
    )
    ends = gettext(
        "{low} to {high} {unit}",
        low=number(low / (1 - t)),
        high=number(high / (1 + t)),
        unit=wrench.unit,
    )
    lines.append(gettext("setting window: {sums} = {ends}", sums=sums, ends=ends))
    return lines


def _adapter_line(length: float, adapter: Adapter, factor: float) -> str:
    return gettext(
        "adapter: {length} ÷ ({length} + {adapter} × cos {angle}°) = {factor}",
        length=number(length),
        adapter=number(adapter.length),
        angle=number(adapter.angle),
        factor=number(factor, 4),
    )


def _setting_answer(
    result: str, lines: list[str], wanted: Window, found: Setting | None
) -> SumResult:
    return SumResult(
        result=result,
        formula=gettext(
            "low ÷ (1 − t) ≤ setting ≤ high ÷ (1 + t); with an adapter, × L ÷ (L + E·cos θ)"
        ),
        working=tuple(lines),
        source=gettext("law of the lever; {shop} §7, §9, §10", shop=SHOP),
        setting=found,
        window=(wanted.low, wanted.high, wanted.aim),
        values={
            "setting": found.value if found else None,
            "unit": found.unit if found else None,
            "low": wanted.low,
            "high": wanted.high,
            "aim": wanted.aim,
        },
    )


def applied(given: Given) -> SumResult:
    """The torque really applied at a setting, through an adapter."""
    dialled, length = given.quantity("setting"), given.quantity("wrench_length").mid
    adapter = _adapter(given, length)
    factor = 1.0 if adapter is None else adapter_factor(length, adapter)
    t = given.number("tolerance") / 100
    torque = dialled.mid / factor
    low, high = torque * (1 - t), torque * (1 + t)
    lines = [] if adapter is None else [_adapter_line(length, adapter, factor)]
    lines.append(
        f"{dialled} ÷ {number(factor, 4)} = {make(torque, 'N·m').printed_in(dialled.unit)}"
    )
    span = make(low, "N·m", high).printed_in(dialled.unit)
    lines.append(f"± {number(t * 100, 1)} %: {span}")
    shown = make(torque, "N·m").printed_in(dialled.unit)
    return SumResult(
        result=gettext(
            "{shown} at the fastener, {span} with the tolerance", shown=shown, span=span
        ),
        formula=gettext("torque = setting × (L + E·cos θ) ÷ L"),
        working=tuple(lines),
        source=gettext("law of the lever; {shop} §7", shop=SHOP),
        values={
            "torque": round(torque, 4),
            "low": round(low, 4),
            "high": round(high, 4),
            "unit": "N·m",
        },
    )


def aim(given: Given) -> SumResult:
    """The window and the aim of a printed torque, with all that the house takes off."""
    rules = given.shop.rules
    printed = given.quantity("torque")
    wanted = wanted_window(printed, given.choice("thread"), rules)
    span = make(wanted.low, "N·m", wanted.high).printed_in(printed.unit)
    shown = make(wanted.aim, "N·m").printed_in(printed.unit)
    return SumResult(
        result=gettext("Aim at {shown}, within {span}", shown=shown, span=span),
        formula=gettext(
            "one number ± allowance; middle or low third; × (1 − reduction), floor kept"
        ),
        working=(*wanted.sum, _rules_line(rules)),
        source=gettext("{shop} §9, §10, §20; the maker's figure wins", shop=SHOP),
        window=(wanted.low, wanted.high, wanted.aim),
        values={"low": wanted.low, "high": wanted.high, "aim": wanted.aim, "unit": "N·m"},
    )


def _rules_line(rules: HouseRules) -> str:
    allowance, reduction = percent(rules.value_allowance), percent(rules.compound_reduction)
    return gettext(
        "house rules, version {version}: allowance {allowance}, reduction {reduction}",
        version=rules.version,
        allowance=allowance,
        reduction=reduction,
    )


def wrench_check(given: Given) -> SumResult:
    """A wrench held against a known weight on its arm, or against another wrench."""
    shown = given.quantity("reading").mid
    if given.blank("weight") and given.blank("other"):
        fix = gettext("hang a known weight on the arm, or fill in what the other wrench shows")
        raise ProblemsError(
            [Problem("weight", gettext("there is nothing to hold it against"), fix)]
        )
    true, lines = _true_torque(given)
    off = (shown - true) / true
    allowed = 0.06 if true <= 10 else 0.04
    lines.append(f"({number(shown)} − {number(true)}) ÷ {number(true)} = {number(off * 100, 1)} %")
    within = abs(off) <= allowed + 1e-9
    verdict = (
        gettext("within its tolerance")
        if within
        else gettext("out of its tolerance: have it calibrated")
    )
    return SumResult(
        result=gettext(
            TOO_MUCH if off > 0 else TOO_LITTLE, off=number(abs(off) * 100, 1), verdict=verdict
        ),
        formula=gettext("true torque = mass × g × arm; error = (shown − true) ÷ true"),
        working=(*lines, gettext("allowed: ± {allowed} %", allowed=number(allowed * 100, 0))),
        source=gettext("law of the lever, standard gravity; {shop} §7", shop=SHOP),
        values={"true": round(true, 4), "error": round(off, 5), "within": within},
    )


def _true_torque(given: Given) -> tuple[float, list[str]]:
    """What the wrench is held against, in N·m, and how that is worked out."""
    if not given.blank("other"):
        return given.quantity("other").mid, []
    if given.blank("arm"):
        raise given.refuse(
            "arm", gettext("the arm is missing"), gettext("measure from drive to weight, in mm")
        )
    weight, arm = given.quantity("weight").mid, given.quantity("arm").mid
    true = weight * GRAVITY * arm / 1000
    line = gettext(
        "{weight} kg × 9.807 m/s² × {arm} m = {true} N·m",
        weight=number(weight),
        arm=number(arm / 1000, 3),
        true=number(true),
    )
    return true, [line]


def turn(given: Given) -> SumResult:
    """The turn after seating by seat, thread and ring."""
    used = given.choice("ring") != "new"
    found = parse(angle_after_seating(given.choice("seat"), given.choice("thread"), used))
    return SumResult(
        result=gettext(
            "Hand-tight to the seat, then {found}, {printed_in}",
            found=found,
            printed_in=found.printed_in("°"),
        ),
        formula=gettext("degrees = turns × 360"),
        working=(f"{found} × 360 = {found.printed_in('°')}",),
        source=gettext("{shop} §9; the maker's own angle wins", shop=SHOP),
        values={"low": found.low, "high": found.high, "unit": "°"},
        turn=(found.low, found.high),
    )


TORQUE = Dimension.TORQUE
