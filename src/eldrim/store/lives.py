"""Parts and how long they lasted, as the signed runs tell; which are in which unit now."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session, contains_eager

from eldrim.core.lessons.parts import PartLife
from eldrim.store.lesson_tables import FittedPartRow, PartKindRow
from eldrim.store.tables import RunRow, UnitRow

# So many of a kind are looked at, the newest first.
LIVES = 400


def kinds(session: Session, said: str, most: int) -> Sequence[PartKindRow]:
    """What was ever fitted, by number, the most often failed first; all, or numbers like this."""
    query = select(PartKindRow)
    if said:
        like = PartKindRow.number.icontains(said, autoescape=True)
        query = query.where(like | PartKindRow.thing.icontains(said, autoescape=True))
    order = (PartKindRow.failed.desc(), PartKindRow.fitted.desc(), PartKindRow.number)
    return session.scalars(query.order_by(*order, PartKindRow.thing).limit(most)).all()


def of_number(session: Session, thing: str, number: str) -> list[PartLife]:
    """The newest lives of a number."""
    same = (FittedPartRow.thing == thing, FittedPartRow.number == number)
    return _lives(session, LIVES, *same)


def of_engine(session: Session, engine: str) -> list[PartLife]:
    """The newest lives of all things on an engine."""
    return _lives(session, LIVES, FittedPartRow.engine_id == engine)


def newest(session: Session, thing: str, most: int) -> list[PartLife]:
    """The newest lives of all things, or of one."""
    return _lives(session, most, *([FittedPartRow.thing == thing] if thing else []))


def _lives(session: Session, most: int, *tests: ColumnElement[bool]) -> list[PartLife]:
    query = select(*COLUMNS).where(*tests).order_by(FittedPartRow.at.desc())
    rows = session.execute(query.limit(most)).all()
    stands = _meters(session, {row.unit_id for row in rows if row.out_at is None})
    return [_life(row, stands.get(row.unit_id)) for row in rows]


# Columns, not rows with their units: hundreds are read for one answer.
COLUMNS = (
    FittedPartRow.unit_id,
    FittedPartRow.thing,
    FittedPartRow.hole,
    FittedPartRow.number,
    FittedPartRow.run_id,
    FittedPartRow.at,
    FittedPartRow.counts,
    FittedPartRow.meter,
    FittedPartRow.gap,
    FittedPartRow.read_meter,
    FittedPartRow.read_gap,
    FittedPartRow.out_at,
    FittedPartRow.out_meter,
    FittedPartRow.failed,
    FittedPartRow.why,
)


def _meters(session: Session, units: set[str]) -> dict[str, float]:
    """Where the meter of each of these units stood last."""
    if not units:
        return {}
    newest = (
        select(RunRow.meter)
        .where(
            RunRow.unit_id == UnitRow.id, RunRow.signed_at.is_not(None), RunRow.meter.is_not(None)
        )
        .order_by(RunRow.signed_at.desc())
        .limit(1)
        .scalar_subquery()
    )
    found = session.execute(select(UnitRow.id, newest).where(UnitRow.id.in_(units))).all()
    return {unit: float(meter) for unit, meter in found if meter is not None}


def _life(row: Any, stands: float | None) -> PartLife:
    """A life: until it was found failed or was renewed, or until now."""
    until = row.out_meter if row.out_at or row.failed else stands
    return PartLife(
        unit=row.unit_id,
        thing=row.thing,
        hole=row.hole,
        number=row.number,
        run=row.run_id,
        fitted=row.at.date(),
        counts=row.counts,
        ran=_beyond(row.meter, until),
        failed=row.failed,
        out=row.out_at.date() if row.out_at else None,
        why=row.why,
        grown=None if row.gap is None or row.read_gap is None else row.read_gap - row.gap,
        grown_over=_beyond(row.meter, row.read_meter),
    )


def _beyond(start: float | None, end: float | None) -> float | None:
    """What a meter ran between two readings."""
    return None if start is None or end is None else max(0.0, end - start)


def in_place(
    session: Session, thing: str, number: str, after: tuple[str, int], most: int
) -> Sequence[FittedPartRow]:
    """Where a thing of a number is in a unit now, by unit, from behind this unit and row on."""
    unit, key = after
    query = (
        select(FittedPartRow)
        .join(UnitRow, UnitRow.id == FittedPartRow.unit_id)
        .options(contains_eager(FittedPartRow.unit))
        .where(
            FittedPartRow.thing == thing,
            FittedPartRow.number == number,
            FittedPartRow.out_at.is_(None),
        )
        .order_by(FittedPartRow.unit_id, FittedPartRow.id)
    )
    if unit:
        behind = (FittedPartRow.unit_id > unit) | (
            (FittedPartRow.unit_id == unit) & (FittedPartRow.id > key)
        )
        query = query.where(behind)
    return session.scalars(query.limit(most)).all()
