"""What is worked out from a large object that is read once and kept: found again by which it is."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, Generic, TypeVar

from cachetools import LRUCache

Answer = TypeVar("Answer")


class ByObject(Generic[Answer]):
    """Answers by the object they were worked out from, without comparing its content.

    The object is held beside its answer, so that no other comes to have its place in memory.
    """

    def __init__(self, most: int) -> None:
        """Keep so many, the least recently used go first."""
        self._kept: LRUCache[Hashable, tuple[object, Answer]] = LRUCache(most)
        self._lock = Lock()

    def of(self, about: Any, make: Callable[[], Answer], *more: Hashable) -> Answer:
        """The answer for this object and what ``more`` it depends on; made where none is kept."""
        key = (id(about), *more)
        with self._lock:
            kept = self._kept.get(key)
        if kept is not None and kept[0] is about:
            return kept[1]
        made = make()
        with self._lock:
            self._kept[key] = (about, made)
        return made
