"""What core models and values have in common: they never change."""

from collections.abc import Mapping
from typing import Any, Self, TypeVar

from pydantic import BaseModel, ConfigDict

Value = TypeVar("Value")


def hashed_once(cls: type[Value]) -> type[Value]:
    """Decorate a frozen dataclass of many fields: each object works its hash out once."""
    in_full = cls.__hash__

    def kept(self: Value) -> int:
        found: int | None = self.__dict__.get("_hash")
        if found is None:
            found = self.__dict__["_hash"] = in_full(self)
        return found

    def state(self: Value) -> dict[str, Any]:
        """What is copied and pickled: hashes of text differ from process to process."""
        return {name: value for name, value in self.__dict__.items() if name != "_hash"}

    cls.__hash__ = kept  # type: ignore[method-assign, assignment]
    cls.__getstate__ = state  # type: ignore[method-assign, assignment]
    return cls


class Frozen(BaseModel):
    """An immutable value. An unknown field is an error, so a misspelt one is never attached."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Copy with some fields changed; what was worked out from the old ones stays behind.

        Raises :class:`TypeError` for a field there is not.
        """
        fields = type(self).model_fields
        unknown = set(update or ()) - set(fields)
        if unknown:
            raise TypeError(f"{type(self).__name__} has no field {', '.join(sorted(unknown))}")
        copy = super().model_copy(update=update, deep=deep)
        if update:
            for name in vars(copy).keys() - fields.keys():
                del vars(copy)[name]
        return copy
