"""A joint said back in whole words, for whoever typed its line to check."""

from collections.abc import Iterator

from eldrim.core.engine.joints import FASTENERS, JOINT_RULES
from eldrim.core.engine.parts import Carries, Joint
from eldrim.core.words import printed, say
from eldrim.core.words.messages import gettext, gettext_noop, ngettext

CARRIED = {
    Carries.AIR: gettext_noop("carries air"),
    Carries.VACUUM: gettext_noop("carries vacuum"),
    Carries.BREATHER: gettext_noop("carries breather air"),
    Carries.COOLANT: gettext_noop("carries coolant"),
    Carries.FUEL: gettext_noop("carries fuel"),
    Carries.OIL: gettext_noop("carries oil"),
    Carries.ELECTRIC: gettext_noop("carries current"),
    Carries.MOTION: gettext_noop("carries a movement"),
}
SOCKET = {
    "deep": gettext_noop("only a deep socket goes on"),
    "thin_wall": gettext_noop("only a thin-wall socket goes on"),
}
FLAGS = {
    "one_time": gettext_noop("renewed every time"),
    "plastic": gettext_noop("into plastic"),
    "isolate": gettext_noop("battery off first"),
    "mirror": gettext_noop("out of sight"),
    "pressurised": gettext_noop("under pressure"),
}
STAND = {
    "left": gettext_noop("reached from the left of the plan"),
    "right": gettext_noop("reached from the right of the plan"),
    "top": gettext_noop("reached from the top of the plan"),
    "bottom": gettext_noop("reached from the bottom of the plan"),
}


def in_full(joint: Joint, torque: str = "") -> str:
    """What was understood of a joint, and what proves it is back, in the reader's language."""
    rules = JOINT_RULES[joint.kind]
    proofs = " · ".join(say(f"joint.{joint.kind}.proof.{proof}") for proof in rules.proofs)
    said = ", ".join(filter(None, _facts(joint, torque)))
    return gettext("{said}; back when: {proofs}", said=said, proofs=proofs)


def _facts(joint: Joint, torque: str) -> Iterator[str]:
    noun = say(f"joint.{joint.kind}.{'many' if joint.count > 1 else 'one'}")
    yield f"{joint.name}: {joint.count} {noun}" if joint.name else f"{joint.count} {noun}"
    yield _head(joint)
    yield gettext(SOCKET[joint.socket]) if joint.socket in SOCKET else ""
    if torque:
        yield gettext("tightened to {torque}", torque=printed(torque))
    elif joint.kind in FASTENERS:
        yield gettext("snug, no torque stated")
    yield gettext(CARRIED[joint.carries]) if joint.carries in CARRIED else ""
    yield from _reach(joint)
    for flag, words in FLAGS.items():
        yield gettext(words) if getattr(joint, flag) else ""
    yield gettext(STAND[joint.stand]) if joint.stand else ""
    if joint.at:
        places = len(joint.at)
        yield ngettext("its place drawn", "{count} places drawn", places)
    if joint.part_number:
        yield gettext("part number {number}", number=joint.part_number)
    yield joint.note


def _head(joint: Joint) -> str:
    if joint.head and joint.size:
        head = say(f"head.{joint.head}")
        return gettext("{head} head {size}", head=head, size=printed(str(joint.size)))
    return printed(str(joint.size or ""))


# How a tool comes to a joint: the field, and how it is said.
REACH = {
    "below": gettext_noop("{size} down"),
    "pocket": gettext_noop("in a pocket of {size}"),
    "room": gettext_noop("room over it {size}"),
    "line": gettext_noop("the line to the handle leans {size}"),
    "swing": gettext_noop("a handle swings {size}"),
    "drive": gettext_noop("only a {size} in drive"),
}


def _reach(joint: Joint) -> Iterator[str]:
    for name, words in REACH.items():
        if stated := getattr(joint, name):
            yield gettext(words, size=printed(str(stated)))
