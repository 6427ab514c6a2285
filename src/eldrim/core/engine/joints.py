"""What holds a part on: how it lets go, what the wrong way breaks, what proves it is back.

The table is the trade's own (docs/craft.md §5). A joint in an engine sheet names its kind; its
sentences are in the tables of words under ``joint.KIND.…``.
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
    LATCH = "latch"
    OVER_CENTER_CLIP = "over_center_clip"
    UNION_NUT = "union_nut"
    FLARE_NUT = "flare_nut"
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
class JointRule:
    """What the trade knows about one kind of joint, without a word of it.

    ``proofs`` name what proves that it is back; ``tool`` is the id of the hand tool it takes, None
    for fingers and for a ``fastener``, whose head and size name the tool; ``minutes`` is what one
    takes at an open hole; ``open_ended`` that a line runs through it, so that only an open tool
    goes on.
    """

    proofs: tuple[str, ...]
    tool: str | None = None
    fastener: bool = False
    minutes: float = 0.3
    open_ended: bool = False


K = JointKind
JOINT_RULES: dict[JointKind, JointRule] = {
    K.BOLT: JointRule(("count",), fastener=True, minutes=0.5),
    K.NUT: JointRule(("count",), fastener=True, minutes=0.5),
    K.SCREW: JointRule(("count",), fastener=True, minutes=0.5),
    K.QUARTER_TURN: JointRule(("flush",), tool="screwdriver-flat"),
    K.HIDDEN_CAP_BOLT: JointRule(("count", "flush"), fastener=True, minutes=0.5),
    K.LATCH: JointRule(("flush",)),
    K.OVER_CENTER_CLIP: JointRule(("flush",)),
    K.UNION_NUT: JointRule(("count", "drip"), fastener=True, minutes=0.6, open_ended=True),
    K.FLARE_NUT: JointRule(("count", "drip"), fastener=True, minutes=0.6, open_ended=True),
    K.POSTS: JointRule(("posts",)),
    K.CONNECTOR_PRESS: JointRule(("click", "tug")),
    K.CONNECTOR_TWO_LOCK: JointRule(("click", "tug", "lock")),
    K.CONNECTOR_LEVER: JointRule(("lever",)),
    K.CLIP: JointRule(("pressed", "slack")),
    K.HOSE_SCREW_CLAMP: JointRule(("aligned", "clamp"), tool="screwdriver-flat"),
    K.HOSE_SPRING_CLAMP: JointRule(("aligned", "clamp"), tool="clamp-pliers"),
    K.HOSE_FINGER_RING: JointRule(("ring", "tug")),
    K.FUEL_LINE: JointRule(("fuel",), tool="fuel-line-tool"),
    K.COOLANT_LINE: JointRule(("clamp", "drip"), tool="clamp-pliers"),
    K.CABLE: JointRule(("travel",)),
    K.TWIST_COIL: JointRule(("flap",)),
    K.PUSH_COIL: JointRule(("flush",)),
    K.LEAD_BOOT: JointRule(("click", "holder")),
    K.GASKET: JointRule(("renewed",)),
}

FASTENERS = frozenset(key for key, rule in JOINT_RULES.items() if rule.fastener)
CONNECTORS = frozenset({K.CONNECTOR_PRESS, K.CONNECTOR_TWO_LOCK, K.CONNECTOR_LEVER})
CLAMPS = frozenset({K.HOSE_SCREW_CLAMP, K.COOLANT_LINE, K.QUARTER_TURN})
HOSES = frozenset({K.HOSE_SCREW_CLAMP, K.HOSE_SPRING_CLAMP, K.HOSE_FINGER_RING})
