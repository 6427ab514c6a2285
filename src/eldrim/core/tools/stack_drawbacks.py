"""What makes one stack worse than another, though both reach, and the cautions that go with it.

In pieces of a stack, so that one sum compares them. Source: shop practice, docs/craft.md §7, §9
and §12.
"""

from collections.abc import Iterator
from typing import NamedTuple

from eldrim.core.tools.crib import Handle, Socket, Wrench
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import Fit, FitKind
from eldrim.core.tools.lowering import Lowered, leaves_behind, way_in_for
from eldrim.core.tools.stack import StackPiece
from eldrim.core.words import say

# A well so close round the socket keeps it when the extension is pulled out.
NARROW_MM = 3.0
# How much worse, in pieces of a stack: a drive not meant for it, a substitute, a socket that may
# stay down the well, a handle too short to break loose with.
OTHER_DRIVE, SUBSTITUTE, STAYS_DOWN, SHORT_HANDLE = 0.6, 1.5, 0.4, 12.0
# A long handle or a big drive on a small fastener, or a long handle to run a plug out: only where
# there is nothing else, so it outweighs any piece saved.
MISUSE = 14.0
# A reducer is for want of the right drive, never to save a handle.
REDUCED = 6.0
TWELVE_POINTS = 0.5
# Put in piece after piece; and a piece that does not lock then leaves what is below it behind.
IN_PIECES, LEFT_BEHIND = 1.0, 6.0
# A deep socket where a short one does: it tips more easily.
NEEDLESSLY_DEEP, DEEP_FROM = 0.2, 40.0
# A crow's foot slips off where a socket holds; for where no socket has room.
CROOKED = 4.0


class Drawback(NamedTuple):
    """What makes a stack worse than another, and the caution it brings, if any."""

    penalty: float
    caution: str = ""


def socket_drawbacks(
    demand: Demand, pieces: tuple[StackPiece, ...], socket: Socket, fitting: Fit
) -> Iterator[Drawback]:
    """What speaks against a socket and the pieces on it."""
    if socket.drive != demand.drive:
        yield Drawback(OTHER_DRIVE)
    if fitting.kind is FitKind.INTERCHANGE:
        yield Drawback(SUBSTITUTE, say("stack.substitute", fit=fitting.words))
    if demand.plug and not socket.grips:
        yield Drawback(SUBSTITUTE, say("stack.no_grip"))
    if socket.offset and not demand.open_ended:
        yield Drawback(CROOKED, say("stack.crooked"))
    if not demand.plug and demand.sort != "deep" and socket.length.mid > DEEP_FROM:
        yield Drawback(NEEDLESSLY_DEEP)
    if socket.points == 12 and demand.points == 6:
        yield Drawback(TWELVE_POINTS)
    if any(piece.kind == "reducer" for piece in pieces):
        yield Drawback(REDUCED)
    narrow = holds_socket(demand, socket.outside.mid) and len(pieces) > 1
    if demand.plug and narrow and not any(piece.locking for piece in pieces):
        yield Drawback(STAYS_DOWN, say("stack.stays_down"))


def entry_drawbacks(pieces: tuple[StackPiece, ...], demand: Demand) -> Iterator[Drawback]:
    """What speaks against a stack that only goes in piece after piece."""
    if way_in_for(pieces, demand) is not Lowered.IN_PIECES:
        return
    yield Drawback(IN_PIECES, say("stack.in_pieces", pieces=", ".join(p.name for p in pieces)))
    loose = leaves_behind(pieces, demand)
    if loose:
        yield Drawback(LEFT_BEHIND, say("stack.left_behind", piece=loose))


def handle_drawbacks(
    action: TurnAction, demand: Demand, handle: Handle | Wrench
) -> Iterator[Drawback]:
    """What speaks against a handle, as a caution."""
    needs_long = action is TurnAction.BREAK_LOOSE and demand.hard
    if needs_long and isinstance(handle, Handle) and not handle.long:
        yield Drawback(0.0, say("stack.no_long"))


def holds_socket(demand: Demand, outside: float) -> bool:
    """Whether a well is so close round a socket that it keeps it as the extension is pulled out."""
    return demand.bore is not None and demand.bore - outside <= NARROW_MM


def handle_penalty(handle: Handle, demand: Demand, action: TurnAction) -> float:
    """How much worse a handle is than the best of its kind for an action."""
    if demand.small and (handle.long or handle.drive != "1/4"):
        return MISUSE
    if demand.plug and action is TurnAction.RUN_OUT and handle.long:
        return MISUSE
    if action is TurnAction.BREAK_LOOSE and demand.hard:
        return 0.0 if handle.long else SHORT_HANDLE
    # Run out and snug with a short one, never a long handle (docs/craft.md §9, §12).
    plain = 0.0 if handle.kind == "ratchet" else 0.3
    return plain + (0.5 if handle.long else 0.0)


def wrench_penalty(wrench: Wrench, demand: Demand) -> float:
    """How much worse a torque wrench is: too big a drive, or its calibration run out."""
    wrong = demand.small and wrench.drive != "1/4"
    return (MISUSE if wrong else 0.0) + (MISUSE if wrench.lapsed else 0.0)
