"""What the crib lacks for an act, and the cheapest thing to buy that would do it."""

from functools import lru_cache
from itertools import combinations, product

from eldrim.core.figures.torque import Window
from eldrim.core.frozen import Frozen
from eldrim.core.quantity import format_number
from eldrim.core.tools.crib import Crib, Extension, Handle, Reducer, Socket, Swivel, Tool, Wrench
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import fit
from eldrim.core.tools.naming import ToolRef, asked_ref, price_of
from eldrim.core.tools.stack_finder import NoStack, StackFinder
from eldrim.core.tools.stock import catalogue
from eldrim.core.tools.wrench_setting import setting
from eldrim.core.words import listed, say


class MissingTool(Frozen):
    """Something that cannot be done: for what, why not, what to buy, at which guide price.

    ``id`` is what rules compare; ``buy`` are names.
    """

    id: str
    what: str
    why: str
    buy: tuple[str, ...] = ()
    price: float = 0

    @property
    def words(self) -> str:
        """Why, and what would help."""
        return f"{self.why}; {self.cure}"

    @property
    def ref(self) -> ToolRef:
        """How it stands among the tools of a step."""
        return ToolRef(id=self.id, name=f"{self.what}{say('to_get')}", to_get=True)

    @property
    def cure(self) -> str:
        """What would help."""
        if not self.buy:
            return say("lack.cure_none")
        price = say("lack.price", price=format_number(self.price, 0)) if self.price else ""
        return say("lack.cure", tools=listed(self.buy), price=price)


def missing_for(
    finder: StackFinder, demand: Demand, action: TurnAction, wanted: Window | None = None
) -> MissingTool | None:
    """Return what keeps a crib from an action; None when it can be done."""
    answer = finder.answer(demand, action, wanted)
    if not isinstance(answer, NoStack):
        return None
    bought = cheapest_purchase(finder.crib, demand, action, wanted)
    return MissingTool(
        id=f"{demand.id}-{action.value.replace('_', '-')}",
        what=f"{demand.what}, {say(f'action.{action}')}",
        why=answer.why,
        buy=tuple(t.shown for t in bought),
        price=sum(t.price for t in bought),
    )


@lru_cache(maxsize=256)
def cheapest_purchase(
    crib: Crib, demand: Demand, action: TurnAction, wanted: Window | None
) -> tuple[Tool, ...]:
    """Return the least expensive few things that would do it; empty where none would.

    Tried are a socket, a handle or wrench, and one or two pieces between, each or none of each.
    """
    for choice in sorted(_choices(demand, action, wanted), key=_price):
        if StackFinder(crib.plus(*choice)).possible(demand, action, wanted):
            return choice
    return ()


def _choices(demand: Demand, action: TurnAction, wanted: Window | None) -> list[tuple[Tool, ...]]:
    sold = catalogue()
    sockets = [
        s
        for s in sold
        if isinstance(s, Socket)
        and fit(demand.size, demand.head, s, plug=demand.plug, points=demand.points).fits
    ]
    grips: list[Tool] = [t for t in sold if isinstance(t, Handle)]
    if action is TurnAction.TORQUE and wanted is not None:
        grips = [t for t in sold if isinstance(t, Wrench) and setting(wanted, t)]
    between = [t for t in sold if isinstance(t, Extension | Swivel | Reducer)]
    whole = product([None, *sockets], [None, *grips], [None, *between])
    chosen = [tuple(t for t in c if t is not None) for c in whole]
    return [c for c in (*chosen, *combinations(between, 2)) if c]


def _price(choice: tuple[Tool, ...]) -> tuple[float, int]:
    return (sum(t.price for t in choice), len(choice))


def missing_by_name(crib: Crib, asked: str) -> MissingTool | None:
    """A tool asked for by name or standard id: None when the crib has it."""
    if crib.has(asked):
        return None
    ref = asked_ref(crib, asked)
    why = say("lack.named", tool=ref.name)
    return MissingTool(id=ref.id, what=ref.name, why=why, buy=(ref.name,), price=price_of(asked))
