"""What the panel of now and later shows: the unit chosen, what it ran, each thing with its sums."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.figures.worth import Logged
from eldrim.core.interval.answer import AdviceAnswer
from eldrim.core.job import Job
from eldrim.core.lessons.parts import PartLife, lasting
from eldrim.core.rules.house import HouseRules
from eldrim.core.run.fitted import Fitting, fitted
from eldrim.exchange.advice import AdviceQuestion, answer_advice
from eldrim.store import lives, past_runs, unit_store
from eldrim.store.tables import UnitRow
from eldrim.web.context import tools_today
from eldrim.web.plans import weighed

Said = Annotated[str, Field(max_length=1_000)]
# Units that are offered, and runs that are looked through for what was fitted.
UNITS, RUNS = 60, 40
# What a meter counts in, as a reading is written.
WRITTEN = {"km": "km", "hours": "h"}


class AlongForm(BaseModel):
    """What is asked besides the job; ``of`` is the unit whose readings stand in the fields."""

    unit: Annotated[str, Field(max_length=48)] = ""
    of: Annotated[str, Field(max_length=48)] = ""
    meter: Said = ""
    fitted: Said = ""
    severe: bool = False
    next_visit: Said = ""


@dataclass(frozen=True)
class AlongView:
    """What the panel shows."""

    answer: AdviceAnswer | None
    problems: Sequence[Problem]
    asked: AlongForm
    unit: UnitRow | None
    units: Sequence[UnitRow]


def along_view(
    db: Session, engine: Engine, job: Job, rules: HouseRules, form: AlongForm
) -> AlongView:
    """What else is worth doing along with a job, for a unit or for readings that are typed."""
    unit = unit_store.unit(db, form.unit) if form.unit else None
    if unit is not None and form.of != unit.id:
        meter, since = readings_of(db, unit)
        told = {"meter": meter, "fitted": since, "severe": unit.severe, "of": unit.id}
        form = form.model_copy(update=told)
    crib = tools_today(db)
    question = AdviceQuestion(
        meter=form.meter,
        fitted=form.fitted,
        severe=form.severe,
        stop_cost=unit.stop_cost if unit else None,
        next_visit=form.next_visit,
    )
    answer, problems = None, tuple[Problem, ...]()
    try:
        answer = answer_advice(
            engine,
            job,
            question,
            rules,
            lambda asked: weighed(engine, asked, rules, crib),
            lambda unit: by_log(db, engine.id, unit),
        )
    except ProblemsError as error:
        problems = tuple(error.problems)
    return AlongView(answer, problems, form, unit, unit_store.of_engine(db, engine.id, UNITS))


def by_log(db: Session, engine: str, counts: str) -> dict[str, Logged]:
    """How things of an engine fail by the shop's own log, where it has cases enough."""
    things: dict[str, list[PartLife]] = {}
    for one in lives.of_engine(db, engine):
        things.setdefault(one.thing, []).append(one)
    known = {thing: lasting(mine, counts) for thing, mine in things.items()}
    return {
        thing: Logged(one.survives, one.count, one.failed, one.half)
        for thing, one in known.items()
        if one is not None and one.known
    }


def readings_of(db: Session, unit: UnitRow) -> tuple[str, str]:
    """Where the meter of a unit stands, and where it stood when things were fitted, as typed."""
    past = past_runs.past(db, unit.id, RUNS)
    counts = WRITTEN.get(unit.meter)
    stood = [run.meter for run in past if run.meter is not None]
    if counts is None or not stood:
        return "", ""
    since = {key: one.meter for key, one in fitted(past).items() if one.meter is not None}
    return f"{max(stood):g} {counts}", "; ".join(_clauses(since, counts))


def _clauses(since: dict[Fitting, float], counts: str) -> list[str]:
    """Readings by thing; alike at all its holes they are said once."""
    found = []
    for thing in dict.fromkeys(thing for thing, _ in since):
        at = {hole: value for (one, hole), value in since.items() if one == thing}
        if set(at) == {""}:
            found.append(f"{thing}={at['']:g} {counts}")
            continue
        first = {_cylinder(hole): value for hole, value in at.items()}
        found += [f"{thing}/{number}={value:g} {counts}" for number, value in sorted(first.items())]
    return found


def _cylinder(hole: str) -> int:
    return int(hole.rstrip("ab"))
