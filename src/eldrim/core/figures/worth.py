"""Now, while the way in is open, or later: what each costs, and where both are equal.

The law is docs/craft.md §18. *Now* costs the minutes it adds, the part, and the unused life thrown
away; *later* costs the whole job again, the part, and an unplanned stop times the chance that it
fails before then.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from statistics import NormalDist

# The chance that a thing still works at an age, in the unit of its life.
Survival = Callable[[float], float]
# How finely the ages are looked at where a break-even is sought, and up to how many lives.
STEPS, LIVES = 400, 3.0
_NORMAL = NormalDist()


@dataclass(frozen=True)
class Fails:
    """How a kind of thing fails with age: ``half`` of them by then, spread as a log-normal."""

    half: float
    spread: float

    def survives(self, age: float) -> float:
        """The chance that one still works at an age."""
        if age <= 0:
            return 1.0
        return 1.0 - _NORMAL.cdf(math.log(age / self.half) / self.spread)


def past_interval(amount: float) -> Fails:
    """How what has an interval fails: half still work at twice of it, since makers leave room."""
    return Fails(2.0 * amount, 0.5)


@dataclass(frozen=True)
class Life:
    """How long a thing lasts: ``amount`` in ``unit``, who says so, how its like survive.

    ``visit`` is how far on one comes by again, where that does not follow from its own interval.
    ``band`` marks what no maker states.
    """

    amount: float
    unit: str
    source: str
    survives: Survival
    band: bool = False
    visit: float = 0.0

    def until(self, age: float) -> float:
        """How much further on it is seen to next: at its interval, or half of one on where that is
        nearer or past.
        """
        return self.visit or max(self.amount - age, self.amount / 2)

    def chance(self, age: float) -> float:
        """The chance that it fails before the next visit, beyond that of a new one."""
        further = self.until(age)
        still = self.survives(age)
        old = 1.0 if still <= 0 else 1.0 - self.survives(age + further) / still
        return max(0.0, old - (1.0 - self.survives(further)))


@dataclass(frozen=True)
class Logged:
    """How a kind of thing fails by the shop's own log: of so many seen, so many failed; half by
    ``half``, None where fewer did.
    """

    survives: Survival
    count: int
    failed: int
    half: float | None = None


@dataclass(frozen=True)
class Worth:
    """The sums of one thing: minutes it adds now and takes later, parts, life, an unplanned stop.

    Money is in that of the house, ``minute`` what one of work costs, ``stop`` what it costs where
    any of ``count`` alike fails. Without a life the whole price counts as thrown away.
    """

    minute: float
    now_minutes: float
    later_minutes: float
    price: float
    stop: float
    life: Life | None
    count: int = 1

    def chance(self, age: float) -> float:
        """The chance that one of them fails before the next visit, beyond that of new ones."""
        return 1.0 - (1.0 - self.life.chance(age)) ** self.count if self.life else 0.0

    def wasted(self, age: float) -> float:
        """What of its price is thrown away with the life it had left."""
        if self.life is None:
            return self.price
        return self.price * max(0.0, 1.0 - age / self.life.amount)

    def now(self, age: float) -> float:
        """What it costs now, at an age."""
        return self.minute * self.now_minutes + self.price + self.wasted(age)

    def later(self, age: float) -> float:
        """What it costs later, at an age now."""
        risk = self.stop * self.chance(age) if self.stop else 0.0
        return self.minute * self.later_minutes + self.price + risk

    @cached_property
    def break_even(self) -> float | None:
        """The age from which on it costs no more now than later; 0 where that is always so, None
        where it is not within three lives, or where no life is known.
        """
        if self.life is None:
            return None
        ages = [self.life.amount * LIVES * place / STEPS for place in range(STEPS + 1)]
        first = next((n for n, age in enumerate(ages) if self._gain(age) >= 0), None)
        if first is None or first == 0:
            return None if first is None else 0.0
        low, high = ages[first - 1], ages[first]
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (low, middle) if self._gain(middle) >= 0 else (middle, high)
        return high

    def _gain(self, age: float) -> float:
        return self.later(age) - self.now(age)
