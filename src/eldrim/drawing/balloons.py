"""Where the numbered balloons round a drawing go, so that none overlap."""

import math

Point = tuple[float, float]
Box = tuple[float, float, float, float]


def place(anchors: dict[str, Point], frame: Box, gap: float = 40.0) -> dict[str, Point]:
    """Return a place on the frame's edge for each anchor, near it and at least ``gap`` apart.

    ``frame`` is x, y, width, height; places are spread along its edge, keeping their order, so
    leader lines do not cross each other needlessly.
    """
    _, _, width, height = frame
    around = 2 * (width + height)
    wanted = {k: _along(_project(anchor, frame), frame) for k, anchor in anchors.items()}
    keys = sorted(wanted, key=lambda k: (wanted[k], k))
    spots = _spread([wanted[k] for k in keys], min(gap, around / max(len(keys), 1)), around)
    return {k: _at(s % around, frame) for k, s in zip(keys, spots, strict=True)}


def _project(point: Point, frame: Box) -> Point:
    """The nearest point on the frame's edge."""
    x, y, width, height = frame
    px, py = min(max(point[0], x), x + width), min(max(point[1], y), y + height)
    distances = {"l": px - x, "r": x + width - px, "t": py - y, "b": y + height - py}
    side = min(distances, key=lambda distance: (distances[distance], distance))
    return {"l": (x, py), "r": (x + width, py), "t": (px, y), "b": (px, y + height)}[side]


def _along(point: Point, frame: Box) -> float:
    x, y, width, height = frame
    if math.isclose(point[1], y):
        return point[0] - x
    if math.isclose(point[0], x + width):
        return width + point[1] - y
    if math.isclose(point[1], y + height):
        return width + height + (x + width - point[0])
    return 2 * width + height + (y + height - point[1])


def _spread(wanted: list[float], gap: float, around: float) -> list[float]:
    """Push apart to ``gap``, moving as little as possible (least squares, by pooling).

    Where the row would meet its own tail round the frame, it is spaced evenly instead.
    """
    pools: list[tuple[float, int]] = []
    for index, spot in enumerate(wanted):
        total, size = spot - index * gap, 1
        while pools and pools[-1][0] / pools[-1][1] >= total / size:
            before = pools.pop()
            total, size = total + before[0], size + before[1]
        pools.append((total, size))
    level = [total / size for total, size in pools for _ in range(size)]
    spots = [base + index * gap for index, base in enumerate(level)]
    if spots and spots[-1] - spots[0] > around - gap:
        return [spots[0] + index * around / len(spots) for index in range(len(spots))]
    return spots


def _at(distance: float, frame: Box) -> Point:
    x, y, width, height = frame
    if distance <= width:
        return (x + distance, y)
    if distance <= width + height:
        return (x + width, y + distance - width)
    if distance <= 2 * width + height:
        return (x + width - (distance - width - height), y + height)
    return (x, y + height - (distance - 2 * width - height))
