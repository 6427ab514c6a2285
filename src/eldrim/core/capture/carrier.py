"""What carries the spark to the plugs, as the board states it: the coils, or the leads.

They are held like any part, in the same shorthand. An engine with several kinds of them, by
variant, names which by its place in the sheet.
"""

from typing import Any

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.held import torque_anew, torque_figure, without_unused
from eldrim.core.capture.hindrances import without_targets
from eldrim.core.capture.shorthand import Said
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Coil, Engine, Lead
from eldrim.core.words.messages import gettext

COILS, LEADS = "coils", "leads"


def carriers(engine: Engine) -> tuple[Coil, ...] | tuple[Lead, ...]:
    """The coils of an engine, or its leads where it has none."""
    return engine.coils or engine.leads


def carrier_of(engine: Engine, place: int) -> Coil | Lead:
    """One of them. Raises :class:`EngineError` where there is none at that place."""
    found = carriers(engine)
    if not 0 <= place < len(found):
        raise EngineError(
            [Problem("carrier", gettext("there is no such coil or lead"), gettext("load the page"))]
        )
    return found[place]


def state_carrier(engine: Engine, place: int, **changes: object) -> Engine:
    """State what is known of it: part number, boot, grease, loom; what it has not is left out."""
    carrier = carrier_of(engine, place)
    known = {name: value for name, value in changes.items() if name in type(carrier).model_fields}
    return _put(engine, place, known)


def hold_carrier(engine: Engine, place: int, said: Said) -> Engine:
    """Hold it by one more joint; a torque that was said becomes a figure to be sourced."""
    carrier, joint = carrier_of(engine, place), said.joint
    name = free_key(joint.name or joint.kind.value.replace("_", "-"), tuple(carrier.joints))
    if said.torque is not None:
        engine, figure = torque_figure(engine, "coil" if engine.coils else "lead", said.torque)
        joint = joint.model_copy(update={"torque": figure})
    return _put(engine, place, {"joints": {**carrier.joints, name: joint}})


def rehold_carrier(engine: Engine, place: int, joint: str, said: Said) -> Engine:
    """Say one of its joints anew under its own key; a torque that stays keeps its figure."""
    carrier = carrier_of(engine, place)
    if joint not in carrier.joints:
        fix = gettext("load the page again")
        raise EngineError([Problem(joint, gettext("is no longer there"), fix)])
    whose, old = "coil" if engine.coils else "lead", carrier.joints[joint].torque
    engine, figure = torque_anew(engine, whose, old, said.torque)
    joints = {**carrier.joints, joint: said.joint.model_copy(update={"torque": figure})}
    return without_unused(_put(engine, place, {"joints": joints}), old)


def release_carrier(engine: Engine, place: int, joint: str) -> Engine:
    """Let it be held without one of its joints; what stood in the way of that joint goes too.

    Raises :class:`EngineError` where it would be held by nothing.
    """
    joints = {key: held for key, held in carrier_of(engine, place).joints.items() if key != joint}
    if not joints:
        fix = gettext("say first how it is held instead")
        raise EngineError([Problem("joints", gettext("nothing would hold it"), fix)])
    kept = without_targets(
        engine.hindrances, lambda target: bool(target.hole) and target.joint == joint
    )
    return _put(engine.model_copy(update={"hindrances": kept}), place, {"joints": joints})


def _put(engine: Engine, place: int, changes: dict[str, Any]) -> Engine:
    kept = list(carriers(engine))
    kept[place] = kept[place].model_copy(update=changes)
    return engine.model_copy(update={COILS if engine.coils else LEADS: tuple(kept)})
