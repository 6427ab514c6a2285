"""What the crib lacks for an act, and the cheapest thing to buy that would do it."""

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.figures.torque import Window
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.naming import ToolRef, asked_ref, price_of
from eldrim.core.tools.purchase import cheapest_purchase
from eldrim.core.tools.stack_finder import NoStack, StackFinder
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
        id=demand.id if not bought else f"{demand.id}-{action.value.replace('_', '-')}",
        what=demand.what if not bought else f"{demand.what}, {say(f'action.{action}')}",
        why=answer.why,
        buy=tuple(t.shown for t in bought),
        price=sum(t.price for t in bought),
    )


def missing_by_name(crib: Crib, asked: str) -> MissingTool | None:
    """A tool asked for by name or standard id: None when the crib has it."""
    if crib.has(asked):
        return None
    ref = asked_ref(crib, asked)
    why = say("lack.named", tool=ref.name)
    return MissingTool(id=ref.id, what=ref.name, why=why, buy=(ref.name,), price=price_of(asked))
