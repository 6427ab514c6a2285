"""A photo of the engine laid straight over its plan: from places seen in it that are known.

The map from the photo to the plan is the plainest that the places allow: turned and scaled alike
where they lie in one line, sheared too from three, in perspective from four (a homography, by the
direct linear transformation: Hartley and Zisserman, *Multiple View Geometry*, §4.1, normalised as
in §4.4.4).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext

Point = tuple[float, float]
Matrix = NDArray[np.float64]
FEWEST = 2
# Places whose spread across is less than this share of that along lie in one line.
LINE_SHARE = 0.03
CORNERS = ("upper left", "upper right", "lower right", "lower left")


@dataclass(frozen=True)
class Straightening:
    """How a photo lies over the plan.

    ``to_plan`` maps pixels to millimetres (3 by 3, homogeneous); ``kind`` is what it corrects;
    ``error`` is how far the worst place comes out from where it is known, in mm.
    """

    to_plan: Matrix
    kind: Literal["similarity", "affine", "perspective"]
    error: float
    worst: str


def known_places(engine: Engine) -> dict[str, Point]:
    """The places of a plan that can be found in a photo: its holes, the corners of its block."""
    x, y, width, height = engine.layout.block
    corners = ((x, y), (x + width, y), (x + width, y + height), (x, y + height))
    holes = {hole: well.at for hole, (_, well) in engine.holes.items()}
    return {**holes, **dict(zip(CORNERS, corners, strict=True))}


def straighten(seen: Mapping[str, Point], known: Mapping[str, Point]) -> Straightening:
    """Lay a photo over the plan. ``seen`` are places in it in pixels, ``known`` the same in mm.

    Raises :class:`ProblemsError` for fewer than two places, or where they lie on one another.
    """
    names = sorted(seen)
    if len(names) < FEWEST:
        raise _refused(gettext("marks fewer than two places"), gettext("mark three or four"))
    pixels, plan = (np.array([of[name] for name in names]) for of in (seen, known))
    if min(_spread(pixels)[0], _spread(plan)[0]) < 1.0:
        raise _refused(gettext("the places lie on one another"), gettext("mark each where it is"))
    kind = _kind(pixels, plan)
    to_plan = _FITS[kind](pixels, plan)
    off = np.linalg.norm(_applied(to_plan, pixels) - plan, axis=1)
    worst = int(np.argmax(off))
    return Straightening(to_plan, kind, float(off[worst]), names[worst])


def _refused(said: str, fix: str) -> ProblemsError:
    return ProblemsError([Problem("photo", said, fix)])


def _spread(points: Matrix) -> tuple[float, float]:
    """How far points reach along their line, and across it."""
    along, across = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)[:2]
    return float(along), float(across)


def _kind(pixels: Matrix, plan: Matrix) -> Literal["similarity", "affine", "perspective"]:
    shares = [across / along for along, across in map(_spread, (pixels, plan))]
    if len(pixels) < 3 or min(shares) < LINE_SHARE:
        return "similarity"
    return "affine" if len(pixels) == 3 or not _spans_a_quadrangle(plan) else "perspective"


def _spans_a_quadrangle(plan: Matrix) -> bool:
    """Whether no line holds all places but one: perspective cannot be told from such."""
    for left_out in range(len(plan)):
        along, across = _spread(np.delete(plan, left_out, axis=0))
        if across / along < LINE_SHARE:
            return False
    return True


def _similarity(pixels: Matrix, plan: Matrix) -> Matrix:
    """Turned, scaled and shifted; least squares over complex numbers."""
    seen, known = (points[:, 0] + 1j * points[:, 1] for points in (pixels, plan))
    centred = seen - seen.mean()
    turn = np.vdot(centred, known - known.mean()) / np.vdot(centred, centred)
    shift = known.mean() - turn * seen.mean()
    return np.array(
        [[turn.real, -turn.imag, shift.real], [turn.imag, turn.real, shift.imag], [0, 0, 1]]
    )


def _affine(pixels: Matrix, plan: Matrix) -> Matrix:
    made, *_ = np.linalg.lstsq(_homogeneous(pixels), plan, rcond=None)
    return np.vstack([made.T, [0, 0, 1]])


def _perspective(pixels: Matrix, plan: Matrix) -> Matrix:
    from_pixels, from_plan = _normalising(pixels), _normalising(plan)
    seen, known = _applied(from_pixels, pixels), _applied(from_plan, plan)
    rows = []
    for (x, y), (u, v) in zip(seen, known, strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y, -v])
    made = np.linalg.svd(np.array(rows))[2][-1].reshape(3, 3)
    whole = np.linalg.inv(from_plan) @ made @ from_pixels
    return np.asarray(whole / whole[2, 2])


def _normalising(points: Matrix) -> Matrix:
    """Shifts the middle to nothing and the mean distance from it to the root of two."""
    middle = points.mean(axis=0)
    scale = np.sqrt(2) / np.linalg.norm(points - middle, axis=1).mean()
    return np.array([[scale, 0, -scale * middle[0]], [0, scale, -scale * middle[1]], [0, 0, 1]])


def _homogeneous(points: Matrix) -> Matrix:
    return np.hstack([points, np.ones((len(points), 1))])


def _applied(matrix: Matrix, points: Matrix) -> Matrix:
    mapped = _homogeneous(points) @ matrix.T
    return np.asarray(mapped[:, :2] / mapped[:, 2:])


_FITS = {"similarity": _similarity, "affine": _affine, "perspective": _perspective}
