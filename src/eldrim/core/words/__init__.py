"""Sentences by their names, in the language in use. No rule reads the text of one."""

import re
from collections.abc import Mapping

from eldrim.core.words.catalogs import CATALOGS
from eldrim.core.words.language import BASE_LANGUAGE, LANGUAGES, decimal_mark, spoken


def all_sentences(language: str = BASE_LANGUAGE) -> Mapping[str, str]:
    """Every sentence of a language by its name."""
    return CATALOGS[language].sentences


def say(name: str, /, **slots: object) -> str:
    """Fill the sentence ``name``. Raises :class:`KeyError` when there is no such sentence."""
    return CATALOGS[spoken()].sentences[name].format(**slots)


def say_in(language: str, name: str, /, **slots: object) -> str:
    """Fill the sentence ``name`` of one language, whichever is in use."""
    return CATALOGS[language].sentences[name].format(**slots)


def has(name: str) -> bool:
    """Whether there is a sentence of this name. Every language has the same names."""
    return name in CATALOGS[BASE_LANGUAGE].sentences


def why(name: str) -> tuple[str, ...]:
    """The reason for a step that every job has."""
    return (say(f"{name}.why"),)


def printed(text: str) -> str:
    """A printed figure as the language in use writes it: ``0,7 bis 0,8 mm``."""
    text = re.sub(r"(?<=\d)\.(?=\d)", decimal_mark(), text)
    return re.sub(r"(?<=[\d°]) to (?=[\d−-])", f" {say('to')} ", text)


def listed(words: list[str] | tuple[str, ...]) -> str:
    """Join words as people do: ``1, 3 and 5``."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {say('and')} {words[-1]}"


def sentences(*said: str) -> str:
    """Sentences one after the other, empty ones left away."""
    return " ".join(one for one in said if one)


def the(name: str) -> str:
    """The name of a part inside a sentence: ``the intake plenum``."""
    return say("the", name=inside(name))


def inside(name: str) -> str:
    """A name inside a sentence, without article: ``intake plenum``."""
    return f"{name[0].lower()}{name[1:]}" if LANGUAGES[spoken()].lower_nouns else name
