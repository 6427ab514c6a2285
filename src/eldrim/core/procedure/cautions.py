"""Cautions: attached by what a step does, never typed, never removable (docs/craft.md §19)."""

from collections.abc import Collection

from eldrim.core.engine.model import Engine, Service
from eldrim.core.operations import CautionCause
from eldrim.core.procedure.model import Caution
from eldrim.core.words import say


def cautions(causes: Collection[CautionCause]) -> tuple[Caution, ...]:
    """Return the cautions for what a step does, in the fixed order of the causes."""
    return tuple(
        Caution(key=cause.value, text=say(f"caution.{cause}"))
        for cause in CautionCause
        if cause in causes
    )


def may_roll(engine: Engine) -> set[CautionCause]:
    """The cause of caution in a unit on wheels that is started where it stands."""
    on_wheels = engine.layout.service in (Service.ROAD, Service.TRACK)
    return {CautionCause.ROLL} if on_wheels else set()
