"""Lists, all by one pattern: what is searched for, filtered by, sorted by; how many; which page."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from typing import Literal
from urllib.parse import urlencode

from eldrim.store.paging import COUNTED, counted

# A value to filter or sort by, and what it is called.
Option = tuple[str, str]


@dataclass(frozen=True)
class Choice:
    """What a list can be filtered by: one of ``options``, the first of which is all, or of
    ``groups`` of them; or what is typed, with options that are offered; or a day.
    """

    name: str
    label: str
    options: Sequence[Option] = ()
    kind: Literal["choice", "typed", "day"] = "choice"
    groups: Sequence[tuple[str, Sequence[Option]]] = ()


@dataclass(frozen=True)
class Listing:
    """A list as it is asked for: ``at`` is its address, ``label`` what its search looks in.

    ``asked`` are the values of search, filters and sort; ``count`` is how many fit, of which
    ``size`` stand on page ``page``, counted from 1. A list that is paged otherwise has size 0.
    ``search`` is what its search is called in its address.
    """

    at: str
    label: str
    asked: Mapping[str, str]
    count: int
    filters: tuple[Choice, ...] = ()
    sorts: tuple[Option, ...] = ()
    page: int = 1
    size: int = 0
    most: int = COUNTED
    search: str = "said"

    @property
    def narrowed(self) -> bool:
        """Whether not all are shown."""
        names = (self.search, *(choice.name for choice in self.filters))
        return any(self.asked.get(name) for name in names)

    @property
    def pages(self) -> int:
        """How many pages there are."""
        return max(1, ceil(self.count / self.size)) if self.size else 1

    @property
    def counted(self) -> str:
        """How many fit, in figures."""
        return counted(self.count, self.most)

    def on(self, page: int) -> str:
        """The address of another page of the same list."""
        asked = {name: value for name, value in self.asked.items() if value}
        if page > 1:
            asked["page"] = str(page)
        return f"{self.at}?{urlencode(asked)}" if asked else self.at
