"""A stack put together from the head up, with its handle and what speaks against it."""

from typing import NamedTuple

from eldrim.core.tools.crib import Extension, Handle, Reducer, Socket, Swivel, Wrench
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import Fit
from eldrim.core.tools.stack import PieceKind, Stack, StackPiece, height_over_rim, widest_inside
from eldrim.core.tools.stack_drawbacks import (
    Drawback,
    entry_drawbacks,
    handle_drawbacks,
    socket_drawbacks,
)

Piece = Socket | Extension | Swivel | Reducer


class Assembled(NamedTuple):
    """Pieces put together under a handle, with all that speaks against them."""

    pieces: tuple[StackPiece, ...]
    socket: Socket
    handle: Handle | Wrench
    drawbacks: tuple[Drawback, ...]

    @property
    def ids(self) -> tuple[str, ...]:
        """The ids of everything in it."""
        return (*(piece.id for piece in self.pieces), self.handle.id)

    @property
    def penalty(self) -> float:
        """What speaks against it, as pieces."""
        return round(sum(drawback.penalty for drawback in self.drawbacks), 3)


def put_together(
    action: TurnAction,
    demand: Demand,
    pieces: tuple[StackPiece, ...],
    socket: Socket,
    fitting: Fit,
    handle: Handle | Wrench,
) -> Assembled:
    """Pieces under a handle, held against what is asked."""
    drawbacks = (
        *entry_drawbacks(pieces, demand),
        *socket_drawbacks(demand, pieces, socket, fitting),
        *handle_drawbacks(action, demand, handle),
    )
    return Assembled(pieces, socket, handle, drawbacks)


class Pieces:
    """The pieces of one crib as parts of a stack, in the language in use; each made once."""

    def __init__(self) -> None:
        """Begin with none."""
        self._made: dict[tuple[str, PieceKind, float], StackPiece] = {}
        self._names: dict[str, str] = {}

    def of(
        self,
        socket: Socket,
        joint: Swivel | None,
        extensions: tuple[Extension, ...],
        reducer: Reducer | None,
        demand: Demand,
    ) -> tuple[StackPiece, ...] | None:
        """Socket, extensions and joint from the head up; a joint stands where it has left the
        well, and where it never does there is no such stack.
        """
        if joint is not None and any(e.id == joint.id for e in extensions):
            return None
        made = [self._piece(socket, "socket")]
        lean, waiting = 0.0, joint
        for extension in sorted(extensions, key=lambda e: -e.length.mid):
            if waiting and sum(piece.length for piece in made) >= demand.below:
                made.append(self._piece(waiting, "swivel"))
                lean, waiting = demand.line, None
            made.append(self._piece(extension, "extension", lean))
        if waiting:
            if sum(piece.length for piece in made) < demand.below:
                return None
            made.append(self._piece(waiting, "swivel"))
            lean = demand.line
        if reducer:
            made.append(self._piece(reducer, "reducer", lean))
        return tuple(made)

    def completed(
        self, action: TurnAction, demand: Demand, assembled: "Assembled", penalty: float
    ) -> Stack:
        """The stack with its handle, the room it leaves, and all that speaks against it;
        ``penalty`` is what that is worth, as pieces.
        """
        pieces, socket, handle, drawbacks = assembled
        rises = height_over_rim(pieces, demand.below)
        over = 0.0 if socket.offset else handle.head.mid
        wide = widest_inside(pieces, demand.below)
        return Stack(
            action=action,
            pieces=pieces,
            handle=self._name(handle),
            handle_id=handle.id,
            handle_length=handle.length.mid,
            handle_head=handle.head.mid,
            drive=handle.drive,
            below=demand.below,
            surround=demand.surround,
            length=round(sum(piece.length for piece in pieces), 3),
            rises=rises,
            clears=round(rises - demand.surround, 3),
            bore=demand.bore,
            room=demand.room,
            room_left=None if demand.room is None else round(demand.room - rises - over, 3),
            bore_left=None if demand.bore is None else round(demand.bore - wide, 3),
            line=demand.line,
            grip=demand.height,
            penalty=penalty,
            cautions=tuple(drawback.caution for drawback in drawbacks if drawback.caution),
        )

    def _name(self, handle: Handle | Wrench) -> str:
        if handle.id not in self._names:
            self._names[handle.id] = handle.shown
        return self._names[handle.id]

    def _piece(self, tool: Piece, kind: PieceKind, lean: float = 0.0) -> StackPiece:
        key = (tool.id, kind, lean)
        if key not in self._made:
            self._made[key] = _piece(tool, kind, lean)
        return self._made[key]


def _piece(tool: Piece, kind: PieceKind, lean: float) -> StackPiece:
    return StackPiece(
        id=tool.id,
        name=tool.shown,
        kind=kind,
        length=tool.length.mid,
        outside=tool.outside.mid,
        lean=lean,
        offset=_sideways(tool),
        locking=isinstance(tool, Extension) and tool.kind == "locking",
    )


def _sideways(tool: Piece) -> float:
    return tool.offset.mid if isinstance(tool, Socket) and tool.offset else 0.0
