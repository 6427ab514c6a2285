"""From the maker's torque to the number on the wrench in hand."""

import math

from eldrim.core.frozen import Frozen
from eldrim.core.quantity import Quantity, convert, format_number


class Wrench(Frozen):
    """A click wrench: full scale and graduation in its own unit, tolerance as a fraction."""

    name: str
    unit: str
    full_scale: float
    graduation: float
    drive: str
    tolerance: float = 0.04

    @property
    def lowest(self) -> float:
        """Below a fifth of full scale a click wrench is not trusted (handbook §7)."""
        return 0.2 * self.full_scale


class Setting(Frozen):
    """What to dial: ``value`` on ``wrench``, inside the setting window ``low`` to ``high``."""

    wrench: str
    value: float
    unit: str
    low: float
    high: float
    graduation: float

    @property
    def text(self) -> str:
        """The number and unit as they stand on the wrench."""
        return f"{format_number(self.value, 2)} {self.unit}"


SHOP_WRENCHES = (
    Wrench(name="torque wrench ¼ in, 4 to 20 N·m", unit="N·m", full_scale=20, graduation=0.2,
           drive="1/4"),
    Wrench(name="torque wrench ⅜ in, 10 to 50 N·m", unit="N·m", full_scale=50, graduation=0.5,
           drive="3/8"),
    Wrench(name="torque wrench ½ in, 40 to 200 N·m", unit="N·m", full_scale=200, graduation=1,
           drive="1/2"),
)  # fmt: skip


def aim(window: Quantity, school: str) -> float:
    """Return the torque to aim at inside the window, in N·m (handbook §20, tightening)."""
    share = 1 / 3 if school == "low_third" else 0.5
    return float(f"{window.low + share * (window.high - window.low):.12g}")


def setting(window: Quantity, wanted: float, wrench: Wrench) -> Setting | None:
    """Return the graduation nearest ``wanted`` (N·m) that keeps the true torque in ``window``.

    A wrench that reads s may give s(1±t); so s lies between low/(1−t) and high/(1+t). A single
    printed value is held to within the wrench's own tolerance. None when nothing fits.
    """
    low, high = (convert(v, "N·m", wrench.unit) for v in (window.low, window.high))
    if window.is_range:
        low, high = low / (1 - wrench.tolerance), high / (1 + wrench.tolerance)
    else:
        low, high = low - wrench.graduation / 2, high + wrench.graduation / 2
    low, high = max(low, wrench.lowest), min(high, wrench.full_scale)
    first = math.ceil(low / wrench.graduation - 1e-9)
    last = math.floor(high / wrench.graduation + 1e-9)
    if first > last:
        return None
    target = convert(wanted, "N·m", wrench.unit) / wrench.graduation
    step = min(range(first, last + 1), key=lambda n: (abs(n - target), n))
    value = float(f"{step * wrench.graduation:.12g}")
    return Setting(
        wrench=wrench.name, value=value, unit=wrench.unit, low=low, high=high,
        graduation=wrench.graduation,
    )  # fmt: skip


def best_setting(window: Quantity, wanted: float, drive: str) -> tuple[Wrench, Setting] | None:
    """Return the smallest of the shop's wrenches of this drive that can be set for ``window``."""
    for wrench in SHOP_WRENCHES:
        found = setting(window, wanted, wrench) if wrench.drive == drive else None
        if found is not None:
            return wrench, found
    return None


def angle_after_seating(seat: str, thread: str, used: bool) -> str:
    """Return the turn after hand-tight that seats a plug (shop practice, handbook §9)."""
    if seat == "conical":
        return "1/16 turn"
    if used:
        return "1/12 turn"
    return "1/3 turn" if thread.startswith("M8") else "1/2 to 2/3 turn"
