"""By how much nothing reached: the stack that came nearest, in words."""

from eldrim.core.base.quantity import format_number
from eldrim.core.tools.crib import Handle, Wrench
from eldrim.core.tools.demand import Demand
from eldrim.core.tools.lowering import Lowered, too_long, way_in_for
from eldrim.core.tools.stack import (
    HANDLE_CLEARANCE,
    WALL_CLEARANCE,
    StackPiece,
    height_over_rim,
    widest_inside,
)
from eldrim.core.words import say

# Lengths this close are equal.
EPSILON_MM = 1e-9


class NearestMiss:
    """Remembers the stack that came nearest, for saying by how much nothing reached."""

    def __init__(self) -> None:
        """Nothing has been tried yet."""
        self.short = self.tall = self.wide = self.long = float("inf")

    def admits(
        self, pieces: tuple[StackPiece, ...], demand: Demand, handle: Handle | Wrench
    ) -> bool:
        """Whether a stack reaches and clears; if not, it is remembered by what it lacks."""
        rises = height_over_rim(pieces, demand.below)
        short = demand.surround + HANDLE_CLEARANCE - rises if demand.below or demand.surround else 0
        wide = 0.0
        if demand.bore is not None:
            inside = widest_inside(pieces, demand.below)
            wide = inside + 2 * WALL_CLEARANCE - demand.bore
        head = 0.0 if pieces[0].offset else handle.head.mid
        tall = rises + head - demand.room if demand.room is not None else 0.0
        if short > EPSILON_MM:
            self.short = min(self.short, short)
        elif wide > EPSILON_MM:
            self.wide = min(self.wide, wide)
        elif tall > EPSILON_MM:
            self.tall = min(self.tall, tall)
        if max(short, wide, tall) > EPSILON_MM:
            return False
        if way_in_for(pieces, demand) is Lowered.NOT_AT_ALL:
            self.long = min(self.long, too_long(pieces, demand))
            return False
        return True

    def words(self, demand: Demand) -> str:
        """Why nothing did, by the stack that came furthest."""
        if self.long < float("inf"):
            return say("reach.entry", by=in_mm(self.long))
        if self.tall < float("inf"):
            return say("reach.tall", by=in_mm(self.tall))
        if self.wide < float("inf"):
            return say("reach.wide", by=in_mm(self.wide))
        if self.short < float("inf"):
            return say("reach.short", by=in_mm(self.short))
        if demand.line > 0:
            return say("reach.leans", line=in_mm(demand.line))
        return say("reach.no_match")


def in_mm(value: float) -> str:
    """A length of a sentence, to a tenth."""
    return format_number(value, 1)
