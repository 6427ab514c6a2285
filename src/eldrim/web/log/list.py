"""The log as a list: what of it is asked for, counted, kept as a view, and given as a file."""

from collections.abc import Callable
from typing import Annotated, Literal, TypeVar
from urllib.parse import urlencode

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.base.days import read_day
from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.steps.hole_steps import seen_words
from eldrim.core.reading_choices import (
    ADVANCE_CONDITIONS,
    CAP_CONDITIONS,
    COIL_CONDITIONS,
    IN_ORDER,
    LEAD_CONDITIONS,
    MORE_COIL_CONDITIONS,
    MORE_PLUG_CONDITIONS,
    PACK_CONDITIONS,
    PLUG_CONDITIONS,
    POINTS_CONDITIONS,
    ROTOR_CONDITIONS,
)
from eldrim.core.run.stops import DIFFERS, STOPS
from eldrim.core.words import say
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.exchange.log_files import LogLine, log_csv, log_json
from eldrim.store import accounts, gathered, log, sheet_store, unit_store
from eldrim.store.log import LogFilter
from eldrim.store.paging import Page
from eldrim.store.tables import RunRow
from eldrim.web.context import Db, SignedIn, Writer, render
from eldrim.web.filters import SHOP_ZONE
from eldrim.web.forms import download
from eldrim.web.listing import Choice, Listing
from eldrim.web.pager import PAGE_SIZE, pager

T = TypeVar("T")
router = APIRouter(include_in_schema=False)
# So many units, jobs and numbers are offered while one types; any other is found by what is typed.
OFFERED = 40
# Runs of earlier versions that are gathered each time the log is looked at.
GATHERED = 20
# A file holds so many runs, the newest.
IN_A_FILE = 5_000
# What a run may be marked with, as it is chosen.
MARKED = (
    (log.ANY, gettext_lazy("anything")),
    ("stop", gettext_lazy("stops")),
    ("skip", gettext_lazy("steps not done")),
    ("over", gettext_lazy("torque over its window")),
    ("deviation", gettext_lazy("deviations")),
    ("differs", gettext_lazy("what differed")),
    ("note", gettext_lazy("noted on later")),
    (log.UNFINISHED, gettext_lazy("ended unfinished")),
)


class LogForm(BaseModel):
    """What of the log is asked for, as a form sends it: what is left empty asks for all."""

    unit: Annotated[str, Field(max_length=80)] = ""
    engine: Annotated[str, Field(max_length=48)] = ""
    by: Annotated[str, Field(max_length=40)] = ""
    job: Annotated[str, Field(max_length=200)] = ""
    since: Annotated[str, Field(max_length=20)] = ""
    until: Annotated[str, Field(max_length=20)] = ""
    marked: Annotated[str, Field(max_length=12)] = ""
    found: Annotated[str, Field(max_length=40)] = ""
    part: Annotated[str, Field(max_length=80)] = ""
    words: Annotated[str, Field(max_length=120)] = ""
    sort: log.LogSort = ""
    at: Annotated[str, Field(max_length=120)] = ""

    def asked(self) -> tuple[LogFilter, list[str]]:
        """What to look for, and what of it was not understood."""
        wrong: list[str] = []

        def read(kind: Callable[[str], T], typed: str, fix: str) -> T | None:
            try:
                return kind(typed.strip()) if typed.strip() else None
            except ValueError:
                wrong.append(gettext("'{typed}' {fix}", typed=typed.strip(), fix=fix))
                return None

        as_day = gettext("is no day: write it as 2026-05-31. It was left out.")
        since, until = read(read_day, self.since, as_day), read(read_day, self.until, as_day)
        if since and until and since > until:
            wrong.append(gettext("The first day is after the last: nothing can be between them."))
        found = LogFilter(
            unit=self.unit.strip(),
            engine=self.engine.strip(),
            by=self.by,
            job=self.job.strip(),
            since=since,
            until=until,
            # An address of earlier versions says yes.
            marked=log.ANY if self.marked == "yes" else self.marked,
            found=self.found.strip(),
            part=self.part.strip(),
            words=self.words.strip(),
        )
        return found, wrong

    @property
    def kept(self) -> dict[str, str]:
        """What is asked for beside the page."""
        return {
            k: v for k, v in self.model_dump(exclude={"at"}, exclude_defaults=True).items() if v
        }


@router.get("/log")
def index(request: Request, db: Db, user: SignedIn, form: Annotated[LogForm, Query()]) -> Response:
    """Signed runs, the one signed last first; all, or those asked for."""
    gathered.settle(db, GATHERED)
    wanted, wrong = form.asked()
    page = log.signed_runs(db, wanted, SHOP_ZONE, form.at, PAGE_SIZE, form.sort)
    return render(
        request,
        "log/index.html.jinja",
        rows=page.rows,
        pager=pager(page, form.kept),
        counts=log.counts(db, wanted, SHOP_ZONE),
        list=_listing(db, form, page),
        wrong=wrong,
        asked=form.kept,
        query=urlencode(form.kept),
        most=IN_A_FILE,
        summed=log.SUMMED,
        marked_choices=MARKED,
        views=[(view, urlencode(view.asked)) for view in log.views(db, user.name)],
    )


SORTED = (
    ("", gettext_lazy("last signed first")),
    ("oldest", gettext_lazy("first signed first")),
    ("unit", gettext_lazy("by unit")),
)


def _listing(db: Session, form: LogForm, page: Page[RunRow]) -> Listing:
    """What the log can be asked for, with what is known of it."""
    all_of = ("", gettext("all"))
    units = [
        (unit.name, gettext("serial {serial}", serial=unit.serial))
        for unit in unit_store.some(db, OFFERED)
    ]
    engines = sorted(sheet_store.titles(db).items(), key=lambda one: one[1])[:200]
    people = sorted(accounts.called(db).items(), key=lambda one: one[1])
    # An address of earlier versions says yes.
    marked = log.ANY if form.marked == "yes" else form.marked
    return Listing(
        "/log",
        gettext("What was said"),
        {**form.kept, "marked": marked},
        page.count,
        filters=(
            Choice("unit", gettext("Unit"), units, "typed"),
            Choice(
                "job", gettext("Job"), [(title, "") for title in log.jobs(db, OFFERED)], "typed"
            ),
            Choice("since", gettext("Signed from"), kind="day"),
            Choice("until", gettext("Signed to"), kind="day"),
            Choice(
                "found",
                gettext("Found"),
                [("", gettext("anything"))],
                groups=found_choices(form.found),
            ),
            Choice("marked", gettext("Marked"), [("", gettext("or not")), *MARKED]),
            Choice(
                "part", gettext("Part number"), [(n, "") for n in log.numbers(db, OFFERED)], "typed"
            ),
            Choice("engine", gettext("Engine"), [all_of, *engines]),
            Choice("by", gettext("Person"), [all_of, *people]),
        ),
        sorts=SORTED,
        most=page.most,
        search="words",
    )


# What can have been seen, by where it is looked for.
SEEN = (
    (gettext_lazy("At plugs and wells"), (*PLUG_CONDITIONS, *MORE_PLUG_CONDITIONS)),
    (
        gettext_lazy("At coils and packs"),
        (*COIL_CONDITIONS, *MORE_COIL_CONDITIONS, *PACK_CONDITIONS),
    ),
    (gettext_lazy("At leads"), LEAD_CONDITIONS),
    (gettext_lazy("At cap and rotor"), (*CAP_CONDITIONS, *ROTOR_CONDITIONS)),
    (gettext_lazy("At points and advance"), (*POINTS_CONDITIONS, *ADVANCE_CONDITIONS)),
)
Choices = list[tuple[str, list[tuple[str, str]]]]


def found_choices(chosen: str = "") -> Choices:
    """What can have been found, by where, each once with its words; and a code asked for."""
    known: set[str] = {*IN_ORDER}
    groups: Choices = []
    for title, conditions in SEEN:
        new = [one for one in dict.fromkeys(conditions) if one not in known]
        groups.append((title, [(one, seen_words(one)) for one in new]))
        known |= set(new)
    groups.append((gettext("Stopped for"), [(stop.key.value, stop.name) for stop in STOPS]))
    groups.append((gettext("Differed"), [(one, say(f"differs.{one}")) for one in DIFFERS]))
    if chosen and not any(chosen == key for _, some in groups for key, _ in some):
        groups.append((gettext("Read"), [(chosen, chosen)]))
    return groups


@router.get("/log.{form}")
def list_file(
    db: Db, _: SignedIn, form: Literal["csv", "json"], asked: Annotated[LogForm, Query()]
) -> Response:
    """What is shown, as a file: the newest runs that fit."""
    wanted, wrong = asked.asked()
    if wrong:
        # On a page it is said beside the list; a file would only hold more than was meant.
        raise ProblemsError([Problem("log", said, gettext("ask for it again")) for said in wrong])
    rows = log.newest(db, wanted, SHOP_ZONE, IN_A_FILE + 1)
    called = accounts.called(db)
    lines = [_line(row, called) for row in rows[:IN_A_FILE]]
    if form == "csv":
        return download(log_csv(lines), "text/csv; charset=utf-8", "log.csv")
    return download(
        log_json(lines, asked.kept, more=len(rows) > IN_A_FILE), "application/json", "log.json"
    )


def _line(row: RunRow, called: dict[str, str]) -> LogLine:
    return LogLine(
        run=str(row.id),
        signed=row.signed_at.isoformat() if row.signed_at else "",
        unit=row.unit_id,
        unit_name=row.unit.name,
        serial=row.serial,
        engine=row.edition.engine_id,
        job=row.edition.title,
        edition=row.edition.number,
        by=called.get(row.by, row.by),
        meter=row.meter,
        meter_unit=row.unit.meter,
        unfinished=row.unfinished,
        marks=dict(row.marks),
        found=tuple(row.found),
        parts=tuple(row.parts),
        planned_minutes=row.edition.minutes,
        took_minutes=row.took,
        planned_cost=row.cost_planned,
        real_cost=row.cost_real,
    )


class ViewForm(LogForm):
    """A view of the log to keep, and its name."""

    name: Annotated[str, Field(max_length=60)] = ""


@router.post("/log/views")
def keep_view(db: Db, signed_in: Writer, form: Annotated[ViewForm, Form()]) -> Response:
    """Keep what is asked for under a name, for who is signed in."""
    name = form.name.strip()
    asked = {key: value for key, value in form.kept.items() if key != "name"}
    if not name:
        raise ProblemsError(
            [Problem("name", gettext("the view has no name"), gettext("call it something"))]
        )
    if not asked:
        raise ProblemsError(
            [Problem("name", gettext("this is the whole log"), gettext("filter it first"))]
        )
    if not log.keep_view(db, signed_in.name, name, asked):
        fix = gettext("take one of them away first")
        raise ProblemsError(
            [Problem("name", gettext("{views} views are kept already", views=log.VIEWS), fix)]
        )
    return RedirectResponse(f"/log?{urlencode(asked)}", 303)


@router.post("/log/views/drop")
def drop_view(
    db: Db, signed_in: Writer, name: Annotated[str, Form(max_length=60)] = ""
) -> Response:
    """Keep a view no longer."""
    log.drop_view(db, signed_in.name, name)
    return RedirectResponse("/log", 303)
