"""What changing the tools in hand costs: one change, and each piece that is exchanged."""

import pytest

from eldrim.core.procedure.model import ChangeCost
from eldrim.core.procedure.whole_job.setup_changes import change_minutes

COST = ChangeCost(change=0.4, piece=0.05)


@pytest.mark.parametrize(
    ("before", "after", "minutes"),
    [
        ((), ("s-10",), 0.45),
        (("s-10",), ("s-10",), 0.0),
        (("s-10", "ratchet"), ("s-13", "ratchet"), 0.5),
        (("s-10", "x-75", "ratchet"), ("s-10", "x-150", "ratchet"), 0.5),
        (("s-10", "ratchet"), ("s-10", "x-75", "ratchet"), 0.45),
        (("s-10", "x-75", "ratchet"), ("p-16", "x-150", "breaker"), 0.7),
    ],
)
def test_only_the_pieces_that_change_are_counted(
    before: tuple[str, ...], after: tuple[str, ...], minutes: float
) -> None:
    """A piece that stays in hand costs nothing; one laid down and one taken up are two."""
    assert change_minutes(COST, before, after) == pytest.approx(minutes)
