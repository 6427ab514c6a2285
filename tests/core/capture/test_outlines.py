"""Corners of a part: moved, put on, taken off, and the whole mirrored to the other side."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import EngineError
from eldrim.core.capture import edits
from eldrim.core.capture.outlines import (
    add_corner,
    crosses_itself,
    drop_corner,
    mirrored,
    move_corner,
)
from eldrim.core.capture.shapes import BY_KEY, Beginning, start
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import PartKind


def drawn(kind: PartKind = PartKind.PLENUM) -> tuple[Engine, str]:
    """A vee six with one part put on."""
    made = start(BY_KEY["vee-six"], Beginning("tarn-six", "Tarn", "six", "aluminium", "road"))
    return edits.add_part(made, kind, (345, 235))


def corners(engine: Engine, key: str) -> list[tuple[float, float]]:
    """The outline of a part."""
    return list(engine.parts[key].outline)


def test_a_corner_moves_by_the_grid_and_lies_on_the_line_of_a_neighbour() -> None:
    """Nearly level with one becomes level with it."""
    made, key = drawn()
    (x, y), right, *_ = corners(made, key)
    moved = move_corner(made, key, 0, (-32, -41))
    assert corners(moved, key)[0] == (x - 30, y - 40)
    level = move_corner(moved, key, 0, (0, 37))
    assert corners(level, key)[0] == (x - 30, right[1]), "on the line of the corner beside it"
    assert check(level) == []


def test_corners_are_put_on_between_two_and_taken_off_again() -> None:
    """An area keeps three, a way two ends; what is not there is told."""
    made, key = drawn()
    before = corners(made, key)
    more = add_corner(made, key, 0, (before[0][0] + 50, before[0][1] - 30))
    assert len(corners(more, key)) == 5
    assert corners(drop_corner(more, key, 1), key) == before
    three = drop_corner(made, key, 3)
    with pytest.raises(EngineError, match="no corner to spare"):
        drop_corner(three, key, 0)
    with pytest.raises(EngineError, match="no such corner"):
        move_corner(made, key, 9, (5, 5))
    loom, way = drawn(PartKind.LOOM)
    two = drop_corner(loom, way, 1)
    with pytest.raises(EngineError, match="no corner to spare"):
        drop_corner(two, way, 0)
    many = made
    for _ in range(36):
        many = halved(many, key)
    with pytest.raises(EngineError, match="at most 40"):
        halved(many, key)


def halved(engine: Engine, key: str) -> Engine:
    """One corner more on the first side."""
    first, second = corners(engine, key)[:2]
    return add_corner(engine, key, 0, ((first[0] + second[0]) / 2, first[1]))


def test_an_area_that_would_cross_itself_is_refused_and_a_way_is_not() -> None:
    """A loom may cross its own line."""
    made, key = drawn()
    (x, y), (right, _), (_, low), _ = corners(made, key)
    with pytest.raises(EngineError, match="cross itself"):
        move_corner(made, key, 0, (right - x + 60, (low - y) / 2))
    assert crosses_itself([(0, 0), (10, 10), (10, 0), (0, 10)])
    assert not crosses_itself([(0, 0), (10, 0), (10, 10), (0, 10)])


def test_mirrored_to_the_other_bank_with_joints_and_ways() -> None:
    """As far beyond the middle of the block; what it hinders there is asked, not copied."""
    made, key = drawn()
    _, y, _, height = made.layout.block
    copy, new = mirrored(made, key)
    middle = y + height / 2
    there = {(px, 2 * middle - py) for px, py in corners(made, key)}
    assert set(corners(copy, new)) == {(px, max(py, 0.0)) for px, py in there}
    assert copy.parts[new].ways == made.parts[key].ways
    assert list(copy.parts[new].joints) == list(made.parts[key].joints)
    assert not [h for h in copy.hindrances if h.part == new]
    assert check(copy) == []


@given(
    place=st.integers(0, 3),
    dx=st.floats(-900, 900, allow_nan=False),
    dy=st.floats(-900, 900, allow_nan=False),
)
def test_whatever_is_pulled_stays_on_the_plan(place: int, dx: float, dy: float) -> None:
    """Or is refused, in words."""
    made, key = drawn()
    width, height = made.layout.plan
    try:
        moved = move_corner(made, key, place, (dx, dy))
    except EngineError:
        return
    assert all(0 <= x <= width and 0 <= y <= height for x, y in corners(moved, key))
    assert not crosses_itself(corners(moved, key))


def test_a_corner_lies_on_the_line_of_another_part_too() -> None:
    """One thereabouts; its own neighbours go first, and a far one draws nothing."""
    made, key = drawn(PartKind.OTHER)
    made = edits.move(made, key, 180, -170)
    made, cover = edits.add_part(made, PartKind.BRACKET, (400, 60))
    edge = max(x for x, _ in made.parts[cover].outline)
    x, _ = made.parts[key].outline[0]
    moved = move_corner(made, key, 0, (edge + 5 - x, 0)).parts[key].outline[0]
    assert moved[0] == edge
    far = edits.move(made, cover, 0, 400)
    there = move_corner(far, key, 0, (edge + 5 - x, 0)).parts[key].outline[0]
    assert there[0] != edge
