"""What comes due on a unit by its intervals and its wear, from when things were fitted or seen."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from eldrim.core.base.days import months_on
from eldrim.core.engine import Engine, applies
from eldrim.core.engine.glossary import word
from eldrim.core.engine.model import Service
from eldrim.core.engine.targets import hole_order
from eldrim.core.engine.upkeep import Interval
from eldrim.core.figures.sheet import source_text
from eldrim.core.interval.life import intervals_of, life_of, meter_words
from eldrim.core.interval.use import Reading, Span, Use, when
from eldrim.core.interval.wear_forecast import Crossing
from eldrim.core.job import Work, carrier
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import listed, say

# A season begins here, in month and day; what is due each season is done before it does.
SEASON_BEGINS = (3, 1)
# Less is no trend.
LEAST_POINTS = 3
AT_HOLES = ("plug", "coil", "lead", "boot")


@dataclass(frozen=True)
class Since:
    """When a thing was fitted or seen last, and where the meter stood; None where not read."""

    day: date
    meter: float | None


@dataclass(frozen=True)
class UnitNow:
    """A unit as what comes due on it goes by; ``counts`` is km or h, empty where neither.

    ``fitted`` and ``seen`` are by thing and hole (``""`` of what is at none).
    """

    engine: Engine
    variant: str
    counts: str
    severe: bool = False
    stood: Reading | None = None
    use: Use | None = None
    fitted: Mapping[tuple[str, str], Since] = field(default_factory=dict)
    seen: Mapping[tuple[str, str], Since] = field(default_factory=dict)


@dataclass(frozen=True)
class Foreseen:
    """One thing that comes due: at which holes, at which reading, from when to when, and why.

    ``span`` is None where the meter decides and its use is not known. ``band`` marks what no maker
    states.
    """

    thing: str
    act: str
    holes: tuple[str, ...]
    meter: float | None
    span: Span | None
    words: str
    why: str
    band: bool = False

    @property
    def cylinders(self) -> tuple[int, ...]:
        """The cylinders of its holes."""
        return tuple(dict.fromkeys(int(hole.rstrip("ab")) for hole in self.holes))


@dataclass(frozen=True)
class _Limit:
    """How long a thing goes, by the meter and by the calendar, and who says so."""

    amount: float | None
    months: int | None
    season: bool
    source: str
    band: bool


def foreseen(unit: UnitNow, rules: HouseRules) -> tuple[Foreseen, ...]:
    """What comes due on a unit by its intervals: whichever comes first of each, soonest first.

    A thing nobody is known to have fitted or seen is left out: nothing can be said of it.
    """
    found: dict[tuple[object, ...], Foreseen] = {}
    for thing, hole in _things(unit.engine, unit.variant):
        for act in ("replace", "inspect"):
            limit = _limit(unit, thing, act, rules)
            since = _since(unit, thing, hole, act)
            if limit is None or since is None:
                continue
            one = _due(unit, (thing, hole, act), limit, since)
            if one is None:
                continue
            alike = (thing, act, one.meter, one.span)
            holes = (*(found[alike].holes if alike in found else ()), *one.holes)
            found[alike] = replace(one, holes=holes)
    named = [replace(one, words=things_words(unit.engine, one)) for one in found.values()]
    return tuple(sorted(named, key=_soonest))


def _soonest(one: Foreseen) -> tuple[date, float, str]:
    return (one.span.likely if one.span else date.max, one.meter or 0.0, one.words)


def _things(engine: Engine, variant: str) -> Iterator[tuple[str, str]]:
    carried = carrier(engine)
    kinds = ["plug", carried.value, *(["boot"] if carried is Work.COIL else [])]
    yield from ((kind, hole) for kind in kinds for hole in engine.holes)
    yield from ((key, "") for key in engine.pieces)
    companions = engine.companions.items()
    mine = (key for key, one in companions if applies(one.variants, variant))
    yield from ((key, "") for key in mine if key not in kinds)


def _since(unit: UnitNow, thing: str, hole: str, act: str) -> Since | None:
    """When it was fitted; to be looked at, when it was seen if that is later."""
    fitted = unit.fitted.get((thing, hole))
    seen = unit.seen.get((thing, hole)) if act == "inspect" else None
    known = [one for one in (fitted, seen) if one is not None]
    return max(known, key=lambda one: one.day, default=None)


def _limit(unit: UnitNow, thing: str, act: str, rules: HouseRules) -> _Limit | None:
    """The limits of one thing: by the meter, by months, by season; None where there is none."""
    stated = intervals_of(unit.engine, unit.variant, thing, act)
    amount, source, band = _by_meter(unit, thing, act, stated, rules)
    months = _fewest_months(stated, unit.severe)
    season = any(interval.season for interval in stated)
    silent = not stated and (amount is None or band)
    if thing == "plug" and act == "replace" and silent and _by_season(unit.engine):
        season, band = True, True
    if amount is None and months is None and not season:
        return None
    if stated and not source:
        source = source_text(unit.engine, stated[0])
    return _Limit(amount, months, season, source or say("interval.band_plug"), band)


def _by_meter(
    unit: UnitNow, thing: str, act: str, stated: Sequence[Interval], rules: HouseRules
) -> tuple[float | None, str, bool]:
    """After how much it is due by the meter, from where that is known, and whether by a band."""
    if not unit.counts:
        return None, "", False
    if act == "inspect":
        return (_inspected(unit, stated) if stated else None), "", False
    if act != "replace" or not (stated or thing == "plug"):
        return None, "", False
    life = life_of(unit.engine, unit.variant, thing, unit.counts, rules, severe=unit.severe)
    # That half have failed by then is no interval.
    if life is None or life.visit:
        return None, "", False
    return life.amount, life.source, life.band


def _fewest_months(stated: Sequence[Interval], severe: bool) -> int | None:
    months = [_months(interval, severe) for interval in stated]
    return min(filter(None, months), default=None)


def _by_season(engine: Engine) -> bool:
    """Whether plugs are done every season where the sheet is silent."""
    return engine.layout.service is Service.MARINE or engine.layout.cycle == "two_stroke"


def _months(one: Interval, severe: bool) -> int | None:
    return (one.severe.months if severe else None) or one.months


def _inspected(unit: UnitNow, stated: Sequence[Interval]) -> float | None:
    """The shortest stated by the meter, to be looked at."""
    found = []
    for one in stated:
        limits = [one.severe, one] if unit.severe else [one]
        values = [limit.distance if unit.counts == "km" else limit.hours for limit in limits]
        value = next((v for v in values if v), None)
        if value is not None:
            found.append(value.low / (1.0 if unit.counts == "km" else 60.0))
    return min(found, default=None)


def _due(unit: UnitNow, what: tuple[str, str, str], limit: _Limit, since: Since) -> Foreseen | None:
    """One thing with the first of its limits; None where none can be counted from when it was."""
    thing, hole, act = what
    meter = None
    if limit.amount is not None and since.meter is not None:
        meter = round(since.meter + limit.amount, 1)
    days = [months_on(since.day, limit.months)] if limit.months else []
    days += [_next_season(since.day)] if limit.season else []
    calendar = min(days, default=None)
    by_meter = None
    if meter is not None and unit.use is not None and unit.stood is not None:
        by_meter = when(meter, unit.stood, unit.use)
    if meter is None and calendar is None:
        return None
    by_day = Span(calendar, calendar, calendar) if calendar else None
    spans = [span for span in (by_meter, by_day) if span is not None]
    span = min(spans, key=lambda one: one.likely, default=None)
    return Foreseen(
        thing=thing,
        act=act,
        holes=(hole,) if hole else (),
        meter=meter,
        span=span,
        words="",
        why=_why(unit, limit, since, by_meter=span is not None and span is by_meter),
        band=limit.band,
    )


def _next_season(day: date) -> date:
    month, first = SEASON_BEGINS
    this_year = date(day.year, month, first)
    return this_year if day < this_year else date(day.year + 1, month, first)


def _why(unit: UnitNow, limit: _Limit, since: Since, *, by_meter: bool) -> str:
    """Every so much, by whom; done last when; and by what the day goes."""
    every = [meter_words(limit.amount, unit.counts)] if limit.amount is not None else []
    every += [say("due.months", months=limit.months)] if limit.months else []
    every += [say("due.season")] if limit.season else []
    last = meter_words(since.meter, unit.counts) if since.meter is not None and unit.counts else ""
    said = say("due.every", every=say("due.or").join(every), source=limit.source)
    said += say("due.last_at", meter=last) if last else ""
    if by_meter and unit.use is not None:
        pattern = "due.use" if unit.use.by == "unit" else "due.use_fleet"
        per_week = f"{unit.use.per_day * 7:.3g} {unit.counts}"
        said += say(pattern, use=per_week, readings=unit.use.readings)
    return said


def things_words(engine: Engine, one: Foreseen) -> str:
    """What it is and what is done with it: ``Plugs 2, 4 and 6: renew``."""
    if one.thing in engine.companions:
        things = word(engine, engine.companions[one.thing].name)
    elif one.thing in AT_HOLES:
        holes = sorted(one.holes, key=hole_order)
        things = say(f"due.{one.thing}{'s' if len(holes) > 1 else ''}", holes=listed(holes))
    else:
        things = say(f"job.{one.thing}")
    return say(f"due.{one.act}", things=f"{things[:1].upper()}{things[1:]}")


def wear_foreseen(
    unit: UnitNow, crossings: Mapping[str, Crossing], counts_from: Iterable[Foreseen] = ()
) -> tuple[Foreseen, ...]:
    """Which plugs leave their range before their interval, each with its span.

    ``counts_from`` is what comes due by interval: what leaves later than that is told by it. From
    under three measurements, or where it may never leave, nothing is foreseen.
    """
    by_interval = {
        hole: one.meter
        for one in counts_from
        if one.thing == "plug" and one.act == "replace" and one.meter is not None
        for hole in one.holes
    }
    found = []
    for hole, one in sorted(crossings.items(), key=lambda item: hole_order(item[0])):
        due = by_interval.get(hole)
        known = one.out or (one.points >= LEAST_POINTS and one.last is not None)
        if not known or (due is not None and one.likely >= due):
            continue
        found.append(_worn(unit, hole, one))
    return tuple(sorted(found, key=_soonest))


def _worn(unit: UnitNow, hole: str, one: Crossing) -> Foreseen:
    span = None
    if unit.use is not None and unit.stood is not None:
        middle = when(one.likely, unit.stood, unit.use)
        first = when(one.first, unit.stood, unit.use).first
        last = when(one.last or one.likely, unit.stood, unit.use).last
        span = Span(middle.likely, min(first, middle.likely), max(last, middle.last))
    slots = {
        "first": meter_words(one.first, unit.counts),
        "last": meter_words(one.last or one.likely, unit.counts),
        "points": one.points,
    }
    return Foreseen(
        thing="plug",
        act="wear",
        holes=(hole,),
        meter=round(one.likely, 1),
        span=span,
        words=say("due.worn_out" if one.out else "due.wears_out", hole=hole),
        why=say("due.wear_out" if one.out else "due.wear", **slots),
    )
