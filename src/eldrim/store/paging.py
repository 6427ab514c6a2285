"""Long lists, newest first, a page at a time: each page begins where the one before it ended."""

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
    """What a list is ordered by: a moment, newest first, and a key where two are of one moment."""

    at: InstrumentedAttribute[Any]
    key: InstrumentedAttribute[UUID]


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
    which, at, key = _read(place)
    asked = query.order_by(order.at.desc(), order.key).limit(size + 1)
    if which == OLDER:
        asked = asked.where(_older(order, at, key))
    elif which == NEWER:
        back = query.where(_newer(order, at, key))
        asked = back.order_by(order.at, order.key.desc()).limit(size + 1)
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


def _older(order: Order, at: datetime | None, key: UUID | None) -> ColumnElement[bool]:
    return (order.at <= at) & or_(order.at < at, order.key > key)


def _newer(order: Order, at: datetime | None, key: UUID | None) -> ColumnElement[bool]:
    return (order.at >= at) & or_(order.at > at, order.key < key)


def _place(which: str, order: Order, row: object) -> str:
    at, key = getattr(row, order.at.key), getattr(row, order.key.key)
    return f"{which}~{at.isoformat()}~{key}"


def _read(place: str) -> tuple[str, datetime | None, UUID | None]:
    which, _, rest = place.partition("~")
    at, _, key = rest.partition("~")
    try:
        read = datetime.fromisoformat(at), UUID(key)
    except ValueError:
        return "", None, None
    return (which, *read) if which in (OLDER, NEWER) and read[0].tzinfo else ("", None, None)
