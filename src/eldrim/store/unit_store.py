"""Units: the machines that the engines sit in."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import Select, func, or_, select
from sqlalchemy.orm import Session

from eldrim.core.engine.variants import Plate
from eldrim.store import search
from eldrim.store.errors import get_or_404
from eldrim.store.tables import UnitRow

# So many are named where something stands in the way of many.
NAMED = 12


def names_with(session: Session, engine: str, variant: str) -> Sequence[str]:
    """The first units that have this variant of an engine."""
    query = select(UnitRow.name).where(UnitRow.engine_id == engine, UnitRow.variant == variant)
    return session.scalars(query.order_by(UnitRow.name).limit(NAMED)).all()


def called(session: Session, keys: Collection[str]) -> dict[str, str]:
    """What these units are called."""
    query = select(UnitRow.id, UnitRow.name).where(UnitRow.id.in_(keys))
    return {row.id: row.name for row in session.execute(query)}


def keys_like(session: Session, start: str) -> tuple[str, ...]:
    """The ids of units that begin so."""
    query = select(UnitRow.id).where(UnitRow.id.startswith(start, autoescape=True))
    return tuple(session.scalars(query))


def some(session: Session, most: int, said: str = "", after: str = "") -> Sequence[UnitRow]:
    """The first units by name, or those whose name, serial or id has in it what is said.

    ``after`` is the name of the last unit of the page before.
    """
    query = _named(select(UnitRow), said).order_by(UnitRow.name, UnitRow.id)
    if after:
        query = query.where(UnitRow.name > after)
    return session.scalars(query.limit(most)).all()


UnitSort = Literal["", "engine", "serial"]
_BY_NAME = (UnitRow.name, UnitRow.id)
UNIT_SORTS: dict[str, tuple[Any, ...]] = {
    "": _BY_NAME,
    "engine": (UnitRow.engine_id, *_BY_NAME),
    "serial": (UnitRow.serial, *_BY_NAME),
}


@dataclass(frozen=True)
class UnitsAsked:
    """Which units a list shows: those that have in it what is ``said``, with one engine, or all."""

    said: str = ""
    engine: str = ""
    sort: UnitSort = ""


def listed(session: Session, asked: UnitsAsked, most: int, skip: int) -> tuple[list[UnitRow], int]:
    """So many units of a list, and how many it has in all."""
    query = _named(select(UnitRow), asked.said)
    if asked.engine:
        query = query.where(UnitRow.engine_id == asked.engine)
    in_all = session.scalar(select(func.count()).select_from(query.subquery())) or 0
    rows = session.scalars(query.order_by(*UNIT_SORTS[asked.sort]).limit(most).offset(skip))
    return list(rows), in_all


def of_engine(session: Session, engine: str, most: int) -> Sequence[UnitRow]:
    """The first units with an engine, by name."""
    query = select(UnitRow).where(UnitRow.engine_id == engine).order_by(UnitRow.name, UnitRow.id)
    return session.scalars(query.limit(most)).all()


def _named(query: Select[Any], said: str) -> Select[Any]:
    plain = said.strip()
    if not plain:
        return query
    columns = (UnitRow.name, UnitRow.serial, UnitRow.id)
    return query.where(or_(*(column.icontains(plain, autoescape=True) for column in columns)))


def unit(session: Session, key: str) -> UnitRow:
    """One unit."""
    return get_or_404(session, UnitRow, key, "There is no such unit.")


@dataclass(frozen=True)
class UnitFacts:
    """What is kept of a unit; ``told_by`` says who or what picked its variant. ``stop_cost`` is
    what an unplanned stop of it costs, None where the house's holds.
    """

    name: str
    engine_id: str
    meter: str
    plate: Plate
    variant: str
    told_by: str
    stop_cost: float | None = None
    severe: bool = False
    place: str = ""

    def words(self) -> dict[str, str]:
        """Each fact as it is read."""
        plate = {"serial": self.plate.serial, "letters": self.plate.letters}
        year = str(self.plate.year) if self.plate.year else ""
        told = {"variant": self.variant, "told by": self.told_by}
        about = {"name": self.name, "engine": self.engine_id, "meter": self.meter}
        about |= {"stop costs": "" if self.stop_cost is None else f"{self.stop_cost:g}"}
        about |= {"use": "severe" if self.severe else "", "place": self.place}
        return {**about, **plate, "year": year, **told}


def facts_of(row: UnitRow) -> UnitFacts:
    """What is kept of a unit, as one value."""
    return UnitFacts(
        name=row.name,
        engine_id=row.engine_id,
        meter=row.meter,
        plate=Plate(row.serial, row.letters, row.year),
        variant=row.variant,
        told_by=row.told_by,
        stop_cost=row.stop_cost,
        severe=row.severe,
        place=row.place,
    )


def save_unit(session: Session, key: str, about: UnitFacts, *, new: bool) -> UnitRow:
    """Keep a unit, new or changed, and the words it is found by."""
    row = UnitRow(id=key) if new else unit(session, key)
    row.name, row.engine_id, row.meter = about.name, about.engine_id, about.meter
    row.serial, row.letters, row.year = (
        about.plate.serial,
        about.plate.letters[:40],
        about.plate.year,
    )
    row.variant, row.told_by = about.variant, about.told_by
    row.stop_cost, row.severe, row.place = about.stop_cost, about.severe, about.place
    session.add(row)
    search.index_unit(session, row)
    session.flush()
    return row
