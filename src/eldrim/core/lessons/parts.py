"""How long parts last: survival by number, batches that fail early, and what wears faster.

Survival is the product-limit estimate of Kaplan and Meier (1958): what still runs, or was renewed
before it failed, counts as long as it was seen.
"""

import warnings
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from statistics import fmean, median
from uuid import UUID

from eldrim.core.lessons.digest import Signed
from eldrim.core.lessons.trend import LEAST_CASES, RARE, rarity
from eldrim.core.operations import StopKind

# From so many of a kind, and so many of them failed, the shop's own log says how they last.
LEAST_KNOWN = 12
# A kind wears faster where its middle is so many times that of the others.
FASTER = 1.8
# Gaps that grew less than this in mm, twice what they are measured to, tell nothing of how fast.
LEAST_GROWN_MM = 0.03
# Pairs up to which the test is worked out exactly.
EXACT_UP_TO = 400
# Plated shells found stuck in so many runs ask whether the threads want compound (craft §10).
STUCK_SETS = 2


@dataclass(frozen=True)
class PartLife:
    """One thing that was fitted: which and where; by which run and when; how long it was seen.

    ``ran`` is what the meter ran since, in km or h as ``counts`` says; None where it is not known.
    ``out`` is when it was renewed, None while it is in. ``grown`` is how far its gap had grown when
    it was read last, in mm, and ``grown_over`` what the meter ran until then.
    """

    unit: str
    thing: str
    hole: str
    number: str
    run: UUID
    fitted: date
    counts: str
    ran: float | None
    failed: bool
    out: date | None = None
    why: str = ""
    grown: float | None = None
    grown_over: float | None = None

    @property
    def rate(self) -> float | None:
        """How fast its gap grew, in mm a thousand of its meter; None where that is not known."""
        if self.grown is None or not self.grown_over:
            return None
        return 1_000 * self.grown / self.grown_over


@dataclass(frozen=True)
class SurvivalStep:
    """A step of the curve: from ``age`` on this share still works, between these nine times in
    ten.
    """

    age: float
    share: float
    low: float
    high: float


@dataclass(frozen=True)
class Lasting:
    """How long parts of a kind last by the shop's own log.

    ``known`` says whether there are cases enough to go by; ``half`` is where half have failed, None
    where not so many did.
    """

    counts: str
    count: int
    failed: int
    stairs: tuple[SurvivalStep, ...]
    oldest: float

    @property
    def known(self) -> bool:
        """Whether it rests on cases enough."""
        return self.count >= LEAST_KNOWN and self.failed >= LEAST_CASES

    @property
    def half(self) -> float | None:
        """The age at which half have failed."""
        return next((one.age for one in self.stairs if one.share <= 0.5), None)

    def survives(self, age: float) -> float:
        """The share that still works at an age; beyond the oldest seen, at the pace until then."""
        if age <= 0 or not self.stairs:
            return 1.0
        share = 1.0
        for stair in self.stairs:
            if stair.age > age:
                break
            share = stair.share
        if age <= self.oldest:
            return share
        # The same part of what is left fails in each further stretch as long.
        last: float = max(self.stairs[-1].share, 0.01) ** (age / self.oldest)
        return min(share, last)


def lasting(lives: Sequence[PartLife], counts: str) -> Lasting | None:
    """How long these last, of those whose meter counts so; None where none was seen running."""
    seen = [(one.ran, one.failed) for one in lives if one.counts == counts and one.ran]
    ages = [float(ran or 0.0) for ran, _ in seen]
    if not ages:
        return None
    failed = [age for age, (_, out) in zip(ages, seen, strict=True) if out]
    stairs = tuple(_stairs(failed, [a for a, (_, out) in zip(ages, seen, strict=True) if not out]))
    return Lasting(counts, len(ages), len(failed), stairs, max(ages))


def _stairs(failed: Sequence[float], censored: Sequence[float]) -> Iterator[SurvivalStep]:
    if not failed:
        return
    # Late: it takes a second or two to load, and most processes never ask for it.
    from scipy.stats import CensoredData, ecdf

    curve = ecdf(CensoredData(uncensored=failed, right=censored)).sf
    with warnings.catch_warnings():
        # At one and at nothing they cannot be told, which _or answers.
        warnings.simplefilter("ignore", RuntimeWarning)
        limits = curve.confidence_interval(0.9, method="log-log")
    ages = set(failed)
    for age, share, low, high in zip(
        curve.quantiles,
        curve.probabilities,
        limits.low.probabilities,
        limits.high.probabilities,
        strict=True,
    ):
        if float(age) in ages:
            yield SurvivalStep(float(age), float(share), _or(low, 0.0), _or(high, 1.0))


def _or(value: float, otherwise: float) -> float:
    """A limit that cannot be told is the widest there is."""
    return float(value) if value == value else otherwise


@dataclass(frozen=True)
class Batch:
    """Parts of a number fitted between two days of which far more failed than of the others."""

    thing: str
    number: str
    first: date
    last: date
    failed: int
    count: int
    others_failed: int
    others: int
    units: tuple[str, ...]
    still_in: tuple[PartLife, ...]


def bad_batches(lives: Iterable[PartLife]) -> tuple[Batch, ...]:
    """For each number the stretch of days of fitting that stands out most, where chance alone
    hardly gives it: all stretches that could be looked at count as tries.
    """
    kinds: dict[tuple[str, str], list[PartLife]] = {}
    for one in lives:
        kinds.setdefault((one.thing, one.number), []).append(one)
    found = (_worst_stretch(mine) for mine in kinds.values())
    return tuple(one for one in found if one is not None)


def _worst_stretch(lives: Sequence[PartLife]) -> Batch | None:
    days = sorted({one.fitted for one in lives})
    failed = [one for one in lives if one.failed]
    if len(failed) < LEAST_CASES or len(days) < 2:
        return None
    best: tuple[float, date, date] | None = None
    begins = sorted({one.fitted for one in failed})
    for place, first in enumerate(begins):
        for last in begins[place:]:
            chance = _chance(lives, failed, first, last)
            if best is None or chance < best[0]:
                best = chance, first, last
    tries = len(begins) * (len(begins) + 1) / 2
    if best is None or best[0] * tries > RARE * 10:
        return None
    return _batch(lives, best[1], best[2])


def _chance(
    lives: Sequence[PartLife], failed: Sequence[PartLife], first: date, last: date
) -> float:
    """How often chance gives it, that so many fail of those fitted in a stretch. What did not run
    as long as half of these until they failed says nothing: it might have failed as well.
    """
    ages = [one.ran for one in failed if first <= one.fitted <= last and one.ran is not None]
    if len(ages) < LEAST_CASES:
        return 1.0
    age = median(ages)
    seen = [one for one in lives if one.failed or (one.ran is not None and one.ran >= age)]
    inside = [one for one in seen if first <= one.fitted <= last]
    hits = sum(one.failed for one in inside)
    return rarity(hits, len(inside), len(failed) - hits, len(seen) - len(inside))


def _batch(lives: Sequence[PartLife], first: date, last: date) -> Batch | None:
    mine = [one for one in lives if first <= one.fitted <= last]
    others = [one for one in lives if not first <= one.fitted <= last]
    if not others:
        return None
    return Batch(
        thing=mine[0].thing,
        number=mine[0].number,
        first=first,
        last=last,
        failed=sum(one.failed for one in mine),
        count=len(mine),
        others_failed=sum(one.failed for one in others),
        others=len(others),
        units=tuple(sorted({one.unit for one in mine})),
        still_in=tuple(one for one in mine if one.out is None and not one.failed),
    )


@dataclass(frozen=True)
class WearsFast:
    """Something whose gaps grow far faster than those of its like: a number, or one hole.

    Rates are in mm a thousand of ``counts``, all growth over all that was run.
    """

    what: str
    number: str
    counts: str
    rate: float
    others: float
    cases: int
    other_cases: int
    hole: str = ""
    unit: str = ""

    @property
    def times(self) -> float:
        """How many times as fast."""
        return self.rate / self.others


def wears_fast(lives: Iterable[PartLife], counts: str) -> tuple[WearsFast, ...]:
    """Plug numbers, and single holes, whose gaps grow twice as fast as those of the others with the
    same meter. A hole is held against its number, a number against the other numbers.
    """
    known = [one for one in lives if one.counts == counts and one.rate is not None]
    plugs = [one for one in known if one.thing == "plug"]
    found = []
    for number in sorted({one.number for one in plugs}):
        mine = [one for one in plugs if one.number == number]
        others = [one for one in plugs if one.number != number]
        fast = _faster(mine, others)
        if fast:
            found.append(WearsFast("number", number, counts, *fast, len(mine), len(others)))
    found += _fast_holes(plugs, counts)
    return tuple(sorted(found, key=lambda one: -one.times))


def _fast_holes(plugs: Sequence[PartLife], counts: str) -> Iterator[WearsFast]:
    for unit, hole in sorted({(one.unit, one.hole) for one in plugs}):
        mine = [one for one in plugs if (one.unit, one.hole) == (unit, hole)]
        number = mine[-1].number
        alike = [one for one in plugs if one.number == number and one not in mine]
        fast = _faster(mine, alike)
        if fast:
            cases = len(mine), len(alike)
            yield WearsFast("hole", number, counts, *fast, *cases, hole=hole, unit=unit)


def _faster(mine: Sequence[PartLife], others: Sequence[PartLife]) -> tuple[float, float] | None:
    """Both rates, where nearly each of these is faster than nearly each of the others, and they
    grew by more than they are measured to.
    """
    if len(mine) < LEAST_CASES or len(others) < LEAST_CASES:
        return None
    rate, usual = pooled_rate(mine), pooled_rate(others)
    grown = fmean(one.grown or 0.0 for one in mine)
    if usual <= 0 or rate < FASTER * usual or grown < LEAST_GROWN_MM:
        return None
    from scipy.stats import mannwhitneyu

    rates = [[one.rate or 0.0 for one in some] for some in (mine, others)]
    method = "exact" if len(mine) * len(others) < EXACT_UP_TO else "asymptotic"
    chance = float(mannwhitneyu(*rates, alternative="greater", method=method).pvalue)
    return (rate, usual) if chance < RARE else None


def pooled_rate(lives: Sequence[PartLife]) -> float:
    """How fast gaps grow, in mm a thousand of the meter: all growth over all that was run, since
    short runs measure little.
    """
    ran = sum(one.grown_over or 0.0 for one in lives)
    return 1_000 * sum(one.grown or 0.0 for one in lives) / ran


@dataclass(frozen=True)
class StuckSets:
    """Plugs with plated shells that bound on their way out, in several runs on one engine."""

    engine: str
    runs: tuple[UUID, ...]


def stuck_sets(runs: Iterable[Signed], plated: Collection[str]) -> tuple[StuckSets, ...]:
    """Where plated shells stuck in two sets or more: a reason to think again about compound on
    their threads (docs/craft.md §10).
    """
    found: dict[str, list[UUID]] = {}
    for signed in runs:
        marks = (m.reason for step in signed.digest.steps for m in step.marks)
        if signed.engine in plated and StopKind.PLUG_BINDS.value in set(marks):
            found.setdefault(signed.engine, []).append(signed.run)
    return tuple(
        StuckSets(engine, tuple(mine)) for engine, mine in found.items() if len(mine) >= STUCK_SETS
    )
