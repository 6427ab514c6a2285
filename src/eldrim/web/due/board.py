"""What is due in the order it is looked at: what is overdue, then week by week, then by meter."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from urllib.parse import urlencode

from eldrim.core.job import Work
from eldrim.core.run.due import Due
from eldrim.core.words.language import day_words
from eldrim.core.words.messages import gettext
from eldrim.store.due_jobs import Released


@dataclass(frozen=True)
class Line:
    """One thing due, the procedure that does it, and where a job for it is planned."""

    due: Due
    job: Released | None
    plan: str


@dataclass
class Group:
    """What is due in one week, or overdue, or by the meter alone."""

    name: str
    lines: list[Line] = field(default_factory=list)


def board(found: Sequence[Due], jobs: Sequence[Released | None], today: date) -> list[Group]:
    """Groups in the order of their time; each line with what can be done about it."""
    groups: dict[tuple[int, date], Group] = {}
    for due, job in zip(found, jobs, strict=True):
        place, name = _week(due, today)
        group = groups.setdefault(place, Group(name))
        group.lines.append(Line(due, job, _plan_of(due)))
    return [groups[place] for place in sorted(groups)]


def _week(due: Due, today: date) -> tuple[tuple[int, date], str]:
    if due.overdue(today):
        return (0, date.min), gettext("Overdue")
    if due.on is None:
        return (2, date.max), gettext("By the meter; nobody can say when")
    # What may come any day now is not put off to a week that is past.
    day = max(due.on, today)
    monday = day - timedelta(days=day.weekday())
    this = today - timedelta(days=today.weekday())
    year, week, _ = monday.isocalendar()
    if monday == this:
        return (1, monday), gettext("This week, {week}", week=week)
    return (1, monday), gettext(
        "Week {week}{year}, from {monday}",
        week=week,
        year=gettext(" of {year}", year=year) if year != today.year else "",
        monday=day_words(monday),
    )


def _plan_of(due: Due) -> str:
    """Where a job for what is due is planned; empty where it is none of its engine's."""
    if not due.thing:
        return ""
    known = {work.value for work in Work}
    work = "plug" if due.thing == "boot" else due.thing
    asked: list[tuple[str, str]] = [("c", str(number)) for number in due.at]
    asked.append(("work", work) if work in known else ("companions", work))
    return f"/engines/{due.engine}?{urlencode([*asked, ('variant', due.variant)])}"
