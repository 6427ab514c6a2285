"""What has to be turned, and what stands round it: the question the crib is asked."""

from dataclasses import dataclass, field
from enum import StrEnum

from eldrim.core.base.frozen import hashed_once
from eldrim.core.base.quantity import Quantity, format_number
from eldrim.core.engine.joints import JOINT_RULES
from eldrim.core.engine.model import Engine, Plug, Well
from eldrim.core.engine.parts import Head, Joint
from eldrim.core.tools.crib import DRIVES, Drive
from eldrim.core.words import printed, say

# A quarter-inch drive cannot be over-pulled on small fasteners (docs/craft.md §7).
SMALL_FASTENER_MM = 10.0
PLUG_DRIVE: Drive = "3/8"
# Above this torque in N·m a fastener is broken loose with a long handle.
HARD_FROM = 25.0


class TurnAction(StrEnum):
    """What is done with a stack; each has its own handle and its own limits."""

    BREAK_LOOSE = "break_loose"
    RUN_OUT = "run_out"
    TIGHTEN = "tighten"
    TORQUE = "torque"


@hashed_once
@dataclass(frozen=True)
class Demand:
    """A head to turn. Lengths in mm from the rim, up positive; angles in degrees.

    Two demands are the same question whatever they are called: ``id`` and ``what`` say it for
    rules and for people, and are not compared.

    ``below`` is how deep the gripping face lies; ``surround`` how high what the handle must clear
    stands; ``room`` what there is above the rim; ``height`` what goes up inside the socket.
    None means free. ``sort`` says what alone goes on, a deep or a thin-walled socket;
    ``open_ended`` that a line runs through it; ``hard`` that it is broken loose with a long handle.
    ``using`` names pieces that a work-round asks for: the stack has them in it.
    """

    id: str = field(compare=False)
    what: str = field(compare=False)
    head: Head
    size: Quantity
    drive: Drive
    points: int = 6
    plug: bool = False
    height: float = 0.0
    below: float = 0.0
    surround: float = 0.0
    bore: float | None = None
    room: float | None = None
    line: float = 0.0
    swing: float | None = None
    hard: bool = False
    sort: str = "any"
    open_ended: bool = False
    using: tuple[str, ...] = ()

    @property
    def small(self) -> bool:
        """Whether it is a fastener that a big handle would over-pull."""
        return self.drive == "1/4" and not self.hard


def of_plug(plug: Plug, well: Well, opened: bool, using: tuple[str, ...] = ()) -> Demand:
    """The plug in a well; ``opened`` tells whether what hindered the well is away.

    With pieces that a work-round is ``using``, the trainer has found the room good enough.
    """
    room = (well.room_open.mid if well.room_open else None) if opened else well.room_above.mid
    room = None if using else room
    return Demand(
        id=f"plug-{_slug(plug.hex.text)}",
        what=say("item.plug", hole=printed(plug.hex.text)),
        head=Head.HEX,
        size=plug.hex,
        drive=PLUG_DRIVE,
        points=plug.points,
        plug=True,
        height=plug.height.mid,
        below=well.depth.mid,
        surround=well.surround.mid,
        bore=well.bore.mid,
        room=room,
        line=well.line.mid,
        swing=well.swing.mid if well.swing else None,
        hard=True,
        using=using,
    )


def of_joint(engine: Engine, joint: Joint) -> Demand:
    """A fastener; how deep it lies and what it has round it as the sheet states."""
    assert joint.head is not None
    assert joint.size is not None
    figures = engine.figures.get(joint.torque or "", ())
    hard = any(figure.value.high > HARD_FROM for figure in figures)
    return Demand(
        id=f"{_slug(joint.head)}-{_slug(joint.size.text)}",
        what=f"{head_name(joint.head)} {_named(joint.size)}",
        head=joint.head,
        size=joint.size,
        drive=drive_of(joint),
        below=joint.below.mid if joint.below else 0.0,
        bore=joint.pocket.mid if joint.pocket else None,
        room=joint.room.mid if joint.room else None,
        line=joint.line.mid if joint.line else 0.0,
        swing=joint.swing.mid if joint.swing else None,
        hard=hard,
        sort=joint.socket,
        open_ended=JOINT_RULES[joint.kind].open_ended,
    )


def _named(size: Quantity) -> str:
    """A size as people call it: ``10 mm``, ``T30``."""
    lobes = size.text[:1] in "TE"
    return size.text if lobes else f"{format_number(size.mid, 1)} mm"


def drive_of(joint: Joint) -> Drive:
    """The drive a fastener is best turned with: as stated, else quarter inch up to 10 mm."""
    stated = next((drive for drive in DRIVES if drive == joint.drive), None)
    small = joint.size is not None and joint.size.mid <= SMALL_FASTENER_MM
    return stated or ("1/4" if small else "3/8")


def head_name(head: Head) -> str:
    """The word for a head."""
    return say(f"head.{head.value}")


def _slug(text: str) -> str:
    return text.lower().replace(" ", "-").replace("_", "-")
