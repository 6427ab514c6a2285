"""What a job costs: as its edition plans it, and as its run came out; in the house's money."""

from dataclasses import dataclass

from eldrim.core.engine import Engine
from eldrim.core.figures.prices import PRICED, price_of, stated_price
from eldrim.core.lessons.digest import RunDigest
from eldrim.core.procedure.model import Plan


@dataclass(frozen=True)
class Cost:
    """Minutes at what the house says a minute of work is worth, and parts."""

    minutes: float
    work: float
    parts: float

    @property
    def total(self) -> float:
        """Both together."""
        return round(self.work + self.parts, 2)


def planned_cost(engine: Engine, plan: Plan, minute: float) -> Cost:
    """What an edition plans: its minutes and its parts. Boots laid out for coils that stay are not
    among them; they are bought where they are renewed, as work of their own or once one is torn.
    """
    spare = "" if "boot" in plan.job.companions else plan.numbers.get("boot", "")
    parts = sum(
        line.quantity * _price(engine, plan, line.part_number)
        for line in plan.parts
        if line.part_number and line.part_number != spare
    )
    return Cost(plan.minutes, round(plan.minutes * minute, 2), round(parts, 2))


def real_cost(engine: Engine, plan: Plan, found: RunDigest, minute: float) -> Cost:
    """What a run came to: the minutes it took, what went in as planned, and what came besides. Of
    one that was ended unfinished only what it fitted counts.
    """
    listed = {line.part_number: line.quantity for line in plan.parts}
    fitted: dict[str, int] = {}
    for new in found.new:
        fitted[new.number] = fitted.get(new.number, 0) + 1
    counts = {number: listed.get(number, 1) for number in found.numbers} | fitted
    parts = sum(count * _price(engine, plan, number) for number, count in counts.items() if number)
    return Cost(found.took, round(found.took * minute, 2), round(parts, 2))


def _price(engine: Engine, plan: Plan, number: str) -> float:
    """What one of a number costs: as the sheet states it, else the usual price of its kind."""
    stated = stated_price(engine, number)
    if stated is not None:
        return stated
    kind = next((k for k, known in plan.numbers.items() if known == number and k in PRICED), "")
    return price_of(engine, plan.variant, kind) if kind else 0.0
