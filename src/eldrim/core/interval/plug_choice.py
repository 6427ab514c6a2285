"""Which of two plugs: long life against price, the work of getting there counted in."""

from dataclasses import dataclass

from eldrim.core.base.quantity import format_number
from eldrim.core.interval.life import meter_words
from eldrim.core.words import say

# What the cost of running is told per, by the unit of the meter.
PER = {"km": 10_000.0, "h": 100.0}
# Under this share of each other two plugs cost the same.
ALIKE = 0.02


@dataclass(frozen=True)
class PlugCost:
    """A set of one kind of plug: price of each, how many, how long they last in ``unit``."""

    price: float
    count: int
    life: float
    unit: str

    def each_time(self, minutes: float, value: float) -> float:
        """What fitting a set costs: its parts, and the minutes of the whole job."""
        return self.price * self.count + minutes * value

    def running(self, minutes: float, value: float) -> float:
        """What a set costs for every 10 000 km or 100 h."""
        return self.each_time(minutes, value) / self.life * PER[self.unit]


@dataclass(frozen=True)
class PlugChoice:
    """Two kinds of plug beside each other; ``better`` names the one that costs less to run.

    ``even_price`` is what one of the offered may cost at most, to cost as much as the sheet's.
    """

    minutes: float
    value: float
    now: PlugCost
    offered: PlugCost

    @property
    def better(self) -> str:
        """``offered``, ``sheet``, or ``alike``."""
        mine, other = (one.running(self.minutes, self.value) for one in (self.now, self.offered))
        if abs(mine - other) <= ALIKE * max(mine, other):
            return "alike"
        return "offered" if other < mine else "sheet"

    @property
    def even_price(self) -> float:
        """May be below nothing, where even a gift would cost more to run."""
        per_life = self.now.running(self.minutes, self.value) / PER[self.now.unit]
        whole = per_life * self.offered.life - self.minutes * self.value
        return whole / self.offered.count

    def words(self) -> tuple[str, ...]:
        """The verdict, then both sums and the price at which they are alike."""
        lines = [say(f"choice.{self.better}")]
        lines += [self._sum("choice.sheet_sum", self.now)]
        lines += [self._sum("choice.offered_sum", self.offered)]
        even = self.even_price
        if even > 0:
            lines.append(say("choice.even", price=format_number(even, 2)))
        else:
            lines.append(say("choice.never"))
        return tuple(lines)

    def _sum(self, pattern: str, one: PlugCost) -> str:
        return say(
            pattern,
            count=one.count,
            price=format_number(one.price, 2),
            minutes=format_number(self.minutes, 1),
            value=format_number(self.value, 2),
            life=meter_words(one.life, one.unit),
            running=format_number(one.running(self.minutes, self.value), 2),
            per=meter_words(PER[one.unit], one.unit),
        )
