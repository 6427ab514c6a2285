"""What an advance curve says once its last point is read (docs/craft.md §16)."""

from eldrim.core.procedure.model import Curve, CurveLimits, Reading
from eldrim.core.run.told import told
from tests.tables import table

POINTS = (("at-1000", 8.0, 12.0), ("at-2000", 16.0, 20.0), ("at-3000", 24.0, 28.0))
CURVE = Curve(
    points=tuple(CurveLimits(key=key, low=low, high=high) for key, low, high in POINTS),
    **{name: name for name in ("stuck", "steps", "tired", "late", "early", "well")},
)
# Back at idle: 6 to 8 degrees.
BACK = Reading(key="back", label="Back at idle", kind="number", low=6, high=8, curve=CURVE)


@table(
    ("read", "back", "says"),
    [
        ((10, 18, 26), 7, "well"),
        # A limit itself is inside, at either end of each point.
        ((8, 16, 24), 7, "well"),
        ((12, 20, 28), 7, "well"),
        # Under at the end: springs or weights; under only on the way: late; over: early.
        ((10, 18, 23), 7, "tired"),
        ((7, 15, 23), 7, "tired"),
        ((7, 18, 26), 7, "late"),
        ((10, 15, 24), 7, "late"),
        ((13, 20, 28), 7, "early"),
        ((10, 18, 29), 7, "early"),
        # Under at one point and over at another: what lacks is told.
        ((7, 21, 26), 7, "late"),
        # It does not come back to idle: that first, whatever the points say.
        ((10, 18, 26), 9, "stuck"),
        ((7, 15, 23), 9, "stuck"),
        # It stands still and then jumps.
        ((10, 10.5, 26), 7, "steps"),
        # A point that is not read yet: nothing is said.
        ((10, None, 26), 7, ""),
    ],
)
def test_what_a_curve_says(read: tuple[float | None, ...], back: float, says: str) -> None:
    """Told at the reading that closes it."""
    values = dict(zip((key for key, _, _ in POINTS), read, strict=True))
    assert told(BACK, back, values.get) == says
