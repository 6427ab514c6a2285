"""The cheapest few tools to buy for an act that the crib cannot do; always within a counted limit.

Tried are a socket, a handle or wrench, and up to two pieces between that are not owned. What is
owned costs nothing, so that the cheapest stack over crib and catalogue together is the answer.
"""

import math
from collections.abc import Iterator
from functools import lru_cache
from itertools import product
from typing import NamedTuple

from eldrim.core.figures.torque import Window
from eldrim.core.tools.crib import Crib, Extension, Handle, Reducer, Socket, Swivel, Tool, Wrench
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.nearest_miss import EPSILON_MM, NearestMiss
from eldrim.core.tools.stack import HANDLE_CLEARANCE
from eldrim.core.tools.stack_finder import NoStack, StackFinder
from eldrim.core.tools.stock import catalogue

MOST_BETWEEN = 2
# Lengths and stacks looked at for one purchase.
CHECKS = 40_000


@lru_cache(maxsize=256)
def cheapest_purchase(
    crib: Crib, demand: Demand, action: TurnAction, wanted: Window | None
) -> tuple[Tool, ...]:
    """Return the least expensive few things that would do it; empty where none would.

    Within the limit of :data:`CHECKS`: past it the cheapest found until then.
    """
    return _Purchase(crib, demand, action, wanted).run()


class _Frame(NamedTuple):
    """A socket and a handle with what goes between them but for extensions."""

    price: float
    socket: Socket
    joint: Swivel | None
    reducer: Reducer | None
    handle: Handle | Wrench


class _Purchase:
    def __init__(
        self, crib: Crib, demand: Demand, action: TurnAction, wanted: Window | None
    ) -> None:
        owned = {tool.id for tool in crib.all() if tool.count}
        sold = [tool for tool in catalogue() if tool.id not in owned]
        self.demand, self.action, self.wanted = demand, action, wanted
        self.full = StackFinder(crib.plus(*sold))
        self.sold = {tool.id for tool in sold}
        self.left = CHECKS
        self.best: tuple[float, tuple[Tool, ...]] | None = None
        self._sets: dict[str, list[tuple[float, float, tuple[Extension, ...]]]] = {}

    def run(self) -> tuple[Tool, ...]:
        for frame in sorted(self._frames(), key=lambda f: (f.price, f.socket.id, f.handle.id)):
            if self.best is not None and frame.price >= self.best[0]:
                break
            self._try(frame)
        return self.best[1] if self.best else ()

    def _price(self, *tools: Tool | None) -> float:
        """What those of these tools cost that are not owned."""
        return sum(tool.price for tool in tools if tool is not None and tool.id in self.sold)

    def _frames(self) -> Iterator[_Frame]:
        sockets = self.full.sockets(self.demand)
        handles = self.full.handles(self.demand, self.action, self.wanted)
        if isinstance(sockets, NoStack) or isinstance(handles, NoStack):
            return
        for (socket, _), (handle, _, _) in product(sockets, handles):
            joints = self.full.joints(self.demand, self.action, socket)
            for joint, reducer in product(joints, self.full.reducers(socket, handle)):
                price = self._price(socket, handle, joint, reducer)
                yield _Frame(price, socket, joint, reducer, handle)

    def _try(self, frame: _Frame) -> None:
        """The cheapest extensions that make a stack of a frame, if it beats the best so far."""
        least, most = self._lengths(frame)
        between = sum(t is not None and t.id in self.sold for t in (frame.joint, frame.reducer))
        for price, length, extensions in self._extensions(frame.socket.drive):
            if self.left <= 0 or (self.best is not None and frame.price + price >= self.best[0]):
                return
            self.left -= 1
            bought = between + sum(e.id in self.sold for e in extensions)
            if least <= length <= most and bought <= MOST_BETWEEN and self._fits(frame, extensions):
                tools = (frame.socket, *extensions, frame.joint, frame.reducer, frame.handle)
                bought_tools = tuple(t for t in tools if t is not None and t.id in self.sold)
                self.best = (frame.price + price, bought_tools)
                return

    def _lengths(self, frame: _Frame) -> tuple[float, float]:
        """How long the extensions are together at least and at most, in mm."""
        demand = self.demand
        fixed = sum(t.length.mid for t in (frame.socket, frame.joint, frame.reducer) if t)
        over = demand.surround + HANDLE_CLEARANCE if demand.below or demand.surround else 0.0
        least = demand.below + over - fixed - EPSILON_MM
        if demand.room is None:
            return least, math.inf
        head = 0.0 if frame.socket.offset else frame.handle.head.mid
        top = demand.below + demand.room - head
        return least, top / math.cos(math.radians(demand.line)) - fixed + EPSILON_MM

    def _extensions(self, drive: str) -> list[tuple[float, float, tuple[Extension, ...]]]:
        """Every set of extensions of a drive with price and length, the cheapest first."""
        if drive not in self._sets:
            self._sets[drive] = sorted(
                (
                    (self._price(*chosen), sum(e.length.mid for e in chosen), chosen)
                    for chosen in self.full.extension_sets(drive)
                ),
                key=lambda row: (row[0], len(row[2]), row[1], tuple(e.id for e in row[2])),
            )
        return self._sets[drive]

    def _fits(self, frame: _Frame, extensions: tuple[Extension, ...]) -> bool:
        self.left -= 50
        made, demand = self.full.pieces, self.demand
        pieces = made.of(frame.socket, frame.joint, extensions, frame.reducer, demand)
        nearest = NearestMiss()
        return pieces is not None and nearest.admits(pieces, self.demand, frame.handle)
