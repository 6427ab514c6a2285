"""A search for a cause as numbers: beliefs, tests, repairs, and what each has to open."""

from dataclasses import dataclass
from functools import cached_property

from eldrim.core.words.messages import gettext


@dataclass(frozen=True)
class Test:
    """A test: how likely it says yes for each cause, its own minutes, what has to be open.

    ``shut`` is opened for it alone: the engine runs at its end, and does not run with it open.
    """

    key: str
    yes: tuple[float, ...]
    minutes: float
    needs: frozenset[str] = frozenset()
    shut: frozenset[str] = frozenset()

    @property
    def opens(self) -> frozenset[str]:
        """All it has to open, whatever becomes of it."""
        return self.needs | self.shut


@dataclass(frozen=True)
class Repair:
    """A repair with its proof: the causes it cures, its own minutes, what has to be open."""

    key: str
    cures: frozenset[int]
    minutes: float
    needs: frozenset[str] = frozenset()

    @property
    def opens(self) -> frozenset[str]:
        """All it has to open."""
        return self.needs


@dataclass(frozen=True)
class Search:
    """One fault is assumed. ``prior`` is how likely each cause is, ``opening`` what each thing
    costs to open and close again, in minutes, once for all that is behind it.

    Raises :class:`ValueError` for a cause that no repair cures.
    """

    prior: tuple[float, ...]
    tests: tuple[Test, ...]
    repairs: tuple[Repair, ...]
    opening: dict[str, float]

    def __post_init__(self) -> None:
        """Every cause must be curable, or no strategy ends."""
        lacking = set(range(len(self.prior))) - {i for r in self.repairs for i in r.cures}
        if lacking:
            raise ValueError(gettext("no repair cures cause {lacking}", lacking=min(lacking)))

    def access(self, needs: frozenset[str], opened: frozenset[str]) -> float:
        """What is still to be paid to open this."""
        return sum(self.opening[one] for one in sorted(needs - opened))

    def cost(self, act: Test | Repair, opened: frozenset[str]) -> float:
        """The minutes of an act, with the way in that is still closed."""
        key = (act.key, opened)
        if key not in self._costs:
            self._costs[key] = act.minutes + self.access(act.opens, opened)
        return self._costs[key]

    @cached_property
    def _costs(self) -> dict[tuple[str, frozenset[str]], float]:
        return {}

    @cached_property
    def behind(self) -> tuple[frozenset[str], ...]:
        """For each cause what its single repair opens: that of the fewest causes, the cheapest."""
        return tuple(self.single(i).needs for i in range(len(self.prior)))

    def single(self, cause: int) -> Repair:
        """The repair that cures a cause and as little else as possible."""
        mine = [repair for repair in self.repairs if cause in repair.cures]
        return min(mine, key=lambda r: (len(r.cures), r.minutes, r.key))
