"""The base of every core model."""

from collections.abc import Mapping
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Frozen(BaseModel):
    """An immutable value. An unknown field is an error, so a misspelt one is never attached."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Copy with some fields changed. Raises :class:`TypeError` for a field there is not."""
        unknown = set(update or ()) - set(type(self).model_fields)
        if unknown:
            raise TypeError(f"{type(self).__name__} has no field {', '.join(sorted(unknown))}")
        return super().model_copy(update=update, deep=deep)
