"""The pieces of the ignition that are no hole, and what its timing is set by (docs/timing.md)."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Angle, Length, Speed
from eldrim.core.engine.parts import Joint, Key, Name, Text
from eldrim.core.words.messages import gettext

# What is worked on that is no hole and no part over one.
PieceKey = Literal["cap", "rotor", "points", "pack", "coil-lead", "distributor"]
# Degrees of the crank on a mark: before top dead centre, after it with a minus.
Degrees = Annotated[float, Field(ge=-60, le=90)]


class Piece(Frozen):
    """A piece of the ignition: its number, what holds it, and what to know of it."""

    part_number: Name | None = None
    joints: dict[Key, Joint] = Field(default_factory=dict)
    note: Text = ""
    part: Key | None = Field(
        None, description="Of a cap: the part of the sheet that it is, where it hinders something."
    )


class CurvePoint(Frozen):
    """The advance at one speed, in degrees of the crank before top dead centre."""

    speed: Speed
    advance: Angle = Field(description="A range, or one angle that is held within a degree.")


class Timing(Frozen):
    """The pulley with its marks, and the advance curve; the angles themselves are figures.

    ``marks`` are in degrees before top dead centre, 0 at it. ``turns`` is the direction the engine
    runs in as it is seen from ``seen_from``.
    """

    pulley: Length | None = Field(None, description="Diameter where its marks are.")
    marks: tuple[Degrees, ...] = (0.0,)
    turns: Literal["left", "right"] = "right"
    seen_from: Literal["pulley", "flywheel"] = "pulley"
    read_at: Text = Field("", description="Where the marks are read, said in the steps.")
    vacuum: Literal["plugged", "connected", "none"] = Field(
        "none",
        description="The vacuum line while it is timed: off and plugged, connected, or there is "
        "none.",
    )
    curve: tuple[CurvePoint, ...] = ()
    source: Key
    page: Name

    @model_validator(mode="after")
    def _rising(self) -> "Timing":
        speeds = [point.speed.mid for point in self.curve]
        if speeds != sorted(set(speeds)):
            raise ValueError(
                gettext("the points of the curve are written by rising speed, each once")
            )
        return self
