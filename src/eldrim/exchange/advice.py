"""Now or later as it is asked about from outside: the command line and the open interface."""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import Dimension, convert, parse, working_unit
from eldrim.core.engine.model import Engine
from eldrim.core.figures.worth import Logged
from eldrim.core.interval.advice import Given, Ran, advise, not_weighed
from eldrim.core.interval.answer import AdviceAnswer, told
from eldrim.core.interval.weigh import Weigh
from eldrim.core.job import Job, possible_companions, possible_work, settle_job
from eldrim.core.rules.house import HouseRules
from eldrim.core.words.messages import gettext
from eldrim.exchange.gathering import Gathering

MAX_TEXT = 1_000
Text = Annotated[str, StringConstraints(max_length=MAX_TEXT)]
# No unit ran further, in km or h.
FURTHEST = {"km": 3_000_000.0, "h": 200_000.0}
_UNITS = {Dimension.DISTANCE: "km", Dimension.TIME: "h"}
_SAID = re.compile(r"(?:(?P<thing>[a-z][a-z0-9-]*)(?:/(?P<at>\d{1,3}))?\s*=\s*)?(?P<reading>[^=]+)")
READING = "write it as 160000 km or 900 h"


class AdviceQuestion(BaseModel):
    """What a unit has run, and what the sums go by beside the sheet and the house rules."""

    meter: Text = Field("", description="Where its meter stands: 160000 km, or 900 h.")
    fitted: Text = Field(
        "",
        description="Where it stood when things were fitted: 0 km; or by thing, and by cylinder: "
        "0 km; coil=90000 km; plug/3=120000 km.",
    )
    severe: bool = Field(False, description="The unit is in severe use.")
    stop_cost: float | None = Field(
        None, ge=0, le=1_000_000, description="What an unplanned stop of it costs."
    )
    next_visit: Text = Field(
        "", description="How much further on it is seen to next: 30000 km; else by its intervals."
    )


def answer_advice(
    engine: Engine,
    job: Job,
    asked: AdviceQuestion,
    rules: HouseRules,
    weigh: Weigh,
    logged: Callable[[str], Mapping[str, Logged]] | None = None,
) -> AdviceAnswer:
    """What else is worth doing along with a job; ``logged`` tells how things fail by the shop's own
    log, of those whose meter counts in a unit.

    Raises :class:`ProblemsError` with all that is not understood, and as the planner does.
    """
    job = settle_job(job, engine)
    given = read_given(engine, job.variant, asked)
    if logged is not None:
        given = replace(given, logged=logged(given.ran.unit))
    found = advise(engine, job, weigh, rules, given)
    about = job.title(engine), weigh(job).minutes, not_weighed(engine, job, rules)
    return told(engine, about, found, rules, given)


def read_given(engine: Engine, variant: str, asked: AdviceQuestion) -> Given:
    """What is said of a unit, as numbers. Raises :class:`ProblemsError` with all that is wrong."""
    parts = Gathering()
    meter = parts.read(None, read_reading, "meter", asked.meter) if asked.meter.strip() else None
    fitted = parts.read({}, _fitted, engine, variant, asked.fitted)
    visit = (
        parts.read(None, read_reading, "next_visit", asked.next_visit) if asked.next_visit else None
    )
    parts.require_nothing_wrong()
    units = {unit for _, unit in filter(None, (meter, visit, *fitted.values()))}
    if len(units) > 1:
        said = gettext("the readings are in km and in hours")
        raise ProblemsError(
            [Problem("fitted", said, gettext("write all in what the meter counts"))]
        )
    _require_past(meter, fitted)
    ran = Ran(
        unit=next(iter(units), _usual_unit(engine)),
        meter=meter[0] if meter else None,
        fitted={thing: value for thing, (value, _) in fitted.items()},
    )
    return Given(ran, asked.severe, asked.stop_cost, visit[0] if visit else None)


def _usual_unit(engine: Engine) -> str:
    """What the sheet's own intervals count in."""
    hours = "interval-hours" in engine.figures and "interval" not in engine.figures
    return "h" if hours or any(one.hours for one in engine.intervals) else "km"


Read = tuple[float, str]


def read_reading(field: str, said: str) -> Read:
    """A reading of a meter, with km or h. Raises :class:`ProblemsError` naming the field."""
    try:
        value = parse(said.strip()[:60])
    except QuantityError as error:
        raise ProblemsError([Problem(field, str(error), READING)]) from error
    unit = _UNITS.get(value.dimension)
    if unit is None or value.is_range:
        raise ProblemsError(
            [Problem(field, gettext("'{said}' is no reading", said=said.strip()[:40]), READING)]
        )
    number = convert(value.mid, working_unit(value.dimension).symbol, unit)
    if not 0 <= number <= FURTHEST[unit]:
        fix = gettext("0 to {most} {unit}", most=f"{FURTHEST[unit]:.0f}", unit=unit)
        raise ProblemsError([Problem(field, gettext("{value} cannot be", value=value), fix)])
    return number, unit


def _fitted(engine: Engine, variant: str, said: str) -> dict[str, Read]:
    known = {*possible_work(engine, variant), *possible_companions(engine, variant)}
    found: dict[str, Read] = {}
    parts = Gathering()
    for clause in filter(None, (part.strip() for part in re.split(r"[;\n]", said))):
        fits = _SAID.fullmatch(clause)
        if fits is None:
            wrong = gettext("'{clause}' is not understood", clause=clause[:60])
            parts.read(None, _refuse, wrong, _example(known))
            continue
        thing, at = fits["thing"] or "", fits["at"] or ""
        if thing and thing not in known:
            wrong = gettext("'{thing}' is nothing of this sheet", thing=thing[:40])
            parts.read(None, _refuse, wrong, _example(known))
        elif at and int(at) not in engine.cylinders:
            wrong = gettext("cylinder {at} does not exist", at=at)
            parts.read(None, _refuse, wrong, gettext("name one there is"))
        else:
            read = parts.read(None, read_reading, "fitted", fits["reading"])
            found |= {f"{thing}/{at}" if at else thing: read} if read else {}
    parts.require_nothing_wrong()
    return found


def _refuse(said: str, fix: str) -> None:
    raise ProblemsError([Problem("fitted", said, fix)])


def _example(known: Iterable[str]) -> str:
    return gettext("write 0 km, or plug=0 km; things are: {known}", known=", ".join(sorted(known)))


def _require_past(meter: Read | None, fitted: dict[str, Read]) -> None:
    """Nothing was fitted at a reading that is still to come."""
    late = [thing for thing, (value, _) in fitted.items() if meter and value > meter[0]]
    if late and meter:
        said = gettext(
            "{late} would be fitted after {meter} {unit}",
            late=", ".join(filter(None, late)) or gettext("it"),
            meter=f"{meter[0]:g}",
            unit=meter[1],
        )
        raise ProblemsError([Problem("fitted", said, gettext("look at both readings again"))])
