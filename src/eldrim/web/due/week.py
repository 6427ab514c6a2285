"""A week's plan: what is due laid out over bays and people, moved by hand, printed."""

import re
from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.interval.week import STEP, Clash, Person, Placed, Shop, WeekJob, clashes, lay_out
from eldrim.core.procedure.model import Plan
from eldrim.core.run.due import Due
from eldrim.core.run.entries import Role
from eldrim.core.tools.crib import Crib
from eldrim.core.words.language import day_words, weekday_words
from eldrim.core.words.messages import all_of, gettext, gettext_lazy
from eldrim.drawing import week_bars
from eldrim.store import audit, due_jobs, dues, edition_store, people, sheet_store, week_plans
from eldrim.store import bays as bays_store
from eldrim.store.due_jobs import Released
from eldrim.store.week_plans import KeptWeek
from eldrim.web.context import Db, Reviewer, SignedIn, render, tools_today
from eldrim.web.filters import today

router = APIRouter(include_in_schema=False)
# So many due jobs are looked at, and laid out at once.
LOOKED_AT, MOST = 200, 40
_WEEK = re.compile(r"(\d{4})-W(\d{2})")
_CLOCK = re.compile(r"([01]?\d|2[0-3])[:.]([0-5]\d)")
WORKING_DAYS = 5
# Of what there are only a few, so that two bays may want it at once.
SCARCE = ("wrench",)
READER = "reader"
WHY_LEFT = {
    "no_room": gettext_lazy("no room this week"),
    "too_long": gettext_lazy("longer than a day"),
    "no_skill": gettext_lazy("nobody has the skill"),
    "no_tool": gettext_lazy("the tool is not in the crib"),
    "nobody": gettext_lazy("no bay, or nobody to do it"),
}
Short = Annotated[str, Field(max_length=60)]


def days_of(week: str) -> tuple[date, ...]:
    """The working days of a week such as 2026-W49."""
    fits = _WEEK.fullmatch(week)
    try:
        assert fits is not None
        monday = date.fromisocalendar(int(fits[1]), int(fits[2]), 1)
    except (AssertionError, ValueError) as error:
        raise ProblemsError(
            [Problem("week", gettext("'{week}' is no week", week=week[:20]), "2026-W49")]
        ) from error
    return tuple(monday + timedelta(days=n) for n in range(WORKING_DAYS))


def week_of(day: date) -> str:
    """The week a day is in."""
    year, week, _ = day.isocalendar()
    return f"{year}-W{week:02d}"


class WeekForm(BaseModel):
    """Who works when and where, and which jobs are to be laid out."""

    week: Short
    version: int = 0
    people: Annotated[str, Field(max_length=1_000)] = ""
    opens: Short = "08:00"
    closes: Short = "16:00"
    bay: list[Short] = Field([], max_length=40)
    job: list[Annotated[str, Field(max_length=140)]] = Field([], max_length=LOOKED_AT)


@router.get("/week")
def show(
    request: Request, db: Db, _: SignedIn, week: Annotated[str, Query(max_length=10)] = ""
) -> Response:
    """A week as it was laid out, or what could be laid out in it."""
    week = week or week_of(today() + timedelta(days=2))
    days = days_of(week)
    kept = week_plans.week_plan(db, week)
    wanted = _wanted(db, days)
    return render(request, "due/week.html.jinja", **_view(db, week, days, kept, wanted))


def _view(
    db: Db,
    week: str,
    days: tuple[date, ...],
    kept: KeptWeek | None,
    wanted: list[tuple[WeekJob, Released]],
) -> dict[str, Any]:
    shop = kept.shop if kept else _usual(db, days)
    jobs = {job.key: job for job in kept.jobs} if kept else {}
    found = clashes(kept.placed, jobs, shop) if kept else ()
    crib = tools_today(db)
    crossed = {key for clash in found for key in clash.jobs}
    return {
        "week": week,
        "days": days,
        "kept": kept,
        "shop": shop,
        "jobs": jobs,
        "wanted": wanted,
        "chosen": set(jobs) if kept else {job.key for job, _ in wanted[:MOST]},
        "bays": bays_store.bays(db),
        "people_text": _people_text(shop.people),
        "clashes": [_clash_words(one, jobs, crib) for one in found],
        "bars": week_bars.draw(shop, jobs, kept.placed, crossed) if kept else "",
        "clock": week_bars.clock,
        "numbers": week_bars.numbered(kept.placed) if kept else {},
        "why_left": WHY_LEFT,
        "before": week_of(days[0] - timedelta(days=7)),
        "after": week_of(days[0] + timedelta(days=7)),
        "starts": range(shop.opens, shop.closes, STEP),
        "weekday": {day: f"{weekday_words(day)} {day_words(day)}" for day in days},
    }


def _usual(db: Db, days: tuple[date, ...]) -> Shop:
    """All bays, and all technicians, in the usual hours."""
    found = people.everybody(db)
    hands = [p.display for p in found if p.role == Role.TECHNICIAN.value and p.left_on is None]
    return Shop(tuple(bays_store.bays(db)), tuple(Person(name) for name in hands), days)


def _wanted(db: Db, days: tuple[date, ...]) -> list[tuple[WeekJob, Released]]:
    """What is due by the end of a week and has a procedure: one job a unit and procedure."""
    found = [one for one in dues.filtered(db, dues.DueFilter(), LOOKED_AT) if _by(one, days[-1])]
    jobs = due_jobs.jobs_for(db, found)
    every: dict[str, tuple[WeekJob, Released]] = {}
    for due, job in zip(found, jobs, strict=True):
        if job is None:
            continue
        key = f"{due.unit}|{job.edition}"
        last = due.until or due.on
        if key in every:
            had = every[key][0].due
            last = min((day for day in (had, last) if day is not None), default=None)
        about = WeekJob(key, due.unit_name, job.title, job.minutes, last)
        every[key] = about, job
    return list(every.values())


def _by(due: Due, last: date) -> bool:
    return due.on is not None and due.on <= last


def _needs(plan: Plan) -> frozenset[str]:
    """The scarce tools of a procedure: its wrenches and the code reader."""
    return frozenset(item.id for item in plan.roll if item.kind in SCARCE or item.id == READER)


def _skills(db: Db, plan: Plan) -> frozenset[str]:
    """What whoever moves its parts has to have, as the sheet says now."""
    parts = sheet_store.sheet(db, plan.engine).parts
    ways = [parts[m.part].ways.get(m.way) for m in plan.moves if m.part in parts]
    return frozenset(skill.lower() for way in ways if way for skill in way.skills)


def _counts(crib: Crib, jobs: Sequence[WeekJob]) -> dict[str, int]:
    known = {tool.id: tool.count for tool in crib.all()}
    return {tool: known.get(tool, 0) for job in jobs for tool in job.needs}


@router.post("/week")
def lay(db: Db, signed_in: Reviewer, form: Annotated[WeekForm, Form()]) -> Response:
    """Lay the chosen jobs out; what was moved by hand before is laid out anew."""
    days = days_of(form.week)
    chosen = [(job, released) for job, released in _wanted(db, days) if job.key in form.job]
    if not chosen:
        raise ProblemsError(
            [Problem("job", gettext("no job is chosen"), gettext("tick what is to be laid out"))]
        )
    if len(chosen) > MOST:
        said = gettext("{chosen} jobs are too many for one week", chosen=len(chosen))
        raise ProblemsError([Problem("job", said, gettext("choose up to {most}", most=MOST))])
    jobs = [
        replace(job, needs=_needs(plan), skills=_skills(db, plan))
        for job, plan in ((job, _plan(db, released)) for job, released in chosen)
    ]
    shop = _shop(db, form, days, jobs)
    made = lay_out(jobs, shop)
    kept = KeptWeek(
        week=form.week,
        version=form.version,
        shop=shop,
        jobs=jobs,
        editions={job.key: str(released.edition) for job, released in chosen},
        placed=list(made.placed),
        left=dict(made.left),
        late=made.late,
        least=made.least,
    )
    week_plans.keep(db, kept, signed_in.name)
    audit.note(db, signed_in.name, "week laid out", form.week)
    return RedirectResponse(f"/week?week={form.week}", 303)


def _plan(db: Db, released: Released) -> Plan:
    return edition_store.plan_of(edition_store.edition(db, released.edition))


def _shop(db: Db, form: WeekForm, days: tuple[date, ...], jobs: Sequence[WeekJob]) -> Shop:
    """Where, by whom and when, as it was typed."""
    opens, closes = _minute("opens", form.opens), _minute("closes", form.closes)
    if closes - opens < 60:
        raise ProblemsError(
            [Problem("closes", gettext("leaves less than an hour"), gettext("write it as 16:00"))]
        )
    known = set(bays_store.bays(db))
    bays = tuple(bay for bay in form.bay if bay in known)
    hands = read_people(form.people)
    if not bays or not hands:
        raise ProblemsError(
            [Problem("people", gettext("names nobody, or no bay"), gettext("name one of each"))]
        )
    return Shop(bays, hands, days, opens, closes, _counts(tools_today(db), jobs))


def _minute(field: str, said: str) -> int:
    fits = _CLOCK.fullmatch(said.strip())
    if fits is None:
        raise ProblemsError(
            [
                Problem(
                    field,
                    gettext("'{said}' is no time", said=said[:20]),
                    gettext("write it as 08:00"),
                )
            ]
        )
    # Times lie on the steps of the plan.
    return (int(fits[1]) * 60 + int(fits[2])) // STEP * STEP


def read_people(said: str) -> tuple[Person, ...]:
    """People a line each, what they are skilled in behind a colon: ``Ilse: gas, coding``."""
    found: dict[str, Person] = {}
    for line in filter(str.strip, re.split(r"[\n;]", said)):
        name, _, skills = (part.strip() for part in line.partition(":"))
        if name:
            kinds = frozenset(s.strip().lower() for s in skills.split(",") if s.strip())
            found[name[:60]] = Person(name[:60], kinds)
    return tuple(found.values())


def _people_text(hands: Sequence[Person]) -> str:
    return "\n".join(
        f"{one.name}{': ' if one.skills else ''}{', '.join(sorted(one.skills))}" for one in hands
    )


class MoveForm(BaseModel):
    """Where one job goes; without a day it is taken out of the week."""

    week: Short
    version: int
    key: Annotated[str, Field(max_length=140)]
    day: Short = ""
    bay: Short = ""
    person: Short = ""
    start: int = Field(0, ge=0, le=24 * 60)


@router.post("/week/move")
def move(db: Db, signed_in: Reviewer, form: Annotated[MoveForm, Form()]) -> Response:
    """Put one job elsewhere. It goes there; what clashes is said, not forbidden."""
    kept = week_plans.week_plan(db, form.week)
    if kept is None or form.key not in {job.key for job in kept.jobs}:
        raise ProblemsError(
            [Problem("key", gettext("this job is not in the week"), gettext("lay it out first"))]
        )
    rest = [one for one in kept.placed if one.key != form.key]
    left = {key: why for key, why in kept.left.items() if key != form.key}
    if form.day:
        day = next((d for d in kept.shop.days if d.isoformat() == form.day), None)
        if day is None:
            raise ProblemsError(
                [Problem("day", gettext("is not in this week"), gettext("choose one that is"))]
            )
        rest.append(Placed(form.key, form.bay, form.person, day, form.start))
    else:
        left[form.key] = "no_room"
    update = {"placed": rest, "left": left, "moved": True, "version": form.version}
    week_plans.keep(db, kept.model_copy(update=update), signed_in.name)
    return RedirectResponse(f"/week?week={form.week}#moved", 303)


def _clash_words(one: Clash, jobs: dict[str, WeekJob], crib: Crib) -> str:
    who = all_of(f"{jobs[key].unit} ({jobs[key].words})" for key in one.jobs)
    known = {tool.id: tool.shown for tool in crib.all()}
    return {
        "bay": gettext("{who} are in {what} at once", who=who, what=one.what),
        "person": gettext("{what} is to do {who} at once", what=one.what, who=who),
        "unit": gettext("{who} are on one unit at once", who=who),
        "tool": gettext(
            "{who} want the {what} at once", who=who, what=known.get(one.what, one.what)
        ),
        "hours": gettext("{who} does not lie within the hours", who=who),
        "day": gettext("{who} lies on a day that is not worked", who=who),
        "skill": gettext("{who} needs somebody with {what}", who=who, what=one.what),
        "gone": gettext(
            "{who} is given to {what}, which is not there this week", who=who, what=one.what
        ),
    }[one.kind]
