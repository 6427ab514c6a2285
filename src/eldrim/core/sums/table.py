"""The quick sums there are: what each asks, what is plausible there, and what works it out."""

from collections.abc import Mapping

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.quantity import Dimension
from eldrim.core.sums import (
    electric_sums,
    gap_sums,
    heat_sums,
    interval_sums,
    timing_sums,
    torque_sums,
)
from eldrim.core.sums.field import Field, Sum, SumResult
from eldrim.core.sums.given import Given, Shop
from eldrim.core.tools.crib import WRENCH_UNITS

F, D = Field, Dimension
THREAD = (torque_sums.DRY, torque_sums.WET)
THREADS = ("M14", "M18", "M12", "M10", "M8")


def _torque(name: str, label: str, example: str, *, optional: bool = False) -> Field:
    return F(name, label, example, dimension=D.TORQUE, least=0.2, most=1000, optional=optional)


def _gap(name: str, label: str, example: str, *, many: bool = False) -> Field:
    return F(
        name,
        label,
        example,
        dimension=D.LENGTH,
        least=0.1,
        most=4,
        many=many,
        optional=many,
        start=many,
    )


def _volts(name: str, label: str, example: str) -> Field:
    return F(name, label, example, dimension=D.VOLTAGE, least=2, most=40)


def _heat(name: str, label: str, example: str, least: float, most: float) -> Field:
    return F(name, label, example, dimension=D.TEMPERATURE, least=least, most=most)


def _meter(name: str, label: str, example: str) -> Field:
    return F(name, label, example, unit="km", least=0, most=3_000_000)


def _length(
    name: str, label: str, example: str, least: float, most: float, *, optional: bool = False
) -> Field:
    return F(name, label, example, dimension=D.LENGTH, least=least, most=most, optional=optional)


def _adapter() -> tuple[Field, Field]:
    return (
        _length("adapter", "Adapter, to the fastener; blank: none", "40 mm", 0, 600, optional=True),
        F(
            "angle",
            "Adapter's angle; blank: in line",
            "90°",
            dimension=D.ANGLE,
            least=0,
            most=180,
            optional=True,
        ),
    )


def _advance(name: str, label: str, example: str, *, optional: bool = False) -> Field:
    return F(name, label, example, dimension=D.ANGLE, least=0, most=70, optional=optional)


def _amount(
    name: str, label: str, example: str, *, unit: str = "", most: float, optional: bool = False
) -> Field:
    least = 1 if name == "life" else 0
    return F(name, label, example, unit=unit, least=least, most=most, optional=optional)


ROTOR = F("rotor", "Rotor turns, seen from above", timing_sums.ROTOR[0], timing_sums.ROTOR)
SYSTEM = F("system", "System, V", "12", electric_sums.SYSTEMS, unit="V")
ARM = _length("wrench_length", "Wrench, grip to drive", "320 mm", 80, 1500)
_ALL = (
    Sum(
        "torque",
        "Torque in other units",
        (_torque("value", "Torque", "18 lbf·ft"),),
        torque_sums.converted,
    ),
    Sum(
        "length",
        "Length in other units",
        (F("value", "Length", "5/8 in", dimension=D.LENGTH),),
        torque_sums.converted,
    ),
    Sum(
        "temperature",
        "Temperature in other units",
        (_heat("value", "Temperature", "104 °F", -60, 1300),),
        torque_sums.converted,
    ),
    Sum(
        "distance",
        "Distance in other units",
        (F("value", "Distance", "60 000 mi", dimension=D.DISTANCE),),
        torque_sums.converted,
    ),
    Sum(
        "volts",
        "Volts in other units",
        (F("value", "Voltage", "450 mV", dimension=D.VOLTAGE, least=0, most=60_000),),
        torque_sums.converted,
    ),
    Sum(
        "setting",
        "Wrench setting",
        (
            _torque("torque", "Torque as printed", "15 to 20 N·m"),
            F("thread", "Thread", THREAD[0], THREAD),
            F("unit", "Wrench reads", "N·m", WRENCH_UNITS),
            F(
                "full_scale",
                "Full scale",
                "50",
                dimension=D.TORQUE,
                least=0.5,
                most=2000,
                unit_of="unit",
            ),
            F(
                "graduation",
                "Graduation",
                "0.5",
                dimension=D.TORQUE,
                least=0.001,
                most=100,
                unit_of="unit",
            ),
            F(
                "tolerance",
                "Tolerance in %; blank: by rule",
                "4",
                unit="%",
                least=0,
                most=20,
                optional=True,
            ),
            ARM,
            *_adapter(),
        ),
        torque_sums.wrench_setting,
    ),
    Sum(
        "applied",
        "Torque really applied",
        (
            _torque("setting", "What was dialled", "18 N·m"),
            ARM,
            *_adapter(),
            F("tolerance", "Tolerance in %", "4", unit="%", least=0, most=20),
        ),
        torque_sums.applied,
    ),
    Sum(
        "aim",
        "Aim and window",
        (
            _torque("torque", "Torque as printed", "20 lbf·ft"),
            F("thread", "Thread", THREAD[0], THREAD),
        ),
        torque_sums.aim,
    ),
    Sum(
        "wrench",
        "Check of a torque wrench",
        (
            _torque("reading", "It shows or clicks at", "24.8 N·m"),
            F(
                "weight",
                "Known weight; blank: another wrench",
                "5 kg",
                dimension=D.MASS,
                least=0.2,
                most=60,
                optional=True,
                start=True,
            ),
            F(
                "arm",
                "Arm, drive to weight",
                "500 mm",
                dimension=D.LENGTH,
                least=50,
                most=2000,
                optional=True,
                start=True,
            ),
            _torque("other", "The other wrench shows", "25 N·m", optional=True),
        ),
        torque_sums.wrench_check,
    ),
    Sum(
        "gap",
        "Gap of a plug",
        (
            _gap("range", "Gap as printed", "0.7 to 0.8 mm"),
            _gap("readings", "Readings so far, first first", "0.86", many=True),
            _length("gauge", "Gauge steps", "0.02 mm", 0.001, 0.2),
            F("construction", "Construction", "nickel", gap_sums.CONSTRUCTIONS),
            F("state", "Plug", "new", ("new", "used")),
            F("maker", "Setting fine wire", "not allowed", ("not allowed", "allowed")),
        ),
        gap_sums.gap,
    ),
    Sum(
        "wear",
        "Wear of a gap",
        (
            _meter("meter_fitted", "Meter when fitted", "20000"),
            _gap("gap_fitted", "Gap then", "0.75 mm"),
            _meter("meter_found", "Meter now", "60000"),
            _gap("gap_found", "Gap now", "0.85 mm"),
            _gap("limit", "Upper limit", "1.0 mm"),
        ),
        gap_sums.worn,
    ),
    Sum(
        "angle",
        "Turn after seating",
        (
            F("seat", "Seat", "gasket", ("gasket", "conical")),
            F("thread", "Thread", "M14", THREADS),
            F("ring", "Ring", "new", ("new", "the same again")),
        ),
        torque_sums.turn,
    ),
    Sum(
        "fit",
        "Socket on a hex",
        (
            _length("head", "Hex", "16 mm", 3, 60),
            _length("socket", "Socket", "5/8 in", 3, 60),
            F("what", "On a", "plug", ("plug", "bolt or nut")),
        ),
        gap_sums.socket_fit,
    ),
    Sum(
        "stack",
        "Stack for a well",
        (
            _length("depth", "Well, rim to hex", "118 mm", 0, 400),
            _length("bore", "Bore", "26 mm", 12, 80),
            _length("room", "Room over the rim; blank: free", "250 mm", 10, 2000, optional=True),
            _length("hex", "Hex", "16 mm", 8, 27),
            _length("height", "Plug's height", "50 mm", 20, 90),
        ),
        gap_sums.stack,
    ),
    Sum(
        "cooling",
        "When it is cool enough",
        (
            _heat("first", "First reading", "82 °C", -40, 350),
            _heat("second", "Second reading", "70 °C", -40, 350),
            F("minutes", "Between them", "10 min", dimension=D.TIME, least=0.2, most=600),
            _heat("air", "Air", "18 °C", -40, 55),
            _heat("limit", "May start at", "40 °C", 0, 120),
        ),
        heat_sums.cooled,
    ),
    Sum(
        "idle",
        "How long to idle it warm",
        (_heat("air", "Air", "12 °C", -40, 55),),
        heat_sums.idled,
    ),
    Sum(
        "arc",
        "Arc on a pulley",
        (
            _length("diameter", "Pulley diameter", "140 mm", 20, 1000),
            F("angle", "Angle", "10°", dimension=D.ANGLE, least=0, most=360),
        ),
        heat_sums.arc,
    ),
    Sum(
        "battery",
        "Battery and charging",
        (
            _volts("volts", "Measured", "12.4 V"),
            SYSTEM,
            F("state", "State", "at rest", ("at rest", "running")),
        ),
        electric_sums.rested,
    ),
    Sum(
        "load",
        "Charging under load",
        (
            _volts("idle", "Charging, nothing on", "14.1 V"),
            _volts("loaded", "Lamps, blower, heater on", "13.8 V"),
            SYSTEM,
        ),
        electric_sums.under_load,
    ),
    Sum(
        "cranking",
        "Cranking",
        (
            _volts("volts", "While it cranks", "10.4 V"),
            SYSTEM,
            F(
                "cable",
                "Lost over a cable",
                "0.15 V",
                dimension=D.VOLTAGE,
                least=0,
                most=12,
                optional=True,
            ),
        ),
        electric_sums.cranking,
    ),
    Sum(
        "resistance",
        "Resistance of a coil or lead",
        (
            F("what", "What", electric_sums.WHAT[0], electric_sums.WHAT),
            F("measured", "Measured", "9 kΩ", dimension=D.RESISTANCE, least=0, most=1e7),
            F(
                "length",
                "Length of the lead",
                "600 mm",
                dimension=D.LENGTH,
                least=30,
                most=5000,
                optional=True,
                start=True,
            ),
            F(
                "limits",
                "Limits of the maker; blank: general",
                "6 to 12 kΩ",
                dimension=D.RESISTANCE,
                least=0,
                most=1e7,
                optional=True,
            ),
        ),
        electric_sums.resistance,
    ),
    Sum(
        "compression",
        "Spread of compressions",
        (
            F(
                "readings",
                "Cylinder by cylinder",
                "11.5 11.2 11.4 10.9 bar",
                dimension=D.PRESSURE,
                least=0.5,
                most=30,
                many=True,
            ),
        ),
        electric_sums.compression,
    ),
    Sum(
        "body",
        "Turning the distributor",
        (
            _advance("found", "Timing found", "6°"),
            _advance("wanted", "Timing wanted", "10°"),
            _length("diameter", "Body across, where its edge is turned", "76 mm", 20, 200),
            ROTOR,
        ),
        timing_sums.body,
    ),
    Sum(
        "dial",
        "Timing lamp with a dial",
        (
            _advance("dial", "Dialled", "24°"),
            _advance("offset", "Still off the mark", "4°"),
            F("side", "It stands", "before the mark", ("before the mark", "after the mark")),
        ),
        timing_sums.dial,
    ),
    Sum(
        "lamp",
        "Timing: static, idle, total",
        (
            _advance("static", "Static, as stated", "10°"),
            _advance("idle", "Idle, as found", "12°"),
            _advance("total", "Total, as found; blank: not looked at", "34°", optional=True),
            _advance("total_range", "Total, as stated", "28 to 32°", optional=True),
            ROTOR,
            _length("diameter", "Body across; blank: not said", "76 mm", 20, 200, optional=True),
        ),
        timing_sums.lamp,
    ),
    Sum(
        "dwell",
        "Dwell of the points",
        (
            F("dwell", "Dwell found", "50°", dimension=D.ANGLE, least=1, most=360),
            F("cylinders", "Cylinders", "4", timing_sums.CYLINDERS),
            F(
                "limits",
                "Limits of the maker; blank: none",
                "47 to 53°",
                dimension=D.ANGLE,
                least=1,
                most=360,
                optional=True,
                start=True,
            ),
        ),
        timing_sums.dwell,
    ),
    Sum(
        "advance",
        "Advance at a speed",
        (
            F(
                "speeds",
                "Speeds of the curve",
                "800 1500 2500 3500 rpm",
                dimension=D.SPEED,
                least=100,
                most=12_000,
                many=True,
            ),
            F(
                "angles",
                "Advance at each",
                "8 14 24 30°",
                dimension=D.ANGLE,
                least=0,
                most=70,
                many=True,
            ),
            F("at", "At", "2000 rpm", dimension=D.SPEED, least=100, most=12_000),
        ),
        timing_sums.advance,
    ),
    Sum(
        "along",
        "Now or later",
        (
            _amount("here", "Minutes here, while it is open", "12", unit="min", most=6_000),
            _amount("later", "Minutes later, the whole job", "102", unit="min", most=6_000),
            _amount("price", "Parts, €", "36", most=100_000),
            _amount("life", "It lasts, km or h", "90000", most=3_000_000),
            _amount("used", "Used so far, the same", "40000", most=3_000_000),
            _amount("value", "A minute, €; blank: house rule", "1.2", most=100, optional=True),
            _amount("stop", "A stop, €; blank: house rule", "300", most=1_000_000, optional=True),
        ),
        interval_sums.now_or_later,
    ),
)
SUMS = {s.key: s for s in _ALL}


def work_out(key: str, given: Mapping[str, str], shop: Shop | None = None) -> SumResult:
    """Work a sum out, by the habits and with the tools of a shop.

    Raises :class:`ProblemsError` naming each field that is blank, not understood or implausible,
    or the sum when there is none of this key.
    """
    chosen = SUMS.get(key)
    if chosen is None:
        known = ", ".join(SUMS)
        raise ProblemsError([Problem(key[:40], "there is no such sum", f"use one of {known}")])
    names = {field.name for field in chosen.fields}
    strange = [
        Problem(n[:40], f"{key} asks no such thing", f"use {', '.join(sorted(names))}")
        for n in given
        if n not in names
    ]
    if strange:
        raise ProblemsError(strange)
    return chosen.work(Given(chosen.fields, given, shop or Shop()))


def examples(key: str) -> dict[str, str]:
    """A sum's fields filled in with their examples; those that may be blank are."""
    return {f.name: f.example for f in SUMS[key].fields if not f.optional or f.start}
