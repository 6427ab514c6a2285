"""Numbers that are written down against a figure of the sheet."""

from typing import Any

from eldrim.core.procedure.model import Reading, StepFigure
from eldrim.core.words import say


def asked_number(
    key: str, figure: StepFigure | None, limit: str, unit: str = "", **more: Any
) -> Reading:
    """The reading ``key`` in the unit and inside the limits of a figure; ``limit`` names the words
    for a value outside. Without a figure it has no limits and the unit given.
    """
    return Reading(
        key=key,
        label=say(f"label.{key}"),
        kind="number",
        unit=figure.unit if figure else unit,
        low=figure.min if figure else None,
        high=figure.max if figure else None,
        why_limit=say(f"limit.{limit}"),
        **more,
    )
