"""What is done once after an upgrade: whatever is worked out from the rest, worked out anew."""

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from eldrim.store import dues, edition_store, gathered, search, sheet_store
from eldrim.store.tables import SearchRow, UnitRow

# Units whose dues are worked out before anything is served.
UNITS = 200
# Signed runs that are gathered before anything is served.
RUNS = 400


def catch_up(session: Session) -> None:
    """Work out what is due where that is not known, and fill a search that is empty.

    Of very many units the rest follows as the board of what is due is looked at; of very many runs
    as the log is.
    """
    dues.settle(session, UNITS)
    gathered.settle(session, RUNS)
    if not session.scalar(select(select(SearchRow.id).exists())):
        fill_search(session)


def fill_search(session: Session) -> None:
    """Index every sheet, standing edition and unit; findings are indexed as they are made."""
    session.execute(delete(SearchRow).where(SearchRow.kind != "finding"))
    for engine in sheet_store.readable(session, sheet_store.sheets(session))[0]:
        search.index_engine(session, engine)
    for row in edition_store.newest_editions(session):
        search.index_edition(session, row, edition_store.plan_of(row))
    for unit in session.scalars(select(UnitRow)):
        search.index_unit(session, unit)
