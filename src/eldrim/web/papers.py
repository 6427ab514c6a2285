"""Papers that never change are laid out once: job sheets of editions, sheets of signed runs."""

from collections.abc import Callable, Hashable
from threading import Lock

from cachetools import LRUCache

# Some hundred papers; the ones not asked for longest go first.
MAX_BYTES = 48_000_000

_kept: LRUCache[Hashable, bytes] = LRUCache(MAX_BYTES, getsizeof=len)
_lock = Lock()


def kept(key: Hashable, make: Callable[[], bytes]) -> bytes:
    """The paper of this key, made if it is not kept; ``key`` has in it all that it depends on."""
    with _lock:
        found = _kept.get(key)
    if found is None:
        found = make()
        if len(found) < MAX_BYTES:
            with _lock:
                _kept[key] = found
    return found


def forget() -> None:
    """Lay every paper out anew."""
    with _lock:
        _kept.clear()
