"""In which language the core speaks just now, and how that language writes a number.

The language is an argument of what is asked (it stands in the job); it is passed on here instead
of through every function, because every sentence and every number needs it.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Literal

Language = Literal["en", "de"]
LANGUAGES: dict[Language, str] = {"en": "English", "de": "Deutsch"}
DECIMAL: dict[Language, str] = {"en": ".", "de": ","}
_now: ContextVar[Language] = ContextVar("language", default="en")


@contextmanager
def speaking(language: Language) -> Iterator[None]:
    """Speak a language inside the block."""
    token = _now.set(language)
    try:
        yield
    finally:
        _now.reset(token)


def spoken() -> Language:
    """The language spoken now."""
    return _now.get()


def decimal_mark() -> str:
    """What stands between whole and decimals."""
    return DECIMAL[_now.get()]
