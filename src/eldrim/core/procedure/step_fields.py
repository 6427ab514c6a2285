"""The fields of a step that its maker hands on as they are."""

from typing import TypedDict

from eldrim.core.procedure.model import Check, Reading, StepFigure
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.stack import Stack


class StepFields(TypedDict, total=False):
    """What a step carries beside its key, its place and its sentences."""

    tools: tuple[ToolRef, ...]
    setup: tuple[str, ...]
    stacks: tuple[Stack, ...]
    figures: tuple[StepFigure, ...]
    checks: tuple[Check, ...]
    readings: tuple[Reading, ...]
    after: tuple[StepKey, ...]
