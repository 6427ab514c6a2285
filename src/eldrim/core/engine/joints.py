"""What holds a part on: how it lets go, what the wrong way breaks, what proves it is back.

The table is the trade's own (handbook §5). A joint in an engine sheet names its kind; every word
about releasing and proving it comes from here, so one correction reaches all procedures.
"""

from dataclasses import dataclass
from enum import StrEnum


class JointKind(StrEnum):
    """How a joint holds."""

    BOLT = "bolt"
    NUT = "nut"
    SCREW = "screw"
    QUARTER_TURN = "quarter_turn"
    HIDDEN_CAP_BOLT = "hidden_cap_bolt"
    POSTS = "posts"
    CONNECTOR_PRESS = "connector_press"
    CONNECTOR_TWO_LOCK = "connector_two_lock"
    CONNECTOR_LEVER = "connector_lever"
    CLIP = "clip"
    HOSE_SCREW_CLAMP = "hose_screw_clamp"
    HOSE_SPRING_CLAMP = "hose_spring_clamp"
    HOSE_FINGER_RING = "hose_finger_ring"
    FUEL_LINE = "fuel_line"
    COOLANT_LINE = "coolant_line"
    CABLE = "cable"
    TWIST_COIL = "twist_coil"
    PUSH_COIL = "push_coil"
    LEAD_BOOT = "lead_boot"
    GASKET = "gasket"


@dataclass(frozen=True)
class JointLore:
    """What the trade knows about one kind of joint.

    ``noun`` is singular and plural; ``tool`` is the hand tool needed, None for fingers, or
    "fastener" when head and size name it; ``proofs`` are check kinds with their sentence.
    """

    noun: tuple[str, str]
    release_verb: str
    release: str
    refit_verb: str
    refit: str
    breaks: str
    proofs: tuple[tuple[str, str], ...]
    tool: str | None = None


K = JointKind
_COUNT = ("count", "All counted back in")

LORE: dict[JointKind, JointLore] = {
    K.BOLT: JointLore(
        ("bolt", "bolts"), "Undo", "Socket fully on and square; break loose by hand.",
        "Tighten", "Start every one by hand first.",
        "rounds off, or drops into a well", (_COUNT,), "fastener"),
    K.NUT: JointLore(
        ("nut", "nuts"), "Undo", "Socket fully on and square; break loose by hand.",
        "Tighten", "Start every one by hand first.",
        "rounds off, or drops into a well", (_COUNT,), "fastener"),
    K.SCREW: JointLore(
        ("screw", "screws"), "Undo", "Bit fully home before you turn.",
        "Tighten", "Start every one by hand first.",
        "head cams out, or the screw drops into a well", (_COUNT,), "fastener"),
    K.QUARTER_TURN: JointLore(
        ("quarter-turn fastener", "quarter-turn fasteners"), "Turn", "A quarter turn, no more.",
        "Turn home", "Press and turn until flush.",
        "cap lost", (("flush", "Every fastener flush"),), "screwdriver, flat"),
    K.HIDDEN_CAP_BOLT: JointLore(
        ("capped bolt", "capped bolts"), "Undo", "Lift the cap first and keep it.",
        "Tighten", "Start by hand; press each cap back on.",
        "cap lost", (_COUNT, ("flush", "Every cap flush")), "fastener"),
    K.POSTS: JointLore(
        ("rubber post", "rubber posts"), "Unseat", "Lift straight up at each post in turn.",
        "Press onto", "Press over each post in turn.",
        "post torn", (("posts", "Every post felt in"),)),
    K.CONNECTOR_PRESS: JointLore(
        ("connector", "connectors"), "Unplug",
        "Push it on a little, press the tab, pull by the body.",
        "Plug in", "Push by the body until it clicks.",
        "brittle tab snaps", (("click", "Click heard or felt"), ("tug", "Light tug holds"))),
    K.CONNECTOR_TWO_LOCK: JointLore(
        ("two-lock connector", "two-lock connectors"), "Unplug",
        "Slide the second lock back to its stop, then press the tab and pull by the body.",
        "Plug in", "Push until it clicks, tug, then slide the lock home.",
        "lock breaks: harmless, but note it",
        (("click", "Click heard or felt"), ("tug", "Light tug holds"), ("lock", "Lock slid home"))),
    K.CONNECTOR_LEVER: JointLore(
        ("lever connector", "lever connectors"), "Unplug",
        "Raise the lever; the connector pushes itself off.",
        "Plug in", "Seat it, then bring the lever down.",
        "lever breaks", (("lever", "Lever down and flush"),)),
    K.CLIP: JointLore(
        ("clip", "clips"), "Free", "Squeeze the barbs from behind.",
        "Press in", "Press each clip in; leave the loom its slack.",
        "clip breaks", (("pressed", "Each clip pressed in"), ("slack", "Loom not tight"))),
    K.HOSE_SCREW_CLAMP: JointLore(
        ("screw-clamp hose", "screw-clamp hoses"), "Pull off",
        "Mark hose and stub, slacken the clamp, twist, then pull.",
        "Push on", "Marks in line, clamp behind the bead, then tighten.",
        "split hose", (("aligned", "Marks in line"), ("clamp", "Clamp behind the bead")),
        "screwdriver, flat"),
    K.HOSE_SPRING_CLAMP: JointLore(
        ("spring-clamp hose", "spring-clamp hoses"), "Pull off",
        "Mark hose and stub, slide the clamp back, twist, then pull.",
        "Push on", "Marks in line, clamp behind the bead.",
        "split hose", (("aligned", "Marks in line"), ("clamp", "Clamp behind the bead")),
        "clamp pliers"),
    K.HOSE_FINGER_RING: JointLore(
        ("finger-ring hose", "finger-ring hoses"), "Pull off",
        "Press the ring in with the fingers and pull straight.",
        "Push on", "Push straight until the ring springs out.",
        "split hose", (("ring", "Ring sprung out"), ("tug", "Light tug holds"))),
    K.FUEL_LINE: JointLore(
        ("fuel line", "fuel lines"), "Disconnect",
        "Pressure relieved, rag round the joint; plug both ends at once.",
        "Connect", "Push home; pressurise and look before any start.",
        "spray or spill", (("fuel", "Pressurised: no seep"),), "fuel line tool"),
    K.COOLANT_LINE: JointLore(
        ("coolant line", "coolant lines"), "Disconnect",
        "Below boiling, cap eased first; catch what runs out.",
        "Connect", "Marks in line, clamp behind the bead.",
        "scald", (("clamp", "Clamp behind the bead"), ("drip", "No drip")), "clamp pliers"),
    K.CABLE: JointLore(
        ("cable", "cables"), "Unhook", "Note how it lies; unhook by hand, no kink.",
        "Hook up", "Lay it as it lay.",
        "kink", (("travel", "Free play and full travel"),)),
    K.TWIST_COIL: JointLore(
        ("flap coil", "flap coils"), "Pull", "Lift the flap, twist, pull straight.",
        "Fit", "Push and turn until the flap drops in.",
        "flap tears", (("flap", "Flap dropped in"),)),
    K.PUSH_COIL: JointLore(
        ("push-down coil", "push-down coils"), "Pull",
        "Twist to free the boot, lift at the ribs, pull straight.",
        "Fit", "Push straight down until it seats.",
        "boot left on the plug", (("flush", "Shoulder flush with its neighbours"),)),
    K.LEAD_BOOT: JointLore(
        ("lead boot", "lead boots"), "Pull",
        "Grip the boot, never the lead; twist a little both ways, pull.",
        "Push on", "Push until it clicks and no metal shows; lay the lead in its holder.",
        "lead pulled off its terminal",
        (("click", "Click felt, no metal seen"), ("holder", "Lead in its holder"))),
    K.GASKET: JointLore(
        ("gasket", "gaskets"), "Take off", "Peel it off whole; look at both faces.",
        "Renew", "New one, dry, on clean faces.",
        "scratched face", (("renewed", "New gasket seated"),)),
}  # fmt: skip

FASTENERS = frozenset({K.BOLT, K.NUT, K.SCREW, K.HIDDEN_CAP_BOLT})
CONNECTORS = frozenset({K.CONNECTOR_PRESS, K.CONNECTOR_TWO_LOCK, K.CONNECTOR_LEVER})
HOSES = frozenset({K.HOSE_SCREW_CLAMP, K.HOSE_SPRING_CLAMP, K.HOSE_FINGER_RING})
