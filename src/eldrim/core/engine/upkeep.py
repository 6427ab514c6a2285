"""What an engine asks for besides its plugs and coils, how often, and what its parts cost
(docs/interval.md).
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Distance, Time
from eldrim.core.engine.parts import Joint, Key, Name, Point, Text
from eldrim.core.words.messages import gettext

Months = Annotated[int, Field(ge=1, le=240)]
# How many times the usual minutes.
Pace = Annotated[float, Field(ge=0.1, le=10)]
# What a step does that calls for a caution, as a sheet says it.
Does = Literal[
    "compressed_air",
    "sharp_edges",
    "hot_parts",
    "coolant",
    "fuel",
    "chemical",
    "heavy_lift",
    "open_engine",
]


class CompanionPart(Frozen):
    """Something that is renewed with a piece of companion work."""

    name: Name
    part_number: Name | None = None
    count: int = Field(1, ge=1, le=60)


class CompanionStep(Frozen):
    """One act of a piece of companion work, said as an order: ``Take the old element out``."""

    name: Name
    note: Text = ""
    minutes: Time
    undo: Key | None = Field(None, description="The joint of the companion that is let go.")
    do_up: Key | None = Field(None, description="The joint that is made up again.")
    figure: Key | None = Field(None, description="A key of figures: what is read is held to it.")
    tools: tuple[Name, ...] = Field((), description="Special tools, as the crib calls them.")
    checks: tuple[Name, ...] = Field((), description="What proves it, each in a few words.")
    does: tuple[Does, ...] = Field((), description="What calls for a caution.")


class Companion(Frozen):
    """Work that is worth doing while a way in is open: an air filter, a cover gasket, a sender."""

    name: Name
    at: Point | None = Field(None, description="Where it is on the plan, in mm.")
    parts: tuple[CompanionPart, ...] = ()
    joints: dict[Key, Joint] = Field(default_factory=dict)
    steps: dict[Key, CompanionStep] = Field(min_length=1)
    coils_off: tuple[int, ...] = Field(
        (), description="Cylinders whose coil or lead has to be off for it; plugs stay in."
    )
    stops: bool = Field(False, description="Whether the unit stops where it fails.")
    sign: Text = Field("", description="What calls for it where it is seen.")
    note: Text = ""
    variants: tuple[Key, ...] = ()

    @property
    def minutes(self) -> float:
        """What its own steps take, in minutes."""
        return sum(step.minutes.mid for step in self.steps.values())


class Limits(Frozen):
    """So far, so long or so many months, whichever comes first; or each season."""

    distance: Distance | None = None
    hours: Time | None = Field(None, description="Running time, e.g. 500 h.")
    months: Months | None = None
    season: bool = False

    @property
    def stated(self) -> bool:
        """Whether anything is stated."""
        return bool(self.distance or self.hours or self.months or self.season)


class Interval(Limits):
    """When a thing is due, by one source; ``severe`` is what holds in severe use."""

    of: Key = Field(description="plug, coil, boot, lead, cap, rotor, points, or a companion.")
    act: Literal["replace", "inspect"] = "replace"
    severe: Limits = Limits()
    source: Key
    page: Name
    variants: tuple[Key, ...] = ()

    @model_validator(mode="after")
    def _says_when(self) -> "Interval":
        if not self.stated:
            raise ValueError(gettext("say a distance, hours, months or season: true"))
        return self


class Price(Frozen):
    """What one piece of a part number costs, in the money of the house."""

    each: float = Field(ge=0, le=100_000)
    supplier: Text = ""
    guarantee: Text = ""
