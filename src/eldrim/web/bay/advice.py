"""What the bay says beside a value: what to do with a gap, how it wore, how an engine cools."""

from sqlalchemy.orm import Session

from eldrim.core.base.quantity import convert, format_number
from eldrim.core.engine import Engine
from eldrim.core.figures.gap import GapRange, advise
from eldrim.core.figures.sheet import plug_of
from eldrim.core.procedure.model import Plan, Reading, Step, StepFigure
from eldrim.core.run.history import Past, compared_place, grown
from eldrim.core.run.readings import at_limit, is_number, shown
from eldrim.core.run.state import Place
from eldrim.core.run.waiting import waiting
from eldrim.core.words import say
from eldrim.core.words.language import day_words, reading_in
from eldrim.drawing import cooling_curve
from eldrim.store import edition_store, past_runs, runs
from eldrim.store.tables import RunRow

FOUND = "gap_found"
SLIP_TIMES = 3


def gap_advice(db: Session, row: RunRow, engine: Engine, place: Place, value: float) -> str:
    """What to do with a plug whose gap reads ``value``; empty where there is nothing to say."""
    plan = edition_store.plan_of(row.edition)
    step = next((s for s in plan.steps if s.key == place[0]), None)
    gap = (
        next((figure for figure in step.figures if figure.key == "plug-gap"), None)
        if step
        else None
    )
    if step is None or gap is None:
        return ""
    asked = next(reading for reading in step.readings if reading.key == place[1])
    if at_limit(asked, value):
        # Kept as at the limit, it is advised on as the limit it is at.
        value = min(max(value, gap.min), gap.max)
    readings = _gaps_so_far(db, row, place, value)
    with reading_in(plan.job.language):
        advised = _advised(engine, plan, gap, readings, used=place[1] == FOUND)
        worn = _wear(db, row, step, value, gap.max) if place[1] == FOUND else ""
    return " ".join(filter(None, (advised, worn)))


def _gaps_so_far(db: Session, row: RunRow, place: Place, value: float) -> tuple[float, ...]:
    """Every gap written down at a place, ending with ``value``."""
    entries = (recorded.entry for recorded in past_runs.entries(db, row.id))
    before = [entry.value for entry in entries if (entry.step, entry.reading) == place]
    # What lies many times off was a slip of the finger, corrected since: no gap was ever that.
    typed = tuple(
        float(v)
        for v in before
        if isinstance(v, int | float) and value / SLIP_TIMES <= v <= value * SLIP_TIMES
    )
    return typed if typed and typed[-1] == value else (*typed, value)


def _advised(
    engine: Engine, plan: Plan, gap: StepFigure, readings: tuple[float, ...], *, used: bool
) -> str:
    low, high, aim = (convert(value, gap.unit, "mm") for value in (gap.min, gap.max, gap.aim))
    plug = plug_of(engine, plan.variant)
    advice = advise(
        plug.construction,
        GapRange(low, high, aim),
        tuple(convert(reading, gap.unit, "mm") for reading in readings),
        used=used,
        maker_allows=plug.adjustable,
    )
    return advice.words


def _wear(db: Session, row: RunRow, step: Step, value: float, most: float) -> str:
    """How the gap grew since the last run on this unit; empty where that cannot be said."""
    reading = next(r for r in step.readings if r.key == FOUND)
    before = past_runs.past(db, row.unit_id, most=1)
    if not before:
        return ""
    worn = grown(before[0], runs.state(db, row.id), step.key, reading, value, most)
    if worn is None or worn.leaves_at is None:
        return ""
    return say(
        "bay.wear",
        rate=format_number(worn.rate, 3),
        unit=say(f"meter.{row.unit.meter}"),
        limit=f"{format_number(most, 3)} {reading.unit}",
        at=format_number(worn.leaves_at, 0),
    )


def last_values(db: Session, row: RunRow) -> dict[Place, str]:
    """What the last run on the unit wrote where this one asks, in words, by step and reading."""
    before = past_runs.past(db, row.unit_id, most=1)
    if not before:
        return {}
    last, plan = before[0], edition_store.plan_of(row.edition)
    with reading_in(plan.job.language):
        return {
            (step.key, reading.key): _last_value(last, step, reading)
            for step in plan.steps
            for reading in step.readings
            if step.hole and compared_place(step.key, reading.key) in last.state.values
        }


def _last_value(last: Past, step: Step, reading: Reading) -> str:
    place = compared_place(step.key, reading.key)
    entry = last.state.values[place].entry
    value = shown(reading, entry.value)
    if is_number(entry.value):
        value = f"{value} {entry.unit}".strip()
    words = "bay.last" if place[1] == reading.key else "bay.last_left"
    return say(words, value=value, day=day_words(last.at))


def cooling_drawn(db: Session, row: RunRow, key: str) -> str:
    """How what is waited for at a step cools, as a drawing; empty while it cannot be said."""
    plan = edition_store.plan_of(row.edition)
    step = next((s for s in plan.steps if s.key == key), None)
    found = waiting(step, runs.state(db, row.id)) if step else None
    if found is None or found.curve is None:
        return ""
    with reading_in(plan.job.language):
        return cooling_curve.draw(found.curve, found.reading.unit)
