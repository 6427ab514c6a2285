"""Which stack of the crib's pieces reaches a head, clears what stands round it, and turns it.

Exact over what the shop owns: every socket that fits, every set of up to three extensions. What
does not reach says by how much. Source of the limits: shop practice, docs/craft.md §7.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import combinations_with_replacement
from threading import Lock
from typing import NamedTuple

from cachetools import LRUCache

from eldrim.core.base.quantity import format_number
from eldrim.core.figures.torque import Window
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
from eldrim.core.tools.fit import Fit, fit, fits_on
from eldrim.core.tools.lowering import leaves_behind
from eldrim.core.tools.nearest_miss import EPSILON_MM, NearestMiss, in_mm
from eldrim.core.tools.stack import WALL_CLEARANCE, Stack, StackPiece
from eldrim.core.tools.stack_assembly import Assembled, Pieces, put_together
from eldrim.core.tools.stack_drawbacks import handle_penalty, holds_socket, wrench_penalty
from eldrim.core.tools.stock import catalogue
from eldrim.core.tools.wrench_choice import weigh
from eldrim.core.tools.wrench_setting import (
    SWIVEL_LIMIT_DEGREES,
    Adapter,
    Setting,
    setting,
    why_not,
)
from eldrim.core.words import say
from eldrim.core.words.language import Language, spoken

MAX_EXTENSIONS = 3
# Stacks kept for one question; later ones take more pieces than these.
MAX_STACKS = 6
# Selections for whole jobs kept for the next question on the same crib.
MAX_KEPT_SELECTIONS = 128
# And none that is so much worse than the best, in pieces: no saving elsewhere is worth it.
MAX_EXTRA_PIECES = 2.6
WOBBLE_LIMIT_DEGREES = 10.0
# A deep socket goes over a stud; a thin-walled one beside what stands close.
DEEP_MM, THIN_WALL_MM = 25.0, 5.0


@dataclass(frozen=True)
class StackChoice:
    """A stack and, for the torque step, what to dial on its wrench."""

    stack: Stack
    setting: Setting | None = None


@dataclass(frozen=True)
class NoStack:
    """Nothing reaches: why, and by how much."""

    why: str


class _Ranked(NamedTuple):
    """A stack with what it costs among others, as pieces; its penalty is with its handle's."""

    cost: float
    ids: tuple[str, ...]
    penalty: float
    assembled: Assembled
    dial: Setting | None


StackAnswer = tuple[StackChoice, ...] | NoStack
StackQuestion = tuple[Demand, TurnAction, Window | None]


class StackFinder:
    """The answers of one crib; each question is worked out once."""

    def __init__(self, crib: Crib) -> None:
        """Sort the crib's pieces for looking through."""
        self.crib = crib
        self._answers: dict[StackQuestion, StackAnswer] = {}
        self._sets: dict[str, list[tuple[Extension, ...]]] = {}
        self._locking_sets: dict[str, list[tuple[Extension, ...]]] = {}
        self._fitting: dict[tuple[object, ...], tuple[str, ...]] = {}
        self.pieces = Pieces()
        self._fits: dict[tuple[object, ...], list[tuple[Socket, Fit]]] = {}
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
        answer = self._answers.get(key)
        if answer is None:
            answer = self._answers[key] = self._work_out(demand, action, wanted)
        return answer

    def possible(self, demand: Demand, action: TurnAction, wanted: Window | None = None) -> bool:
        """Whether anything in the crib does it."""
        return not isinstance(self.answer(demand, action, wanted), NoStack)

    def _work_out(self, demand: Demand, action: TurnAction, wanted: Window | None) -> StackAnswer:
        sockets = self.sockets(demand)
        if isinstance(sockets, NoStack):
            return sockets
        if action is TurnAction.TORQUE and demand.line > SWIVEL_LIMIT_DEGREES:
            over = format_number(demand.line - SWIVEL_LIMIT_DEGREES, 0)
            return NoStack(say("reach.swivel", line=in_mm(demand.line), over=over))
        handles = self.handles(demand, action, wanted)
        if isinstance(handles, NoStack):
            return handles
        return self._stacks(demand, action, wanted, sockets, handles)

    def sockets(self, demand: Demand) -> list[tuple[Socket, Fit]] | NoStack:
        """The sockets that go on a head and down to it, or what keeps every one from it."""
        owned = [
            socket
            for socket in self.crib.sockets
            if socket.count and socket.head is demand.head and goes_on(socket, demand)
        ]
        fitting = self._fitting_of(demand, owned)
        if not fitting:
            return NoStack(_no_socket(demand, owned))
        deep = [(s, f) for s, f in fitting if s.depth.mid >= demand.height]
        if not deep:
            most = max(s.depth.mid for s, _ in fitting)
            return NoStack(say("reach.shallow", by=in_mm(demand.height - most)))
        slim = [(s, f) for s, f in deep if _slips_in(s.outside.mid, demand)]
        slim = [(s, f) for s, f in slim if _asked_for(s, demand)] or slim
        if not slim:
            least = min(s.outside.mid for s, _ in deep)
            assert demand.bore is not None
            over = least + 2 * WALL_CLEARANCE - demand.bore
            return NoStack(say("reach.thick", by=in_mm(over), bore=in_mm(demand.bore)))
        return slim

    @cached_property
    def known_sockets(self) -> dict[str, Socket]:
        """All sockets, owned or sold, by id."""
        sold = (tool for tool in catalogue() if isinstance(tool, Socket))
        return {s.id: s for s in (*sold, *self.crib.sockets) if s.count}

    def fitting(self, demand: Demand) -> tuple[str, ...]:
        """The ids of all sockets, owned or sold, that fit a head."""
        key = (demand.head, demand.size, demand.plug, demand.points)
        if key not in self._fitting:
            self._fitting[key] = tuple(
                s.id for s in self.known_sockets.values() if _fits_on(s, demand)
            )
        return self._fitting[key]

    def _fitting_of(self, demand: Demand, owned: list[Socket]) -> list[tuple[Socket, Fit]]:
        key = (demand.head, demand.size, demand.plug, demand.points, demand.sort, demand.open_ended)
        if key not in self._fits:
            self._fits[key] = [(s, _fit(s, demand)) for s in owned if _fits_on(s, demand)]
        return self._fits[key]

    def handles(
        self, demand: Demand, action: TurnAction, wanted: Window | None
    ) -> list[tuple[Handle | Wrench, Setting | None, float]] | NoStack:
        """The handles that turn it: each with its setting, and by how much it is second best."""
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
        fine = [h for h in owned if demand.swing is None or h.swing.mid <= demand.swing]
        if not fine:
            assert demand.swing is not None
            least = min(h.swing.mid for h in owned)
            return NoStack(say("reach.swing", swing=in_mm(demand.swing), least=in_mm(least)))
        return [(h, None, handle_penalty(h, demand, action)) for h in fine]

    def _wrenches(
        self, demand: Demand, wanted: Window
    ) -> list[tuple[Handle | Wrench, Setting | None, float]] | NoStack:
        able = weigh(self.crib, wanted)
        if able:
            return [
                (wrench, setting, 0.3 * rank + wrench_penalty(wrench, demand))
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
        found: list[_Ranked] = []
        nearest = NearestMiss()
        # Of a handle only its drive and its height decide what reaches.
        reaching: dict[tuple[str, str, float], tuple[StackPiece, ...] | None] = {}
        for socket, fitting in sockets:
            for handle, dial, worse in handles:
                key = (socket.id, handle.drive, handle.head.mid)
                if key not in reaching:
                    reaching[key] = self._reaching(demand, action, socket, handle, nearest)
                pieces = reaching[key]
                dial = _corrected(dial, socket, handle, wanted)
                if pieces is not None and (dial or action is not TurnAction.TORQUE):
                    best = put_together(action, demand, pieces, socket, fitting, handle)
                    penalty = round(best.penalty + worse, 3)
                    found.append(_Ranked(len(best.pieces) + penalty, best.ids, penalty, best, dial))
        if not found:
            return NoStack(nearest.words(demand))
        found.sort(key=lambda ranked: (ranked.cost, ranked.ids))
        near = [ranked for ranked in found if ranked.cost <= found[0].cost + MAX_EXTRA_PIECES]
        kept = list({ranked.ids: ranked for ranked in reversed(near)}.values())[::-1]
        return tuple(
            StackChoice(
                self.pieces.completed(action, demand, ranked.assembled, ranked.penalty), ranked.dial
            )
            for ranked in kept[:MAX_STACKS]
        )

    def _reaching(
        self,
        demand: Demand,
        action: TurnAction,
        socket: Socket,
        handle: Handle | Wrench,
        nearest: NearestMiss,
    ) -> tuple[StackPiece, ...] | None:
        """The fewest pieces between this socket and this handle that reach; shortest first.

        What only goes in piece after piece has to lock where the crib has pieces that do.
        """
        second: tuple[StackPiece, ...] | None = None
        for joint in self.joints(demand, action, socket):
            for reducer in self.reducers(socket, handle):
                for extensions in self._sets_for(socket, demand):
                    pieces = self.pieces.of(socket, joint, extensions, reducer, demand)
                    if pieces is None or not nearest.admits(pieces, demand, handle):
                        continue
                    if not leaves_behind(pieces, demand):
                        return pieces
                    second = second or pieces
        return second

    def joints(self, demand: Demand, action: TurnAction, socket: Socket) -> list[Swivel | None]:
        """The joints that take the lean of the line; none, as one choice, where it is straight."""
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

    def reducers(self, socket: Socket, handle: Handle | Wrench) -> list[Reducer | None]:
        """What brings the drive of a handle to a socket; none, as one choice, where it is so."""
        if socket.drive == handle.drive:
            return [None]
        return [
            reducer
            for reducer in self.crib.reducers
            if reducer.count and reducer.drive == handle.drive and reducer.to == socket.drive
        ]

    def _sets_for(self, socket: Socket, demand: Demand) -> list[tuple[Extension, ...]]:
        """Every set of extensions with those a work-round asks for in it, fewest first.

        Where the well is so narrow that it keeps the socket, locking ones come first.
        """
        drive = socket.drive
        keeps = demand.plug and holds_socket(demand, socket.outside.mid)
        every = self._locking_first(drive) if keeps else self.extension_sets(drive)
        named = demand.using and {
            extension.id
            for extension in self.crib.extensions
            if extension.drive == drive and extension.count and fold(extension.name) in demand.using
        }
        return [s for s in every if named <= {e.id for e in s}] if named else every

    def _locking_first(self, drive: str) -> list[tuple[Extension, ...]]:
        if drive not in self._locking_sets:
            every = self.extension_sets(drive)
            self._locking_sets[drive] = sorted(every, key=lambda s: (len(s), not _locking(s)))
        return self._locking_sets[drive]

    def extension_sets(self, drive: str) -> list[tuple[Extension, ...]]:
        """Every set of up to three extensions of a drive, the plainest first."""
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


def goes_on(socket: Socket, demand: Demand) -> bool:
    """Whether a socket is of the sort that alone goes on, whatever its size."""
    if demand.plug:
        return not socket.offset
    if demand.open_ended:
        return socket.offset is not None
    if demand.sort == "deep":
        return socket.depth.mid >= DEEP_MM
    return demand.sort != "thin_wall" or socket.outside.mid - socket.size.mid <= THIN_WALL_MM


def _slips_in(outside: float, demand: Demand) -> bool:
    free = demand.bore is None or demand.below <= 0
    return free or outside + 2 * WALL_CLEARANCE <= (demand.bore or 0.0) + EPSILON_MM


def _asked_for(tool: Tool, demand: Demand) -> bool:
    """Whether a work-round names this very tool."""
    return fold(tool.name) in demand.using


def _fits_on(socket: Socket, demand: Demand) -> bool:
    return fits_on(demand.size, demand.head, socket, plug=demand.plug, points=demand.points)


def _fit(socket: Socket, demand: Demand) -> Fit:
    return fit(demand.size, demand.head, socket, plug=demand.plug, points=demand.points)


def _no_socket(demand: Demand, owned: list[Socket]) -> str:
    if not owned:
        return say("reach.no_socket", head=say(f"head.{demand.head.value}"))
    fits = [(_fit(socket, demand), socket.id) for socket in owned]
    near, _ = min(fits, key=lambda pair: (abs(pair[0].play), pair[1]))
    return say("reach.nearest", fit=near.words)


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
