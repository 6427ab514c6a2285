"""A check by its name: the sentence comes from the table."""

from functools import lru_cache

from eldrim.core.engine.joints import JOINT_RULES
from eldrim.core.engine.parts import Joint, Part
from eldrim.core.procedure.job.joint_words import joint_sentence, spoken_of
from eldrim.core.procedure.model import Check, StepFigure
from eldrim.core.words import has, say


def check(key: str, pattern: str = "", **slots: object) -> Check:
    """The check ``key``; its sentence is that of the same name unless another is named."""
    return _check(key, say(f"check.{pattern or key}", **slots))


@lru_cache(maxsize=1024)
def _check(key: str, text: str) -> Check:
    return Check(key=key, text=text)


def joint_proofs(joint: Joint, part: Part | None = None) -> list[Check]:
    """What proves that a joint is back, by the trade's table."""
    known = spoken_of(joint, part)
    proofs = [proof for proof in JOINT_RULES[joint.kind].proofs if has(f"{known}.proof.{proof}")]
    return [_check(key, joint_sentence(joint, part, f"proof.{key}")) for key in proofs]


def _of(joint: Joint) -> str:
    return "_each" if joint.count > 1 else ""


def joint_checks(
    joint: Joint, figure: StepFigure | None, part: Part | None = None
) -> tuple[Check, ...]:
    """What proves that a joint is back; its torque where one is stated."""
    proofs = joint_proofs(joint, part)
    if figure:
        clicked = f"{'clicked_further' if figure.plus else 'clicked'}{_of(joint)}"
        proofs.insert(0, check("torque", clicked, angle=figure.plus))
    elif JOINT_RULES[joint.kind].fastener:
        proofs.insert(0, check("snug", "snug_plastic" if joint.plastic else "snug"))
    return tuple(proofs)
