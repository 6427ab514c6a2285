"""The set of causes that explains a set of plugs best, found exactly.

An explanation gains for each sign the weight of the cause that explains it best, and what an
unexplained sign would cost. It pays for each cause what that has to earn, and for each hole where
a cause shows nothing that it should. Every cause must explain a sign that no other one explains:
two faults are believed only where one does not do. Explaining is submodular: a cause added to more
causes never gains more than it does alone. That bounds the search, which ends with a proof.
"""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

from eldrim.core.engine.model import Engine
from eldrim.core.reading.causes import CAUSES, MEDIUM, Cause, Scope
from eldrim.core.reading.observed import Judged, Known
from eldrim.core.reading.scopes import Place, places
from eldrim.core.reading.signs import amiss, in_order

UNEXPLAINED = 1.0
ABSENT = 3.0
# Sets of causes looked at, wide ones and those of one hole; the stated limit of the proof.
MAX_NODES = 6000
# At each hole at least so many, so that a first explanation is always found.
LEAST_WORK = 12
_TINY = 1e-9
Sign = tuple[str, str]


@dataclass(frozen=True)
class Hypothesis:
    """One cause at one place: what it explains, by how much; what it costs to believe it."""

    cause: Cause
    place: Place
    explains: dict[Sign, float]
    missing: tuple[str, ...]
    cost: float

    @cached_property
    def alone(self) -> float:
        """What it gains where nothing else is believed."""
        return sum(weight + UNEXPLAINED for weight in self.explains.values()) - self.cost

    @property
    def name(self) -> tuple[str, str, str]:
        """What it is told by."""
        return self.cause.id, self.place.key, ",".join(self.place.holes)


@dataclass(frozen=True)
class Explanation:
    """Causes believed together, and what they gain over believing nothing."""

    believed: tuple[Hypothesis, ...]
    gain: float
    proven: bool = True


def hypotheses(
    engine: Engine, variant: str, seen: Judged, known: frozenset[Known]
) -> list[Hypothesis]:
    """Every cause at every place of the engine that explains something of what was seen."""
    able = abilities(engine, variant)
    found = []
    for place in places(engine):
        for cause in CAUSES.values():
            if cause.scope is not place.scope or (cause.only and cause.only not in known):
                continue
            if set(cause.needs) <= able | {place.brings}:
                found.append(_hypothesis(cause, place, seen, known))
    # One that does not pay alone pays in no company.
    return [one for one in found if one.alone > _TINY]


def abilities(engine: Engine, variant: str) -> frozenset[str]:
    """What the engine has, so that no verdict names a part it lacks."""
    layout = engine.layout
    has = {
        "coil": engine.ignition.kind == "coil_on_plug",
        "lead": engine.ignition.kind != "coil_on_plug",
        "distributor": engine.ignition.kind == "distributor",
        "liquid": layout.cooling == "liquid",
        "petrol": layout.fuel == "petrol",
        "injection": engine.injects(variant),
    }
    return frozenset(name for name, is_so in has.items() if is_so)


def _hypothesis(cause: Cause, place: Place, seen: Judged, known: frozenset[Known]) -> Hypothesis:
    explains = {
        (hole, sign): cause.signs[sign]
        for hole in place.holes
        for sign in in_order(amiss(seen.signs.get(hole, ())))
        if sign in cause.signs
    }
    telling = {sign for sign, weight in cause.signs.items() if weight >= MEDIUM}
    missing = tuple(
        hole
        for hole in place.holes
        if hole in seen.signs and not telling & (seen.signs[hole] | set(seen.aside.get(hole, ())))
    )
    rarity = cause.rarity - sum(cause.context.get(word, 0.0) for word in known)
    return Hypothesis(cause, place, explains, missing, max(rarity, 0.3) + ABSENT * len(missing))


def best(among: list[Hypothesis], work: int = MAX_NODES) -> Explanation:
    """The explanation that gains most; of equal ones that with the fewest causes.

    ``work`` is how many sets of causes are looked at; past it what was found is not proven.
    """
    wide = sorted((h for h in among if not _narrow(h)), key=lambda h: (-h.alone, h.name))
    narrow: dict[str, list[Hypothesis]] = {}
    for one in filter(_narrow, among):
        narrow.setdefault(one.place.holes[0], []).append(one)
    return _Search(wide, narrow, work).run()


def covered(believed: Iterable[Hypothesis]) -> dict[Sign, float]:
    """How strongly each sign is explained by these causes."""
    cover: dict[Sign, float] = {}
    for one in believed:
        for sign, weight in one.explains.items():
            cover[sign] = max(cover.get(sign, 0.0), weight)
    return cover


def gain_of(believed: Iterable[Hypothesis]) -> float:
    """What these causes gain together over believing nothing."""
    every = tuple(believed)
    explained = sum(weight + UNEXPLAINED for weight in covered(every).values())
    return explained - sum(one.cost for one in every)


def _more(one: Hypothesis, cover: dict[Sign, float]) -> float:
    """What one cause adds to what is explained already."""
    added = (w - cover.get(sign, -UNEXPLAINED) for sign, w in one.explains.items())
    return sum(max(0.0, more) for more in added) - one.cost


def _narrow(one: Hypothesis) -> bool:
    """Whether it concerns one hole, and so is chosen hole by hole."""
    return len(one.place.holes) == 1


class _Search:
    """Choose among the wide causes by branch and bound; the narrow ones follow hole by hole."""

    def __init__(
        self, wide: list[Hypothesis], narrow: dict[str, list[Hypothesis]], work: int
    ) -> None:
        self._narrow = narrow
        self._left = work
        self._best = Explanation((), 0.0)
        self._kept: dict[tuple[str, int, tuple[tuple[Sign, float], ...]], Explanation] = {}
        self._wide = wide

    def run(self) -> Explanation:
        self._go((), {}, 0.0, self._wide)
        return replace(self._best, proven=self._left > 0)

    def _go(
        self,
        chosen: tuple[Hypothesis, ...],
        cover: dict[Sign, float],
        gain: float,
        left: list[Hypothesis],
    ) -> None:
        here = self._completed(chosen, cover, gain)
        if _better(here, self._best):
            self._best = here
        # What does not pay now pays with nothing more beside it.
        paying = [(_more(one, cover), one) for one in left if one.explains.keys() - cover.keys()]
        paying = [(more, one) for more, one in paying if more > _TINY]
        if not paying or self._left <= 0:
            return
        rest = [one for _, one in paying]
        alone = sum(self._freely(hole, cover) for hole in self._narrow)
        narrow = (one for those in self._narrow.values() for one in those)
        most = min(alone + sum(more for more, _ in paying), _shared(cover, (*rest, *narrow)))
        if gain + most <= self._best.gain + _TINY:
            return
        more, first = max(paying, key=lambda pair: (pair[0], pair[1].name))
        rest.remove(first)
        if irredundant((*chosen, first)):
            then = {s: max(weight, cover.get(s, 0.0)) for s, weight in first.explains.items()}
            self._go((*chosen, first), {**cover, **then}, gain + more, rest)
        self._go(chosen, cover, gain, rest)

    def _completed(
        self,
        chosen: tuple[Hypothesis, ...],
        cover: dict[Sign, float],
        gain: float,
        kept: frozenset[Sign] = frozenset(),
    ) -> Explanation:
        """The best explanation with these wide causes and no other.

        ``kept`` are signs that no cause of one hole may explain, so that a wide one is needed.
        """
        self._left -= 1
        parts = [self._at_hole(hole, cover, kept) for hole in self._narrow]
        believed = (*chosen, *(one for part in parts for one in part.believed))
        found = Explanation(believed, gain + sum(part.gain for part in parts))
        idle = next((one for one in chosen if not _needed(one, believed)), None)
        if idle is None:
            return found
        if self._left <= 0:
            return Explanation((), 0.0)
        signs = [sign for sign in idle.explains if sign not in kept]
        some = [self._completed(chosen, cover, gain, kept | {sign}) for sign in signs]
        return max(some, key=lambda one: one.gain, default=Explanation((), 0.0))

    def _at_hole(self, hole: str, cover: dict[Sign, float], kept: frozenset[Sign]) -> Explanation:
        those = [h for h in self._narrow[hole] if not kept & h.explains.keys()]
        signs = sorted({sign for one in those for sign in one.explains})
        key = (hole, len(those), tuple((s, cover.get(s, -UNEXPLAINED)) for s in signs))
        if key not in self._kept:
            one_hole = _OneHole(dict(key[2]), max(self._left, LEAST_WORK))
            self._kept[key] = one_hole.run(those)
            self._left -= one_hole.nodes
        return self._kept[key]

    def _freely(self, hole: str, cover: dict[Sign, float]) -> float:
        """At least what the causes of one hole can add, were several for one sign allowed."""
        adds = (_more(one, cover) for one in self._narrow[hole])
        return sum(more for more in adds if more > 0)


def irredundant(believed: tuple[Hypothesis, ...]) -> bool:
    """Whether each of these causes explains a sign that none of the others does."""
    return all(_needed(one, believed) for one in believed)


def _needed(one: Hypothesis, believed: Iterable[Hypothesis]) -> bool:
    others = {sign for other in believed if other is not one for sign in other.explains}
    return not one.explains.keys() <= others


class _OneHole:
    """The causes of one hole that add most to what is explained already.

    ``had`` is how strongly each sign is explained by wide causes; each chosen one must explain a
    sign that neither those nor the others do.
    """

    def __init__(self, had: dict[Sign, float], work: int) -> None:
        self._open = {sign for sign, weight in had.items() if weight < 0}
        self._had = had
        self._work = work
        self.nodes = 0
        self._top = Explanation((), 0.0)

    def run(self, those: list[Hypothesis]) -> Explanation:
        self._go(Explanation((), 0.0), self._had, those)
        return self._top

    def _go(self, chosen: Explanation, now: dict[Sign, float], left: list[Hypothesis]) -> None:
        self.nodes += 1
        if _better(chosen, self._top):
            self._top = chosen
        # What adds nothing now adds nothing with more beside it.
        paying = [(_more(one, now), one) for one in left if any(now[s] < 0 for s in one.explains)]
        paying = [(more, one) for more, one in paying if more > _TINY]
        most = min(sum(more for more, _ in paying), _shared(now, [one for _, one in paying]))
        if chosen.gain + most <= self._top.gain + _TINY or self.nodes >= self._work:
            return
        more, first = max(paying, key=lambda pair: (pair[0], pair[1].name))
        rest = [one for _, one in paying if one is not first]
        together = (*chosen.believed, first)
        if self._allowed(together):
            then = {sign: max(w, first.explains.get(sign, w)) for sign, w in now.items()}
            self._go(Explanation(together, chosen.gain + more), then, rest)
        self._go(chosen, now, rest)

    def _allowed(self, chosen: tuple[Hypothesis, ...]) -> bool:
        times = Counter(sign for one in chosen for sign in one.explains if sign in self._open)
        return all(any(times[sign] == 1 for sign in one.explains) for one in chosen)


def _shared(cover: dict[Sign, float], those: Iterable[Hypothesis]) -> float:
    """What could still be gained: each sign explained best, each cost shared by its signs."""
    most: dict[Sign, float] = {}
    for one in those:
        share = one.cost / len(one.explains)
        for sign, weight in one.explains.items():
            more = weight - cover.get(sign, -UNEXPLAINED) - share
            most[sign] = max(most.get(sign, 0.0), more)
    return sum(most.values())


def _better(one: Explanation, other: Explanation) -> bool:
    if abs(one.gain - other.gain) > _TINY:
        return one.gain > other.gain
    return (len(one.believed), [h.name for h in one.believed]) < (
        len(other.believed),
        [h.name for h in other.believed],
    )


def narrow_scope(scope: Scope) -> Scope:
    """The scope as it is told: a cylinder is one, however many holes it has."""
    return Scope.ONE if scope is Scope.CYLINDER else scope
