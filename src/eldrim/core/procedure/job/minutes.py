"""What acts take at a hole that is hard to get at, and how minutes are shared out."""

from eldrim.core.base.quantity import format_number

# How much longer an act takes by feel, and in a well that leans (shop practice).
FELT_FACTOR = 1.6
TILTED_FACTOR = 1.2
TILTED_FROM_DEGREES = 15.0


def share(total: float, weights: list[int]) -> list[float]:
    """Split ``total`` minutes by weight into tenths, at least one each, that add up to it.

    Where there are more shares than tenths, each is a tenth and the sum is larger.
    """
    tenths = max(round(total * 10), len(weights)) - len(weights)
    whole = sum(weights)
    parts = [tenths * weight // whole for weight in weights]
    for index in range(tenths - sum(parts)):
        parts[index % len(parts)] += 1
    return [(part + 1) / 10 for part in parts]


def minutes_number(value: float) -> str:
    """Minutes as every page and paper prints them: whole, and under ten with a tenth."""
    return format_number(value, 0 if value >= 10 else 1)
