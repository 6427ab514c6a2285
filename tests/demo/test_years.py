"""The two years of the demo: valid runs, the same each time, and what is planted in them."""

import json
from collections import defaultdict
from collections.abc import Iterator
from datetime import date
from statistics import median
from uuid import UUID

import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from eldrim.core.lessons import figures, parts
from eldrim.core.lessons.digest import Signed
from eldrim.core.lessons.pace import learn_pace
from eldrim.core.lessons.steps import failing_steps
from eldrim.core.run.history import Past
from eldrim.demo.years import DRIFTS, SLOW_PART, UNITS
from eldrim.store import dues, gathered, lives, past_runs, sheet_store
from eldrim.store.database import sessions
from eldrim.store.tables import DueRow, ProcedureRow, RunRow


@pytest.fixture
def seen(years: Engine) -> Iterator[Session]:
    """A session on the demo workshop with its two years."""
    with sessions(years).begin() as session:
        yield session


def every(session: Session) -> list[Past]:
    """All runs of the two years' units."""
    return [past for kept in UNITS for past in past_runs.past(session, kept.unit, 100)]


def test_the_years_hold_whole_runs_and_what_is_planted(seen: Session) -> None:
    """In one, as loading takes longest: whole and plausible, and what is to be found is there."""
    count = seen.scalar(select(func.count(RunRow.id))) or 0
    assert 250 <= count <= 400
    runs = every(seen)
    _all_signed(runs)
    _meters_rise(seen)
    _duct_is_slow(runs)
    _wrench_drifts(runs)
    _hole_wears_fast(seen)
    due = seen.scalars(select(DueRow).where(DueRow.kind == "interval")).all()
    assert any(row.on for row in due), "a day's use is known, so days are"
    assert dues.counts(seen, max(row.signed_at.date() for row in _rows(seen)))["due"] > 20


def test_all_that_was_planted_is_found_and_nothing_else(seen: Session) -> None:
    """The wrench, the boots, the hole and the duct; no figure, act, number or other step."""
    runs = gathered.newest(seen, 1_000)
    weeks = gathered.wrench_weeks(seen, date(2000, 1, 1))
    assert [one.wrench for one in figures.drifting(weeks)] == [DRIFTS]
    assert figures.drifting(weeks)[0].share == pytest.approx(0.06, abs=0.015)
    fitted = lives.newest(seen, "", 5_000)
    [batch] = parts.bad_batches(fitted)
    assert (batch.thing, batch.number, batch.others_failed) == ("boot", "CV-BT-204", 0)
    assert set(batch.units) == {"loader-6", "loader-9"}
    fast = [*parts.wears_fast(fitted, "h"), *parts.wears_fast(fitted, "km")]
    assert [(one.unit, one.hole) for one in fast] == [("tug-14", "5")]
    assert not figures.at_limits(runs)[0]
    assert not figures.supplied_wrong(runs)
    assert {one.split("/")[1] for one in _slow_steps(runs)} == {SLOW_PART}
    for engine in sorted({one.engine for one in runs}):
        mine = [one for one in runs if one.engine == engine]
        learnt = learn_pace(sheet_store.sheet(seen, engine), mine)
        assert not [one for one in learnt if one.worth_a_look], engine


def _slow_steps(runs: list[Signed]) -> set[str]:
    """Of each procedure, what is more than a case."""
    by_procedure: dict[UUID, list[Signed]] = defaultdict(list)
    for one in runs:
        by_procedure[one.procedure].append(one)
    return {one.step for mine in by_procedure.values() for one in failing_steps(mine) if one.slow}


def _rows(session: Session) -> list[RunRow]:
    return [row for row in session.scalars(select(RunRow)) if row.signed_at is not None]


def _all_signed(runs: list[Past]) -> None:
    """Every step is closed, and no run asks for more than it has."""
    for past in runs:
        if past.plan.search is None:
            open_ = [step.key for step in past.plan.steps if step.key not in past.state.closings]
            assert not open_, open_


def _meters_rise(session: Session) -> None:
    for kept in UNITS:
        rows = session.scalars(
            select(RunRow)
            .where(RunRow.unit_id == kept.unit, RunRow.meter.is_not(None))
            .order_by(RunRow.signed_at)
        ).all()
        meters = [row.meter for row in rows if row.meter is not None]
        assert meters == sorted(meters), kept.unit


def _minutes(past: Past) -> Iterator[tuple[str, float, float]]:
    """By step: its part, planned and real minutes."""
    parts = {step.key: (step.part or "", step.minutes) for step in past.plan.steps}
    before = None
    for one in past.entries:
        if one.entry.kind.value == "done" and before is not None:
            part, planned = parts[one.entry.step]
            yield part, planned, (one.at - before).total_seconds() / 60
        before = one.at


def _duct_is_slow(runs: list[Past]) -> None:
    """Far over the plan; what is not planted is not."""
    ratios: dict[bool, list[float]] = defaultdict(list)
    for past in runs:
        for part, planned, real in _minutes(past):
            if planned > 0.4 and real > 0:
                ratios[part == SLOW_PART].append(real / planned)
    assert median(ratios[True]) > 2.2
    assert 0.8 < median(ratios[False]) < 1.25


def _wrench_drifts(runs: list[Past]) -> None:
    """Later torques by it lie higher."""
    shown = []
    for past in sorted(runs, key=lambda one: one.at):
        for step in past.plan.steps:
            had = past.state.values.get((step.key, "torque"))
            if DRIFTS in step.setup and had and isinstance(had.entry.value, int | float):
                aim = next(f.aim for f in step.figures if f.setting)
                shown.append(float(had.entry.value) / aim)
    third = len(shown) // 3
    assert third > 20
    assert median(shown[-third:]) > median(shown[:third]) + 0.03


def _hole_wears_fast(session: Session) -> None:
    """It is found, and no other of the units of the two years is called worn."""
    mine = [kept.unit for kept in UNITS if kept.unit not in ("tug-15", "tug-21", "loader-6")]
    rows = session.scalars(select(DueRow).where(DueRow.kind == "wear", DueRow.unit_id.in_(mine)))
    assert {(row.unit_id, tuple(row.at)) for row in rows} == {("tug-14", (5,))}


def test_no_job_is_offered_twice(seen: Session) -> None:
    """One released procedure for each job of an engine: two alike could not be told apart."""
    standing = ProcedureRow.standing_id.is_not(None)
    jobs = [
        (row.engine_id, json.dumps(row.job, sort_keys=True))
        for row in seen.scalars(select(ProcedureRow).where(standing))
    ]
    assert len(jobs) > 10
    assert len(set(jobs)) == len(jobs)
