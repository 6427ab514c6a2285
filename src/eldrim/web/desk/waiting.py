"""What waits for a person: each line says what it is, where it is done, and by which act."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from urllib.parse import quote
from uuid import UUID

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from eldrim.core.capture.missing import figures_lacking
from eldrim.core.engine.glossary import lacking
from eldrim.core.lessons.digest import Signed
from eldrim.core.lessons.steps import StepLesson, failing_steps
from eldrim.core.run.entries import Role
from eldrim.core.words.language import BASE_LANGUAGE, LANGUAGES, weekday_words
from eldrim.core.words.messages import gettext
from eldrim.drawing.week_bars import clock
from eldrim.store import (
    accounts,
    answers,
    drafts,
    due_jobs,
    dues,
    edition_store,
    gathered,
    procedure_store,
    releases,
    runs,
    sheet_store,
    week_plans,
)
from eldrim.store import rules as rules_store
from eldrim.store.accounts import Person
from eldrim.store.tables import ProcedureRow, RunRow
from eldrim.web.context import tools_today
from eldrim.web.due.week import week_of
from eldrim.web.filters import number, today
from eldrim.web.floor.bays import Bay
from eldrim.web.procedures.touched import changed_since, outdated_in_all

# Lines of a kind on the page; runs looked through for reports, sheets for what they lack; units
# whose dues are worked out before it is shown.
SHOWN, RUNS, OPEN, SHEETS, SETTLED = 6, 150, 12, 60, 4


@dataclass(frozen=True)
class Waiting:
    """One thing that waits: what it is, more about it, and the act, with the address it is at."""

    what: str
    more: str
    act: str
    where: str


@dataclass(frozen=True)
class Kind:
    """What waits of one kind; ``count`` of all there are, ``where`` all of them stand."""

    name: str
    lines: tuple[Waiting, ...]
    count: int
    where: str = ""


def waiting(db: Session, user: Person, bays: Callable[[], Sequence[Bay]]) -> list[Kind]:
    """All that waits for somebody of this role; kinds of which nothing waits are left out."""
    dues.settle(db, SETTLED)
    kinds = {
        Role.TRAINER.value: lambda: _of_trainer(db, user),
        Role.LEAD.value: lambda: _of_lead(db, bays()),
    }.get(user.role, lambda: _of_technician(db, user))()
    return [kind for kind in kinds if kind.lines]


def _kind(name: str, lines: Sequence[Waiting], where: str = "", more: int = 0) -> Kind:
    return Kind(name, tuple(lines[:SHOWN]), len(lines) + more, where)


def _of_trainer(db: Session, user: Person) -> list[Kind]:
    return [
        _reports(db),
        _changed_underneath(db),
        _drafts(db, user),
        _words(db),
        _wrenches(db),
        _sheets(db),
    ]


def _reports(db: Session) -> Kind:
    """What the bays said of steps and nobody has answered, in runs that go on and the newest."""
    by_procedure: dict[UUID, list[Signed]] = {}
    going = {row.edition.procedure_id for row in runs.open_runs(db, OPEN)}
    so_far = (one for key in sorted(going) for one in gathered.going_on(db, key, OPEN))
    for signed in (*so_far, *gathered.newest(db, RUNS)):
        if signed.digest.search is None:
            by_procedure.setdefault(signed.procedure, []).append(signed)
    lines = []
    for key, mine in by_procedure.items():
        heard = {
            (row.step, run) for row in answers.of_procedure(db, key) for run in row.runs["runs"]
        }
        for lesson in failing_steps(mine):
            said = [one for one in lesson.said if (lesson.step, str(one.run)) not in heard]
            if said:
                lines.append(_report(db, mine[0], lesson, len(said), said[-1].mark.words))
    return _kind(gettext("Reports from the bays, not answered"), lines, "/lessons")


def _report(db: Session, signed: Signed, lesson: StepLesson, count: int, words: str) -> Waiting:
    plan = edition_store.plan_of(edition_store.edition(db, signed.edition))
    text = next((step.text for step in plan.steps if step.key == lesson.step), lesson.step)
    more = gettext("; {count} reports", count=count) if count > 1 else ""
    return Waiting(
        f"{text}: {words}",
        f"{signed.title}, {plan.engine_name}{more}",
        gettext("Answer"),
        f"/procedures/{signed.procedure}/lessons#{quote(lesson.step)}",
    )


def _changed_underneath(db: Session) -> Kind:
    rows, rest = outdated_in_all(db)
    titles = sheet_store.titles(db)
    lines = [
        Waiting(
            gettext(
                "{procedure}, edition {number}", procedure=row.procedure.title, number=row.number
            ),
            f"{titles.get(row.engine_id, row.engine_id)}: {changed_since(db, row)}",
            gettext("See what changes"),
            f"/procedures/{row.procedure_id}",
        )
        for row in rows
    ]
    return _kind(gettext("Changed underneath what is released"), lines, "/changed-underneath", rest)


def _drafts(db: Session, user: Person) -> Kind:
    """Drafts that are open for review or were never released, the newest first."""
    second = rules_store.in_force(db).second_person
    titles = sheet_store.titles(db)
    query = (
        select(ProcedureRow)
        .where(ProcedureRow.kind == procedure_store.JOB)
        .where(or_(ProcedureRow.standing_id.is_(None), ProcedureRow.review != ""))
        .order_by(ProcedureRow.at.desc(), ProcedureRow.id)
        .limit(SHOWN * 4)
    )
    lines = []
    for row in db.scalars(query):
        others = [a.by for a in releases.approvals(db, row.id, row.version) if a.by != row.by]
        said = row.review or gettext("not released yet")
        if second:
            called = accounts.called(db)
            said += (
                gettext("; approved by {others}", others=called[others[0]])
                if others
                else gettext("; waits for approval")
            )
        act = gettext("Approve or release") if second and row.by != user.name else gettext("Go on")
        what = f"{row.title}, {titles.get(row.engine_id, row.engine_id)}"
        lines.append(Waiting(what, said, act, f"/procedures/{row.id}"))
    return _kind(gettext("Drafts"), lines, "/procedures")


def _words(db: Session) -> Kind:
    """Sheets that lack words of a language in which there are procedures for them."""
    language = ProcedureRow.job["language"].astext
    asked = db.execute(select(ProcedureRow.engine_id, language).distinct())
    pairs = [(key, code) for key, code in asked if code and code != BASE_LANGUAGE]
    sheets = sheet_store.newest(db, {key for key, _ in pairs})
    lines = [
        Waiting(
            gettext(
                "{key}: {words} words lack in {code}",
                key=sheets[key].title,
                words=len(words),
                code=LANGUAGES[code].name,
            ),
            "; ".join(words[:4]),
            gettext("Write them"),
            f"/engines/{key}/words/{code}",
        )
        for key, code in sorted(pairs)
        if key in sheets and (words := lacking(sheets[key], code))
    ]
    return _kind(gettext("Words lacking"), lines)


def _wrenches(db: Session) -> Kind:
    late = [wrench for wrench in tools_today(db).wrenches if wrench.overdue(today())]
    lines = [
        Waiting(
            wrench.shown,
            gettext("calibration ended {due}", due=wrench.due),
            gettext("See the crib"),
            "/crib",
        )
        for wrench in late
    ]
    return _kind(gettext("Wrenches overdue"), lines, "/crib")


def _sheets(db: Session) -> Kind:
    """Engines being captured, and sheets whose figures have no source or two that disagree."""
    titles = sheet_store.titles(db)
    lines = [
        Waiting(
            titles.get(key, key), gettext("being captured"), gettext("Go on"), f"/capture/{key}"
        )
        for key in drafts.open_drafts(db)
    ]
    sheets, _ = sheet_store.readable(db, sheet_store.sheets(db, "", most=SHEETS))
    for sheet in sheets:
        lacks = figures_lacking(sheet)
        if lacks:
            said = "; ".join(one.words for one in lacks[:3])
            lines.append(
                Waiting(sheet.title, said, gettext("Settle"), f"/engines/{sheet.id}/figures")
            )
    return _kind(gettext("Sheets that lack something"), lines, "/engines")


def _of_lead(db: Session, bays: Sequence[Bay]) -> list[Kind]:
    calling = [bay for bay in bays if bay.needs]
    quiet = [bay for bay in bays if not bay.needs]
    return [
        _kind(gettext("Needs a hand on the floor"), [_bay(bay) for bay in calling], "/floor"),
        _overdue(db),
        _not_done(db),
        _kind(gettext("Going on"), [_bay(bay) for bay in quiet], "/floor"),
    ]


def _bay(bay: Bay) -> Waiting:
    needs = [
        f"{count} {words}"
        for count, words in (
            (len(bay.state.stops), "stopped"),
            (len(bay.state.conflicts), gettext("said twice")),
            (len(bay.state.deviations), gettext("to accept")),
            (int(bay.held), gettext("at a hold point")),
        )
        if count
    ]
    now = bay.now.text if bay.now else gettext("all steps done")
    where = f"{bay.run.bay} · " if bay.run.bay else ""
    return Waiting(
        f"{where}{bay.run.unit.name}: {bay.plan.title}",
        "; ".join(needs)
        or gettext(
            "now: {now}, step {place} of {of_all}", now=now, place=bay.place, of_all=bay.of_all
        ),
        gettext("Decide") if needs else gettext("Look"),
        f"/floor#bay-{bay.run.id}",
    )


def _overdue(db: Session) -> Kind:
    found = dues.overdue(db, today(), SHOWN)
    jobs = due_jobs.jobs_for(db, found)
    lines = [
        Waiting(
            f"{due.unit_name}: {due.what}",
            gettext("since {until}", until=due.until) if due.until else "",
            gettext("Open its procedure") if job else gettext("See the board"),
            f"/editions/{job.edition}" if job else f"/due?unit={quote(due.unit)}",
        )
        for due, job in zip(found, jobs, strict=True)
    ]
    count = dues.counts(db, today())["overdue"]
    return _kind(gettext("Overdue"), lines, "/due", max(0, count - len(lines)))


def _not_done(db: Session) -> Kind:
    found = dues.not_done(db, SHOWN)
    lines = [
        Waiting(
            f"{due.unit_name}: {due.what}", gettext("left out of a run"), gettext("See it"), "/open"
        )
        for due in found
    ]
    count = dues.counts(db, today())["not_done"]
    return _kind(gettext("Left to be done"), lines, "/open", max(0, count - len(lines)))


def _of_technician(db: Session, user: Person) -> list[Kind]:
    return [
        _kind(
            gettext("Your runs"), [_run(db, row) for row in runs.going_on_of(db, user.name)], "/bay"
        ),
        _kind(gettext("Answers to what you reported"), _news(db, user), "/bay"),
        _kind(gettext("Planned for you this week"), _planned(db, user), "/week"),
        _soon(db),
    ]


def _run(db: Session, row: RunRow) -> Waiting:
    plan = edition_store.plan_of(row.edition)
    state = runs.state(db, row.id)
    now = state.current(plan)
    left = (
        ""
        if plan.search
        else gettext("; {plan} min to go", plan=number(state.minutes_left(plan), 0))
    )
    said = gettext("now: {now}", now=now.text) if now else gettext("all steps done")
    return Waiting(
        f"{row.unit.name}: {plan.title}", said + left, gettext("Go on"), f"/bay/runs/{row.id}"
    )


def _news(db: Session, user: Person) -> list[Waiting]:
    return [
        Waiting(f"{news.row.step_text}: {news.row.words}", news.title, gettext("Read it"), "/bay")
        for news in answers.unread(db, user.name)
    ]


def _planned(db: Session, user: Person) -> list[Waiting]:
    """The jobs that are laid out for a person this week, in the order of their time."""
    week = week_plans.week_plan(db, week_of(today()))
    if week is None:
        return []
    jobs = {job.key: job for job in week.jobs}
    names = {user.name.lower(), user.display.lower()}
    mine = [one for one in week.placed if one.person.lower() in names and one.day >= today()]
    return [
        Waiting(
            f"{jobs[one.key].unit}: {jobs[one.key].words}",
            f"{one.bay}, {weekday_words(one.day, short=True)} {clock(one.start)}",
            gettext("To the bay"),
            "/bay",
        )
        for one in sorted(mine, key=lambda one: (one.day, one.start))
    ]


def _soon(db: Session) -> Kind:
    found = dues.overdue(db, today(), SHOWN)
    lines = [
        Waiting(
            f"{due.unit_name}: {due.what}",
            "overdue",
            gettext("Start on it"),
            f"/bay?unit={due.unit}",
        )
        for due in found
    ]
    return _kind(gettext("Overdue on units"), lines, "/due")
