"""What the log teaches the whole shop: steps, figures, wrenches, parts, searches."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from statistics import median
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from eldrim.core.lessons import figures, parts, steps
from eldrim.core.lessons.digest import Signed
from eldrim.core.lessons.searches import searches
from eldrim.drawing import drift
from eldrim.store import edition_store, gathered, lives, sheet_store, unit_store
from eldrim.web.context import Db, SignedIn, render
from eldrim.web.filters import today

router = APIRouter(include_in_schema=False)
# The newest runs, searches and parts looked through; steps shown; how far back wrenches go.
RUNS, SEARCHES, STEPS, WEEKS = 300, 200, 12, 156
# What a wrench shows now is the middle of so many weeks of use.
LATELY = 5


@dataclass(frozen=True)
class FailingStep:
    """A step that does not hold, with the procedure it is of."""

    procedure: UUID
    edition: UUID
    title: str
    lesson: steps.StepLesson
    words: str = ""
    of: str = ""


@router.get("/lessons")
def show(request: Request, db: Db, _: SignedIn) -> Response:
    """All of it on one page, each with how many cases it rests on."""
    gathered.settle(db, 20)
    runs = gathered.newest(db, RUNS)
    often, never = figures.at_limits(runs)
    weeks = gathered.wrench_weeks(db, today() - timedelta(weeks=WEEKS))
    drifting = figures.drifting(weeks)
    fitted = lives.newest(db, "", lives.LIVES)
    return render(
        request,
        "lessons/shop.html.jinja",
        runs=len(runs),
        most=RUNS,
        failing=_with_words(db, _failing(runs)[:STEPS]),
        engines=_engines(db, runs),
        often=often,
        never=never,
        supplied=figures.supplied_wrong(runs),
        drifting=[(one, drift.draw(one)) for one in drifting],
        wrenches=[
            (mine[-1].name, len(mine), median(one.ratio for one in mine[-LATELY:]))
            for mine in figures.by_wrench(weeks).values()
        ],
        batches=parts.bad_batches(fitted),
        fast=[*parts.wears_fast(fitted, "h"), *parts.wears_fast(fitted, "km")],
        units=unit_store.called(db, {one.unit for one in fitted}),
        stuck=parts.stuck_sets(runs, _plated(db, runs)),
        searches=searches(gathered.searches(db, SEARCHES)),
    )


def _failing(runs: Sequence[Signed]) -> list[FailingStep]:
    """The steps that are more than a case, of all procedures; what loses most minutes first."""
    by_procedure: dict[UUID, list[Signed]] = {}
    for signed in runs:
        if signed.digest.search is None:
            by_procedure.setdefault(signed.procedure, []).append(signed)
    found = [
        FailingStep(key, mine[0].edition, mine[0].title, lesson)
        for key, mine in by_procedure.items()
        for lesson in steps.failing_steps(mine)
        if lesson.trend
    ]
    return sorted(found, key=lambda one: (-one.lesson.lost, -one.lesson.risk, one.lesson.step))


def _with_words(db: Session, found: Sequence[FailingStep]) -> list[FailingStep]:
    """The same with what each step says, and of which engine and variant it is."""
    told = []
    for one in found:
        plan = edition_store.plan_of(edition_store.edition(db, one.edition))
        words = next((s.text for s in plan.steps if s.key == one.lesson.step), one.lesson.step)
        told.append(replace(one, words=words, of=f"{plan.engine_name}, {plan.variant_name}"))
    return told


def _engines(db: Session, runs: Sequence[Signed]) -> list[tuple[str, str, int]]:
    """Engines that were worked on, the most worked on first: key, title, runs."""
    counted: dict[str, int] = {}
    for signed in runs:
        counted[signed.engine] = counted.get(signed.engine, 0) + 1
    sheets = sheet_store.newest(db, set(counted))
    named = [(key, sheets[key].title, count) for key, count in counted.items() if key in sheets]
    return sorted(named, key=lambda one: (-one[2], one[1]))[:40]


def _plated(db: Session, runs: Sequence[Signed]) -> frozenset[str]:
    """The engines whose plugs all have plated shells."""
    sheets = sheet_store.newest(db, {signed.engine for signed in runs})
    return frozenset(
        key for key, sheet in sheets.items() if all(plug.plating != "bare" for plug in sheet.plugs)
    )
