"""Minutes of a way that nobody has timed, worked out from the joints it lets go."""

from eldrim.core.base.quantity import make
from eldrim.core.engine.joints import CONNECTORS, FASTENERS, HOSES, JointKind
from eldrim.core.engine.parts import Joint, Way, WayKind

# Minutes to let one joint go (shop practice, corrected by the log later): fastener and so on.
MINUTES = {
    **dict.fromkeys(FASTENERS, 0.4),
    **dict.fromkeys(CONNECTORS, 0.3),
    **dict.fromkeys(HOSES, 0.7),
    JointKind.FUEL_LINE: 1.5,
    JointKind.COOLANT_LINE: 1.2,
    JointKind.GASKET: 0.3,
    JointKind.CABLE: 0.6,
}
OTHER_JOINT_MINUTES, LIFT_MINUTES, BACK_FACTOR = 0.2, 0.4, 1.15


def estimate_way(kind: WayKind, joints: dict[str, Joint], old: Way | None = None) -> Way:
    """A way with minutes worked out from what it lets go."""
    kept = old.releases if old else None
    keys = list(joints) if kept is None else [k for k in kept if k in joints]
    each = [MINUTES.get(joints[key].kind, OTHER_JOINT_MINUTES) * joints[key].count for key in keys]
    out = round(LIFT_MINUTES + sum(each), 1)
    times = {"out": make(out, "min"), "back": make(round(out * BACK_FACTOR, 1), "min")}
    base = old or Way(kind=kind, estimated=True, **times)
    releases = None if kept is None else tuple(keys)
    return base.model_copy(update={**times, "kind": kind, "releases": releases})
