"""What acts take at a hole that is hard to get at, and how minutes are shared out."""

# How much longer an act takes by feel, and in a well that leans (shop practice).
FELT_FACTOR = 1.6
TILTED_FACTOR = 1.2
TILTED_FROM_DEGREES = 15.0


def share(total: float, weights: list[int]) -> list[float]:
    """Split ``total`` minutes by weight into tenths that add up to it exactly."""
    tenths = round(total * 10)
    whole = sum(weights)
    parts = [tenths * weight // whole for weight in weights]
    for index in range(tenths - sum(parts)):
        parts[index % len(parts)] += 1
    return [part / 10 for part in parts]
