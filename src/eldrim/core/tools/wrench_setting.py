"""From a torque window to the number on the wrench in hand.

The sums are physics and shop practice (docs/craft.md §7); docs/sums.md writes them out.
"""

import math
from dataclasses import dataclass

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import convert, format_number
from eldrim.core.figures.torque import Window, percent
from eldrim.core.tools.crib import Wrench
from eldrim.core.words import say

# A plug is never tightened through a swivel leaning further than this (docs/craft.md §7).
SWIVEL_LIMIT_DEGREES = 15.0


class Setting(Frozen):
    """What to dial: ``value`` on ``wrench``, inside the setting window ``low`` to ``high``.

    ``wrench`` is what it is called. All numbers are in ``unit``, the wrench's own. ``tolerance`` is
    its share either way; ``factor`` is what an adapter makes of the torque: set = torque × factor.
    """

    wrench_id: str
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
class Adapter:
    """A crow's foot or offset: ``length`` in mm from drive to fastener, ``angle`` in degrees."""

    length: float
    angle: float = 0.0


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
        wrench_id=wrench.id,
        wrench=wrench.shown,
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
        return say("wrench.wider", share=percent(t))
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
