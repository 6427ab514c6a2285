"""The first start of a workshop of one's own: a code on the console makes its first people."""

import secrets
from dataclasses import dataclass

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.run.entries import Role
from eldrim.core.words.messages import gettext
from eldrim.store import people
from eldrim.store.accounts import digest
from eldrim.store.errors import ConflictError
from eldrim.store.tables import FirstStartRow, UserRow

# Nothing in it is taken for another: no 0, 1, i, l, o, u.
LETTERS = "23456789abcdefghjkmnpqrstvwxyz"
GROUPS, GROUP = 4, 5


@dataclass(frozen=True)
class Newcomer:
    """A person to be added: the name to sign in with, what they are called, and their secrets."""

    name: str
    display: str
    password: str
    pin: str = ""


def nobody_works_here(session: Session) -> bool:
    """Whether the workshop has no people yet."""
    return session.scalar(select(UserRow.name).limit(1)) is None


def new_code(session: Session) -> str | None:
    """A code for an empty workshop, in place of any before it; None where people are."""
    _one_at_a_time(session)
    if not nobody_works_here(session):
        return None
    groups = ("".join(secrets.choice(LETTERS) for _ in range(GROUP)) for _ in range(GROUPS))
    code = "-".join(groups)
    session.execute(delete(FirstStartRow))
    session.add(FirstStartRow(id=1, code_hash=digest(_plain(code))))
    return code


def begin(session: Session, code: str, lead: Newcomer, trainer: Newcomer) -> None:
    """Make the first lead and the first trainer, both or neither, and forget the code.

    Raises :class:`ProblemsError` with every problem, its place named after whose it is, and
    :class:`ConflictError` where people are already.
    """
    _one_at_a_time(session)
    if not nobody_works_here(session):
        raise ConflictError(gettext("This workshop has its people already. Sign in."))
    kept = session.get(FirstStartRow, 1)
    if kept is None or not secrets.compare_digest(kept.code_hash, digest(_plain(code))):
        fix = gettext("copy it from where the server was started; a restart prints a new one")
        raise ProblemsError([Problem("code", gettext("this is not the code"), fix)])
    problems: list[Problem] = []
    with session.begin_nested() as both:
        for newcomer, role in ((lead, Role.LEAD), (trainer, Role.TRAINER)):
            problems += _add(session, newcomer, role)
        if problems:
            both.rollback()
    if problems:
        raise ProblemsError(problems)
    session.execute(delete(FirstStartRow))


def _add(session: Session, newcomer: Newcomer, role: Role) -> list[Problem]:
    """Add one of the two; what is wrong with it."""
    try:
        people.add(session, newcomer.name, newcomer.display, role.value, newcomer.password)
        session.flush()
        if role is Role.LEAD:
            people.set_pin(session, newcomer.name.strip().lower(), newcomer.pin)
    except ProblemsError as error:
        return [
            Problem(f"{role}_{found.path}", found.message, found.fix) for found in error.problems
        ]
    return []


def _plain(code: str) -> str:
    return "".join(code.split()).replace("-", "").lower()


def _one_at_a_time(session: Session) -> None:
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext('first start'))"))
