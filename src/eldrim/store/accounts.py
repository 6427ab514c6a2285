"""Accounts, sign-in and server-side sessions."""

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from math import ceil
from uuid import UUID

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from eldrim.core.words.messages import gettext
from eldrim.store.errors import ThrottledError
from eldrim.store.notices import tell
from eldrim.store.tables import AttemptRow, KnownDeviceRow, SessionRow, UserRow

LIFETIME = timedelta(hours=14)
# A sign-in nobody used for so long is over; what a tablet holds unsent waits for the next one.
IDLE = timedelta(hours=3)
# How often it is written down that a sign-in is in use.
SEEN_EVERY = timedelta(minutes=5)
DEVICES_KEPT = timedelta(days=180)
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
    tell(session, "people")
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


@dataclass(frozen=True)
class Caller:
    """Who asks to sign in: the address, what kind of device it is, and its own token."""

    address: str
    agent: str = ""
    device: str = ""


@dataclass(frozen=True)
class NewSession:
    """The secrets of a sign-in: for its cookie, its forms, and for knowing the device again."""

    token: str
    csrf: str
    device: str


def sign_in(session: Session, name: str, password: str, caller: Caller) -> NewSession | None:
    """Return a new session, or None when name and password do not match.

    Raises :class:`ThrottledError` after too many failures for this name from this address, for a
    time that grows with each. At a device this person signed in at before, only the failures
    made there count: what strangers try elsewhere keeps nobody out.
    The failure is written by the caller's commit, also when None is returned.
    """
    name = name.strip().lower()[:40]
    here = digest(caller.device)
    device = session.get(KnownDeviceRow, (here, name)) if caller.device else None
    address = f"device {here[:16]}" if device else caller.address
    _throttle_sign_in(session, name, address)
    user = session.get(UserRow, name)
    works_here = user is not None and user.left_on is None
    if not _matches(user.password_hash if user else _NOBODY, password) or not works_here:
        _failed(session, name, address)
        return None
    now = datetime.now(UTC)
    session.execute(delete(AttemptRow).where(AttemptRow.who == _key(name, address)))
    session.execute(delete(AttemptRow).where(AttemptRow.at < now - 2 * WINDOW))
    session.execute(delete(SessionRow).where(SessionRow.expires < now))
    session.execute(delete(KnownDeviceRow).where(KnownDeviceRow.at < now - DEVICES_KEPT))
    made = NewSession(secrets.token_urlsafe(32), secrets.token_urlsafe(32), caller.device)
    session.add(
        SessionRow(
            token_hash=digest(made.token),
            user_name=name,
            csrf=made.csrf,
            expires=now + LIFETIME,
            agent=caller.agent[:120],
        )
    )
    if device is not None:
        device.at = now
        return made
    made = replace(made, device=caller.device or secrets.token_urlsafe(32))
    session.add(KnownDeviceRow(token_hash=digest(made.device), user_name=name))
    return made


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
    tell(session, "floor")
    return False


def session_of(session: Session, token: str) -> Person | None:
    """The person of a live session, by its cookie's token; one nobody used for long is over."""
    row, now = session.get(SessionRow, digest(token)), datetime.now(UTC)
    if row is None or row.expires <= now or row.seen + IDLE <= now:
        return None
    if row.seen + SEEN_EVERY <= now:
        row.seen = now
    return Person(row.user_name, row.user.display, row.user.role, row.csrf)


def sessions_of(session: Session, name: str) -> Sequence[SessionRow]:
    """Where a person is signed in now, the newest first."""
    now = datetime.now(UTC)
    live = select(SessionRow).where(
        SessionRow.user_name == name, SessionRow.expires > now, SessionRow.seen > now - IDLE
    )
    return session.scalars(live.order_by(SessionRow.at.desc(), SessionRow.token_hash)).all()


def end_session(session: Session, name: str, mark: str) -> bool:
    """End one of a person's own sign-ins, by the first letters of its hash; False without one."""
    found = [row for row in sessions_of(session, name) if row.token_hash[:MARK] == mark]
    for row in found:
        session.delete(row)
    return bool(found)


# So many letters of a hash name a sign-in in a form; nobody signs in with them.
MARK = 16


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
            raise ThrottledError(
                gettext("Too many wrong tries. Wait {said}, then try again.", said=said)
            )


def _matches(stored: str, password: str) -> bool:
    try:
        return _hasher.verify(stored, password)
    except VerifyMismatchError:
        return False


def digest(token: str) -> str:
    """What is kept of a session's token."""
    return hashlib.sha256(token.encode()).hexdigest()
