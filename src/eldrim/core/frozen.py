"""The base every core model shares."""

from pydantic import BaseModel, ConfigDict


class Frozen(BaseModel):
    """An immutable value; an unknown field is an error, so a typing slip in a file is caught."""

    model_config = ConfigDict(frozen=True, extra="forbid")
