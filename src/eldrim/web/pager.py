"""Long lists come in pages; what leads from one to the next."""

from collections.abc import Mapping
from typing import Any, NamedTuple
from urllib.parse import urlencode

from eldrim.store.paging import Page

PAGE_SIZE = 50


class Pager(NamedTuple):
    """Where the pages beside the one shown begin, as an address; empty where there is none."""

    newer: str
    older: str
    counted: str


def pager(page: Page[Any], asked: Mapping[str, str] | None = None) -> Pager:
    """What leads away from a page; ``asked`` is what else the list was asked for."""
    newer, older = (
        f"?{urlencode({'at': place, **(asked or {})})}" if place else ""
        for place in (page.newer, page.older)
    )
    return Pager(newer, older, page.counted)
