"""While you are there: what else is worth doing while the way in of a job is open.

For every other hole and companion: what it adds now, what it takes later as a job of its own, and
what both cost (docs/interval.md).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from eldrim.core.engine import Engine
from eldrim.core.figures.prices import price_of, stated_price
from eldrim.core.figures.worth import Life, Logged, Worth
from eldrim.core.interval.life import by_log, life_of
from eldrim.core.interval.weigh import JobMinutes, Weigh, own_steps
from eldrim.core.job import (
    Job,
    Work,
    carrier,
    possible_companions,
    possible_work,
    renewed_cylinders,
)
from eldrim.core.rules.house import HouseRules

# Pieces that are renewed at no hole; timing and the supply are no parts.
PIECES = (Work.CAP, Work.ROTOR, Work.POINTS, Work.COIL_LEAD, Work.PACK)


@dataclass(frozen=True)
class Ran:
    """What a unit has run: where its meter stands, and where it stood when things were fitted.

    ``fitted`` is by thing (``plug``, ``coil``, a companion), or by thing and cylinder
    (``plug/3``); ``""`` is of all others.
    """

    unit: str = "km"
    meter: float | None = None
    fitted: Mapping[str, float] = field(default_factory=dict)

    def since(self, thing: str, cylinders: tuple[int, ...]) -> float | None:
        """Where the meter stood when a thing was fitted; of several the oldest."""
        keys = [f"{thing}/{cylinder}" for cylinder in cylinders]
        keys = keys or [key for key in self.fitted if key.startswith(f"{thing}/")]
        whole = self.fitted.get(thing, self.fitted.get(""))
        known = [self.fitted.get(key, whole) for key in keys] or [whole]
        found = [value for value in known if value is not None]
        return min(found) if len(found) == len(known) else None


@dataclass(frozen=True)
class Given:
    """What the sums go by beside the sheet: severe use, an unplanned stop, the next visit; and how
    things fail by the shop's own log, by thing.
    """

    ran: Ran = Ran()
    severe: bool = False
    stop_cost: float | None = None
    next_visit: float | None = None
    logged: Mapping[str, Logged] = field(default_factory=dict)


@dataclass(frozen=True)
class Advised:
    """One thing that could be done along with a job; ``bank`` where it is all that is left of one.

    ``extra`` are minutes it adds to the job, ``own`` those of its own steps, ``later`` those of a
    job of its own. ``worth`` are its sums; ``used`` is its age, None where it is not known.
    ``more_moves`` tells that more has to move for it than for the job.
    """

    work: str
    cylinders: tuple[int, ...]
    bank: str
    extra: float
    own: float
    later: float
    worth: Worth
    fitted: float | None
    used: float | None
    more_moves: bool
    advice: str

    @property
    def cylinder(self) -> int | None:
        """Its cylinder, where it is one."""
        return self.cylinders[0] if len(self.cylinders) == 1 else None


# What stands for a bank where it is all that is left of the engine.
ALL_OTHERS = "all"
Candidate = tuple[str, tuple[int, ...], str]
# Each takes two plans: so many are weighed, fewer on an engine with very many parts.
MOST, MOST_OF_LARGE, LARGE_PARTS = 60, 16, 80


def advise(
    engine: Engine, job: Job, weigh: Weigh, rules: HouseRules, given: Given = Given()
) -> tuple[Advised, ...]:
    """What could be done along with a settled job: what is worth most comes first.

    Of very many, banks, places and companions go before single holes; :func:`not_weighed` says how
    many were left out.
    """
    here = weigh(job)
    asked = _Asked(engine, job, weigh, rules, given, here)
    found = [asked.about(*candidate) for candidate in _chosen(engine, job, rules)]
    return tuple(sorted(found, key=_by_gain))


def _chosen(engine: Engine, job: Job, rules: HouseRules) -> list[Candidate]:
    every = sorted(_candidates(engine, job, rules), key=lambda one: len(one[1]) == 1)
    return every[: MOST if len(engine.parts) <= LARGE_PARTS else MOST_OF_LARGE]


def not_weighed(engine: Engine, job: Job, rules: HouseRules) -> int:
    """How many things are not weighed along with a job, as there are too many."""
    return len(list(_candidates(engine, job, rules))) - len(_chosen(engine, job, rules))


def _by_gain(one: Advised) -> tuple[int, float, str, tuple[int, ...]]:
    """Now before look before later; within each, what gains most first."""
    rank = ("now", "look", "later").index(one.advice)
    age = one.used or 0.0
    return rank, round(one.worth.now(age) - one.worth.later(age), 4), one.work, one.cylinders


def _candidates(engine: Engine, job: Job, rules: HouseRules) -> Iterator[Candidate]:
    """Other holes one by one, what is left of each bank, all that is left, places, companions."""
    carried = carrier(engine)
    done: dict[Work, set[int]] = {
        Work.PLUG: set(job.at(Work.PLUG)),
        carried: {*job.at(carried), *renewed_cylinders(job, engine, rules)},
    }
    for work, where in done.items():
        left = [number for number in engine.cylinders if number not in where]
        yield from ((work.value, (number,), "") for number in left)
        banks = {
            bank: tuple(n for n in left if engine.cylinders[n].bank == bank)
            for bank in engine.banks
        }
        if len(engine.banks) > 1:
            yield from ((work.value, some, bank) for bank, some in banks.items() if len(some) > 1)
        one_bank = len(engine.banks) == 1
        if len(left) > 1 and (one_bank or tuple(left) not in banks.values()):
            yield work.value, tuple(left), ALL_OTHERS
    here = possible_work(engine, job.variant)
    yield from ((w.value, (), "") for w in PIECES if w in here and w not in job.places)
    for key in possible_companions(engine, job.variant):
        if key not in job.companions:
            yield key, (), ""


@dataclass(frozen=True)
class _Asked:
    engine: Engine
    job: Job
    weigh: Weigh
    rules: HouseRules
    given: Given
    here: JobMinutes

    def about(self, work: str, cylinders: tuple[int, ...], bank: str) -> Advised:
        """One candidate with its sums."""
        both = self.weigh(self.job.along_with(work, cylinders))
        alone = self.weigh(self._alone(work, cylinders))
        own = [
            k for k in own_steps(self.engine, both, work, cylinders) if k not in self.here.by_step
        ]
        extra = round(both.minutes - self.here.minutes, 1)
        ran = self.given.ran
        fitted = ran.since(work, cylinders)
        used = None if fitted is None or ran.meter is None else max(0.0, ran.meter - fitted)
        worth = Worth(
            minute=self.rules.money_per_minute,
            now_minutes=extra,
            later_minutes=alone.minutes,
            price=self._price(work, cylinders),
            stop=self._stop(work),
            life=self._life(work),
            count=self._count(work, cylinders),
        )
        more = bool(both.moves - self.here.moves)
        return Advised(
            work=work,
            cylinders=cylinders,
            bank=bank,
            extra=extra,
            own=both.at(own),
            later=alone.minutes,
            worth=worth,
            fitted=fitted,
            used=used,
            more_moves=more,
            advice=_advice(worth, used, self.rules, more),
        )

    def _count(self, work: str, cylinders: tuple[int, ...]) -> int:
        """How many there are, any of which may fail: boots as one work are one at each hole."""
        at = tuple(self.engine.cylinders) if work == "boot" else cylinders
        return len(self.engine.holes_of_all(at)) or 1

    def _alone(self, work: str, cylinders: tuple[int, ...]) -> Job:
        """The same as a job of its own."""
        plain = {"variant": self.job.variant, "language": self.job.language}
        if work in self.engine.companions:
            return Job(companions=(work,), **plain)
        return Job(work=(Work(work),), cylinders=cylinders, **plain)

    def _price(self, work: str, cylinders: tuple[int, ...]) -> float:
        if work in self.engine.companions:
            return sum(
                (stated_price(self.engine, part.part_number or "") or 0.0) * part.count
                for part in self.engine.companions[work].parts
            )
        count = len(self.engine.holes_of_all(cylinders)) or 1
        return price_of(self.engine, self.job.variant, work) * count

    def _stop(self, work: str) -> float:
        """What an unplanned stop costs; nothing where its failure stops no unit."""
        companion = self.engine.companions.get(work)
        if companion is not None and not companion.stops:
            return 0.0
        return self.rules.stop_cost if self.given.stop_cost is None else self.given.stop_cost

    def _life(self, work: str) -> Life | None:
        found = life_of(
            self.engine,
            self.job.variant,
            work,
            self.given.ran.unit,
            self.rules,
            severe=self.given.severe,
        )
        found = by_log(found, self.given.logged.get(work), self.given.ran.unit)
        if found is not None and self.given.next_visit is not None:
            return replace(found, visit=self.given.next_visit)
        return found


def _advice(worth: Worth, used: float | None, rules: HouseRules, more_moves: bool) -> str:
    """Now, later, or to be looked at where the sums lack its life or its age."""
    if rules.waste_of_life == "while_open":
        return "later" if more_moves else "now"
    by_sums = rules.waste_of_life == "break_even"
    if worth.life is None or used is None:
        # What pays at any age pays at one that is not known.
        return "now" if by_sums and worth.break_even == 0 else "look"
    if not by_sums:
        return "now" if used >= worth.life.amount else "later"
    return "now" if worth.now(used) <= worth.later(used) else "later"
