"""The log: signed runs by when they were signed; all, or those that fit what is asked for."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, and_, func, or_, select, text
from sqlalchemy.orm import Session

from eldrim.store.lesson_tables import LogViewRow, PartKindRow
from eldrim.store.paging import Order, Page, page_of
from eldrim.store.runs import MARKS
from eldrim.store.tables import EditionRow, RunRow, UnitRow

# What a run is filtered by besides a kind of mark.
ANY, UNFINISHED = "any", "unfinished"
# Part numbers that fit what is typed, and views a person keeps.
NUMBERS, VIEWS = 60, 20
# Runs that are counted and summed up, the newest of those that fit.
SUMMED = 400


@dataclass(frozen=True)
class LogFilter:
    """Which runs are asked for; what is empty asks for all. Days are of the shop's zone.

    ``unit`` is one's id, or part of its name or serial; ``job`` part of its title; ``engine`` a
    sheet's id; ``found`` the id of a finding; ``part`` a part number, or part of one; ``words`` all
    stand in what was said; ``marked`` a kind of mark, ``any`` or ``unfinished``.
    """

    unit: str = ""
    engine: str = ""
    by: str = ""
    job: str = ""
    since: date | None = None
    until: date | None = None
    marked: str = ""
    found: str = ""
    part: str = ""
    words: str = ""


ORDER = Order(RunRow.signed_at, RunRow.id)


LogSort = Literal["", "oldest", "unit"]
SORTS: dict[str, Order] = {
    "": ORDER,
    "oldest": replace(ORDER, rising=True),
    "unit": Order(RunRow.unit_id, RunRow.id, rising=True),
}


def signed_runs(
    session: Session,
    wanted: LogFilter,
    zone: ZoneInfo,
    place: str = "",
    size: int = 50,
    sort: LogSort = "",
) -> Page[RunRow]:
    """A page of the signed runs that fit, the one signed last first or as sorted."""
    return page_of(session, _fitting(session, wanted, zone), SORTS[sort], place, size, most=SUMMED)


def newest(session: Session, wanted: LogFilter, zone: ZoneInfo, most: int) -> Sequence[RunRow]:
    """The newest signed runs that fit."""
    query = _fitting(session, wanted, zone).order_by(RunRow.signed_at.desc(), RunRow.id)
    return session.scalars(query.limit(most)).all()


@dataclass(frozen=True)
class LogCounts:
    """What the newest runs that fit come to, at most :data:`SUMMED` of them: how many, on how many
    units, how many with each kind of mark; minutes and money, of those where they are known.
    """

    runs: int
    units: int
    unfinished: int
    marked: dict[str, int]
    timed: int
    planned: float
    took: float
    priced: int
    cost_planned: float
    cost_real: float


def counts(session: Session, wanted: LogFilter, zone: ZoneInfo) -> LogCounts:
    """Count what fits."""
    newest_first = _fitting(session, wanted, zone).order_by(RunRow.signed_at.desc(), RunRow.id)
    columns = (
        RunRow.unit_id,
        RunRow.unfinished,
        RunRow.marks,
        RunRow.took,
        RunRow.cost_planned,
        RunRow.cost_real,
        EditionRow.minutes,
    )
    joined = newest_first.join(EditionRow, EditionRow.id == RunRow.edition_id)
    some = joined.with_only_columns(*columns).limit(SUMMED + 1).subquery()
    kinds = [func.count().filter(some.c.marks.has_key(kind.value)) for kind in MARKS]
    found = session.execute(
        select(
            func.count(),
            func.count(some.c.unit_id.distinct()),
            func.count().filter(some.c.unfinished),
            func.count(some.c.took),
            func.coalesce(func.sum(some.c.minutes).filter(some.c.took.is_not(None)), 0.0),
            func.coalesce(func.sum(some.c.took), 0.0),
            func.count(some.c.cost_real),
            func.coalesce(func.sum(some.c.cost_planned), 0.0),
            func.coalesce(func.sum(some.c.cost_real), 0.0),
            *kinds,
        )
    ).one()
    runs, units, unfinished, timed, planned, took, priced, cost_planned, cost_real, *by_kind = found
    marked = {kind.value: n for kind, n in zip(MARKS, by_kind, strict=True) if n}
    return LogCounts(
        runs, units, unfinished, marked, timed, planned, took, priced, cost_planned, cost_real
    )


def _fitting(session: Session, wanted: LogFilter, zone: ZoneInfo) -> Select[RunRow]:
    tests: list[ColumnElement[bool]] = [RunRow.signed_at.is_not(None), *_of_what(wanted)]
    if wanted.since:
        tests.append(RunRow.signed_at >= datetime.combine(wanted.since, time(), zone))
    if wanted.until:
        after = datetime.combine(wanted.until + timedelta(days=1), time(), zone)
        tests.append(RunRow.signed_at < after)
    if wanted.marked:
        tests.append(_marked(wanted.marked))
    if wanted.found:
        tests.append(RunRow.found.contains([wanted.found]))
    if wanted.part:
        tests.append(RunRow.parts.overlap(_numbers(session, wanted.part)))
    if wanted.words:
        tests.append(RunRow.words.bool_op("@@")(func.to_tsquery("simple", _query(wanted.words))))
    return select(RunRow).where(*tests)


def _of_what(wanted: LogFilter) -> list[ColumnElement[bool]]:
    """On which units and engines, by whom, for which job."""
    tests: list[ColumnElement[bool]] = []
    if wanted.unit:
        named = UnitRow.name.icontains(wanted.unit, autoescape=True)
        serial = UnitRow.serial.icontains(wanted.unit, autoescape=True)
        units = select(UnitRow.id).where((UnitRow.id == wanted.unit) | named | serial)
        tests.append(RunRow.unit_id.in_(units))
    if wanted.engine:
        units = select(UnitRow.id).where(UnitRow.engine_id == wanted.engine)
        tests.append(RunRow.unit_id.in_(units))
    if wanted.by:
        tests.append((RunRow.by == wanted.by) | RunRow.hands.contains([wanted.by]))
    if wanted.job:
        fits = EditionRow.title.icontains(wanted.job, autoescape=True)
        tests.append(RunRow.edition_id.in_(select(EditionRow.id).where(fits)))
    return tests


def _marked(kind: str) -> ColumnElement[bool]:
    marked = or_(RunRow.unfinished, RunRow.marks != text("'{}'"))
    if kind == UNFINISHED:
        return RunRow.unfinished.is_(True)
    # Said first, it lets the database go by the few that are marked at all.
    return marked if kind == ANY else and_(marked, RunRow.marks.has_key(kind))


def _numbers(session: Session, typed: str) -> list[str]:
    """The part numbers that have in them what was typed; else what was typed."""
    like = select(PartKindRow.number).where(PartKindRow.number.icontains(typed, autoescape=True))
    found = session.scalars(like.distinct().limit(NUMBERS)).all()
    return [*found, typed][:NUMBERS]


def _query(words: str) -> str:
    """All of the words, each as it begins."""
    found = re.findall(r"\w+", words.lower())[:8]
    return " & ".join(f"{word}:*" for word in found) or "nothing:*"


def numbers(session: Session, most: int) -> Sequence[str]:
    """Part numbers that were fitted most, to choose from."""
    query = select(PartKindRow.number).where(PartKindRow.number != "")
    order = func.max(PartKindRow.fitted).desc()
    return session.scalars(query.group_by(PartKindRow.number).order_by(order).limit(most)).all()


def views(session: Session, user: str) -> Sequence[LogViewRow]:
    """The views of the log a person keeps, by name."""
    query = select(LogViewRow).where(LogViewRow.user_name == user).order_by(LogViewRow.name)
    return session.scalars(query).all()


def keep_view(session: Session, user: str, name: str, asked: dict[str, str]) -> bool:
    """Keep a view under a name, in the place of one so called; False where there are too many."""
    row = session.get(LogViewRow, (user, name))
    if row is not None:
        row.asked = asked
        return True
    # Two windows of one person: the count holds for both.
    session.execute(
        text("SELECT pg_advisory_xact_lock(hashtext(:key))"), {"key": f"log views of {user}"}
    )
    if len(views(session, user)) >= VIEWS:
        return False
    session.merge(LogViewRow(user_name=user, name=name, asked=asked))
    session.flush()
    return True


def drop_view(session: Session, user: str, name: str) -> None:
    """Keep a view no longer."""
    row = session.get(LogViewRow, (user, name))
    if row is not None:
        session.delete(row)


def jobs(session: Session, most: int) -> Sequence[str]:
    """The titles that were ever released, to choose from."""
    titles = select(EditionRow.title).distinct().order_by(EditionRow.title)
    return session.scalars(titles.limit(most)).all()
