"""Which stack of the crib's pieces reaches a head, clears what stands round it, and turns it.

Exact over what the shop owns: every socket that fits, every set of up to three extensions. What
does not reach says by how much. Source of the limits: shop practice, docs/craft.md §7.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations_with_replacement
from threading import Lock
from typing import NamedTuple

from cachetools import LRUCache

from eldrim.core.figures.torque import Window
from eldrim.core.language import Language, spoken
from eldrim.core.quantity import format_number
from eldrim.core.tools.crib import (
    Crib,
    Extension,
    Handle,
    Reducer,
    Socket,
    Swivel,
    Tool,
    Wrench,
    fold,
)
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import Fit, FitKind, fit
from eldrim.core.tools.stack import (
    HANDLE_CLEARANCE,
    WALL_CLEARANCE,
    PieceKind,
    Stack,
    StackPiece,
    build_stack,
    height_over_rim,
    widest_inside,
)
from eldrim.core.tools.wrench_choice import weigh
from eldrim.core.tools.wrench_setting import (
    SWIVEL_LIMIT_DEGREES,
    Adapter,
    Setting,
    setting,
    why_not,
)
from eldrim.core.words import say

MAX_EXTENSIONS = 3
# Lengths this close are equal.
EPSILON_MM = 1e-9
# Stacks kept for one question; later ones take more pieces than these.
MAX_STACKS = 6
# Selections for whole jobs kept for the next question on the same crib.
MAX_KEPT_SELECTIONS = 128
# And none that is so much worse than the best, in pieces: no saving elsewhere is worth it.
MAX_EXTRA_PIECES = 2.6
WOBBLE_LIMIT_DEGREES = 10.0
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
# A crow's foot slips off where a socket holds; for where no socket has room.
CROOKED = 4.0


@dataclass(frozen=True)
class StackChoice:
    """A stack and, for the torque step, what to dial on its wrench."""

    stack: Stack
    setting: Setting | None = None


@dataclass(frozen=True)
class NoStack:
    """Nothing reaches: why, and by how much."""

    why: str


StackAnswer = tuple[StackChoice, ...] | NoStack
StackQuestion = tuple[Demand, TurnAction, Window | None]


class StackFinder:
    """The answers of one crib; each question is worked out once."""

    def __init__(self, crib: Crib) -> None:
        """Sort the crib's pieces for looking through."""
        self.crib = crib
        self._answers: dict[StackQuestion, StackAnswer] = {}
        self._sets: dict[str, list[tuple[Extension, ...]]] = {}
        self.chosen: LRUCache[tuple[StackQuestion, ...], dict[StackQuestion, StackChoice]] = (
            LRUCache(MAX_KEPT_SELECTIONS)
        )
        self.lock = Lock()

    def answer(
        self, demand: Demand, action: TurnAction, wanted: Window | None = None
    ) -> StackAnswer:
        """Return the best stacks for one action on a head, best first, or what falls short.

        ``wanted`` is the torque window; it is asked for the torque action only.
        """
        key = (demand, action, wanted)
        if key not in self._answers:
            self._answers[key] = self._work_out(demand, action, wanted)
        return self._answers[key]

    def possible(self, demand: Demand, action: TurnAction, wanted: Window | None = None) -> bool:
        """Whether anything in the crib does it."""
        return not isinstance(self.answer(demand, action, wanted), NoStack)

    def _work_out(self, demand: Demand, action: TurnAction, wanted: Window | None) -> StackAnswer:
        sockets = self._sockets(demand)
        if isinstance(sockets, NoStack):
            return sockets
        if action is TurnAction.TORQUE and demand.line > SWIVEL_LIMIT_DEGREES:
            over = format_number(demand.line - SWIVEL_LIMIT_DEGREES, 0)
            return NoStack(say("reach.swivel", line=_mm(demand.line), over=over))
        handles = self._handles(demand, action, wanted)
        if isinstance(handles, NoStack):
            return handles
        return self._stacks(demand, action, wanted, sockets, handles)

    def _sockets(self, demand: Demand) -> list[tuple[Socket, Fit]] | NoStack:
        owned = [
            socket
            for socket in self.crib.sockets
            if socket.count and socket.head is demand.head and not (demand.plug and socket.offset)
        ]
        fits = [
            (s, fit(demand.size, demand.head, s, plug=demand.plug, points=demand.points))
            for s in owned
        ]
        fitting = [(s, f) for s, f in fits if f.fits]
        if not fitting:
            return NoStack(_no_socket(demand, fits))
        deep = [(s, f) for s, f in fitting if s.depth.mid >= demand.height]
        if not deep:
            most = max(s.depth.mid for s, _ in fitting)
            return NoStack(say("reach.shallow", by=_mm(demand.height - most)))
        slim = [(s, f) for s, f in deep if _slips_in(s.outside.mid, demand)]
        slim = [(s, f) for s, f in slim if _asked_for(s, demand)] or slim
        if not slim:
            least = min(s.outside.mid for s, _ in deep)
            assert demand.bore is not None
            over = least + 2 * WALL_CLEARANCE - demand.bore
            return NoStack(say("reach.thick", by=_mm(over), bore=_mm(demand.bore)))
        return slim

    def _handles(
        self, demand: Demand, action: TurnAction, wanted: Window | None
    ) -> list[tuple[Handle | Wrench, Setting | None, float]] | NoStack:
        if action is TurnAction.TORQUE:
            assert wanted is not None, "the torque action needs its window"
            return self._wrenches(demand, wanted)
        kinds = {"ratchet", "flex_ratchet", "t_bar"} | (
            {"breaker"} if action is TurnAction.BREAK_LOOSE else set()
        )
        kinds |= {"spinner"} if action is TurnAction.RUN_OUT else set()
        owned = [handle for handle in self.crib.handles if handle.count and handle.kind in kinds]
        if not owned:
            return NoStack(say("reach.no_handle"))
        owned = [h for h in owned if _asked_for(h, demand)] or owned
        fine = [hole for hole in owned if demand.swing is None or hole.swing.mid <= demand.swing]
        if not fine:
            assert demand.swing is not None
            least = min(h.swing.mid for h in owned)
            return NoStack(say("reach.swing", swing=_mm(demand.swing), least=_mm(least)))
        return [(h, None, _handle_penalty(h, demand, action)) for h in fine]

    def _wrenches(
        self, demand: Demand, wanted: Window
    ) -> list[tuple[Handle | Wrench, Setting | None, float]] | NoStack:
        able = weigh(self.crib, wanted)
        if able:
            return [
                (wrench, setting, 0.3 * rank + _wrench_penalty(wrench, demand))
                for rank, (wrench, setting) in enumerate(able)
            ]
        owned = [wrench for wrench in self.crib.wrenches if wrench.count]
        if not owned:
            return NoStack(say("reach.no_wrench"))
        return NoStack("; ".join(f"{wrench.shown}: {why_not(wanted, wrench)}" for wrench in owned))

    def _stacks(
        self,
        demand: Demand,
        action: TurnAction,
        wanted: Window | None,
        sockets: list[tuple[Socket, Fit]],
        handles: list[tuple[Handle | Wrench, Setting | None, float]],
    ) -> StackAnswer:
        found: list[StackChoice] = []
        nearest = _NearestMiss()
        for socket, fitting in sockets:
            for handle, dial, worse in handles:
                best = self._best(demand, action, socket, fitting, handle, nearest)
                dial = _corrected(dial, socket, handle, wanted)
                if best is not None and (dial or action is not TurnAction.TORQUE):
                    done = best.model_copy(update={"penalty": round(best.penalty + worse, 3)})
                    found.append(StackChoice(done, dial))
        if not found:
            return NoStack(nearest.words(demand))
        found.sort(key=lambda f: (f.stack.cost, f.stack.ids))
        near = [f for f in found if f.stack.cost <= found[0].stack.cost + MAX_EXTRA_PIECES]
        return tuple({f.stack.ids: f for f in reversed(near)}.values())[::-1][:MAX_STACKS]

    def _best(
        self,
        demand: Demand,
        action: TurnAction,
        socket: Socket,
        fitting: Fit,
        handle: Handle | Wrench,
        nearest: "_NearestMiss",
    ) -> Stack | None:
        """The fewest pieces between this socket and this handle that reach; shortest first."""
        for joint in self._joints(demand, action, socket):
            for reducer in self._reducers(socket, handle):
                for extensions in self._extension_sets(socket, demand):
                    pieces = _pieces(socket, joint, extensions, reducer, demand)
                    if pieces is not None and nearest.admits(pieces, demand, handle):
                        return _completed(action, demand, pieces, socket, fitting, handle)
        return None

    def _joints(self, demand: Demand, action: TurnAction, socket: Socket) -> list[Swivel | None]:
        named = [
            swivel
            for swivel in self.crib.swivels
            if swivel.count and swivel.drive == socket.drive and fold(swivel.name) in demand.using
        ]
        if named or demand.line <= 0:
            return [*named] or [None]
        owned = [
            s
            for s in self.crib.swivels
            if s.count and s.drive == socket.drive and s.limit.mid >= demand.line
        ]
        wobbles: list[Swivel | None] = [
            Swivel(
                id=extension.id,
                drive=extension.drive,
                length=extension.length,
                outside=extension.outside,
            )
            for extension in self.crib.extensions
            if extension.count
            and extension.kind == "wobble"
            and extension.drive == socket.drive
            and demand.line <= WOBBLE_LIMIT_DEGREES
            and action is not TurnAction.TORQUE
        ]
        return [*owned, *wobbles]

    def _reducers(self, socket: Socket, handle: Handle | Wrench) -> list[Reducer | None]:
        if socket.drive == handle.drive:
            return [None]
        return [
            reducer
            for reducer in self.crib.reducers
            if reducer.count and reducer.drive == handle.drive and reducer.to == socket.drive
        ]

    def _extension_sets(self, socket: Socket, demand: Demand) -> list[tuple[Extension, ...]]:
        """Every set of extensions with those a work-round asks for in it, fewest first.

        Where the well is so narrow that it keeps the socket, locking ones come first.
        """
        drive = socket.drive
        every = self._all_sets(drive)
        if demand.plug and _narrow(demand, socket.outside.mid):
            every = sorted(every, key=lambda chosen: (len(chosen), not _locking(chosen)))
        named = {
            extension.id
            for extension in self.crib.extensions
            if extension.drive == drive and extension.count and fold(extension.name) in demand.using
        }
        return [s for s in every if named <= {e.id for e in s}] if named else every

    def _all_sets(self, drive: str) -> list[tuple[Extension, ...]]:
        if drive not in self._sets:
            owned = [
                extension
                for extension in self.crib.extensions
                if extension.drive == drive and extension.count
            ]
            sets = [
                chosen
                for size in range(MAX_EXTENSIONS + 1)
                for chosen in combinations_with_replacement(owned, size)
                if all(chosen.count(e) <= e.count for e in chosen)
            ]
            self._sets[drive] = sorted(sets, key=_plainest)
        return self._sets[drive]


def _plainest(chosen: tuple[Extension, ...]) -> tuple[int, int, float, str]:
    odd = sum(e.kind != "plain" for e in chosen)
    total = sum(e.length.mid for e in chosen)
    return (len(chosen), odd, total, " ".join(e.id for e in chosen))


def _corrected(
    dial: Setting | None, socket: Socket, handle: Handle | Wrench, wanted: Window | None
) -> Setting | None:
    """The setting with a crow's foot in line with the wrench; as it was with a plain socket."""
    if dial is None or wanted is None or not socket.offset or not isinstance(handle, Wrench):
        return dial
    return setting(wanted, handle, Adapter(socket.offset.mid))


def _locking(chosen: tuple[Extension, ...]) -> bool:
    return any(e.kind == "locking" for e in chosen)


def _narrow(demand: Demand, outside: float) -> bool:
    return demand.bore is not None and demand.bore - outside <= NARROW_MM


class _NearestMiss:
    """Remembers the stack that came nearest, for saying by how much nothing reached."""

    def __init__(self) -> None:
        self.short = self.tall = self.wide = float("inf")

    def admits(
        self, pieces: tuple[StackPiece, ...], demand: Demand, handle: Handle | Wrench
    ) -> bool:
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
        return max(short, wide, tall) <= EPSILON_MM

    def words(self, demand: Demand) -> str:
        if self.tall < float("inf"):
            return say("reach.tall", by=_mm(self.tall))
        if self.wide < float("inf"):
            return say("reach.wide", by=_mm(self.wide))
        if self.short < float("inf"):
            return say("reach.short", by=_mm(self.short))
        if demand.line > 0:
            return say("reach.leans", line=_mm(demand.line))
        return say("reach.no_match")


def _slips_in(outside: float, demand: Demand) -> bool:
    free = demand.bore is None or demand.below <= 0
    return free or outside + 2 * WALL_CLEARANCE <= (demand.bore or 0.0) + EPSILON_MM


def _wrench_penalty(wrench: Wrench, demand: Demand) -> float:
    wrong = demand.small and wrench.drive != "1/4"
    return (MISUSE if wrong else 0.0) + (MISUSE if wrench.lapsed else 0.0)


def _asked_for(tool: Tool, demand: Demand) -> bool:
    """Whether a work-round names this very tool."""
    return fold(tool.name) in demand.using


def _handle_penalty(handle: Handle, demand: Demand, action: TurnAction) -> float:
    if demand.small and (handle.long or handle.drive != "1/4"):
        return MISUSE
    if demand.plug and action is TurnAction.RUN_OUT and handle.long:
        return MISUSE
    if action is TurnAction.BREAK_LOOSE and demand.hard:
        return 0.0 if handle.long else SHORT_HANDLE
    # Run out and snug with a short one, never a long handle (docs/craft.md §9, §12).
    plain = 0.0 if handle.kind == "ratchet" else 0.3
    return plain + (0.5 if handle.long else 0.0)


def _pieces(
    socket: Socket,
    joint: Swivel | None,
    extensions: tuple[Extension, ...],
    reducer: Reducer | None,
    demand: Demand,
) -> tuple[StackPiece, ...] | None:
    """Socket, extensions and joint from the head up; a joint stands where it has left the well."""
    if joint is not None and any(e.id == joint.id for e in extensions):
        return None
    made = [_piece(socket, "socket")]
    lean, waiting = 0.0, joint
    for extension in sorted(extensions, key=lambda e: -e.length.mid):
        if waiting and sum(piece.length for piece in made) >= demand.below:
            made.append(_piece(waiting, "swivel"))
            lean, waiting = demand.line, None
        made.append(_piece(extension, "extension", lean))
    if waiting:
        if sum(piece.length for piece in made) < demand.below:
            return None
        made.append(_piece(waiting, "swivel"))
        lean = demand.line
    if reducer:
        made.append(_piece(reducer, "reducer", lean))
    return tuple(made)


def _piece(
    tool: Socket | Extension | Swivel | Reducer, kind: PieceKind, lean: float = 0.0
) -> StackPiece:
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


def _sideways(tool: Socket | Extension | Swivel | Reducer) -> float:
    return tool.offset.mid if isinstance(tool, Socket) and tool.offset else 0.0


def _completed(
    action: TurnAction,
    demand: Demand,
    pieces: tuple[StackPiece, ...],
    socket: Socket,
    fitting: Fit,
    handle: Handle | Wrench,
) -> Stack:
    base = build_stack(action, demand, pieces, 0.0)
    drawbacks = [
        *_socket_drawbacks(demand, pieces, socket, fitting),
        *_handle_drawbacks(action, demand, handle),
    ]
    over = 0.0 if socket.offset else handle.head.mid
    room_left = None if demand.room is None else round(demand.room - base.rises - over, 3)
    return base.model_copy(
        update={
            "handle": handle.shown,
            "handle_id": handle.id,
            "handle_length": handle.length.mid,
            "handle_head": handle.head.mid,
            "drive": handle.drive,
            "room_left": room_left,
            "penalty": round(sum(d.penalty for d in drawbacks), 3),
            "cautions": tuple(drawback.caution for drawback in drawbacks if drawback.caution),
        }
    )


class Drawback(NamedTuple):
    """What makes a stack worse than another, and the caution it brings, if any."""

    penalty: float
    caution: str = ""


def _socket_drawbacks(
    demand: Demand, pieces: tuple[StackPiece, ...], socket: Socket, fitting: Fit
) -> Iterator[Drawback]:
    if socket.drive != demand.drive:
        yield Drawback(OTHER_DRIVE)
    if fitting.kind is FitKind.INTERCHANGE:
        yield Drawback(SUBSTITUTE, say("stack.substitute", fit=fitting.words))
    if demand.plug and not socket.grips:
        yield Drawback(SUBSTITUTE, say("stack.no_grip"))
    if socket.offset:
        yield Drawback(CROOKED, say("stack.crooked"))
    if socket.points == 12 and demand.points == 6:
        yield Drawback(TWELVE_POINTS)
    if any(piece.kind == "reducer" for piece in pieces):
        yield Drawback(REDUCED)
    narrow = _narrow(demand, socket.outside.mid) and len(pieces) > 1
    if demand.plug and narrow and not any(piece.locking for piece in pieces):
        yield Drawback(STAYS_DOWN, say("stack.stays_down"))


def _handle_drawbacks(
    action: TurnAction, demand: Demand, handle: Handle | Wrench
) -> Iterator[Drawback]:
    needs_long = action is TurnAction.BREAK_LOOSE and demand.hard
    if needs_long and isinstance(handle, Handle) and not handle.long:
        yield Drawback(0.0, say("stack.no_long"))


def _no_socket(demand: Demand, fits: list[tuple[Socket, Fit]]) -> str:
    if not fits:
        return say("reach.no_socket", head=say(f"head.{demand.head.value}"))
    near = min(fits, key=lambda pair: (abs(pair[1].play), pair[0].id))
    return say("reach.nearest", fit=near[1].words)


def _mm(value: float) -> str:
    return format_number(value, 1)


def offers(answer: StackAnswer) -> Iterator[StackChoice]:
    """The first few stacks of an answer, none of a shortfall."""
    if not isinstance(answer, NoStack):
        yield from answer


def stack_finder_for(crib: Crib) -> StackFinder:
    """The answers of a crib, kept for the next question on the same one in the same language."""
    return _stack_finder_for(crib, spoken())


@lru_cache(maxsize=8)
def _stack_finder_for(crib: Crib, language: Language) -> StackFinder:
    return StackFinder(crib)
