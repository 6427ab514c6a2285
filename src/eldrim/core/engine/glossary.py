"""What a sheet calls things, in another language: the trainer's own words, kept on the sheet."""

from collections.abc import Iterator, Mapping
from typing import Any

from eldrim.core.base.by_object import ByObject
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Way, WorkRound
from eldrim.core.words.language import Language, spoken

# Where a sheet has words of its own; what tools and documents are called is not among them.
WORDED = frozenset({"name", "note", "index", "means", "keyed", "rotor", "ends", "read_at", "sign"})
WORDED_LISTS = frozenset({"opens", "checks"})
NOT_BELOW = frozenset({"sources", "words", "figures", "prices"})
# Of so many sheets the words, and their translations, are kept.
MAX_KEPT = 32
_own_words: ByObject[tuple[str, ...]] = ByObject(MAX_KEPT)
_translated: ByObject[Engine] = ByObject(MAX_KEPT)


def own_words(engine: Engine) -> tuple[str, ...]:
    """Everything on a sheet that a technician reads and only the trainer can say otherwise."""
    return _own_words.of(engine, lambda: _found_in(engine))


def _found_in(engine: Engine) -> tuple[str, ...]:
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    found = dict.fromkeys([*(text for _, _, text in _texts(plain)), *_skills(engine)])
    return tuple(t for t in found if t not in (engine.name, engine.note))


def word(engine: Engine, text: str) -> str:
    """One word of the sheet in the language spoken now: for what is also compared by its name."""
    return engine.words.get(spoken(), {}).get(text) or text


def lacking(engine: Engine, language: Language) -> tuple[str, ...]:
    """The words of a sheet that are not there in a language."""
    known = engine.words.get(language, {})
    return (
        () if language == "en" else tuple(word for word in own_words(engine) if not known.get(word))
    )


def translated(engine: Engine, language: Language) -> Engine:
    """The sheet with its words in a language; what is lacking stays as it was written.

    It is kept, so that what is found of it can be kept too.
    """
    known = engine.words.get(language)
    if not known:
        return engine
    return _translated.of(engine, lambda: _in(known, engine), language)


def _in(known: Mapping[str, str], engine: Engine) -> Engine:
    plain = {"format": engine.format, **engine.model_dump(mode="json", exclude_defaults=True)}
    for holder, key, text in list(_texts(plain)):
        holder[key] = known.get(text) or text
    return Engine.model_validate(plain)


def _skills(engine: Engine) -> list[str]:
    ways: list[Way | WorkRound] = [w for part in engine.parts.values() for w in part.ways.values()]
    ways += [r for hindrance in engine.hindrances for r in hindrance.rounds.values()]
    return [skill for way in ways for skill in way.skills]


def _texts(value: Any) -> Iterator[tuple[Any, Any, str]]:
    """Each text with what holds it and where in it."""
    if isinstance(value, list):
        for inner in value:
            yield from _texts(inner)
    elif isinstance(value, dict):
        for key, inner in value.items():
            if key in WORDED and isinstance(inner, str) and inner:
                yield value, key, inner
            elif key in WORDED_LISTS:
                yield from ((inner, index, text) for index, text in enumerate(inner))
            elif key not in NOT_BELOW:
                yield from _texts(inner)
