"""Say things by the tables of sentence patterns, in the language spoken now."""

import re

from eldrim.core.engine.joints import LORE, JointKind, JointLore
from eldrim.core.language import Language, decimal_mark, spoken
from eldrim.core.words.english import ENGLISH
from eldrim.core.words.german import GERMAN
from eldrim.core.words.german_joints import GERMAN_LORE
from eldrim.core.words.german_tools import german_tool

__all__ = ["ENGLISH", "GERMAN", "TABLES", "figure", "listed", "lore", "say", "the", "tool", "why"]
TABLES: dict[Language, dict[str, str]] = {"en": ENGLISH, "de": GERMAN}
LORES: dict[Language, dict[JointKind, JointLore]] = {"en": LORE, "de": GERMAN_LORE}


def say(name: str, /, **slots: object) -> str:
    """Fill the pattern ``name``; an empty string when there is no such pattern."""
    return TABLES[spoken()].get(name, "").format(**slots)


def why(name: str) -> tuple[str, ...]:
    """The reason for a step that every job has."""
    return (TABLES[spoken()][f"{name}.why"],)


def lore(kind: JointKind) -> JointLore:
    """What the trade knows about a kind of joint."""
    return LORES[spoken()][kind]


def tool(name: str) -> str:
    """A tool's name as it is read; what it is compared by is the name in the crib."""
    return german_tool(name) if spoken() == "de" else name


def figure(text: str) -> str:
    """A printed figure as it is written in the language spoken: ``0,7 bis 0,8 mm``."""
    if spoken() == "en":
        return text
    text = re.sub(r"(?<=\d)\.(?=\d)", decimal_mark(), text)
    return re.sub(r"(?<=[\d°]) to (?=[\d−-])", f" {say('to')} ", text)


def listed(words: list[str] | tuple[str, ...]) -> str:
    """Join words as people do: ``1, 3 and 5``."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {say('and')} {words[-1]}"


def the(name: str) -> str:
    """A part's name inside a sentence: ``the intake plenum``."""
    return say("the", name=name if spoken() == "de" else f"{name[0].lower()}{name[1:]}")
