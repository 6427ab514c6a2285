"""What an empty workshop needs before its first run, and what of it is there."""

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import DeclarativeBase, Session

from eldrim.core.run.entries import Role
from eldrim.store.tables import BayRow, CribRow, EditionRow, EngineRow, RunRow, UnitRow, UserRow


@dataclass(frozen=True)
class FirstStep:
    """One thing to do: by whom, what for, where, and whether it is done."""

    key: str
    what: str
    why: str
    by: Role
    where: str
    done: bool


def to_do(session: Session) -> list[FirstStep]:
    """All of them, in the order in which they are needed."""
    crew = select(UserRow).where(UserRow.role == Role.TECHNICIAN.value)
    some = {
        "people": session.scalar(select(crew.exists())),
        "bays": _any(session, BayRow),
        "crib": _any(session, CribRow),
        "engine": _any(session, EngineRow),
        "procedure": _any(session, EditionRow),
        "unit": _any(session, UnitRow),
        "run": _any(session, RunRow),
    }
    return [FirstStep(*about, done=bool(some[about[0]])) for about in STEPS]


def anything_released(session: Session) -> bool:
    """Whether the bays have something to work by."""
    return _any(session, EditionRow)


def _any(session: Session, table: type[DeclarativeBase]) -> bool:
    return bool(session.scalar(select(select(table).exists())))


STEPS = (
    ("people", "Add the technicians", "Each signs in as themselves: a record says whose hand it "
     "was.", Role.LEAD, "/people"),
    ("bays", "Name the bays", "So that you know where to walk when a run needs you.", Role.LEAD,
     "/people"),
    ("crib", "Fill the crib", "Sockets, extensions and wrenches with their lengths: what reaches "
     "a plug, and how a wrench is set, is worked out from them.", Role.TRAINER, "/crib"),
    ("engine", "Capture an engine", "On the board, beside the engine, or from an engine file that "
     "another workshop gave you.", Role.TRAINER, "/engines/new"),
    ("procedure", "Plan a job and release it", "Choose the holes on the engine's plan, read the "
     "procedure from first to last step, and release it.", Role.TRAINER, "/engines"),
    ("unit", "Enter the units", "Each machine with its engine and the serial on its plate.",
     Role.TRAINER, "/units"),
    ("run", "Work by it in a bay", "At a tablet: pick the unit, and the first step asks for its "
     "plate.", Role.TECHNICIAN, "/bay"),
)  # fmt: skip
