"""A set of plugs as it is asked about from outside: the command line and the open interface."""

import json
from difflib import get_close_matches
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.reading.answer import ReadingAnswer, told
from eldrim.core.reading.observed import Known, PlugSet
from eldrim.core.reading.typed_signs import MAX_TEXT, TypedSet, read_signs, read_since
from eldrim.core.reading.verdict import verdict_of
from eldrim.core.words.messages import gettext
from eldrim.exchange.gathering import Gathering

SignsText = Annotated[str, StringConstraints(max_length=MAX_TEXT)]
Words = Annotated[str, StringConstraints(max_length=80)]
Signs = SignsText | dict[Words, list[Words]]
MAX_LAST_BYTES = 200_000


class ReadingQuestion(BaseModel):
    """What was seen on a set of plugs, and what is known of it."""

    signs: Signs = Field(description="4=blister; 5=black,wet,oily; or a list of words by hole.")
    since: Words = Field("", description="What they ran since they were fitted: 320 km, 5 h.")
    known: list[Words] = Field([], description=f"Any of: {', '.join(Known)}.")
    last: Signs | None = Field(None, description="The signs of the set before, the same way.")
    variant: Words = ""


def answer_reading(engine: Engine, asked: ReadingQuestion) -> ReadingAnswer:
    """The verdict on a set. Raises :class:`ProblemsError` with all that is not understood."""
    parts = Gathering()
    typed = parts.read(TypedSet({}), _signs, engine, asked.signs)
    last = parts.read(TypedSet({}), _signs, engine, asked.last) if asked.last else TypedSet({})
    km, hours = parts.read((None, None), read_since, asked.since)
    known = parts.read(frozenset[Known](), _known, asked.known)
    variant = parts.read("", variant_of, engine, asked.variant)
    parts.require_nothing_wrong()
    plugs = PlugSet(
        seen=typed.seen, gaps=typed.gaps, since_km=km, since_h=hours, known=known, last=last.seen
    )
    return told(verdict_of(engine, variant, plugs), plugs)


def _signs(engine: Engine, said: Signs) -> TypedSet:
    if isinstance(said, str):
        return read_signs(engine, said)
    # A hole in the list without signs showed nothing; one that is not in it was not read.
    clauses = [f"{hole}={','.join(words) or 'nothing'}" for hole, words in said.items()]
    return read_signs(engine, "; ".join([*clauses, "rest=?"]))


def _known(words: list[str]) -> frozenset[Known]:
    plain = [word.strip().lower() for word in words]
    wrong = [word for word in plain if word not in set(Known)]
    if wrong:
        fix = gettext("use any of: {known}", known=", ".join(Known))
        raise ProblemsError(
            [Problem("known", gettext("'{w}' says nothing of a set", w=w), fix) for w in wrong]
        )
    return frozenset(Known(word) for word in plain)


def variant_of(engine: Engine, variant: str) -> str:
    """The variant that is asked about: the first of the sheet where none was said."""
    if not variant:
        return next(iter(engine.variants))
    if variant not in engine.variants:
        near = get_close_matches(variant, list(engine.variants), n=1)
        fix = (
            gettext("did you mean '{near}'?", near=near[0])
            if near
            else gettext("use one of: {variants}", variants=", ".join(engine.variants))
        )
        raise ProblemsError(
            [
                Problem(
                    "variant", gettext("variant '{variant}' does not exist", variant=variant), fix
                )
            ]
        )
    return variant


def read_last(data: bytes) -> Signs:
    """The signs of the set before, from an earlier answer in JSON or a line of signs.

    Raises :class:`ProblemsError` for what is neither.
    """
    wrong = Problem(
        "last",
        gettext("holds no signs"),
        gettext("give an earlier answer as JSON, or 4=blister; 5=ok"),
    )
    if len(data) > MAX_LAST_BYTES:
        raise ProblemsError(
            [Problem("last", gettext("is too large"), gettext("give one earlier answer"))]
        )
    try:
        text = data.decode()
        document = json.loads(text) if text.lstrip().startswith("{") else None
    except ValueError as error:
        raise ProblemsError([wrong]) from error
    if document is None:
        return text.strip()
    signs = document.get("signs")
    if not isinstance(signs, dict) or not all(
        isinstance(words, list) and all(isinstance(word, str) for word in words)
        for words in signs.values()
    ):
        raise ProblemsError([wrong])
    return {str(hole): list(words) for hole, words in signs.items()}
