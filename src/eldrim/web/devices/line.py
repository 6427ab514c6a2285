"""Devices of several processes: what they say goes over the database, and one opens them."""

import hashlib
from threading import Lock

from sqlalchemy import Connection, Engine, text
from sqlalchemy.exc import SQLAlchemyError

from eldrim.devices.hub import Hub
from eldrim.store.notices import EVERYTHING, Notices

TOPIC = "device:"


def shared_hub(urls: dict[str, str], engine: Engine, notices: Notices) -> Hub:
    """A hub that every process on the database agrees with."""
    hub = Hub(urls, lambda said: notices.send(TOPIC + said), Opener(engine, urls))

    def hearer(topics: list[str]) -> None:
        for topic in topics:
            if topic.startswith(TOPIC):
                hub.heard(topic.removeprefix(TOPIC))
        if EVERYTHING in topics:
            hub.begin_again()

    notices.hear(hearer)
    return hub


class Opener:
    """Whether these devices are this process's to open: the first that asks, until it is gone."""

    def __init__(self, engine: Engine, urls: dict[str, str]) -> None:
        """Processes with other devices do not stand in each other's way."""
        named = ",".join(f"{key}={url}" for key, url in sorted(urls.items()))
        self._key = int.from_bytes(hashlib.sha256(named.encode()).digest()[:7])
        self._engine, self._lock = engine, Lock()
        self._held: Connection | None = None

    def __call__(self) -> bool:
        """True where it is; asked before each time one is opened."""
        with self._lock:
            try:
                return self._still() or self._ask()
            except SQLAlchemyError:
                self._held = None
                return False

    def _still(self) -> bool:
        if self._held is None:
            return False
        self._held.execute(text("SELECT 1"))
        return True

    def _ask(self) -> bool:
        # A connection of its own for as long as it holds: out of the pool, and never idle in one.
        asked = self._engine.connect().execution_options(isolation_level="AUTOCOMMIT")
        found = asked.scalar(text("SELECT pg_try_advisory_lock(:key)"), {"key": self._key})
        if found:
            asked.detach()
            self._held = asked
        else:
            asked.close()
        return bool(found)
