"""From the maker's torque to the number on the wrench in hand: aim, window, setting, angle.

The sums are physics and shop practice (handbook §7, §9, §10); docs/sums.md writes them out.
"""

import math
from dataclasses import dataclass

from eldrim.core.frozen import Frozen
from eldrim.core.quantity import Quantity, convert, format_number
from eldrim.core.tools.crib import Wrench
from eldrim.core.words import ENGLISH, say

# A plug is never tightened through a swivel leaning further than this (handbook §7).
SWIVEL_LIMIT_DEGREES = 15.0


class Setting(Frozen):
    """What to dial: ``value`` on ``wrench``, inside the setting window ``low`` to ``high``.

    All numbers are in ``unit``, the wrench's own. ``tolerance`` is its share either way;
    ``factor`` is what an adapter makes of the torque: set = torque × factor.
    """

    wrench: str
    value: float
    unit: str
    low: float
    high: float
    graduation: float
    tolerance: float = 0.04
    factor: float = 1.0
    due: str = ""

    @property
    def text(self) -> str:
        """The number and unit as they stand on the wrench."""
        return f"{format_number(self.value, 2)} {self.unit}"

    @property
    def truly(self) -> tuple[float, float]:
        """The least and most torque at the fastener with this setting, in ``unit``."""
        torque = self.value / self.factor
        return torque * (1 - self.tolerance), torque * (1 + self.tolerance)


@dataclass(frozen=True)
class Window:
    """Torques that are right, ``low`` to ``high``, and the one to aim at, in N·m.

    ``sum`` says what was done to the printed figure, one line an operation.
    """

    low: float
    high: float
    aim: float
    sum: tuple[str, ...] = ()


@dataclass(frozen=True)
class Adapter:
    """A crow's foot or offset: ``length`` in mm from drive to fastener, ``angle`` in degrees."""

    length: float
    angle: float = 0.0


def aim(low: float, high: float, school: str) -> float:
    """Return the torque to aim at inside a window (handbook §20, tightening)."""
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
        lines.append(
            say(
                "sum.alone",
                printed=printed.text,
                share=_percent(allowance),
                span=_span(low, high, unit),
            )
        )
    wanted = aim(low, high, school)
    named = say("sum.low_third" if school == "low_third" else "sum.mid")
    lines.append(
        say("sum.aim", named=named, span=_span(low, high, unit), aim=_in(wanted, unit), unit=unit)
    )
    if reduction:
        least, dry = floor * low, wanted
        wanted = max(dry * (1 - reduction), least)
        low, high = max(low * (1 - reduction), least), max(high * (1 - reduction), least)
        stopped = wanted > dry * (1 - reduction) + 1e-9
        held = say("sum.held", share=_percent(floor)) if stopped else ""
        lines.append(
            say(
                "sum.lubricated",
                dry=_in(dry, unit),
                share=_percent(reduction),
                held=held,
                wet=_in(wanted, unit),
                unit=unit,
            )
        )
    return Window(low, high, wanted, tuple(lines))


def _span(low: float, high: float, unit: str) -> str:
    return say("sum.span", low=_in(low, unit), high=_in(high, unit), unit=unit)


def _in(torque: float, unit: str) -> str:
    return format_number(convert(torque, "N·m", unit), 2)


def _percent(share: float) -> str:
    return f"{format_number(share * 100, 1)} %"


def adapter_factor(wrench_length: float, adapter: Adapter) -> float:
    """Return set = torque × factor for an adapter: L/(L + E·cos θ), by the law of the lever.

    Lengths in mm: L from the grip to the drive, E from the drive to the fastener. At 90° it is 1.
    """
    reach = wrench_length + adapter.length * math.cos(math.radians(adapter.angle))
    return float(f"{wrench_length / reach:.12g}")


def setting(wanted: Window, wrench: Wrench, adapter: Adapter | None = None) -> Setting | None:
    """Return the graduation nearest the aim that keeps the true torque inside the window.

    A wrench that reads s may give s(1±t); so the setting lies between low/(1−t) and high/(1+t),
    and inside the wrench's trusted range. None when no graduation does.
    """
    factor = 1.0 if adapter is None else adapter_factor(wrench.length.mid, adapter)
    t = wrench.share
    low, high, target = (
        convert(v, "N·m", wrench.unit) * factor for v in (wanted.low, wanted.high, wanted.aim)
    )
    low, high = low / (1 - t), high / (1 + t)
    least, most = max(low, wrench.trusted_from), min(high, wrench.full_scale)
    if wrench.kind == "preset":
        steps = [wrench.preset] if least - 1e-9 <= wrench.preset <= most + 1e-9 else []
    else:
        first = math.ceil(least / wrench.graduation - 1e-9)
        last = math.floor(most / wrench.graduation + 1e-9)
        nearest = min(max(round(target / wrench.graduation), first), last)
        steps = [nearest * wrench.graduation] if first <= last else []
    if not steps:
        return None
    return Setting(
        wrench=wrench.name,
        value=float(f"{steps[0]:.12g}"),
        unit=wrench.unit,
        low=float(f"{low:.9g}"),
        high=float(f"{high:.9g}"),
        graduation=wrench.graduation,
        tolerance=t,
        factor=factor,
        due=wrench.due.isoformat() if wrench.due else "",
    )


def why_not(wanted: Window, wrench: Wrench, adapter: Adapter | None = None) -> str:
    """Say why a wrench cannot be set for a window; empty when it can."""
    if setting(wanted, wrench, adapter) is not None:
        return ""
    factor = 1.0 if adapter is None else adapter_factor(wrench.length.mid, adapter)
    low, high = (convert(v, "N·m", wrench.unit) * factor for v in (wanted.low, wanted.high))
    t, unit = wrench.share, wrench.unit
    if low / (1 - t) > high / (1 + t):
        return say("wrench.wider", share=_percent(t))
    if high / (1 + t) < wrench.trusted_from:
        return say("wrench.from", value=format_number(wrench.trusted_from, 1), unit=unit)
    if low / (1 - t) > wrench.full_scale:
        return say("wrench.ends", value=format_number(wrench.full_scale, 1), unit=unit)
    if wrench.kind == "preset":
        return say("wrench.preset", value=format_number(wrench.preset, 1), unit=unit)
    return say("wrench.graduation", value=format_number(wrench.graduation, 2), unit=unit)


def preference(found: Setting, wanted: Window, wrench: Wrench) -> tuple[bool, float, float, str]:
    """Sort wrenches that can be set: calibrated, nearest the aim in hundredths, then finer."""
    torque = convert(found.value / found.factor, found.unit, "N·m")
    off = round(abs(torque - wanted.aim) / wanted.aim, 2)
    spread = convert(wrench.full_scale, wrench.unit, "N·m") * wrench.share
    return (wrench.lapsed, off, round(spread, 6), wrench.id)


def seating(seat: str, thread: str, used: bool) -> str:
    """Which turn after hand-tight seats a plug: the pattern ``angle.…`` says how far."""
    if seat == "conical":
        return "conical"
    if used:
        return "used"
    return "small" if thread.startswith("M8") else "gasket"


def angle_after_seating(seat: str, thread: str, used: bool) -> str:
    """The turn after hand-tight that seats a plug (shop practice, handbook §9), to be parsed."""
    return ENGLISH[f"angle.{seating(seat, thread, used)}"]
