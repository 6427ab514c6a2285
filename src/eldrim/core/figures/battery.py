"""What a battery's voltage says (docs/craft.md §16)."""

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.words.messages import gettext, gettext_noop

# Volts on the 12 V scale (docs/craft.md §16): what charging may fall under load, what is charged at
# rest, the least while cranking, what a cable may lose; the least a battery shows at all, and the
# most that charging does: beyond, it is another system or a wrong range of the meter.
LOAD_DROP, REST_CHARGED, CRANKING, CABLE_DROP = 0.5, 12.5, 9.6, 0.2
LEAST, MOST = 9.0, 16.0
# Volts of a 12 V lead-acid battery near 25 °C: from this on, verdict, what to do.
REST = (
    (
        13.2,
        "surface charge",
        gettext_noop(
            "Surface charge. It has just been charged: load it for a minute, let it stand, measure "
            "again."
        ),
    ),
    (12.5, "charged", gettext_noop("Charged. Nothing to do.")),
    (12.3, "low", gettext_noop("Low. Charge it.")),
    (11.9, "poor", gettext_noop("Poor. Charge it and test again; replace it if it falls back.")),
    (0.0, "flat", gettext_noop("Flat. Charge it slowly; replace it if it does not hold.")),
)
RUNNING = (
    (
        14.5,
        "overcharging",
        gettext_noop("Overcharging. Look at the regulator: this protects nothing."),
    ),
    (13.5, "charging well", gettext_noop("Charging well. Nothing to do.")),
    (
        0.0,
        "not keeping up",
        gettext_noop("Not keeping up. Look at belt, connections and alternator."),
    ),
)


class BatteryVerdict(Frozen):
    """The verdict's key, the verdict and what to do in words, and the sum that scales the bands."""

    verdict: str
    words: str
    sum: str


def battery(volts: float, system: float, *, running: bool = False) -> BatteryVerdict:
    """Judge a lead-acid battery at rest after standing, or its charging, on a system of 6–24 V."""
    share = system / 12
    scaled = volts / share
    table = RUNNING if running else REST
    over = running and scaled > 14.5 + 1e-9
    rows = table if over or not running else table[1:]
    _, verdict, words = next(row for row in rows if scaled >= row[0] - 1e-9)
    return BatteryVerdict(
        verdict=verdict,
        words=gettext(words),
        sum=gettext(
            "{volts} V × 12 ÷ {system} = {scaled} V on the 12 V scale",
            volts=format_number(volts, 2),
            system=format_number(system, 0),
            scaled=format_number(scaled, 2),
        ),
    )
