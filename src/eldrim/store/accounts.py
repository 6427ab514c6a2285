"""Accounts, sign-in and server-side sessions."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil
from uuid import UUID

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from eldrim.store.errors import ThrottledError
from eldrim.store.tables import AttemptRow, SessionRow, UserRow

LIFETIME = timedelta(hours=14)
WINDOW = timedelta(minutes=10)
MAX_FAILURES = 8
# Wrong PINs bar one lead on one run; after three runs' worth, whoever tries them.
MAX_WRONG_PINS = 24


@dataclass(frozen=True)
class _Patience:
    """How many wrong tries are free, and how the wait after each further one grows."""

    free: int
    first: timedelta = timedelta(seconds=15)
    longest: timedelta = WINDOW

    def wait(self, failures: int) -> timedelta:
        """How long after the last of so many failures nothing is looked at."""
        if failures < self.free:
            return timedelta(0)
        return min(self.first * (1 << min(failures - self.free, 20)), self.longest)


# Behind one address there may be a whole shop: it is slowed down, never shut out.
_ADDRESS = _Patience(5 * MAX_FAILURES, timedelta(seconds=1), timedelta(seconds=1))

_hasher = PasswordHasher(time_cost=2, memory_cost=19_456, parallelism=1)
# Checked when the name is unknown, so that the answer takes as long as for a known one.
_NOBODY = _hasher.hash(secrets.token_hex(8))


def add_user(session: Session, name: str, display: str, role: str, password: str) -> None:
    """Add an account."""
    session.add(UserRow(name=name, display=display, role=role, password_hash=hashed(password)))


def hashed(secret: str) -> str:
    """What is kept of a password or a PIN."""
    return _hasher.hash(secret)


def has_password(session: Session, name: str, password: str, address: str) -> bool:
    """Whether this is the person's password. A wrong one counts as a failed sign-in.

    Raises :class:`ThrottledError` after too many.
    """
    _throttle_sign_in(session, name, address)
    if _matches(session.get_one(UserRow, name).password_hash, password):
        return True
    _failed(session, name, address)
    return False


def sign_in(session: Session, name: str, password: str, address: str) -> tuple[str, str] | None:
    """Return a new session's token and CSRF token, or None when name and password do not match.

    Raises :class:`ThrottledError` after too many failures for this name from this address, for a
    time that grows with each.
    The failure is written by the caller's commit, also when None is returned.
    """
    name = name.strip().lower()[:40]
    _throttle_sign_in(session, name, address)
    user = session.get(UserRow, name)
    here = user is not None and user.left_on is None
    if not _matches(user.password_hash if user else _NOBODY, password) or not here:
        _failed(session, name, address)
        return None
    session.execute(delete(AttemptRow).where(AttemptRow.who == _key(name, address)))
    session.execute(delete(SessionRow).where(SessionRow.expires < datetime.now(UTC)))
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(32)
    session.add(
        SessionRow(
            token_hash=digest(token),
            user_name=name,
            csrf=csrf,
            expires=datetime.now(UTC) + LIFETIME,
        )
    )
    return token, csrf


@dataclass(frozen=True)
class Person:
    """Who is signed in, and the token their writes must carry."""

    name: str
    display: str
    role: str
    csrf: str


def called(session: Session) -> dict[str, str]:
    """How everybody is called, by the name they sign in with."""
    return {row.name: row.display for row in session.scalars(select(UserRow))}


def leads(session: Session) -> list[tuple[str, str]]:
    """The leads who have a PIN: name and how they are called."""
    rows = session.scalars(
        select(UserRow).where(
            UserRow.role == "lead", UserRow.pin_hash.is_not(None), UserRow.left_on.is_(None)
        )
    )
    return [(row.name, row.display) for row in rows]


def is_lead(session: Session, name: str, pin: str, *, run: UUID, by: str) -> bool:
    """Whether this is a lead and their PIN, asked on a run by the person signed in there.

    A wrong one counts on this run and for who tried it: other runs go on. Raises
    :class:`ThrottledError` after too many.
    """
    here, tried = f"pin {name[:60]} {run}", f"pins by {by}"
    _one_at_a_time(session, tried)
    _throttle(session, {here: _Patience(MAX_FAILURES), tried: _Patience(MAX_WRONG_PINS)})
    user = session.get(UserRow, name)
    lead = user is not None and user.role == "lead" and user.left_on is None
    stored = user.pin_hash if user and lead and user.pin_hash else _NOBODY
    if _matches(stored, pin):
        return True
    session.add_all([AttemptRow(who=here), AttemptRow(who=tried)])
    return False


def session_of(session: Session, token: str) -> Person | None:
    """The person of a live session, by its cookie's token."""
    row = session.get(SessionRow, digest(token))
    if row is None or row.expires <= datetime.now(UTC):
        return None
    return Person(row.user_name, row.user.display, row.user.role, row.csrf)


def sign_out(session: Session, token: str) -> None:
    """End a session."""
    session.execute(delete(SessionRow).where(SessionRow.token_hash == digest(token)))


def wrong_pins(session: Session) -> dict[UUID, list[tuple[str, int]]]:
    """Wrong PINs of late, by the run they were tried on: the lead, and how many."""
    since = datetime.now(UTC) - WINDOW
    tried = select(AttemptRow.who, func.count()).where(
        AttemptRow.who.like("pin %"), AttemptRow.at > since
    )
    rows = session.execute(tried.group_by(AttemptRow.who).order_by(AttemptRow.who))
    found: dict[UUID, list[tuple[str, int]]] = {}
    for who, count in rows:
        lead, _, run = who.removeprefix("pin ").rpartition(" ")
        found.setdefault(UUID(run), []).append((lead, count))
    return found


def _key(name: str, address: str) -> str:
    return f"name {name} from {address}"[:120]


def _failed(session: Session, name: str, address: str) -> None:
    session.add_all([AttemptRow(who=_key(name, address)), AttemptRow(who=f"from {address}"[:120])])


def _throttle_sign_in(session: Session, name: str, address: str) -> None:
    _one_at_a_time(session, _key(name, address))
    here = {_key(name, address): _Patience(MAX_FAILURES), f"from {address}"[:120]: _ADDRESS}
    _throttle(session, here)


def _one_at_a_time(session: Session, who: str) -> None:
    """Until this try is counted or was right, the next one waits: many at once get no further."""
    session.execute(text("SELECT pg_advisory_xact_lock(hashtext(:who))"), {"who": who})


def _throttle(session: Session, patience: dict[str, _Patience]) -> None:
    """Raise :class:`ThrottledError` where somebody failed too often lately to be looked at yet."""
    now = datetime.now(UTC)
    for who, patient in patience.items():
        query = select(func.count(), func.max(AttemptRow.at))
        lately = query.where(AttemptRow.who == who, AttemptRow.at > now - WINDOW)
        failures, last = session.execute(lately).one()
        until = last + patient.wait(failures) if last else now
        if until > now:
            left = ceil((until - now).total_seconds())
            said = f"{left} seconds" if left < 90 else f"{ceil(left / 60)} minutes"
            raise ThrottledError(f"Too many wrong tries. Wait {said}, then try again.")


def _matches(stored: str, password: str) -> bool:
    try:
        return _hasher.verify(stored, password)
    except VerifyMismatchError:
        return False


def digest(token: str) -> str:
    """What is kept of a session's token."""
    return hashlib.sha256(token.encode()).hexdigest()
