"""The bays of the shop: where a run is done, so that a lead knows where to walk."""

from collections.abc import Sequence

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext
from eldrim.store.tables import BayRow

MAX_BAY_NAME = 40


def bays(session: Session) -> Sequence[str]:
    """Their names, in order."""
    return session.scalars(select(BayRow.name).order_by(BayRow.name)).all()


def add(session: Session, name: str) -> None:
    """Add a bay; one that is there already stays. Raises :class:`ProblemsError` for no name."""
    plain = " ".join(name.split())
    if not plain or len(plain) > MAX_BAY_NAME:
        fix = gettext(
            "give it a name of at most {max_bay_name} letters, as Bay 1", max_bay_name=MAX_BAY_NAME
        )
        raise ProblemsError(
            [Problem("bay", gettext("'{plain}' is no name for a bay", plain=plain[:60]), fix)]
        )
    session.execute(insert(BayRow).values(name=plain).on_conflict_do_nothing())


def remove(session: Session, name: str) -> None:
    """Take a bay away; runs done there keep its name."""
    session.execute(delete(BayRow).where(BayRow.name == name))
