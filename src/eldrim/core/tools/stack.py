"""A stack: socket, extensions and handle put together over one head, with what it clears."""

import math
from functools import cached_property
from typing import Literal

from eldrim.core.base.frozen import Frozen
from eldrim.core.tools.demand import TurnAction
from eldrim.core.tools.naming import ToolRef

PieceKind = Literal["socket", "extension", "swivel", "reducer"]
# The handle's underside stays so far above what stands round the well, in mm.
HANDLE_CLEARANCE = 5.0
# What goes down a well stays so far from its wall all round, in mm.
WALL_CLEARANCE = 0.5


class StackPiece(Frozen):
    """One piece, from the head upwards; lengths in mm, ``lean`` in degrees off the well's axis.

    ``offset`` is how far to the side a crow's foot carries what stands on it.
    """

    id: str
    name: str
    kind: PieceKind
    length: float
    outside: float
    lean: float = 0.0
    offset: float = 0.0
    locking: bool = False


class Stack(Frozen):
    """What reaches one head for one act. Lengths in mm; heights count from the rim, up.

    ``length`` is the sum of the pieces; ``rises`` how high the top stands over the rim;
    ``clears`` how much of that is over what stands round; ``room_left`` and ``bore_left`` what is
    free over the handle and beside the widest piece (both walls together), None where free.
    """

    action: TurnAction
    pieces: tuple[StackPiece, ...]
    handle: str = ""
    handle_id: str = ""
    handle_length: float = 0.0
    handle_head: float = 0.0
    drive: str = ""
    below: float
    surround: float
    length: float
    rises: float
    clears: float
    bore: float | None = None
    room: float | None = None
    room_left: float | None = None
    bore_left: float | None = None
    line: float = 0.0
    grip: float = 0.0
    cautions: tuple[str, ...] = ()
    penalty: float = 0.0

    @cached_property
    def tools(self) -> tuple[ToolRef, ...]:
        """The pieces and the handle, in the order they are put together."""
        pieces = [ToolRef(id=piece.id, name=piece.name) for piece in self.pieces]
        handle = [ToolRef(id=self.handle_id, name=self.handle)] if self.handle_id else []
        return (*pieces, *handle)

    @property
    def cost(self) -> float:
        """What it takes by itself: its pieces, and what speaks against it, as pieces."""
        return len(self.pieces) + self.penalty

    @cached_property
    def ids(self) -> tuple[str, ...]:
        """The ids of everything in it: the set-up, as rules compare it."""
        return (*(piece.id for piece in self.pieces), *([self.handle_id] if self.handle_id else []))


def height_over_rim(pieces: tuple[StackPiece, ...], below: float) -> float:
    """How high the top of these pieces stands over the rim, in mm."""
    up = sum(piece.length * math.cos(math.radians(piece.lean)) for piece in pieces)
    return round(up - below, 3)


def widest_inside(pieces: tuple[StackPiece, ...], below: float) -> float:
    """The largest diameter of the pieces that start below the rim, in mm."""
    widest, at = 0.0, -below
    for piece in pieces:
        if at < 0:
            widest = max(widest, piece.outside)
        at += piece.length
    return widest
