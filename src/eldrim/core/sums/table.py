"""The quick sums there are: what each asks, what is plausible there, and what works it out."""

from collections.abc import Mapping

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.quantity import Dimension
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
from eldrim.core.words.messages import gettext, gettext_lazy

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


ROTOR = F(
    "rotor", gettext_lazy("Rotor turns, seen from above"), timing_sums.ROTOR[0], timing_sums.ROTOR
)
SYSTEM = F("system", gettext_lazy("System, V"), "12", electric_sums.SYSTEMS, unit="V")
ARM = _length("wrench_length", gettext_lazy("Wrench, grip to drive"), "320 mm", 80, 1500)
_ALL = (
    Sum(
        "torque",
        gettext_lazy("Torque in other units"),
        (_torque("value", gettext_lazy("Torque"), "18 lbf·ft"),),
        torque_sums.converted,
    ),
    Sum(
        "length",
        gettext_lazy("Length in other units"),
        (F("value", gettext_lazy("Length"), "5/8 in", dimension=D.LENGTH),),
        torque_sums.converted,
    ),
    Sum(
        "temperature",
        gettext_lazy("Temperature in other units"),
        (_heat("value", gettext_lazy("Temperature"), "104 °F", -60, 1300),),
        torque_sums.converted,
    ),
    Sum(
        "distance",
        gettext_lazy("Distance in other units"),
        (F("value", gettext_lazy("Distance"), "60 000 mi", dimension=D.DISTANCE),),
        torque_sums.converted,
    ),
    Sum(
        "volts",
        gettext_lazy("Volts in other units"),
        (F("value", gettext_lazy("Voltage"), "450 mV", dimension=D.VOLTAGE, least=0, most=60_000),),
        torque_sums.converted,
    ),
    Sum(
        "setting",
        gettext_lazy("Wrench setting"),
        (
            _torque("torque", gettext_lazy("Torque as printed"), "15 to 20 N·m"),
            F("thread", gettext_lazy("Thread"), THREAD[0], THREAD),
            F("unit", gettext_lazy("Wrench reads"), "N·m", WRENCH_UNITS),
            F(
                "full_scale",
                gettext_lazy("Full scale"),
                "50",
                dimension=D.TORQUE,
                least=0.5,
                most=2000,
                unit_of="unit",
            ),
            F(
                "graduation",
                gettext_lazy("Graduation"),
                "0.5",
                dimension=D.TORQUE,
                least=0.001,
                most=100,
                unit_of="unit",
            ),
            F(
                "tolerance",
                gettext_lazy("Tolerance in %; blank: by rule"),
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
        gettext_lazy("Torque really applied"),
        (
            _torque("setting", gettext_lazy("What was dialled"), "18 N·m"),
            ARM,
            *_adapter(),
            F("tolerance", gettext_lazy("Tolerance in %"), "4", unit="%", least=0, most=20),
        ),
        torque_sums.applied,
    ),
    Sum(
        "aim",
        gettext_lazy("Aim and window"),
        (
            _torque("torque", gettext_lazy("Torque as printed"), "20 lbf·ft"),
            F("thread", gettext_lazy("Thread"), THREAD[0], THREAD),
        ),
        torque_sums.aim,
    ),
    Sum(
        "wrench",
        gettext_lazy("Check of a torque wrench"),
        (
            _torque("reading", gettext_lazy("It shows or clicks at"), "24.8 N·m"),
            F(
                "weight",
                gettext_lazy("Known weight; blank: another wrench"),
                "5 kg",
                dimension=D.MASS,
                least=0.2,
                most=60,
                optional=True,
                start=True,
            ),
            F(
                "arm",
                gettext_lazy("Arm, drive to weight"),
                "500 mm",
                dimension=D.LENGTH,
                least=50,
                most=2000,
                optional=True,
                start=True,
            ),
            _torque("other", gettext_lazy("The other wrench shows"), "25 N·m", optional=True),
        ),
        torque_sums.wrench_check,
    ),
    Sum(
        "gap",
        gettext_lazy("Gap of a plug"),
        (
            _gap("range", gettext_lazy("Gap as printed"), "0.7 to 0.8 mm"),
            _gap("readings", gettext_lazy("Readings so far, first first"), "0.86", many=True),
            _length("gauge", gettext_lazy("Gauge steps"), "0.02 mm", 0.001, 0.2),
            F("construction", gettext_lazy("Construction"), "nickel", gap_sums.CONSTRUCTIONS),
            F("state", gettext_lazy("Plug"), "new", ("new", "used")),
            F(
                "maker",
                gettext_lazy("Setting fine wire"),
                "not allowed",
                ("not allowed", "allowed"),
            ),
        ),
        gap_sums.gap,
    ),
    Sum(
        "wear",
        gettext_lazy("Wear of a gap"),
        (
            _meter("meter_fitted", gettext_lazy("Meter when fitted"), "20000"),
            _gap("gap_fitted", gettext_lazy("Gap then"), "0.75 mm"),
            _meter("meter_found", gettext_lazy("Meter now"), "60000"),
            _gap("gap_found", gettext_lazy("Gap now"), "0.85 mm"),
            _gap("limit", gettext_lazy("Upper limit"), "1.0 mm"),
        ),
        gap_sums.worn,
    ),
    Sum(
        "angle",
        gettext_lazy("Turn after seating"),
        (
            F("seat", gettext_lazy("Seat"), "gasket", ("gasket", "conical")),
            F("thread", gettext_lazy("Thread"), "M14", THREADS),
            F("ring", gettext_lazy("Ring"), "new", ("new", "the same again")),
        ),
        torque_sums.turn,
    ),
    Sum(
        "fit",
        gettext_lazy("Socket on a hex"),
        (
            _length("head", gettext_lazy("Hex"), "16 mm", 3, 60),
            _length("socket", gettext_lazy("Socket"), "5/8 in", 3, 60),
            F("what", gettext_lazy("On a"), "plug", ("plug", "bolt or nut")),
        ),
        gap_sums.socket_fit,
    ),
    Sum(
        "stack",
        gettext_lazy("Stack for a well"),
        (
            _length("depth", gettext_lazy("Well, rim to hex"), "118 mm", 0, 400),
            _length("bore", gettext_lazy("Bore"), "26 mm", 12, 80),
            _length(
                "room",
                gettext_lazy("Room over the rim; blank: free"),
                "250 mm",
                10,
                2000,
                optional=True,
            ),
            _length("hex", gettext_lazy("Hex"), "16 mm", 8, 27),
            _length("height", gettext_lazy("Plug's height"), "50 mm", 20, 90),
        ),
        gap_sums.stack,
    ),
    Sum(
        "cooling",
        gettext_lazy("When it is cool enough"),
        (
            _heat("first", gettext_lazy("First reading"), "82 °C", -40, 350),
            _heat("second", gettext_lazy("Second reading"), "70 °C", -40, 350),
            F(
                "minutes",
                gettext_lazy("Between them"),
                "10 min",
                dimension=D.TIME,
                least=0.2,
                most=600,
            ),
            _heat("air", gettext_lazy("Air"), "18 °C", -40, 55),
            _heat("limit", gettext_lazy("May start at"), "40 °C", 0, 120),
        ),
        heat_sums.cooled,
    ),
    Sum(
        "idle",
        gettext_lazy("How long to idle it warm"),
        (_heat("air", gettext_lazy("Air"), "12 °C", -40, 55),),
        heat_sums.idled,
    ),
    Sum(
        "arc",
        gettext_lazy("Arc on a pulley"),
        (
            _length("diameter", gettext_lazy("Pulley diameter"), "140 mm", 20, 1000),
            F("angle", gettext_lazy("Angle"), "10°", dimension=D.ANGLE, least=0, most=360),
        ),
        heat_sums.arc,
    ),
    Sum(
        "battery",
        gettext_lazy("Battery and charging"),
        (
            _volts("volts", gettext_lazy("Measured"), "12.4 V"),
            SYSTEM,
            F("state", gettext_lazy("State"), "at rest", ("at rest", "running")),
        ),
        electric_sums.rested,
    ),
    Sum(
        "load",
        gettext_lazy("Charging under load"),
        (
            _volts("idle", gettext_lazy("Charging, nothing on"), "14.1 V"),
            _volts("loaded", gettext_lazy("Lamps, blower, heater on"), "13.8 V"),
            SYSTEM,
        ),
        electric_sums.under_load,
    ),
    Sum(
        "cranking",
        gettext_lazy("Cranking"),
        (
            _volts("volts", gettext_lazy("While it cranks"), "10.4 V"),
            SYSTEM,
            F(
                "cable",
                gettext_lazy("Lost over a cable"),
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
        gettext_lazy("Resistance of a coil or lead"),
        (
            F("what", gettext_lazy("What"), electric_sums.WHAT[0], electric_sums.WHAT),
            F(
                "measured",
                gettext_lazy("Measured"),
                "9 kΩ",
                dimension=D.RESISTANCE,
                least=0,
                most=1e7,
            ),
            F(
                "length",
                gettext_lazy("Length of the lead"),
                "600 mm",
                dimension=D.LENGTH,
                least=30,
                most=5000,
                optional=True,
                start=True,
            ),
            F(
                "limits",
                gettext_lazy("Limits of the maker; blank: general"),
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
        gettext_lazy("Spread of compressions"),
        (
            F(
                "readings",
                gettext_lazy("Cylinder by cylinder"),
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
        gettext_lazy("Turning the distributor"),
        (
            _advance("found", gettext_lazy("Timing found"), "6°"),
            _advance("wanted", gettext_lazy("Timing wanted"), "10°"),
            _length(
                "diameter", gettext_lazy("Body across, where its edge is turned"), "76 mm", 20, 200
            ),
            ROTOR,
        ),
        timing_sums.body,
    ),
    Sum(
        "dial",
        gettext_lazy("Timing lamp with a dial"),
        (
            _advance("dial", gettext_lazy("Dialled"), "24°"),
            _advance("offset", gettext_lazy("Still off the mark"), "4°"),
            F(
                "side",
                gettext_lazy("It stands"),
                "before the mark",
                ("before the mark", "after the mark"),
            ),
        ),
        timing_sums.dial,
    ),
    Sum(
        "lamp",
        gettext_lazy("Timing: static, idle, total"),
        (
            _advance("static", gettext_lazy("Static, as stated"), "10°"),
            _advance("idle", gettext_lazy("Idle, as found"), "12°"),
            _advance(
                "total", gettext_lazy("Total, as found; blank: not looked at"), "34°", optional=True
            ),
            _advance("total_range", gettext_lazy("Total, as stated"), "28 to 32°", optional=True),
            ROTOR,
            _length(
                "diameter",
                gettext_lazy("Body across; blank: not said"),
                "76 mm",
                20,
                200,
                optional=True,
            ),
        ),
        timing_sums.lamp,
    ),
    Sum(
        "dwell",
        gettext_lazy("Dwell of the points"),
        (
            F("dwell", gettext_lazy("Dwell found"), "50°", dimension=D.ANGLE, least=1, most=360),
            F("cylinders", gettext_lazy("Cylinders"), "4", timing_sums.CYLINDERS),
            F(
                "limits",
                gettext_lazy("Limits of the maker; blank: none"),
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
        gettext_lazy("Advance at a speed"),
        (
            F(
                "speeds",
                gettext_lazy("Speeds of the curve"),
                "800 1500 2500 3500 rpm",
                dimension=D.SPEED,
                least=100,
                most=12_000,
                many=True,
            ),
            F(
                "angles",
                gettext_lazy("Advance at each"),
                "8 14 24 30°",
                dimension=D.ANGLE,
                least=0,
                most=70,
                many=True,
            ),
            F("at", gettext_lazy("At"), "2000 rpm", dimension=D.SPEED, least=100, most=12_000),
        ),
        timing_sums.advance,
    ),
    Sum(
        "along",
        gettext_lazy("Now or later"),
        (
            _amount(
                "here", gettext_lazy("Minutes here, while it is open"), "12", unit="min", most=6_000
            ),
            _amount(
                "later", gettext_lazy("Minutes later, the whole job"), "102", unit="min", most=6_000
            ),
            _amount("price", gettext_lazy("Parts, €"), "36", most=100_000),
            _amount("life", gettext_lazy("It lasts, km or h"), "90000", most=3_000_000),
            _amount("used", gettext_lazy("Used so far, the same"), "40000", most=3_000_000),
            _amount(
                "value",
                gettext_lazy("A minute, €; blank: house rule"),
                "1.2",
                most=100,
                optional=True,
            ),
            _amount(
                "stop",
                gettext_lazy("A stop, €; blank: house rule"),
                "300",
                most=1_000_000,
                optional=True,
            ),
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
        raise ProblemsError(
            [
                Problem(
                    key[:40],
                    gettext("there is no such sum"),
                    gettext("use one of {known}", known=known),
                )
            ]
        )
    names = {field.name for field in chosen.fields}
    strange = [
        Problem(
            n[:40],
            gettext("{key} asks no such thing", key=key),
            gettext("use {names}", names=", ".join(sorted(names))),
        )
        for n in given
        if n not in names
    ]
    if strange:
        raise ProblemsError(strange)
    return chosen.work(Given(chosen.fields, given, shop or Shop()))


def examples(key: str) -> dict[str, str]:
    """A sum's fields filled in with their examples; those that may be blank are."""
    return {f.name: f.example for f in SUMS[key].fields if not f.optional or f.start}
