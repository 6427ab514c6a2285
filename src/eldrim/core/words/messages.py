"""Texts of pages and refusals, in the language of who reads them.

A text is written where it is said, in English, and is its own key; ``words/<language>/pages.po``
tells how it reads in another language. What a procedure says is in the language of its job: see
:func:`eldrim.core.words.say`.
"""

from collections.abc import Iterable
from html import escape

from eldrim.core.words.catalogs import CATALOGS
from eldrim.core.words.language import page_language


def gettext(text: str, /, **slots: object) -> str:
    """A text in the language of the page, its ``{slots}`` filled; in English where it lacks."""
    found = CATALOGS[page_language()].texts.get(text, text)
    assert isinstance(found, str)
    return found.format(**slots) if slots else found


def ngettext(one: str, many: str, count: int, /, **slots: object) -> str:
    """The form of a text that fits ``count``, which also fills its slot ``{count}``."""
    catalog = CATALOGS[page_language()]
    forms = catalog.texts.get(one, (one, many))
    assert isinstance(forms, tuple)
    return forms[catalog.plural(count)].format(count=count, **slots)


def either(words: Iterable[str]) -> str:
    """One of several, in the language of the page: ``trainer or lead``."""
    return gettext(" or ").join(words)


def all_of(words: Iterable[str]) -> str:
    """Several together, in the language of the page: ``bay 1 and bay 2``."""
    return gettext(" and ").join(words)


def gettext_noop(text: str) -> str:
    """The text as it is: marked to be translated where it is shown, by :func:`gettext`."""
    return text


class LazyText(str):
    """A text of a table, put into the language of the page when it is shown."""

    __slots__ = ()

    def __str__(self) -> str:
        """The text in the language of the page."""
        return gettext(str.__str__(self))

    def __html__(self) -> str:
        """The same for a page, escaped."""
        return escape(str(self), quote=False)

    def __format__(self, spec: str) -> str:
        """The same inside another text."""
        return format(str(self), spec)


def gettext_lazy(text: str) -> str:
    """A text that stands in a table: translated each time it is shown (:class:`LazyText`).

    It compares and is kept as it is written here.
    """
    return LazyText(text)
