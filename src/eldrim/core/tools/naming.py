"""Which tool a joint takes, by its kind, head and size, and what it is called."""

from dataclasses import dataclass

from eldrim.core.engine.joints import LORE
from eldrim.core.engine.parts import Head, Joint
from eldrim.core.quantity import Quantity, format_number

DRIVE_NAMES = {"1/4": "¼ in", "3/8": "⅜ in", "1/2": "½ in"}
PLUG_DRIVE = "3/8"
# A quarter-inch drive cannot be over-pulled on small fasteners (handbook §7).
SMALL_FASTENER_MM = 10.0


@dataclass(frozen=True)
class ToolUse:
    """The tools in hand for one act; ``setup`` names the combination, empty for bare hands."""

    tools: tuple[str, ...]
    setup: str


BARE_HANDS = ToolUse((), "")


def drive_of(joint: Joint) -> str:
    """The drive size for a fastener: as stated, else quarter inch up to 10 mm heads."""
    if joint.drive:
        return joint.drive
    return "1/4" if joint.size and joint.size.mid <= SMALL_FASTENER_MM else "3/8"


def bit(head: Head, size: Quantity, drive: str) -> str:
    """Name the socket or bit for a head: ``socket 10 mm, ¼ in``."""
    span = format_number(size.mid, 1)
    names = {
        Head.HEX: f"socket {span} mm",
        Head.INNER_HEX: f"inner-hex bit {span} mm",
        Head.SIX_LOBE: f"six-lobe bit {span} mm",
        Head.CROSS: f"cross bit {span} mm",
        Head.SLOT: f"slot bit {span} mm",
    }
    return f"{names[head]}, {DRIVE_NAMES[drive]}"


def release_tools(joint: Joint) -> ToolUse:
    """The tools that let a joint go."""
    return _tools(joint, f"ratchet {DRIVE_NAMES[drive_of(joint)]}")


def tightening_tools(joint: Joint, wrench: str | None) -> ToolUse:
    """The tools that make a joint up again; ``wrench`` where a torque is stated."""
    return _tools(joint, wrench or f"ratchet {DRIVE_NAMES[drive_of(joint)]}")


def _tools(joint: Joint, handle: str) -> ToolUse:
    """Tools and set-up; standing somewhere else is a change of set-up like any other."""
    extras = ("mirror and light",) if joint.mirror else ()
    place = (f"standing {joint.stand}",) if joint.stand else ()
    pieces = _pieces(joint, handle)
    return ToolUse((*pieces, *extras), " + ".join((*pieces, *place)))


def _pieces(joint: Joint, handle: str) -> tuple[str, ...]:
    lore = LORE[joint.kind]
    if lore.tool is None:
        return ()
    if lore.tool != "fastener":
        return (lore.tool,)
    assert joint.head is not None
    assert joint.size is not None
    drive = drive_of(joint)
    stack = [bit(joint.head, joint.size, drive)]
    if joint.extension is not None:
        stack.append(f"extension {format_number(joint.extension.mid, 0)} mm, {DRIVE_NAMES[drive]}")
    return (*stack, handle)


def plug_tools(hexagon: Quantity, extension_mm: float, handle: str) -> ToolUse:
    """Plug socket, extension and handle for a plug in its well."""
    pieces = (
        f"plug socket {format_number(hexagon.mid, 1)} mm, ⅜ in",
        f"extension {format_number(extension_mm, 0)} mm, ⅜ in",
        handle,
    )
    return ToolUse(pieces, " + ".join(pieces))
