"""In which order the fasteners of one part are tightened."""

from eldrim.core.engine.parts import Point

STAGES_FROM = 4


def tightening_pattern(places: tuple[Point, ...]) -> tuple[int, ...]:
    """Return the fasteners' numbers (from 1, as listed in the sheet), centre outwards.

    Each next one is the nearest to the centre of those left, taking the far side of the last
    when two are equally near, so that a part is drawn down evenly (docs/craft.md §9).
    """
    if not places:
        return ()
    cx = sum(x for x, _ in places) / len(places)
    cy = sum(y for _, y in places) / len(places)
    left, order = dict(enumerate(places, 1)), list[int]()
    last = (cx, cy)
    while left:
        ring = min(_square(p, (cx, cy)) for p in left.values())
        near = [n for n, p in left.items() if _square(p, (cx, cy)) <= ring * 1.1 + 1]
        chosen = max(near, key=lambda n: (round(_square(left[n], last), 6), -n))
        last = left.pop(chosen)
        order.append(chosen)
    return tuple(order)


def _square(a: Point, b: Point) -> float:
    return (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2
