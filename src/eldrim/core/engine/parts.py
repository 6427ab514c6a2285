"""Parts, what holds them on, and the ways to get them out of the way."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Angle, Length, Time
from eldrim.core.engine.joints import CLAMPS, JOINT_RULES, JointKind
from eldrim.core.engine.sizes import HeadSize

Key = Annotated[
    str, StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", min_length=1, max_length=48)
]
Name = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)]
Text = Annotated[str, StringConstraints(max_length=600, strip_whitespace=True)]
Point = tuple[float, float]


def place_words(at: Point) -> str:
    """A place on the plan, in mm, as it is read: ``(235, 446.4)``."""
    return f"({at[0]:g}, {at[1]:g})"


class PartKind(StrEnum):
    """What a part is; decides checks and cautions, never access."""

    COVER = "cover"
    DUCT = "duct"
    AIR_BOX = "air_box"
    PLENUM = "plenum"
    THROTTLE_BODY = "throttle_body"
    BRACKET = "bracket"
    LOOM = "loom"
    HOSE = "hose"
    TANK = "tank"
    SEAT = "seat"
    CHARGE_PIPE = "charge_pipe"
    COOLANT_TANK = "coolant_tank"
    FUEL_RAIL = "fuel_rail"
    COIL_PACK = "coil_pack"
    DISTRIBUTOR = "distributor"
    PANEL = "panel"
    OTHER = "other"


LINE_KINDS = frozenset({PartKind.LOOM, PartKind.HOSE})
"""Parts that are lines on the plan: bent, not lifted."""
COVER_KINDS = frozenset({PartKind.COVER, PartKind.PANEL, PartKind.SEAT})
"""Parts that only cover: the engine runs without them."""
AIR_KINDS = frozenset(
    {PartKind.PLENUM, PartKind.DUCT, PartKind.THROTTLE_BODY, PartKind.AIR_BOX, PartKind.CHARGE_PIPE}
)
"""Parts whose joints can let false air in."""


class Carries(StrEnum):
    """What runs through a hose or line; decides cautions and leak checks."""

    AIR = "air"
    VACUUM = "vacuum"
    BREATHER = "breather"
    COOLANT = "coolant"
    FUEL = "fuel"
    OIL = "oil"
    ELECTRIC = "electric"
    MOTION = "motion"
    NO_ENTRY = "nothing"


class Head(StrEnum):
    """The shape a tool grips."""

    HEX = "hex"
    INNER_HEX = "inner_hex"
    SIX_LOBE = "six_lobe"
    OUTER_SIX_LOBE = "outer_six_lobe"
    CROSS = "cross"
    SLOT = "slot"


class Joint(Frozen):
    """One thing, or one group of equal things, that holds a part."""

    kind: JointKind
    name: Name | None = Field(None, description="What to call it; default is the kind's own name.")
    count: int = Field(1, ge=1, le=60)
    head: Head | None = Field(None, description="Fasteners, and clamps that are turned.")
    size: HeadSize | None = Field(None, description="Across flats, T30, E10, or the driver's size.")
    socket: Literal["any", "deep", "thin_wall"] = Field(
        "any", description="What alone goes on: a deep socket over a stud, a thin wall beside one."
    )
    torque: Key | None = Field(None, description="A key of figures; fasteners only.")
    one_time: bool = Field(False, description="Renewed on every refit; goes on the parts list.")
    part_number: Name | None = None
    carries: Carries = Carries.NO_ENTRY
    at: tuple[Point, ...] = Field((), description="Where each one sits on the plan, in mm.")
    drive: str | None = Field(None, pattern=r"^(1/4|3/8|1/2)$")
    below: Length | None = Field(
        None, description="How far the head lies below where a handle can swing."
    )
    pocket: Length | None = Field(None, description="Bore of the pocket the head lies in.")
    room: Length | None = Field(None, description="Clear height over the pocket's rim.")
    line: Angle | None = Field(None, description="Lean of the free line to the handle.")
    swing: Angle | None = Field(None, description="How far a handle can swing here.")
    plastic: bool = Field(False, description="Pulls on a plastic ear: snug, never crush.")
    stand: Literal["left", "right", "top", "bottom"] | None = Field(
        None, description="Edge of the plan to stand at, where it is not the usual one."
    )
    mirror: bool = Field(False, description="Out of sight: mirror and light.")
    isolate: bool = Field(False, description="Battery isolated before this lets go.")
    pressurised: bool = False
    note: Text = ""

    @property
    def turned(self) -> bool:
        """Whether a head of its own is turned: a fastener, or a clamp whose driver is stated."""
        stated = self.head is not None and self.size is not None
        return JOINT_RULES[self.kind].fastener or (self.kind in CLAMPS and stated)


class RiskLevel(StrEnum):
    """How much a way may cost if it goes wrong; house rules price it in minutes."""

    LOW = "low"
    MEDIUM = "medium"
    HIGH = "high"


class Risk(Frozen):
    """Something that may go wrong."""

    what: Name
    level: RiskLevel = RiskLevel.LOW


class WayKind(StrEnum):
    """The manners of getting a part out of the way."""

    REMOVE = "remove"
    SWING_ASIDE = "swing_aside"
    UNCLIP = "unclip"
    LOOSEN_AND_SHIFT = "loosen_and_shift"


class Way(Frozen):
    """One manner of getting a part out of the way."""

    kind: WayKind
    out: Time
    back: Time
    releases: tuple[Key, ...] | None = Field(
        None, description="Joints let go; default all of the part's joints."
    )
    tools: tuple[Name, ...] = Field((), description="Special tools besides those of the joints.")
    skills: tuple[Name, ...] = Field((), description="What whoever does it must be able to do.")
    risks: tuple[Risk, ...] = ()
    persons: int = Field(1, ge=1, le=4)
    by_feel: bool = False
    good_for_torque: bool = Field(True, description="False: leaves room to loosen, not to torque.")
    opens: tuple[Name, ...] | None = Field(
        None,
        description="Openings to plug once it is done; default those of the part, where it comes "
        "off or a seal of it is let go.",
    )
    estimated: bool = Field(False, description="Minutes worked out from the joints, not timed.")
    note: Text = ""


class Part(Frozen):
    """Anything over or beside the holes that can move."""

    name: Name
    kind: PartKind
    outline: tuple[Point, ...] = Field(min_length=2, description="On the plan, in mm.")
    level: int = Field(1, ge=0, le=20, description="Height in the stack, for drawing.")
    joints: dict[Key, Joint] = Field(default_factory=dict)
    ways: dict[Key, Way] = Field(default_factory=dict)
    opens: tuple[Name, ...] = Field((), description="Openings to plug once this is off.")
    fixed: bool = Field(False, description="Never moves, but may be worked round.")
    needed_to_run: bool = Field(True, description="False: may wait until after the first start.")
    refit_after: tuple[Key, ...] = Field((), description="Parts that must be back before this.")
    pushes_onto: tuple[Key, ...] = Field(
        (), description="Parts it is pushed onto, before the fasteners of either are made up."
    )
    part_number: Name | None = None
    variants: tuple[Key, ...] = ()
    note: Text = ""

    def released(self, way: Way) -> dict[str, Joint]:
        """The joints that a way of this part lets go."""
        keys = tuple(self.joints) if way.releases is None else way.releases
        return {key: self.joints[key] for key in keys}

    def opened_by(self, way: Way) -> tuple[str, ...]:
        """The openings to plug once this way is done."""
        if way.opens is not None:
            return way.opens
        seals = any(joint.kind is JointKind.GASKET for joint in self.released(way).values())
        return self.opens if way.kind is WayKind.REMOVE or seals else ()


class HindranceKind(StrEnum):
    """How one thing stands in the way of another."""

    HIDES = "hides"
    BLOCKS_TOOL = "blocks_tool"
    BLOCKS_EXIT = "blocks_exit"
    HOLDS_SHORT = "holds_short"
    CARRIES_FASTENER = "carries_fastener"
    SAFETY = "safety"


class RoundKind(StrEnum):
    """The manners of working round a part that stays."""

    SWIVEL = "swivel"
    SHORT_SOCKET = "short_socket"
    WOBBLE = "wobble"
    LONG_PLIERS = "long_pliers"
    IN_PIECES = "in_pieces"
    BY_FEEL = "by_feel"


class WorkRound(Frozen):
    """A manner of doing the work with the hindrance left in place; minutes are extra."""

    kind: RoundKind
    out: Time
    back: Time
    tools: tuple[Name, ...] = ()
    skills: tuple[Name, ...] = ()
    risks: tuple[Risk, ...] = ()
    good_for_torque: bool = True
    needs: tuple[Key, ...] = Field((), description="Parts that must be away for it.")
    note: Text = ""


class Hindrance(Frozen):
    """``part`` stands in the way of each of ``of``.

    A target is ``hole/3`` (all work in that hole), ``hole/3/coil``, ``hole/3/plug``, one joint
    there ``hole/3/coil/connector``, a part ``plenum`` (however it moves), one of its ways
    ``plenum/remove``, one of its joints ``joint/plenum/bolts``, or some pieces of it
    ``joint/plenum/bolts/2,3``.
    """

    part: Key
    of: tuple[str, ...] = Field(min_length=1)
    kind: HindranceKind
    cleared_by: tuple[Key, ...] = Field((), description="Ways of part that clear it; default all.")
    rounds: dict[Key, WorkRound] = Field(default_factory=dict)
    variants: tuple[Key, ...] = ()
    note: Text = ""
