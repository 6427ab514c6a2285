"""What the crib lacks for an act, and the cheapest thing to buy that would do it."""

from functools import lru_cache
from itertools import combinations

from eldrim.core.figures.torque import Window
from eldrim.core.frozen import Frozen
from eldrim.core.quantity import format_number
from eldrim.core.tools.crib import Crib, Socket, Tool, Wrench
from eldrim.core.tools.demand import Act, Demand
from eldrim.core.tools.reach import Reach, Shortfall
from eldrim.core.tools.stock import catalogue

PAIRS_TRIED = 400


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
    def cure(self) -> str:
        """What would help."""
        if not self.buy:
            return "nothing usually sold alone or in pairs would do it"
        price = f", about {format_number(self.price, 0)} €" if self.price else ""
        return f"get: {' and '.join(self.buy)}{price}"


def shortage(
    reach: Reach, demand: Demand, act: Act, wanted: Window | None = None
) -> Shortage | None:
    """Return what keeps a crib from an act; None when it can be done."""
    answer = reach.answer(demand, act, wanted)
    if not isinstance(answer, Shortfall):
        return None
    bought = cheapest(reach.crib, demand, act, wanted)
    return Shortage(
        what=f"{demand.what}, {act.value}", why=answer.why, buy=tuple(t.name for t in bought),
        price=sum(t.price for t in bought),
    )  # fmt: skip


@lru_cache(maxsize=256)
def cheapest(crib: Crib, demand: Demand, act: Act, wanted: Window | None) -> tuple[Tool, ...]:
    """Return the least expensive one or two things that would do it; empty where none would."""
    useful = [t for t in catalogue() if _could_help(t, demand, act)]
    pairs = sorted(combinations(useful, 2), key=lambda p: p[0].price + p[1].price)[:PAIRS_TRIED]
    singles: list[tuple[Tool, ...]] = [(t,) for t in useful]
    for choice in [*singles, *pairs]:
        if Reach(crib.plus(*choice)).possible(demand, act, wanted):
            return choice
    return ()


def _could_help(tool: Tool, demand: Demand, act: Act) -> bool:
    if isinstance(tool, Socket):
        return tool.head is demand.head and abs(tool.size.mid - demand.size.mid) < 0.6
    return not isinstance(tool, Wrench) or act is Act.TORQUE


def named(crib: Crib, name: str) -> Shortage | None:
    """A tool asked for by name: None when the crib has it."""
    if crib.has(name):
        return None
    price = next((t.price for t in catalogue() if t.name == name), 0.0)
    return Shortage(what=name, why=f"the crib has no {name}", buy=(name,), price=price)
