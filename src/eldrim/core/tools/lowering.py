"""How a stack goes down a well and comes out again under the room there is above it.

In one piece where its whole length stands over the rim with room to spare; else piece after piece,
each put on the last one in the well. What lies below the rim then has to lock, or it stays behind.
Lengths in mm. Source: geometry; shop practice, docs/craft.md §7.
"""

from enum import StrEnum

from eldrim.core.tools.demand import Demand
from eldrim.core.tools.stack import StackPiece

# A square goes so far into the piece below it.
ENGAGED = 8.0


class Lowered(StrEnum):
    """How a stack gets in and out."""

    WHOLE = "whole"
    IN_PIECES = "in_pieces"
    NOT_AT_ALL = "not_at_all"


def way_in_for(pieces: tuple[StackPiece, ...], demand: Demand) -> Lowered:
    """Say how these pieces, from the head upwards, get in and out."""
    if demand.room is None or not demand.below:
        return Lowered.WHOLE
    if sum(piece.length for piece in pieces) <= demand.room:
        return Lowered.WHOLE
    return Lowered.NOT_AT_ALL if too_long(pieces, demand) > 0 else Lowered.IN_PIECES


def too_long(pieces: tuple[StackPiece, ...], demand: Demand) -> float:
    """By how much the worst piece is too long to be brought in; 0 where each one fits."""
    assert demand.room is not None
    worst, top = 0.0, -demand.below
    for piece in pieces:
        # Over the rim a piece is put on from the side, below it from above.
        start = max(0.0, top - ENGAGED)
        worst = max(worst, start + piece.length - demand.room)
        top += piece.length
    return worst


def leaves_behind(pieces: tuple[StackPiece, ...], demand: Demand) -> str:
    """The piece that does not lock and would leave what is below it down the well, by name."""
    if way_in_for(pieces, demand) is not Lowered.IN_PIECES:
        return ""
    return next((p.name for p in pieces if p.kind == "extension" and not p.locking), "")
