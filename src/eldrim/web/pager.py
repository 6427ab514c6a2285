"""Long lists come in pages; what leads from one to the next."""

from collections.abc import Sequence
from typing import NamedTuple

PAGE_SIZE = 50


class Pager(NamedTuple):
    """The numbers of the pages beside the one shown; None where there is none."""

    newer: int | None
    older: int | None


def pager(page: int, rows: Sequence[object]) -> Pager:
    """What leads away from a page; a full one may have an older one behind it."""
    return Pager(page - 1 if page > 1 else None, page + 1 if len(rows) == PAGE_SIZE else None)
