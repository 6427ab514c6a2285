"""What each language says: a folder of ``.po`` files, read when the language is first used.

A sentence of a procedure has a name (``unit.detail``) in every language, English too. A text of a
page is its own key, written in English where it is said; only other languages list it. Both are
looked up here. docs/decisions/19-sentences.md tells why these files.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from gettext import c2py
from importlib.resources import files

from babel.messages.catalog import Catalog as PoCatalog
from babel.messages.pofile import read_po

FOLDER = files("eldrim.core.words")
# The file of a language whose messages are texts of pages; in all others they are names.
PAGES = "pages"
# What a language says of itself: see :mod:`eldrim.core.words.language`.
OF_ITSELF = "language"
# A text, or its forms for one and for many.
Text = str | tuple[str, ...]


def _one_or_many(count: int) -> int:
    return int(count != 1)


@dataclass(frozen=True)
class Catalog:
    """What one language says: ``sentences`` by name, ``texts`` by how they are in English.

    ``plural`` tells which form of a text fits a count.
    """

    sentences: Mapping[str, str] = field(default_factory=dict)
    texts: Mapping[str, Text] = field(default_factory=dict)
    plural: Callable[[int], int] = _one_or_many


def rooms(language: str) -> Iterator[tuple[str, PoCatalog]]:
    """Each file of a language with its name, in the order of their names."""
    folder = FOLDER / language
    paths = sorted(folder.iterdir(), key=lambda path: path.name) if folder.is_dir() else []
    for path in paths:
        with path.open("rb") as file:
            yield path.name.removesuffix(".po"), read_po(file, locale=language)


def read(language: str) -> Catalog:
    """The catalog of a language; an empty one where it has no folder.

    Raises :class:`ValueError` where two files give one name.
    """
    sentences: dict[str, str] = {}
    texts: dict[str, Text] = {}
    plural: Callable[[int], int] = _one_or_many
    for room, messages in rooms(language):
        if room == OF_ITSELF:
            continue
        entries = dict(_translated(messages))
        if room == PAGES:
            texts, plural = entries, c2py(messages.plural_expr)
            continue
        if twice := sentences.keys() & entries.keys():
            raise ValueError(f"{language}/{room}.po says again: {', '.join(sorted(twice))}")
        sentences |= {key: str(text) for key, text in entries.items()}
    return Catalog(sentences, texts, plural)


def _translated(messages: PoCatalog) -> Iterator[tuple[str, Text]]:
    for message in messages:
        if not message.id or not message.string:
            continue
        if isinstance(message.id, tuple | list):
            if all(message.string):
                yield message.id[0], tuple(message.string)
        else:
            yield message.id, str(message.string)


class _Catalogs(dict[str, Catalog]):
    def __missing__(self, language: str) -> Catalog:
        self[language] = read(language)
        return self[language]


# By the code of the language; read when it is first asked for.
CATALOGS: dict[str, Catalog] = _Catalogs()
