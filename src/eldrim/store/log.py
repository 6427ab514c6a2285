"""The log: signed runs by when they were signed; all, or of a unit, a person or a time."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, or_, select, text
from sqlalchemy.orm import Session

from eldrim.store.paging import Order, Page, page_of
from eldrim.store.tables import EditionRow, RunRow, UnitRow


@dataclass(frozen=True)
class LogFilter:
    """Which runs are asked for; what is empty asks for all. Days are of the shop's zone.

    ``unit`` is one's id, or part of its name or serial; ``job`` part of its title.
    """

    unit: str = ""
    by: str = ""
    job: str = ""
    since: date | None = None
    until: date | None = None
    marked: bool = False


ORDER = Order(RunRow.signed_at, RunRow.id)


def signed_runs(
    session: Session, wanted: LogFilter, zone: ZoneInfo, place: str = "", size: int = 50
) -> Page[RunRow]:
    """A page of the signed runs that fit, the one signed last first."""
    query = _fitting(select(RunRow).where(RunRow.signed_at.is_not(None)), wanted, zone)
    return page_of(session, query, ORDER, place, size)


def _fitting(query: Select[RunRow], wanted: LogFilter, zone: ZoneInfo) -> Select[RunRow]:
    tests: list[ColumnElement[bool]] = []
    if wanted.unit:
        named = UnitRow.name.icontains(wanted.unit, autoescape=True)
        serial = UnitRow.serial.icontains(wanted.unit, autoescape=True)
        units = select(UnitRow.id).where((UnitRow.id == wanted.unit) | named | serial)
        tests.append(RunRow.unit_id.in_(units))
    if wanted.by:
        tests.append((RunRow.by == wanted.by) | RunRow.hands.contains([wanted.by]))
    if wanted.job:
        fits = EditionRow.title.icontains(wanted.job, autoescape=True)
        tests.append(RunRow.edition_id.in_(select(EditionRow.id).where(fits)))
    if wanted.since:
        tests.append(RunRow.signed_at >= datetime.combine(wanted.since, time(), zone))
    if wanted.until:
        after = datetime.combine(wanted.until + timedelta(days=1), time(), zone)
        tests.append(RunRow.signed_at < after)
    if wanted.marked:
        tests.append(or_(RunRow.unfinished, RunRow.marks != text("'{}'")))
    return query.where(*tests)


def jobs(session: Session, most: int) -> Sequence[str]:
    """The titles that were ever released, to choose from."""
    titles = select(EditionRow.title).distinct().order_by(EditionRow.title)
    return session.scalars(titles.limit(most)).all()
