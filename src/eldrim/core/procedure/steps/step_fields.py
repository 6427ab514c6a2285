"""The fields of a step: those its operation sets, and those its maker hands on as they are."""

from collections.abc import Set
from typing import TypedDict

from eldrim.core.operations import CautionCause, Phase
from eldrim.core.procedure.job.cautions import cautions
from eldrim.core.procedure.model import Caution, Check, Reading, StepFigure
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.stack import Stack


class StepFields(TypedDict, total=False):
    """What a step carries beside its key, its place and its sentences."""

    brief: str
    tools: tuple[ToolRef, ...]
    setup: tuple[str, ...]
    stacks: tuple[Stack, ...]
    figures: tuple[StepFigure, ...]
    checks: tuple[Check, ...]
    readings: tuple[Reading, ...]
    after: tuple[StepKey, ...]


class RuleFields(TypedDict):
    """What a step has from its key alone."""

    key: StepKey
    phase: Phase
    verb: str
    cautions: tuple[Caution, ...]


def from_rule(key: StepKey, causes: Set[CautionCause]) -> RuleFields:
    """What the row of a key's operation says of its step, with further causes of caution."""
    rule = key.rule
    found = cautions(rule.causes | causes)
    return {"key": key, "phase": rule.phase, "verb": rule.verb, "cautions": found}
