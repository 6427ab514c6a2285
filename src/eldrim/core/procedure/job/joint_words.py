"""What a step says of a joint."""

from eldrim.core.engine.joints import JointKind
from eldrim.core.engine.parts import LINE_KINDS, Carries, Joint, Part
from eldrim.core.operations import CautionCause
from eldrim.core.words import has, say


def joint_name(joint: Joint) -> str:
    """Count and name: ``6 bolts`` or ``the connector``."""
    if joint.count > 1:
        many = joint.name or say(f"joint.{joint.kind}.many")
        return say("joint.many", count=joint.count, noun=many)
    return say("joint.one", noun=joint.name or say(f"joint.{joint.kind}.one"))


def bare_name(joint: Joint) -> str:
    """Its name for a list: ``6 bolts`` or ``connector``."""
    if joint.count > 1:
        return joint_name(joint)
    return joint.name or say(f"joint.{joint.kind}.one")


def spoken_of(joint: Joint, part: Part | None) -> str:
    """What the sentences of a joint begin with: a clip of a loom is not a clip of an air box."""
    if joint.kind is JointKind.CLIP and part is not None and part.kind not in LINE_KINDS:
        return "joint.clip_part"
    return f"joint.{joint.kind}"


def joint_sentence(joint: Joint, part: Part | None, name: str) -> str:
    """What a joint's kind says of ``name`` (release, refit, a proof): of one or of several."""
    sentence = f"{spoken_of(joint, part)}.{name}"
    single = f"{sentence}.single"
    return say(single if joint.count == 1 and has(single) else sentence)


def standing_place(joint: Joint) -> str:
    """Where to stand for a joint, where it is not the usual place."""
    return say("stand", side=say(f"side.{joint.stand}")) if joint.stand else ""


def carries_fuel(joint: Joint) -> bool:
    """Whether fuel comes out where it is let go."""
    return joint.carries is Carries.FUEL or joint.kind is JointKind.FUEL_LINE


def joint_causes(joint: Joint) -> set[CautionCause]:
    """The causes of caution in letting a joint go or making it up."""
    causes: set[CautionCause] = set()
    if joint.kind is JointKind.HOSE_SPRING_CLAMP:
        causes.add(CautionCause.SPRING)
    if carries_fuel(joint):
        causes.add(CautionCause.FUEL)
    if joint.carries is Carries.COOLANT or joint.kind is JointKind.COOLANT_LINE:
        causes |= {CautionCause.COOLANT, CautionCause.SPRING}
    if joint.kind is JointKind.GASKET:
        causes.add(CautionCause.OLD_GASKET)
    return causes


def release_causes(joint: Joint) -> set[CautionCause]:
    """The causes of caution in letting a joint go; only then may it be under pressure."""
    pressure = {CautionCause.PRESSURE} if joint.pressurised else set()
    return joint_causes(joint) | pressure
