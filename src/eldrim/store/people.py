"""Who works here: added and let go by a lead; a password and a PIN are each person's own."""

import re
from collections.abc import Sequence
from datetime import UTC, datetime
from itertools import pairwise

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.run.entries import Role
from eldrim.core.words.messages import gettext
from eldrim.store import accounts
from eldrim.store.errors import ConflictError, get_or_404
from eldrim.store.tables import SessionRow, UserRow

MIN_PASSWORD = 10
MIN_LETTERS = 4
PIN = re.compile(r"\d{6,12}")
NAME = re.compile(r"[a-z][a-z0-9.-]{1,39}")


def everybody(session: Session) -> Sequence[UserRow]:
    """All people, those who left last."""
    order = (UserRow.left_on.is_not(None), UserRow.role, UserRow.display)
    return session.scalars(select(UserRow).order_by(*order)).all()


def person(session: Session, name: str) -> UserRow:
    """One person by the name they sign in with."""
    return get_or_404(session, UserRow, name, f"Nobody signs in as '{name}'.")


def add(session: Session, name: str, display: str, role: str, password: str) -> None:
    """Add a person; every problem is named, and nothing is kept then."""
    name, display = name.strip().lower(), display.strip()
    problems = _bad_password(password, name, display)
    if not NAME.fullmatch(name):
        fix = gettext(
            "a letter first, then letters, digits, points or dashes; two to forty of them"
        )
        problems.append(
            Problem("name", gettext("'{name}' cannot be signed in with", name=name), fix)
        )
    elif session.get(UserRow, name) is not None:
        problems.append(
            Problem("name", gettext("'{name}' is taken", name=name), gettext("take another one"))
        )
    if not display:
        problems.append(
            Problem(
                "display", gettext("the person has no name"), gettext("say what they are called")
            )
        )
    if role not in set(Role):
        problems.append(
            Problem(
                "role",
                gettext("there is no role '{role}'", role=role),
                gettext("choose one of the list"),
            )
        )
    if problems:
        raise ProblemsError(problems)
    accounts.add_user(session, name, display, role, password)


def set_password(session: Session, name: str, password: str, keep: str = "") -> None:
    """Give a person another password; they are signed out everywhere but at the token ``keep``."""
    row = person(session, name)
    problems = _bad_password(password, row.name, row.display)
    if problems:
        raise ProblemsError(problems)
    row.password_hash = accounts.hashed(password)
    _sign_out_all(session, name, keep)


def set_pin(session: Session, name: str, pin: str) -> None:
    """Give a lead another PIN."""
    row = person(session, name)
    if row.role != Role.LEAD.value:
        raise ProblemsError(
            [Problem("pin", gettext("only a lead releases by PIN"), gettext("leave it empty"))]
        )
    if not PIN.fullmatch(pin) or _is_guessed(pin):
        fix = gettext("six to twelve digits, not all the same and not counted up or down")
        raise ProblemsError([Problem("pin", gettext("this is no PIN"), fix)])
    row.pin_hash = accounts.hashed(pin)


def set_language(session: Session, name: str, language: str) -> None:
    """Keep the language a person reads pages in."""
    person(session, name).language = language


def leave(session: Session, name: str) -> None:
    """Let a person go: signed out everywhere, what they wrote stays. The last lead cannot."""
    # Two who leave at once must not each count on the other to stay.
    leads = select(UserRow.name).where(UserRow.role == Role.LEAD.value)
    session.execute(leads.order_by(UserRow.name).with_for_update())
    row = person(session, name)
    others = select(func.count()).where(
        UserRow.role == Role.LEAD.value, UserRow.left_on.is_(None), UserRow.name != name
    )
    if row.role == Role.LEAD.value and not session.scalar(others):
        raise ConflictError(
            gettext("This is the last lead; nobody could release or accept any more.")
        )
    row.left_on = datetime.now(UTC)
    _sign_out_all(session, name)


def come_back(session: Session, name: str) -> None:
    """Take a person in again, with the password they had."""
    person(session, name).left_on = None


def _sign_out_all(session: Session, name: str, keep: str = "") -> None:
    others = delete(SessionRow).where(SessionRow.user_name == name)
    session.execute(others.where(SessionRow.token_hash != accounts.digest(keep)))


def _is_guessed(pin: str) -> bool:
    """Whether a PIN is among the first that anybody would try."""
    steps = {int(after) - int(before) for before, after in pairwise(pin)}
    half = len(pin) // 2
    return len(steps) == 1 or pin[:half] * 2 == pin or pin[:2] * half == pin


# What is tried first wherever a password is asked for, without digits and marks at its end.
COMMON = frozenset((
    "password", "passwort", "secret", "geheim", "welcome", "willkommen", "letmein", "qwerty",
    "qwertz", "qwertyuiop", "qwertzuiop", "asdfghjkl", "iloveyou", "administrator", "admin",
    "abcdef", "abcdefgh", "abcdefghij", "workshop", "werkstatt", "changeme", "changethis",
    "master", "default", "monkey", "dragon", "football", "sunshine", "princess", "technician",
    "trainer", "lead", "eldrim", "hello", "hallo", "testtest", "test",
))  # fmt: skip


def _bad_password(password: str, name: str, display: str) -> list[Problem]:
    plain = password.strip().lower()
    stem = plain.rstrip("0123456789!?.,-_ ")
    if len(plain) < MIN_PASSWORD:
        said = gettext("the password is too short")
    elif plain.isdigit() or len(set(plain)) < MIN_LETTERS or stem in COMMON:
        said = gettext("this password is among the first that are tried")
    elif stem in (name, display.lower(), display.lower().replace(" ", "")):
        said = gettext("the password is the name itself")
    else:
        return []
    return [
        Problem(
            "password",
            said,
            gettext(
                "take {min_password} characters or more, of your own", min_password=MIN_PASSWORD
            ),
        )
    ]
