"""From the maker's torque to the window and the aim, and the angle where no wrench is used.

The sums are physics and shop practice (docs/craft.md §7, §9, §10); docs/sums.md writes them out.
"""

from dataclasses import dataclass

from eldrim.core.base.quantity import Quantity, convert, format_number
from eldrim.core.words import say

# Turns after hand-tight that seat a plug (shop practice, docs/craft.md §9).
SEATING_TURNS = {
    "conical": "1/16 turn",
    "used": "1/12 turn",
    "small": "1/3 turn",
    "gasket": "1/2 to 2/3 turn",
}


@dataclass(frozen=True)
class Window:
    """Torques that are right, ``low`` to ``high``, and the one to aim at, in N·m.

    ``sum`` says what was done to the printed figure, one line an operation.
    """

    low: float
    high: float
    aim: float
    sum: tuple[str, ...] = ()


def aim(low: float, high: float, school: str) -> float:
    """Return the torque to aim at inside a window (docs/craft.md §20, tightening)."""
    share = 1 / 3 if school == "low_third" else 0.5
    return float(f"{low + share * (high - low):.12g}")


def window(
    printed: Quantity, school: str, allowance: float, reduction: float = 0.0, floor: float = 0.0
) -> Window:
    """Return the window and aim for a printed torque.

    ``allowance`` is the share either way by which a single printed value is read as a range;
    ``reduction`` the share taken off for a lubricated thread; ``floor`` the share of the printed
    lower limit that aim and window never go below. All shares are of one.
    """
    unit, low, high = printed.unit, printed.low, printed.high
    lines = []
    if not printed.is_range:
        low, high = low * (1 - allowance), high * (1 + allowance)
        span, share = _span(low, high, unit), percent(allowance)
        lines.append(say("sum.alone", printed=printed.text, share=share, span=span))
    wanted = aim(low, high, school)
    named = say("sum.low_third" if school == "low_third" else "sum.mid")
    span = _span(low, high, unit)
    lines.append(say("sum.aim", named=named, span=span, aim=_in(wanted, unit), unit=unit))
    dry = Window(low, high, wanted, tuple(lines))
    return _lubricated(dry, unit, reduction, floor) if reduction else dry


def _lubricated(dry: Window, unit: str, reduction: float, floor: float) -> Window:
    """A window for a lubricated thread: all of it lower, but never below the floor."""
    least = floor * dry.low
    low, high, wet = (max(value * (1 - reduction), least) for value in (dry.low, dry.high, dry.aim))
    stopped = wet > dry.aim * (1 - reduction) + 1e-9
    line = say(
        "sum.lubricated",
        dry=_in(dry.aim, unit),
        share=percent(reduction),
        held=say("sum.held", share=percent(floor)) if stopped else "",
        wet=_in(wet, unit),
        unit=unit,
    )
    return Window(low, high, wet, (*dry.sum, line))


def _span(low: float, high: float, unit: str) -> str:
    return say("sum.span", low=_in(low, unit), high=_in(high, unit), unit=unit)


def _in(torque: float, unit: str) -> str:
    return format_number(convert(torque, "N·m", unit), 2)


def percent(share: float) -> str:
    return f"{format_number(share * 100, 1)} %"


def seating(seat: str, thread: str, used: bool) -> str:
    """Which turn after hand-tight seats a plug: the pattern ``angle.…`` says how far."""
    if seat == "conical":
        return "conical"
    if used:
        return "used"
    return "small" if thread.startswith("M8") else "gasket"


def angle_after_seating(seat: str, thread: str, used: bool) -> str:
    """The turn after hand-tight that seats a plug (docs/craft.md §9), to be parsed."""
    return SEATING_TURNS[seating(seat, thread, used)]
