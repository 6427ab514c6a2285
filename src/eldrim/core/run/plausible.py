"""What a reading can be at all: a figure outside is a slip, or wants a reason (docs/craft.md §21).

These are no limits of any engine: a battery of 126 V, a plug turned in 600 times, a gap below
nothing. The window of a reading is judged apart from it.
"""

from eldrim.core.base.quantity import convert
from eldrim.core.procedure.model import AIR, Reading
from eldrim.core.run.readings import ADVANCE, Value, is_number
from eldrim.core.words import say

# By reading: the unit, and the least and the most it can be.
SPANS: dict[str, tuple[str, float, float]] = {
    "gap_found": ("mm", 0.1, 3.0),
    "gap_left": ("mm", 0.1, 3.0),
    "volts": ("V", 3.0, 34.0),
    "temperature": ("°C", -5.0, 160.0),
    AIR: ("°C", -45.0, 60.0),
    "free_turns": ("", 0.0, 20.0),
    "torque": ("N·m", 0.5, 200.0),
    "volts_cranking": ("V", 0.5, 34.0),
    "volts_idle": ("V", 3.0, 40.0),
    "volts_loaded": ("V", 3.0, 40.0),
    "drop_live": ("V", 0.0, 34.0),
    "drop_earth": ("V", 0.0, 34.0),
    "dwell": ("°", 5.0, 120.0),
    "static_again": ("°", -60.0, 90.0),
    "speed_idle": ("rev/min", 100.0, 9_000.0),
    "speed_total": ("rev/min", 100.0, 9_000.0),
    "points_gap": ("mm", 0.02, 3.0),
    "air_gap": ("mm", 0.02, 3.0),
    "length": ("mm", 20.0, 5_000.0),
    "resistance": ("kΩ", 0.0, 2_000.0),
    "primary": ("Ω", 0.0, 2_000_000.0),
    "secondary": ("kΩ", 0.0, 2_000.0),
    "meter": ("", 0.0, 5_000_000.0),
}
# A meter that jumps by more than this many times was typed with another unit or mark.
MOST_TIMES, ALLOWED = 20, 1000


def span(reading: Reading) -> tuple[float | None, float | None]:
    """The least and the most a reading can be, in its unit; open where nothing is known."""
    if reading.key in SPANS:
        unit, low, high = SPANS[reading.key]
    elif reading.key.startswith(ADVANCE):
        unit, low, high = SPANS["static_again"]
    else:
        return None, None
    if not unit or unit == reading.unit:
        return low, high
    return convert(low, unit, reading.unit), convert(high, unit, reading.unit)


def doubt(reading: Reading, value: Value) -> str:
    """Why a value can hardly be; empty where it can."""
    low, high = span(reading)
    if not is_number(value) or low is None or high is None or low <= value <= high:
        return ""
    return say("refuse.hardly", label=reading.label, value=f"{value:g} {reading.unit}".strip())


def meter_doubt(value: float, last: float | None) -> str:
    """Why a meter can hardly stand there, with what it said last; empty where it can."""
    if last is None:
        return ""
    if value < last:
        return say("refuse.meter_back", value=f"{value:g}", last=f"{last:g}")
    if value > MOST_TIMES * last + ALLOWED:
        return say("refuse.meter_jump", value=f"{value:g}", last=f"{last:g}")
    return ""
