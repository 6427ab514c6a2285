"""The key of a step: what is done to what, never a position. It is parsed once, at the border."""

import re
from functools import lru_cache
from typing import Any

from pydantic import GetCoreSchemaHandler, ValidatorFunctionWrapHandler
from pydantic_core import CoreSchema, core_schema

from eldrim.core.operations import OPERATIONS, Operation, OperationRule
from eldrim.core.words.messages import gettext

# Stands for every hole of the job, where an edit is of an act as a whole.
EVERY = "*"
_HOLE = re.compile(r"^(\d+[ab]?|\*)$")
_BY_START = {operation.value: operation for operation in Operation}


class StepKey(str):
    """``operation`` on ``item`` (a part, or a bank), at ``hole``, on ``joint``.

    It is equal to its text, so that a key from a form, a tablet or the store finds its step. What
    a hole operation works on (coil, plug, lead, well) is said by its rule.
    """

    operation: Operation
    item: str
    hole: str
    joint: str
    __slots__ = ("hole", "item", "joint", "operation")

    def __new__(
        cls, operation: Operation, item: str = "", hole: str = "", joint: str = ""
    ) -> "StepKey":
        """The key of these; keys are asked for often, so those made last are kept."""
        return _composed(operation, item, hole, joint)

    def __setattr__(self, name: str, value: object) -> None:
        """Refuse: a key never changes."""
        raise AttributeError(gettext("a step key cannot be changed: {name}", name=name))

    def __reduce__(self) -> tuple[Any, ...]:
        """Copy and pickle by what it names."""
        return (StepKey, (self.operation, self.item, self.hole, self.joint))

    @classmethod
    def __get_pydantic_core_schema__(cls, _: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Tell pydantic: text outside, a key inside a model."""

        def read(value: object, as_text: ValidatorFunctionWrapHandler) -> StepKey:
            return value if isinstance(value, StepKey) else cls.parse(as_text(value))

        return core_schema.no_info_wrap_validator_function(
            read, handler(str), serialization=core_schema.to_string_ser_schema()
        )

    @property
    def rule(self) -> OperationRule:
        """What follows from its operation."""
        return OPERATIONS[self.operation]

    def at(self, hole: str) -> "StepKey":
        """The key of the same act at another hole."""
        return StepKey(self.operation, self.item, hole, self.joint)

    @property
    def at_every_hole(self) -> str:
        """The key of its act at all holes; empty for an act at none."""
        return self.at(EVERY) if self.hole else ""

    @classmethod
    def parse(cls, text: str) -> "StepKey":
        """Read a key. Raises :class:`ValueError` for a text that is none."""
        if isinstance(text, StepKey):
            return text
        words = text.split("/")
        for length in (2, 1):
            found = _parsed("/".join(words[:length]), words[length:])
            if found is not None:
                return found
        raise ValueError(gettext("'{text}' is not the key of a step", text=text))


@lru_cache(maxsize=1 << 14)
def _composed(operation: Operation, item: str, hole: str, joint: str) -> StepKey:
    """A key with the text of what it names."""
    key = str.__new__(StepKey, "/".join(filter(None, (operation.value, item, hole, joint))))
    named = {"operation": operation, "item": item, "hole": hole, "joint": joint}
    for name, value in named.items():
        object.__setattr__(key, name, value)
    return key


def _parsed(start: str, rest: list[str]) -> StepKey | None:
    """The key that begins so, where what stands behind fits what its operation asks for."""
    operation = _BY_START.get(start)
    if operation is None:
        return None
    places = OPERATIONS[operation].places
    if operation is Operation.OWN:
        return StepKey(operation, "/".join(rest)) if rest else None
    names = places.split("/") if places else []
    if len(names) != len(rest) or not all(rest):
        return None
    named = dict(zip(names, rest, strict=True))
    if "hole" in named and not _HOLE.match(named["hole"]):
        return None
    return StepKey(operation, **named)
