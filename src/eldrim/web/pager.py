"""Long lists come in pages; what leads from one to the next."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple
from urllib.parse import urlencode

PAGE_SIZE = 50


class Pager(NamedTuple):
    """The numbers of the pages beside the one shown; None where there is none.

    ``asked`` is what else the list was asked for, as it goes into an address.
    """

    newer: int | None
    older: int | None
    asked: str = ""


def pager(page: int, rows: Sequence[object], asked: Mapping[str, str] | None = None) -> Pager:
    """What leads away from a page; a full one may have an older one behind it."""
    newer = page - 1 if page > 1 else None
    older = page + 1 if len(rows) == PAGE_SIZE else None
    return Pager(newer, older, f"&{urlencode(asked)}" if asked else "")
