"""What comes due on a unit by intervals and wear, worked out from its signed runs."""

from collections.abc import Mapping, Sequence
from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.interval.foreseen import Foreseen, Since, UnitNow, foreseen, wear_foreseen
from eldrim.core.interval.use import Reading, Use, fleet_use, use_per_day
from eldrim.core.run.due import DueKind
from eldrim.core.run.fitted import Fitted, Fitting, fitted, seen
from eldrim.core.run.gaps import gap_crossings
from eldrim.core.run.history import Past
from eldrim.store import past_runs, rules, sheet_store
from eldrim.store.errors import NotFoundError
from eldrim.store.tables import DueRow, RunRow, UnitRow

# Runs looked through for what was fitted and how gaps grew; readings for a day's use; units alike
# whose use stands in.
RUNS, READINGS, ALIKE = 40, 40, 12
# What a meter counts in, as lives and readings are written.
COUNTS = {"km": "km", "hours": "h"}


def unit_now(session: Session, row: UnitRow, past: Sequence[Past]) -> UnitNow | None:
    """A unit as what comes due on it goes by; None where its sheet is gone or lacks its variant."""
    sheet = _sheet(session, row)
    if sheet is None:
        return None
    counts = COUNTS.get(row.meter, "")
    readings = readings_of(session, row.id) if counts else []
    own = use_per_day(readings)
    return UnitNow(
        engine=sheet,
        variant=row.variant,
        counts=counts,
        severe=row.severe,
        stood=readings[-1] if readings else None,
        use=own or (_fleet(session, row) if readings else None),
        fitted=_since(fitted(past)),
        seen=_since(seen(past)),
    )


def _sheet(session: Session, row: UnitRow) -> Engine | None:
    try:
        sheet = sheet_store.sheet(session, row.engine_id)
    except NotFoundError:
        return None
    return sheet if row.variant in sheet.variants else None


def _since(found: Mapping[Fitting, Fitted]) -> dict[Fitting, Since]:
    return {key: Since(one.at.date(), one.meter) for key, one in found.items()}


def readings_of(session: Session, unit: str) -> list[Reading]:
    """The readings of a unit's meter at its signed runs, the oldest first."""
    query = (
        select(RunRow.signed_at, RunRow.meter)
        .where(RunRow.unit_id == unit, RunRow.signed_at.is_not(None), RunRow.meter.is_not(None))
        .order_by(RunRow.signed_at.desc())
        .limit(READINGS)
    )
    found = session.execute(query).all()
    return [(at.date(), float(meter)) for at, meter in reversed(found) if at and meter is not None]


def _fleet(session: Session, row: UnitRow) -> Use | None:
    """What units with the same engine and meter run in a day."""
    query = (
        select(UnitRow.id)
        .join(RunRow, RunRow.unit_id == UnitRow.id)
        .where(
            UnitRow.engine_id == row.engine_id,
            UnitRow.meter == row.meter,
            UnitRow.id != row.id,
            RunRow.meter.is_not(None),
        )
        .group_by(UnitRow.id)
        .having(func.count() > 1)
        .order_by(UnitRow.id)
        .limit(ALIKE)
    )
    uses = [use_per_day(readings_of(session, unit)) for unit in session.scalars(query)]
    return fleet_use([use for use in uses if use is not None])


def foreseen_rows(session: Session, row: UnitRow) -> list[DueRow]:
    """What comes due on a unit, as it is kept."""
    past = past_runs.past(session, row.id, RUNS)
    now = unit_now(session, row, past) if past else None
    if now is None:
        return []
    house = rules.in_force(session)
    by_interval = foreseen(now, house)
    worn = wear_foreseen(now, gap_crossings(past), by_interval) if now.counts else ()
    return [
        *(_row(row, past[0], DueKind.INTERVAL, one) for one in by_interval),
        *(_row(row, past[0], DueKind.WEAR, one) for one in worn),
    ]


def _row(row: UnitRow, newest: Past, kind: DueKind, one: Foreseen) -> DueRow:
    def day(name: str) -> date | None:
        return getattr(one.span, name) if one.span else None

    return DueRow(
        run_id=newest.run,
        unit_id=row.id,
        kind=kind.value,
        what=one.words,
        on=day("likely"),
        meter=one.meter,
        set_at=newest.at,
        first=day("first"),
        until=day("last"),
        thing=one.thing,
        at=list(one.cylinders),
        why=one.why,
        band=one.band,
        looks=one.act == "inspect",
    )
