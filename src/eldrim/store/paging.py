"""Long lists, a page at a time: each page begins where the one before it ended."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Generic, TypeVar
from uuid import UUID

from sqlalchemy import ColumnElement, Select, func, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

Row = TypeVar("Row")
OLDER, NEWER = "older", "newer"
# Counted no further: beyond, a list says that there are more.
COUNTED = 1_000


@dataclass(frozen=True)
class Page(Generic[Row]):
    """Rows, where the newer and the older ones beside them begin (empty at the ends), and how
    many there are in all; more than ``most`` are not counted.
    """

    rows: Sequence[Row]
    newer: str
    older: str
    count: int
    most: int = COUNTED

    @property
    def counted(self) -> str:
        """How many, in figures."""
        return counted(self.count, self.most)


def counted(count: int, most: int = COUNTED) -> str:
    """How many, where no more than so many are counted."""
    return f"over {most}" if count > most else str(count)


@dataclass(frozen=True)
class Order:
    """What a list is ordered by: a moment or a text, and a key where two are alike.

    It falls, as with what is newest first, unless it is ``rising``.
    """

    at: InstrumentedAttribute[Any]
    key: InstrumentedAttribute[UUID]
    rising: bool = False


def page_of(
    session: Session,
    query: Select[Any],
    order: Order,
    place: str,
    size: int,
    *,
    most: int = COUNTED,
) -> Page[Any]:
    """The page that begins at ``place``, as another page named it; the first for anything else."""
    which, at, key = _read(place, order)
    forth = (order.at if order.rising else order.at.desc(), order.key)
    back = (order.at.desc() if order.rising else order.at, order.key.desc())
    asked = query.order_by(*forth).limit(size + 1)
    if which == OLDER:
        asked = asked.where(_after(order, at, key))
    elif which == NEWER:
        asked = query.where(_before(order, at, key)).order_by(*back).limit(size + 1)
    rows = list(session.scalars(asked).all())
    more, rows = len(rows) > size, rows[:size]
    if which == NEWER:
        rows.reverse()
    counted = query.with_only_columns(order.key).limit(most + 1).subquery()
    return Page(
        rows,
        _place(NEWER, order, rows[0]) if rows and (which == OLDER or (which and more)) else "",
        _place(OLDER, order, rows[-1]) if rows and (which == NEWER or more) else "",
        session.scalar(select(func.count()).select_from(counted)) or 0,
        most,
    )


# What a list is ordered by, at one row of it.
At = datetime | str | None


def _after(order: Order, at: At, key: UUID | None) -> ColumnElement[bool]:
    if order.rising:
        return (order.at >= at) & or_(order.at > at, order.key > key)
    return (order.at <= at) & or_(order.at < at, order.key > key)


def _before(order: Order, at: At, key: UUID | None) -> ColumnElement[bool]:
    if order.rising:
        return (order.at <= at) & or_(order.at < at, order.key < key)
    return (order.at >= at) & or_(order.at > at, order.key < key)


def _place(which: str, order: Order, row: object) -> str:
    at, key = getattr(row, order.at.key), getattr(row, order.key.key)
    return f"{which}~{at.isoformat() if isinstance(at, datetime) else at}~{key}"


def _read(place: str, order: Order) -> tuple[str, At, UUID | None]:
    """A place as another page named it; nothing for what names none, or one of another order."""
    which, _, rest = place.partition("~")
    said, _, key = rest.rpartition("~")
    try:
        at = said if order.at.type.python_type is str else datetime.fromisoformat(said)
        read = at, UUID(key)
    except ValueError:
        return "", None, None
    lacks_zone = isinstance(at, datetime) and not at.tzinfo
    return ("", None, None) if which not in (OLDER, NEWER) or lacks_zone else (which, *read)
