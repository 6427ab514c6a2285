"""What a hindrance stands in the way of: what is written covers what lies inside it, no more."""

from eldrim.core.engine.targets import Target
from tests.tables import table

HOLE, PLUG, COIL = Target(hole="3"), Target(hole="3", item="plug"), Target(hole="3", item="coil")
CAP, ROTOR, TIMING = Target(item="cap"), Target(item="rotor"), Target(item="timing")
BATTERY, DISTRIBUTOR = Target(item="battery"), Target(item="distributor")
DUCT, OFF = Target(part="duct"), Target(part="duct", way="remove")


@table(
    ("stated", "other", "covers"),
    [
        # A hole covers all that is done at it, an item only itself, and no other hole.
        (HOLE, PLUG, True),
        (HOLE, COIL, True),
        (HOLE, HOLE, True),
        (PLUG, PLUG, True),
        (PLUG, COIL, False),
        (PLUG, HOLE, False),
        (HOLE, Target(hole="5", item="plug"), False),
        (HOLE, CAP, False),
        (HOLE, DUCT, False),
        # The distributor covers all work at it, a piece of it only itself.
        (DISTRIBUTOR, CAP, True),
        (DISTRIBUTOR, ROTOR, True),
        (DISTRIBUTOR, TIMING, True),
        (DISTRIBUTOR, BATTERY, False),
        (CAP, CAP, True),
        (CAP, ROTOR, False),
        (CAP, DISTRIBUTOR, False),
        (BATTERY, BATTERY, True),
        # Work at no hole never covers a hole's item, whatever it is called.
        (Target(item="coil"), COIL, False),
        # A part covers each of its ways, a way only itself.
        (DUCT, OFF, True),
        (OFF, OFF, True),
        (OFF, Target(part="duct", way="shift"), False),
        (OFF, DUCT, False),
        (DUCT, Target(part="plenum", way="remove"), False),
    ],
)
def test_what_a_target_covers(stated: Target, other: Target, covers: bool) -> None:
    """A hindrance of a hole stands in the way of its plug; one of its coil does not."""
    assert stated.covers(other) is covers
