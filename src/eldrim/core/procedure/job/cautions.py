"""Cautions: attached by what a step does, never typed, never removable (docs/craft.md §19)."""

from collections.abc import Collection
from functools import cache

from eldrim.core.engine.model import Engine, Service
from eldrim.core.operations import CautionCause
from eldrim.core.procedure.model import Caution
from eldrim.core.words import say_in
from eldrim.core.words.language import spoken


def cautions(causes: Collection[CautionCause]) -> tuple[Caution, ...]:
    """Return the cautions for what a step does, in the fixed order of the causes."""
    return _cautions(frozenset(causes), spoken())


@cache
def _cautions(causes: frozenset[CautionCause], language: str) -> tuple[Caution, ...]:
    return tuple(_caution(cause, language) for cause in CautionCause if cause in causes)


@cache
def _caution(cause: CautionCause, language: str) -> Caution:
    return Caution(key=cause.value, text=say_in(language, f"caution.{cause}"))


def may_roll(engine: Engine) -> set[CautionCause]:
    """The cause of caution in a unit on wheels that is started where it stands."""
    on_wheels = engine.layout.service in (Service.ROAD, Service.TRACK)
    return {CautionCause.ROLL} if on_wheels else set()
