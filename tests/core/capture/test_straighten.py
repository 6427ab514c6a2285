"""A photo is laid over the plan from places that are known in it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.capture.straighten import known_places, straighten
from tests.builders import tug

Point = tuple[float, float]
# Two banks of three holes, in mm.
BANKS = {str(n): (150.0 + 110 * (n // 2), 80.0 + 160 * (n % 2)) for n in range(6)}


def seen_through(matrix: np.ndarray, places: dict[str, Point]) -> dict[str, Point]:
    """Where a camera sees places of the plan: the inverse of what lays its photo straight."""
    back = np.linalg.inv(matrix)
    found = {}
    for name, (x, y) in places.items():
        u, v, w = back @ (x, y, 1)
        found[name] = (float(u / w), float(v / w))
    return found


@given(
    turn=st.floats(-3.1, 3.1),
    scale=st.floats(0.2, 3),
    lean=st.tuples(st.floats(-3e-4, 3e-4), st.floats(-3e-4, 3e-4)),
    shear=st.floats(-0.3, 0.3),
)
def test_four_places_and_more_give_back_any_view(
    turn: float, scale: float, lean: Point, shear: float
) -> None:
    """Turned, scaled, sheared, leaning: every other place comes out where it is."""
    cos, sin = scale * np.cos(turn), scale * np.sin(turn)
    matrix = np.array([[cos, -sin + shear * scale, 40], [sin, cos, -25], [lean[0], lean[1], 1]])
    if abs(np.linalg.det(matrix)) < 1e-3:
        return
    seen = seen_through(matrix, BANKS)
    given_places = {name: seen[name] for name in "0123"}
    found = straighten(given_places, BANKS)
    assert found.kind == "perspective"
    for name, (x, y) in BANKS.items():
        u, v, w = found.to_plan @ (*seen[name], 1)
        assert (u / w, v / w) == pytest.approx((x, y), abs=0.01)


def test_three_places_give_a_sheared_view_and_two_a_turned_one() -> None:
    """As much as can be told from so few."""
    sheared = np.array([[0.5, 0.1, 3], [0.05, 0.6, 9], [0, 0, 1]])
    seen = seen_through(sheared, BANKS)
    three = straighten({name: seen[name] for name in "012"}, BANKS)
    assert three.kind == "affine"
    assert three.to_plan == pytest.approx(sheared, abs=1e-6)
    two = straighten({"0": (100, 100), "2": (100, 320)}, BANKS)
    assert two.kind == "similarity"
    assert two.error == pytest.approx(0, abs=1e-9)


def test_holes_in_one_line_are_turned_and_scaled() -> None:
    """An inline engine says nothing of how the camera leaned; its block's corners do."""
    line = {str(n): (100.0 + 90 * n, 150.0) for n in range(4)}
    matrix = np.array([[0.5, -0.2, 7], [0.2, 0.5, 1], [0, 0, 1]])
    found = straighten(seen_through(matrix, line), line)
    assert found.kind == "similarity"
    assert found.to_plan == pytest.approx(matrix, abs=1e-6)


def test_a_place_marked_wrongly_is_named() -> None:
    """The one that is farthest from where it is known."""
    seen = seen_through(np.diag([0.5, 0.5, 1]), BANKS)
    seen["4"] = (seen["4"][0] + 300, seen["4"][1])
    found = straighten(seen, BANKS)
    assert found.error > 20


@pytest.mark.parametrize("seen", [{}, {"0": (1, 1)}, {"0": (5, 5), "1": (5, 5), "2": (5, 5)}])
def test_too_little_is_refused_in_words(seen: dict[str, Point]) -> None:
    """With what to do about it."""
    with pytest.raises(ProblemsError) as refused:
        straighten(seen, BANKS)
    assert refused.value.problems[0].fix


def test_holes_and_the_corners_of_the_block_can_be_marked() -> None:
    """As the sheet has them."""
    places = known_places(tug())
    assert {"1", "6", "upper left", "lower right"} <= set(places)
    x, y, width, height = tug().layout.block
    assert places["lower right"] == (x + width, y + height)
