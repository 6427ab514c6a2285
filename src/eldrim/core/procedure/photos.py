"""A photo on a step, and the marks a trainer puts on it."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from eldrim.core.base.frozen import Frozen

# From 0 to 1 across the picture, from its upper left corner.
Share = Annotated[float, Field(ge=0, le=1)]
Caption = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)]


class Mark(Frozen):
    """A ring round something, or an arrow whose tip is at ``x``, ``y``; numbered in order."""

    kind: Literal["ring", "arrow"]
    x: Share
    y: Share
    words: Caption = ""


class Photo(Frozen):
    """A photo by the digest of its bytes, so that what was released can never be another one.

    ``width`` and ``height`` are in pixels.
    """

    image: str = Field(pattern=r"^[0-9a-f]{64}$")
    width: int = Field(ge=1, le=4000)
    height: int = Field(ge=1, le=4000)
    caption: Caption = ""
    marks: tuple[Mark, ...] = Field((), max_length=12)
