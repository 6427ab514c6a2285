"""The gap adviser: what to do with this plug next, and when a worn gap leaves its range."""

from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Quantity, convert, format_number
from eldrim.core.figures.limits import limits, side
from eldrim.core.words import say
from eldrim.core.words.messages import gettext

# Each reversal weakens the strap; past these a plug is not made good again (docs/craft.md §8).
MAX_REVERSALS = 3
MAX_MOVED_MM = 0.3
STEP_MM = 0.05
# What a set of gap wires is stepped by.
GAUGE_STEP_MM = 0.05


class GapAction(StrEnum):
    """What to do next."""

    MEASURE = "measure"
    FIT = "fit"
    OPEN = "open"
    CLOSE = "close"
    RETURN = "return"
    REJECT = "reject"


class Verdict(StrEnum):
    """How a reading stands to its range, the gauge's resolution respected."""

    IN = "in"
    AT_LIMIT = "at limit"
    UNDER = "under"
    OVER = "over"


# How far a gap printed as one number is read either way, by the house's school (docs/craft.md §20).
SINGLE_GAP_MM = {"pm_005": 0.05, "pm_01": 0.1, "as_source": 0.0}
# The steps of the gauges that go with each unit a gap is printed in.
_GAUGE_OF_UNIT = {"mm": 0.01, "cm": 0.001, "in": 0.001, "thou": 1.0}


def gap_limits(value: Quantity, school: str) -> tuple[float, float]:
    """The limits of a printed gap, in its own unit.

    A range is its own; one number is read with the house's allowance, rounded to a step of the
    gauge that its source is printed for.
    """
    low, high = (convert(end, "mm", value.unit) for end in (value.low, value.high))
    allowance = SINGLE_GAP_MM[school]
    if value.is_range or not allowance:
        return low, high
    step = _GAUGE_OF_UNIT[value.unit]
    by = round(convert(allowance, "mm", value.unit) / step) * step
    return float(f"{low - by:.6g}"), float(f"{high + by:.6g}")


class Advice(Frozen):
    """The next action. ``by`` and ``to`` are in mm; ``moved``, ``reversals`` count what was done.

    ``least`` and ``most`` bound where the strap may be taken from here; ``sum`` shows the count.
    """

    action: GapAction
    words: str
    verdict: Verdict | None = None
    by: float = 0.0
    to: float = 0.0
    reversals: int = 0
    moved: float = 0.0
    sum: str = ""


@dataclass(frozen=True)
class GapRange:
    """Limits and aim in mm, and the step of the gauge in hand."""

    low: float
    high: float
    aim: float
    resolution: float = GAUGE_STEP_MM


def judge(reading: float, wanted: GapRange) -> Verdict:
    """Judge one reading in mm: what the gauge cannot tell from outside is *at limit*, not in."""
    tested = limits(wanted.low, wanted.high, wanted.resolution)
    outside = side(tested.accepted, reading)
    if outside:
        return Verdict(outside)
    return Verdict.AT_LIMIT if side(tested.certain, reading) else Verdict.IN


def advise(
    construction: str,
    wanted: GapRange,
    readings: tuple[float, ...],
    *,
    used: bool = False,
    maker_allows: bool = False,
    damaged: bool = False,
) -> Advice:
    """Say what to do with a plug after these readings in mm, the first as supplied or found.

    ``construction`` is nickel, multi_ground, fine_wire or surface_gap; ``used`` that the plug has
    run, so a wide gap is wear; ``maker_allows`` that the maker lets a fine-wire strap be set;
    ``damaged`` that tip or insulator is not whole.
    """
    if damaged:
        return Advice(action=GapAction.REJECT, words=say("gap.scrap"))
    if not readings:
        return Advice(action=GapAction.MEASURE, words=say("gap.measure", gauge=gauge(construction)))
    reversals, moved = _history(readings)
    verdict = judge(readings[-1], wanted)
    count = {
        "verdict": verdict,
        "reversals": reversals,
        "moved": moved,
        "sum": _count(readings, reversals, moved),
    }
    grace = wanted.resolution / 2 + 1e-9
    if moved > MAX_MOVED_MM + grace or reversals > MAX_REVERSALS:
        return Advice(action=GapAction.REJECT, words=_worn_out(reversals, moved), **count)
    if verdict is Verdict.IN:
        return Advice(action=GapAction.FIT, words=say("gap.fit"), **count)
    if used and len(readings) == 1 and verdict is Verdict.OVER:
        return Advice(action=GapAction.REJECT, words=say("gap.worn"), **count)
    if construction != "nickel" and not (construction == "fine_wire" and maker_allows):
        action, words = _not_adjustable(construction, verdict)
        return Advice(action=action, words=words, **count)
    if reversals == MAX_REVERSALS:
        return Advice(action=GapAction.REJECT, words=_worn_out(reversals, moved), **count)
    return _move(readings[-1], wanted, moved, count)


def gauge(construction: str) -> str:
    """The gauge that may touch this construction."""
    return say("gap.gauge.fine" if construction == "fine_wire" else "gap.gauge")


def _history(readings: tuple[float, ...]) -> tuple[int, float]:
    """Reversals of direction and total movement in mm over a series of readings."""
    moves = [round(b - a, 4) for a, b in pairwise(readings) if abs(b - a) > 1e-9]
    reversals = sum(a * b < 0 for a, b in pairwise(moves))
    return reversals, round(sum(map(abs, moves)), 4)


def _count(readings: tuple[float, ...], reversals: int, moved: float) -> str:
    if len(readings) < 2:
        return ""
    steps = " → ".join(format_number(reading, 3) for reading in readings)
    turned = say("gap.turned.one" if reversals == 1 else "gap.turned", count=reversals)
    return say("gap.count", steps=steps, moved=format_number(moved, 3), turned=turned)


def _worn_out(reversals: int, moved: float) -> str:
    if reversals <= MAX_REVERSALS and moved > MAX_MOVED_MM:
        return say("gap.moved", most=format_number(MAX_MOVED_MM, 1))
    return say("gap.weakened", count=reversals)


def _not_adjustable(construction: str, verdict: Verdict) -> tuple[GapAction, str]:
    """What nothing may be bent on: at the limit is measured again and kept so, outside is not."""
    why = say(f"gap.fixed.{construction}")
    if verdict is Verdict.AT_LIMIT:
        return GapAction.MEASURE, say("gap.limit", why=why)
    return GapAction.RETURN, say("gap.return", why=why)


def nearest_safe(reading: float, wanted: GapRange) -> float:
    """The nearest gap in mm that a gauge tells from the limits: half a step inside, or the middle
    of a range narrower than that.
    """
    half = wanted.resolution / 2
    low, high = wanted.low + half, wanted.high - half
    if low >= high:
        return round((wanted.low + wanted.high) / 2, 4)
    return round(min(max(reading, low), high), 4)


def _move(reading: float, wanted: GapRange, moved: float, count: dict[str, object]) -> Advice:
    goal = nearest_safe(reading, wanted)
    by = round(goal - reading, 4)
    if moved + abs(by) > MAX_MOVED_MM + wanted.resolution / 2 + 1e-9:
        words = say(
            "gap.too_far", by=format_number(abs(by), 2), most=format_number(MAX_MOVED_MM, 1)
        )
        return Advice.model_validate({"action": GapAction.REJECT, "words": words, **count})
    opening = by > 0
    small = abs(by) > STEP_MM + 1e-9
    stages = say("gap.stages", step=format_number(STEP_MM, 2)) if small else ""
    words = say("gap.open" if opening else "gap.close", by=format_number(abs(by), 3), stages=stages)
    action = GapAction.OPEN if opening else GapAction.CLOSE
    return Advice.model_validate(
        {"action": action, "words": words, "by": abs(by), "to": goal, **count}
    )


class Wear(Frozen):
    """How a gap grows: mm per thousand of the meter, and the meter where it leaves the range.

    ``out`` tells that it has left it already.
    """

    rate: float
    leaves_at: float | None
    out: bool = False
    sum: tuple[str, ...]


def wear(fitted: tuple[float, float], found: tuple[float, float], limit: float) -> Wear | None:
    """Return the wear between (meter, gap in mm) when fitted and when found.

    None when the meter did not move. ``leaves_at`` is None when the gap did not grow.
    """
    run, grown = found[0] - fitted[0], found[1] - fitted[1]
    if run <= 0:
        return None
    rate = grown / run * 1000
    first = gettext(
        "({found} − {fitted}) mm ÷ {run} = {rate} mm per thousand",
        found=format_number(found[1], 3),
        fitted=format_number(fitted[1], 3),
        run=format_number(run, 0),
        rate=format_number(rate, 4),
    )
    if found[1] > limit + 1e-9:
        over = gettext(
            "{found} mm is over {limit} mm already",
            found=format_number(found[1], 3),
            limit=format_number(limit, 3),
        )
        return Wear(rate=round(rate, 6), leaves_at=None, out=True, sum=(first, over))
    if grown <= 0:
        return Wear(
            rate=round(rate, 6), leaves_at=None, sum=(first, gettext("the gap has not grown"))
        )
    leaves = found[0] + (limit - found[1]) / rate * 1000
    second = (
        f"{format_number(found[0], 0)} + ({format_number(limit, 3)} − "
        f"{format_number(found[1], 3)}) ÷ {format_number(rate, 4)} × 1000 = "
        f"{format_number(leaves, 0)}"
    )
    return Wear(rate=round(rate, 6), leaves_at=round(leaves, 1), sum=(first, second))
