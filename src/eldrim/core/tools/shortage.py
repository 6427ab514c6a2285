"""What the crib lacks for an act, and the cheapest thing to buy that would do it."""

from functools import lru_cache
from itertools import combinations, product

from eldrim.core.figures.torque import Window, setting
from eldrim.core.frozen import Frozen
from eldrim.core.quantity import format_number
from eldrim.core.tools.crib import Crib, Extension, Handle, Reducer, Socket, Swivel, Tool, Wrench
from eldrim.core.tools.demand import Act, Demand
from eldrim.core.tools.fit import fit
from eldrim.core.tools.reach import Reach, Shortfall
from eldrim.core.tools.stock import catalogue
from eldrim.core.words import listed, say, tool


class Shortage(Frozen):
    """Something that cannot be done: for what, why not, what to buy, at which guide price."""

    what: str
    why: str
    buy: tuple[str, ...] = ()
    price: float = 0

    @property
    def words(self) -> str:
        """Why, and what would help."""
        return f"{self.why}; {self.cure}"

    @property
    def to_get(self) -> str:
        """How it stands among the tools of a step."""
        return f"{self.what}{say('to_get')}"

    @property
    def cure(self) -> str:
        """What would help."""
        if not self.buy:
            return say("lack.cure_none")
        price = say("lack.price", price=format_number(self.price, 0)) if self.price else ""
        return say("lack.cure", tools=listed([tool(t) for t in self.buy]), price=price)


def bare(name: str) -> str:
    """A tool's name on a step without the note that it is yet to be got."""
    return name.removesuffix(say("to_get"))


def shortage(
    reach: Reach, demand: Demand, act: Act, wanted: Window | None = None
) -> Shortage | None:
    """Return what keeps a crib from an act; None when it can be done."""
    answer = reach.answer(demand, act, wanted)
    if not isinstance(answer, Shortfall):
        return None
    bought = cheapest(reach.crib, demand, act, wanted)
    return Shortage(
        what=f"{demand.what}, {say(f'act.{act.name}')}",
        why=answer.why,
        buy=tuple(t.name for t in bought),
        price=sum(t.price for t in bought),
    )


@lru_cache(maxsize=256)
def cheapest(crib: Crib, demand: Demand, act: Act, wanted: Window | None) -> tuple[Tool, ...]:
    """Return the least expensive few things that would do it; empty where none would.

    Tried are a socket, a handle or wrench, and one or two pieces between, each or none of each.
    """
    for choice in sorted(_choices(demand, act, wanted), key=_price):
        if Reach(crib.plus(*choice)).possible(demand, act, wanted):
            return choice
    return ()


def _choices(demand: Demand, act: Act, wanted: Window | None) -> list[tuple[Tool, ...]]:
    sold = catalogue()
    sockets = [
        s
        for s in sold
        if isinstance(s, Socket)
        and fit(demand.size, demand.head, s, plug=demand.plug, points=demand.points).fits
    ]
    grips: list[Tool] = [t for t in sold if isinstance(t, Handle)]
    if act is Act.TORQUE and wanted is not None:
        grips = [t for t in sold if isinstance(t, Wrench) and setting(wanted, t)]
    between = [t for t in sold if isinstance(t, Extension | Swivel | Reducer)]
    whole = product([None, *sockets], [None, *grips], [None, *between])
    chosen = [tuple(t for t in c if t is not None) for c in whole]
    return [c for c in (*chosen, *combinations(between, 2)) if c]


def _price(choice: tuple[Tool, ...]) -> tuple[float, int]:
    return (sum(t.price for t in choice), len(choice))


def named(crib: Crib, name: str) -> Shortage | None:
    """A tool asked for by name: None when the crib has it."""
    if crib.has(name):
        return None
    price = next((t.price for t in catalogue() if t.name == name), 0.0)
    return Shortage(what=name, why=say("lack.named", tool=tool(name)), buy=(name,), price=price)
