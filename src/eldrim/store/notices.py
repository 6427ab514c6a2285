"""What changed, told to every process on the database as it is committed.

A transaction says with :func:`tell` what it changes. Once it is committed that goes out by NOTIFY,
bundled with what else was committed in that moment: NOTIFY within the transactions would let them
commit only one after the other. Whoever listens asks anew; a notice holds no data but a reading's.
"""

import socket
import threading
from collections.abc import Callable
from selectors import EVENT_READ, DefaultSelector
from typing import Any

import psycopg
import structlog
from sqlalchemy import Engine, event
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

CHANNEL = "eldrim"
TOLD = "tells"
# After a break anything may have changed.
EVERYTHING = "everything"
BUNDLE_SECONDS = 0.03
AGAIN_SECONDS = 1.0
LOOK_SECONDS = 1.0
# What has come is read at once.
READ_SECONDS = 0.001
# PostgreSQL takes up to 8000 bytes in one.
MAX_BYTES = 7000
SEPARATOR = "\n"

log = structlog.get_logger("eldrim.notices")


def tell(session: Session, *topics: str) -> None:
    """Say in a transaction what it changes; heard by all once it is committed."""
    session.info.setdefault(TOLD, set()).update(topics)


class Notices:
    """Tells and hears, for one process; two threads that end with :meth:`close`."""

    def __init__(self, engine: Engine, factory: "sessionmaker[Session]") -> None:
        """Watch the transactions of ``factory``; nothing is told or heard before :meth:`start`."""
        self._engine = engine
        self._hearers: list[Callable[[list[str]], None]] = []
        self._waiting: dict[str, None] = {}
        self._some, self._closed = threading.Event(), threading.Event()
        self._lock = threading.Lock()
        self._threads: list[threading.Thread] = []
        # Who listens waits for its line and for this.
        self._wakes, self._woken = socket.socketpair()
        event.listen(factory, "after_commit", self._committed)
        event.listen(factory, "after_rollback", _forget)

    def hear(self, *hearers: Callable[[list[str]], None]) -> None:
        """Let each of them be told, from another thread, what changed."""
        self._hearers.extend(hearers)

    def start(self) -> None:
        """Begin to tell and to hear."""
        for work in (self._send, self._listen):
            thread = threading.Thread(target=work, daemon=True, name=f"notices{work.__name__}")
            thread.start()
            self._threads.append(thread)

    def close(self) -> None:
        """End both."""
        self._closed.set()
        self._some.set()
        self._wakes.send(b"!")
        for thread in self._threads:
            thread.join(timeout=2 * LOOK_SECONDS)

    def _committed(self, session: Session) -> None:
        topics = session.info.pop(TOLD, None)
        if topics:
            self.send(*topics)

    def send(self, *topics: str) -> None:
        """Tell what changed outside of a transaction, or after one; nobody, before the start."""
        if not self._threads:
            return
        with self._lock:
            self._waiting.update(dict.fromkeys(sorted(topics)))
        self._some.set()

    def _send(self) -> None:
        while not self._closed.is_set():
            self._some.wait()
            self._closed.wait(BUNDLE_SECONDS)
            self._some.clear()
            with self._lock:
                topics, self._waiting = list(self._waiting), {}
            try:
                for bundle in bundles(topics):
                    self._notify(bundle)
            except (SQLAlchemyError, psycopg.Error) as error:
                # Who listens loses its connection too, and asks for everything when it is back.
                log.warning("notices were not sent", kind=type(error).__name__, count=len(topics))
                self._closed.wait(AGAIN_SECONDS)

    def _notify(self, bundle: str) -> None:
        with self._engine.connect() as connection:
            own = connection.execution_options(isolation_level="AUTOCOMMIT")
            own.exec_driver_sql("SELECT pg_notify(%s, %s)", (CHANNEL, bundle))

    def _listen(self) -> None:
        url = self._engine.url.set(drivername="postgresql")
        address = url.render_as_string(hide_password=False)
        while not self._closed.is_set():
            try:
                with psycopg.connect(address, autocommit=True, connect_timeout=5) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    self._heard([EVERYTHING])
                    self._hear_from(connection)
            except psycopg.Error:
                self._closed.wait(AGAIN_SECONDS)

    def _hear_from(self, connection: "psycopg.Connection[Any]") -> None:
        with DefaultSelector() as either:
            either.register(connection.fileno(), EVENT_READ)
            either.register(self._woken, EVENT_READ)
            while not self._closed.is_set():
                for notice in connection.notifies(timeout=READ_SECONDS):
                    self._heard(notice.payload.split(SEPARATOR))
                either.select(LOOK_SECONDS)

    def _heard(self, topics: list[str]) -> None:
        for hearer in self._hearers:
            try:
                hearer(topics)
            except Exception:
                log.exception("a notice was not taken")


def bundles(topics: list[str]) -> list[str]:
    """The topics in as few notices as hold them."""
    found: list[str] = []
    for topic in topics:
        joined = f"{found[-1]}{SEPARATOR}{topic}" if found else topic
        if found and len(joined.encode()) <= MAX_BYTES:
            found[-1] = joined
        else:
            found.append(topic)
    return found


def _forget(session: Session) -> None:
    session.info.pop(TOLD, None)
