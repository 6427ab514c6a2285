"""The engine sheet."""

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.model import Engine, Figure, Well, applies
from eldrim.core.engine.parts import Hindrance, Joint, Part, Way, WorkRound
from eldrim.core.engine.targets import Target, parse_target

__all__ = [
    "Engine",
    "Figure",
    "Hindrance",
    "Joint",
    "JointKind",
    "Part",
    "Target",
    "Way",
    "Well",
    "WorkRound",
    "applies",
    "parse_target",
]
