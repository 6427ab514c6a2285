"""What the page of a unit shows of its life: the picture, its use, what is in each hole."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy.orm import Session

from eldrim.core.engine.targets import hole_order
from eldrim.core.interval.foreseen import UnitNow
from eldrim.core.interval.life import life_of, meter_words
from eldrim.core.interval.use import Use
from eldrim.core.lessons.parts import pooled_rate
from eldrim.core.lessons.trend import LEAST_CASES
from eldrim.core.run.fitted import Fitted, Fitting
from eldrim.core.run.history import Past
from eldrim.core.run.life import Face, Noted, unit_life
from eldrim.core.words.messages import gettext
from eldrim.drawing import engine_plan, plug_condition
from eldrim.drawing import unit_life as picture
from eldrim.store import foreseen, lives, past_runs, runs
from eldrim.store.tables import UnitRow
from eldrim.web.filters import today


@dataclass(frozen=True)
class InPlace:
    """A thing in its hole, or on the engine: its number, where the meter stood at its fitting, and
    what it ran since; by which run.
    """

    thing: str
    hole: str
    number: str
    ran: str
    at_meter: str
    day: date
    run: UUID


@dataclass(frozen=True)
class LifeView:
    """The picture and what stands beside it."""

    drawing: str
    use: str
    stands: str
    in_place: Sequence[InPlace]
    engine: str
    by_date: bool
    looks: str
    fleet: bool
    spent: tuple[int, float, float] | None
    noted: Sequence[Noted]
    faces: Sequence[Face]


def life_view(db: Session, row: UnitRow, *, by_date: bool) -> LifeView | None:
    """The life of a unit; None where no run on it was signed yet."""
    past = past_runs.past(db, row.id, foreseen.RUNS)
    now = foreseen.unit_now(db, row, past) if past else None
    if now is None or now.stood is None:
        return None
    life = unit_life(past)
    read_on, stood = now.stood
    at = picture.Now(
        today(), stood, read_on, now.use, _fleet(db, row, now.counts), runs.costs(db, row.id)
    )
    return LifeView(
        drawing=picture.draw(life, at, now.counts, by_date=by_date),
        use=_use_words(now.use, now.counts),
        stands=meter_words(stood, now.counts),
        in_place=_in_place(life.fitted, past, stood, now.counts),
        engine=_engine(now, life.fitted, stood),
        by_date=by_date,
        looks=plug_condition.symbols() if life.faces else "",
        fleet=at.fleet is not None,
        spent=_spent(at.costs),
        noted=life.noted,
        faces=life.faces,
    )


def _engine(now: UnitNow, fitted: Mapping[Fitting, Fitted], stood: float) -> str:
    """The engine from above: holes hatched by how much of their life their plugs have used, with
    the hours or km they ran; empty where no plug was seen fitted.
    """
    life = life_of(now.engine, now.variant, "plug", now.counts, severe=now.severe)
    since = {hole: one.meter for (thing, hole), one in fitted.items() if thing == "plug"}
    ran = {hole: stood - at for hole, at in since.items() if at is not None}
    known = {hole: age for hole, age in ran.items() if hole in now.engine.holes}
    if not known or life is None:
        return ""
    levels = {hole: min(2, int(3 * age / life.amount)) for hole, age in known.items()}
    letters = {hole: f"{age:,.0f}".replace(",", "\u202f") for hole, age in known.items()}
    view = engine_plan.PlanView(levels=levels, letters=letters, compact=True)
    return engine_plan.draw(now.engine, view)


def _spent(costs: Mapping[UUID, tuple[float, float]]) -> tuple[int, float, float] | None:
    """Over how many runs, planned and real cost; None where none is known."""
    if not costs:
        return None
    planned, real = (sum(one[place] for one in costs.values()) for place in (0, 1))
    return len(costs), planned, real


def _fleet(db: Session, row: UnitRow, counts: str) -> float | None:
    """How fast gaps of its engine grow on the other units, in mm to one of the meter."""
    others = (one for one in lives.of_engine(db, row.engine_id) if one.unit != row.id)
    known = [one for one in others if one.counts == counts and one.rate is not None]
    return pooled_rate(known) / 1_000 if len(known) >= LEAST_CASES else None


def _use_words(use: Use | None, counts: str) -> str:
    """What it runs in a week, by how many readings."""
    if use is None:
        return ""
    by = "readings" if use.by == "unit" else gettext("readings of its like")
    return gettext(
        "{per_day} {counts} a week, by {readings} {by}",
        per_day=f"{use.per_day * 7:.3g}",
        counts=counts,
        readings=use.readings,
        by=by,
    )


def _in_place(
    fitted: Mapping[Fitting, Fitted], past: Sequence[Past], stood: float, counts: str
) -> list[InPlace]:
    numbers = {one.run: one.plan.numbers for one in past}
    found = [
        InPlace(
            thing=thing,
            hole=hole,
            number=numbers.get(one.run, {}).get(thing, ""),
            ran=meter_words(stood - one.meter, counts) if one.meter is not None else "",
            at_meter=meter_words(one.meter, counts) if one.meter is not None else "",
            day=one.at.date(),
            run=one.run,
        )
        for (thing, hole), one in fitted.items()
    ]
    return sorted(found, key=lambda one: (one.thing, hole_order(one.hole) if one.hole else (0, "")))
