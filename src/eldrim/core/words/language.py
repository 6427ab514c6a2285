"""The languages a procedure can be written in, and the one in use at the moment.

The language is an argument of the question (it stands in the job). It is passed on by a context
variable instead of through every function, because every sentence and every number needs it.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache
from importlib.resources import files
from typing import Annotated

from babel import Locale, UnknownLocaleError
from babel.dates import format_date
from babel.messages.pofile import read_po
from pydantic import AfterValidator


@dataclass(frozen=True)
class LanguageFacts:
    """How a language writes numbers, names and days.

    ``decimal_mark`` stands between whole and decimals; ``lower_nouns`` tells whether the name of a
    part is written small inside a sentence; ``day`` is the pattern of a day, its month as a word.
    """

    name: str
    decimal_mark: str
    lower_nouns: bool
    day: str = "d MMM y"


def _stated() -> Iterator[tuple[str, LanguageFacts]]:
    """Each language that has a folder of sentences, as its ``language.po`` states it."""
    for folder in (files("eldrim.core") / "words").iterdir():
        if folder.is_dir() and (folder / "language.po").is_file():
            with (folder / "language.po").open("rb") as file:
                stated = {str(m.id): str(m.string) for m in read_po(file) if m.id}
            lower = stated["nouns inside a sentence"] == "lower case"
            yield (
                folder.name,
                LanguageFacts(stated["name"], stated["decimal mark"], lower, stated["day"]),
            )


BASE_LANGUAGE = "en"
LANGUAGES: dict[str, LanguageFacts] = dict(
    sorted(_stated(), key=lambda pair: (pair[0] != BASE_LANGUAGE, pair[0]))
)


def _known(code: str) -> str:
    if code not in LANGUAGES:
        raise ValueError(f"language '{code}' is not known; use one of {', '.join(LANGUAGES)}")
    return code


Language = Annotated[str, AfterValidator(_known)]
_current: ContextVar[str] = ContextVar("language", default=BASE_LANGUAGE)


@contextmanager
def speaking(language: str) -> Iterator[None]:
    """Use a language inside the block."""
    token = _current.set(language)
    try:
        yield
    finally:
        _current.reset(token)


def spoken() -> str:
    """The code of the language in use."""
    return _current.get()


# Who reads a page has a language too; a procedure shown on it keeps its own.
_page: ContextVar[str] = ContextVar("page_language", default=BASE_LANGUAGE)


@contextmanager
def reading_in(language: str) -> Iterator[None]:
    """Write pages in a language inside the block; it is spoken too until another is."""
    token = _page.set(language)
    try:
        with speaking(language):
            yield
    finally:
        _page.reset(token)


def page_language() -> str:
    """The code of the language that pages are written in."""
    return _page.get()


def decimal_mark() -> str:
    """The mark between whole and decimals in the language in use."""
    return LANGUAGES[_current.get()].decimal_mark


def day_words(value: date) -> str:
    """A day as people write it in the language in use, e.g. ``"26 Nov 2026"``."""
    return _day_words(value.year, value.month, value.day, spoken())


@lru_cache(64)
def _weekday(number: int, pattern: str, language: str) -> str:
    # The first of January 2024 was a Monday.
    return format_date(date(2024, 1, 1 + number), pattern, _locale(language))


def weekday_words(value: date, *, short: bool = False) -> str:
    """The day of the week in the language in use: ``"Monday"``, or ``"Mon"`` where it is short."""
    return _weekday(value.weekday(), "EEE" if short else "EEEE", spoken())


def _locale(language: str) -> Locale:
    try:
        return Locale.parse(language)
    except UnknownLocaleError:
        return Locale.parse(BASE_LANGUAGE)


# A list of a page writes the same few days again and again.
@lru_cache(2048)
def _day_words(year: int, month: int, day: int, language: str) -> str:
    value = date(year, month, day)
    locale = _locale(language)
    facts = LANGUAGES.get(locale.language, LANGUAGES[BASE_LANGUAGE])
    return format_date(value, facts.day, locale)


def moment_words(value: datetime) -> str:
    """A day and the time on it, in the zone the moment is given in: ``"26 Nov 2026, 14:05"``."""
    return f"{day_words(value)}, {value:%H:%M}"
