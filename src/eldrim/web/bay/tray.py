"""The tray on the bay's screen: the holes laid out as the engine lies."""

from eldrim.core.engine import Engine

# Holes closer than a plug's width stand in one line.
SAME_LINE_MM = 25.0


def tray_of(engine: Engine) -> dict[str, tuple[int, int]]:
    """Column and row of each hole, counted from one, as seen on the engine's plan."""
    places = {hole: well.at for hole, (_, well) in engine.holes.items()}
    columns, rows = (_lines([place[axis] for place in places.values()]) for axis in (0, 1))
    return {
        hole: (_nearest(columns, place[0]), _nearest(rows, place[1]))
        for hole, place in places.items()
    }


def _lines(values: list[float]) -> list[float]:
    """The values, with those that stand closer than a plug's width taken together."""
    found: list[float] = []
    for value in sorted(values):
        if not found or value - found[-1] > SAME_LINE_MM:
            found.append(value)
    return found


def _nearest(lines: list[float], value: float) -> int:
    return min(range(len(lines)), key=lambda i: abs(lines[i] - value)) + 1
