"""The engine sheet: facts about one engine, stated once."""

from collections.abc import Iterable
from enum import StrEnum
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Angle, AnyQuantity, Length, Voltage, further_turn, parse
from eldrim.core.engine.parts import Hindrance, Joint, Key, Name, Part, Point, Text
from eldrim.core.engine.sizes import Thread
from eldrim.core.engine.timing import Piece, PieceKey, Timing
from eldrim.core.engine.upkeep import Companion, Interval, Pace, Price

FORMAT: Literal["eldrim.engine/1"] = "eldrim.engine/1"
# The source of what a new sheet starts with, until somebody has looked it up.
TO_STATE, UNSTATED = "to-state", "To be stated"
# One of the maker's own fault codes, as it is read.
OwnCodeText = Annotated[str, StringConstraints(pattern=r"^[A-Z0-9][A-Z0-9-]{1,11}$")]
# A hole is written as a number or as a text.
Hole = Annotated[str, BeforeValidator(lambda said: str(said) if isinstance(said, int) else said)]
# A part number nobody has looked up yet.
TO_BE_STATED = "to be stated"

# Engines built since carry self-diagnosis as a rule (shop practice).
CODES_FROM_YEAR = 1994


class Side(StrEnum):
    """An edge of the plan."""

    TOP = "top"
    BOTTOM = "bottom"
    LEFT = "left"
    RIGHT = "right"


class Shape(StrEnum):
    """How the cylinders stand."""

    INLINE = "inline"
    VEE = "vee"
    FLAT = "flat"
    SINGLE = "single"


class Service(StrEnum):
    """Where the unit works; decides proving and cautions."""

    ROAD = "road"
    TRACK = "track"
    STATIONARY = "stationary"
    MARINE = "marine"


class PlanPhoto(Frozen):
    """A photo of the real engine, laid straight under the plan from its upper left corner.

    ``image`` is the digest of its bytes, by which a workshop keeps it.
    """

    image: str = Field(pattern=r"^[0-9a-f]{64}$")
    size: tuple[float, float] = Field(description="What it covers of the plan, in mm.")


class Layout(Frozen):
    """How the engine lies, seen from above, and where the technician stands."""

    shape: Shape
    mounting: Literal["across", "along"]
    plan: tuple[float, float] = Field(description="Width and height of the plan, in mm.")
    timing_end: Side
    stand: Side = Field(description="The edge of the plan where the technician stands.")
    bulkhead: Side | None = None
    block: tuple[float, float, float, float] = Field(
        description="The engine block on the plan: x, y, width, height, in mm."
    )
    head: Literal["aluminium", "iron"]
    cycle: Literal["four_stroke", "two_stroke"] = "four_stroke"
    fuel: Literal["petrol", "gas"] = "petrol"
    charging: Literal["natural", "forced"] = "natural"
    cooling: Literal["liquid", "air"] = "liquid"
    mixture: Literal["injection", "carburettor"] | None = Field(
        None, description="What makes the mixture; default by self-diagnosis."
    )
    service: Service = Service.ROAD
    system: Voltage = Field(description="System voltage, e.g. 12 V.")
    isolate: bool = Field(False, description="Battery negative off for every job.")
    battery: Text = Field("", description="Where the battery is reached, said in its steps.")
    diagnosis: Literal["yes", "none"] | None = Field(
        None, description="Self-diagnosis with fault codes; default by year and kind of ignition."
    )
    photo: PlanPhoto | None = Field(None, description="The sheet's own picture of the engine.")


class Bank(Frozen):
    """A row of cylinders and how this maker calls it."""

    name: Name


class Well(Frozen):
    """The hole a plug sits in."""

    at: Point = Field(description="Centre on the plan, in mm.")
    depth: Length
    bore: Length
    tilt: Angle
    room_above: Length = Field(description="Clear height over the rim, nothing removed.")
    room_open: Length | None = Field(
        None, description="Clear height once what hinders the well is away; none: free."
    )
    surround: Length = Field(
        parse("10 mm"), description="Height over the rim of what a handle must clear."
    )
    line: Angle = Field(
        parse("0°"), description="How far the free line to the handle leans off the well's axis."
    )
    swing: Angle | None = Field(None, description="How far a handle can swing; none: freely.")
    sight: Literal["seen", "felt"] = "seen"
    confirmed: Text = Field("", description="Why a length outside its band holds.")
    note: Text = Field("", description="Said in the steps at this well.")


class Cylinder(Frozen):
    """One cylinder; two wells where it has two plugs."""

    bank: Key
    place: int = Field(ge=1, description="Counted along the bank from the timing end.")
    wells: tuple[Well, ...] = Field(min_length=1, max_length=2)
    mark: Text = Field("", description="Number or letter on the coil, loom or lead.")


class Distributor(Frozen):
    """The distributor, seen from above, its cap on (docs/leads.md)."""

    at: Point = Field(description="Its middle on the plan, in mm.")
    across: Length = Field(parse("90 mm"), description="Of the ring of towers.")
    turns: Literal["left", "right"] = Field(description="The rotor, seen from above.")
    tower_one: Angle = Field(description="Where tower one is, clockwise from the plan's top.")
    angles: tuple[Angle, ...] = Field(
        (), description="From each tower to the next, as the rotor turns; equal unless stated."
    )
    keyed: Text = Field("", description="How the cap is keyed and held.")
    rotor: Text = Field("", description="How the rotor sits and comes off.")
    body: Length | None = Field(None, description="Its diameter where its edge is turned.")
    stand: Side | None = Field(None, description="The edge of the plan to stand at for it.")


class CoilPack(Frozen):
    """Coils together, a row of numbered towers (docs/leads.md)."""

    at: Point = Field(description="The middle of the row on the plan, in mm.")
    along: Length = Field(parse("120 mm"), description="From the first tower to the last.")
    lies: Angle = Field(parse("90°"), description="First to last, clockwise from the plan's top.")
    towers: dict[int, Hole] = Field(min_length=2, description="Number of a tower to its hole.")


class LeadRun(Frozen):
    """The way of one lead, tower to plug."""

    length: Length | None = Field(None, description="As measured or stated; else as drawn.")
    holders: tuple[Point, ...] = Field((), description="Where it is held, tower to plug, in mm.")
    ends: Text = ""


class Ignition(Frozen):
    """How the spark gets there."""

    kind: Literal["coil_on_plug", "coil_pack", "distributor"]
    firing_order: tuple[int, ...]
    coil_letters: dict[str, int] = Field(
        default_factory=dict, description="Coil letter in fault codes to cylinder."
    )
    waste_spark_pairs: tuple[tuple[int, int], ...] = ()
    distributor: Distributor | None = None
    pack: CoilPack | None = None
    main_coil: Point | None = Field(None, description="Where its tower is on the plan, in mm.")


class Shared(Frozen):
    """Something that several cylinders, or the one nearest to it, get from one place."""

    name: Name
    brings: Literal["air", "fuel", "oil", "cooling", "sensor", "other"] = Field(
        description="What comes from there, or what is measured there."
    )
    cylinders: tuple[int, ...] = Field(min_length=1)


class OwnCode(Frozen):
    """What one of the maker's own fault codes says, and what it is about."""

    means: Name
    about: Literal[
        "supply",
        "crank",
        "coil",
        "injector",
        "misfire",
        "random",
        "lean",
        "rich",
        "cam",
        "knock",
        "bus",
        "own",
    ] = Field("own", description="Weighed as a generic code of this class; own: told, not weighed.")
    cylinder: int | None = None
    bank: Key | None = None


class Source(Frozen):
    """A document figures come from."""

    document: Name
    edition: Name
    kind: Literal["manual", "label", "bulletin", "parts_list", "handbook"] = "manual"


class Figure(Frozen):
    """A figure as its source prints it, for the variants it applies to (none named: all)."""

    value: AnyQuantity
    source: Key
    page: Name
    variants: tuple[Key, ...] = ()
    lubricated: bool = Field(False, description="The source states it for lubricated threads.")
    plus: Angle | None = Field(None, description="A further turn after the torque is reached.")
    settled: Text = Field("", description="Why this one is used where sources disagree.")
    confirmed: Text = Field("", description="Why it holds although it lies outside the band.")
    note: Text = ""

    @model_validator(mode="before")
    @classmethod
    def _further(cls, document: Any) -> Any:
        """``20 N·m + 90°`` is a torque and the turn after it."""
        if not isinstance(document, dict) or not isinstance(document.get("value"), str):
            return document
        first, angle = further_turn(document["value"])
        if not angle or document.get("plus") or not first[:1].isdigit():
            return document
        return {**document, "value": first, "plus": angle}


class Variant(Frozen):
    """A version of the engine and how to tell it."""

    name: Name
    serial_from: int | None = None
    serial_to: int | None = None
    letters: tuple[str, ...] = ()
    years: tuple[int, int] | None = None


class Plug(Frozen):
    """The spark plug the maker asks for (docs/craft.md §6)."""

    part_number: Name
    thread: Thread = Field(description="e.g. M12×1.25")
    reach: Length
    seat: Literal["gasket", "conical"]
    hex: Length
    construction: Literal["nickel", "multi_ground", "fine_wire", "surface_gap"]
    plating: Literal["bare", "nickel", "zinc"]
    heat_range: Name
    resistor: bool
    gap_supplied: Length
    points: Literal[6, 12] = Field(6, description="Of the hex.")
    height: Length = Field(parse("50 mm"), description="From the hex's lower face to the tip.")
    adjustable: bool = Field(False, description="The maker lets a fine-wire strap be set.")
    confirmed: Text = Field("", description="Why a length outside its band holds.")
    index: Text = Field("", description="Where the maker wants the ground strap to point.")
    source: Key
    page: Name
    variants: tuple[Key, ...] = ()


class Coil(Frozen):
    """The coil over each plug."""

    part_number: Name
    joints: dict[Key, Joint]
    boot_greased: bool = False
    boot_part: Name | None = Field(None, description="Part number of its boot, sold alone.")
    short_loom: bool = Field(
        False, description="The connector comes off only while the coil moves."
    )
    variants: tuple[Key, ...] = ()


class Lead(Frozen):
    """The lead to each plug, where coils are not on the plugs."""

    part_number: Name
    joints: dict[Key, Joint]
    variants: tuple[Key, ...] = ()


class Engine(Frozen):
    """All facts about one engine."""

    format: Literal["eldrim.engine/1"] = FORMAT
    id: Key
    make: Name
    name: Name
    revision: int = Field(ge=1)
    note: Text = ""
    layout: Layout
    banks: dict[Key, Bank]
    cylinders: dict[int, Cylinder] = Field(min_length=1)
    ignition: Ignition
    variants: dict[Key, Variant] = Field(min_length=1)
    sources: dict[Key, Source]
    figures: dict[Key, tuple[Figure, ...]]
    plugs: tuple[Plug, ...] = Field(min_length=1)
    coils: tuple[Coil, ...] = ()
    leads: tuple[Lead, ...] = ()
    parts: dict[Key, Part] = Field(default_factory=dict)
    hindrances: tuple[Hindrance, ...] = ()
    shared: dict[Key, Shared] = Field(
        default_factory=dict,
        description="Feeds, sensors and the like that some cylinders share: a vacuum line.",
    )
    lead_runs: dict[Hole, LeadRun] = Field(
        default_factory=dict, description="By hole, and ``coil`` for the lead of the main coil."
    )
    pieces: dict[PieceKey, Piece] = Field(
        default_factory=dict, description="Cap, rotor, points, pack and the like, beyond the holes."
    )
    timing: Timing | None = Field(None, description="Pulley, marks and the advance curve.")
    companions: dict[Key, Companion] = Field(
        default_factory=dict,
        max_length=40,
        description="Work that is worth doing while a way in is open.",
    )
    intervals: tuple[Interval, ...] = Field(
        (), description="When plugs, coils, leads, pieces and companions are due."
    )
    prices: dict[Name, Price] = Field(
        default_factory=dict, description="What parts cost, by part number."
    )
    pace: dict[Name, Pace] = Field(
        default_factory=dict,
        max_length=80,
        description="How many times the usual minutes an act takes here: ``remove/plug: 1.4``.",
    )
    own_codes: dict[OwnCodeText, OwnCode] = Field(
        default_factory=dict, description="The maker's own fault codes, as they are read."
    )
    free: tuple[str, ...] = Field(
        (), description="Looked at and found not to hinder, as part>target."
    )

    words: dict[str, dict[str, str]] = Field(
        default_factory=dict,
        description="What the sheet calls things, in other languages: language to text to text.",
    )

    @property
    def title(self) -> str:
        """Make and name together."""
        return f"{self.make} {self.name}"

    def diagnoses_itself(self, variant: str) -> bool:
        """Whether there are fault codes to read; by year and kind of ignition where not stated."""
        if self.layout.diagnosis is not None:
            return self.layout.diagnosis == "yes"
        years = self.variants[variant].years
        if years is not None:
            return years[1] >= CODES_FROM_YEAR
        simple = self.ignition.kind == "distributor" or self.layout.cycle == "two_stroke"
        return not simple

    def injects(self, variant: str) -> bool:
        """Whether each cylinder has an injector; by self-diagnosis where not stated."""
        stated = self.layout.mixture
        if stated is None:
            return self.layout.fuel == "petrol" and self.diagnoses_itself(variant)
        return stated == "injection"

    @property
    def contactless(self) -> bool:
        """Whether the distributor has a pick-up with an air gap in the place of points."""
        return "air-gap" in self.figures

    @cached_property
    def holes(self) -> dict[str, tuple[int, Well]]:
        """Every hole by its id: ``"3"``, or ``"3a"`` and ``"3b"`` with two plugs a cylinder."""
        found: dict[str, tuple[int, Well]] = {}
        for number, cylinder in self.cylinders.items():
            for letter, well in zip("ab", cylinder.wells, strict=False):
                hole = str(number) if len(cylinder.wells) == 1 else f"{number}{letter}"
                found[hole] = (number, well)
        return found

    def holes_of(self, cylinder: int) -> tuple[str, ...]:
        """The ids of the holes of one cylinder."""
        return tuple(key for key, (number, _) in self.holes.items() if number == cylinder)

    def holes_of_all(self, cylinders: Iterable[int]) -> tuple[str, ...]:
        """The ids of the holes of several cylinders, in the order of the cylinders."""
        return tuple(hole for cylinder in cylinders for hole in self.holes_of(cylinder))


def applies(variants: tuple[str, ...], variant: str) -> bool:
    """Whether something stated for ``variants`` (none: all) holds for ``variant``."""
    return not variants or variant in variants
