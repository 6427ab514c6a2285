"""Which tablets are heard of on which run: for the floor, not for keeps."""

from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock
from uuid import UUID

from cachetools import LRUCache

# Forgotten after so many; the oldest go first.
MAX_RUNS = 500


@dataclass(frozen=True)
class Heard:
    """What a tablet said last: how many entries it has unsent, and how many were refused."""

    at: datetime
    unsent: int
    refused: int


class Tablets:
    """What the tablets on the runs said last."""

    def __init__(self) -> None:
        """Nobody is heard yet."""
        self._heard: LRUCache[UUID, dict[str, Heard]] = LRUCache(MAX_RUNS)
        self._lock = Lock()

    def hear(self, run: UUID, tablet: str, *, unsent: int, refused: int = 0) -> None:
        """A tablet on a run says something."""
        with self._lock:
            known = self._heard.get(run, {})
            self._heard[run] = {**known, tablet: Heard(datetime.now(UTC), unsent, refused)}

    def _on(self, run: UUID) -> list[Heard]:
        with self._lock:
            return list(self._heard.get(run, {}).values())

    def silent_minutes(self, run: UUID) -> float | None:
        """How many minutes the tablet heard last on a run has been silent; None without one."""
        every = [heard.at for heard in self._on(run)]
        return (datetime.now(UTC) - max(every)).total_seconds() / 60 if every else None

    def unsent(self, run: UUID) -> int:
        """How many entries the tablets on a run had unsent when they were heard last."""
        return sum(heard.unsent for heard in self._on(run))

    def refused(self, run: UUID) -> int:
        """How many refused entries wait on the tablets of a run for a person to let them go."""
        return sum(heard.refused for heard in self._on(run))
