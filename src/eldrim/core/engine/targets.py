"""The things that can be hindered, as they are written in a sheet."""

import re
from dataclasses import dataclass, replace

from eldrim.core.base.frozen import hashed_once

SERVICED = ("coil", "plug", "lead")
# What is worked on at no hole; a hindrance of the distributor is one of all that is done at it.
AT_DISTRIBUTOR = ("cap", "rotor", "points", "timing")
PLACES = ("distributor", *AT_DISTRIBUTOR, "pack", "coil-lead", "battery", "charging")
FORMS = (
    "write hole/3, hole/3/plug, hole/3/coil/connector, plenum, plenum/remove, "
    "joint/plenum/bolts, joint/plenum/bolts/2,3, work/cap or work/air-filter"
)
_KEY = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")


@hashed_once
@dataclass(frozen=True, order=True)
class Target:
    """A hole (``hole`` set, ``item`` optional), a part (``part`` set, ``way`` optional), or one of
    :data:`PLACES` or a companion by its key (``item`` alone).

    With ``joint`` only that joint of it is meant; ``pieces`` names some of a group, as ``2,3``.
    """

    hole: str = ""
    item: str = ""
    part: str = ""
    way: str = ""
    joint: str = ""
    pieces: str = ""

    def covers(self, other: "Target") -> bool:
        """Whether a hindrance of this stands in the way of ``other``, a hole's item or a way."""
        if self.hole:
            return self.hole == other.hole and self.item in ("", other.item)
        if self.item:
            whole = self.item == "distributor" and other.item in AT_DISTRIBUTOR
            return not other.hole and (self.item == other.item or whole)
        return self.part == other.part and self.way in ("", other.way)

    def at(self, stated: "Target") -> "Target":
        """This target, narrowed to the joint that a hindrance states."""
        return replace(self, joint=stated.joint, pieces=stated.pieces) if stated.joint else self

    def __str__(self) -> str:
        """Write the target as a sheet does."""
        words: tuple[str, ...]
        if self.hole:
            words = ("hole", self.hole, self.item, self.joint)
        elif self.item:
            words = ("work", self.item)
        elif self.joint:
            words = ("joint", self.part, self.joint, self.pieces)
        else:
            words = (self.part, self.way)
        return "/".join(word for word in words if word)


def parse_target(text: str) -> Target | None:
    """Read a target of one of :data:`FORMS`; None if it is none."""
    words = text.strip().split("/")
    if not all(words):
        return None
    if words[0] == "hole":
        return _hole(words[1:])
    if words[0] == "work":
        fits = len(words) == 2 and _KEY.fullmatch(words[1])
        return Target(item=words[1]) if fits else None
    if words[0] == "joint":
        return _joint(words[1:])
    if len(words) <= 2:
        return Target(part=words[0], way=words[1] if len(words) == 2 else "")
    return None


def _hole(words: list[str]) -> Target | None:
    if not 1 <= len(words) <= 3 or (len(words) > 1 and words[1] not in SERVICED):
        return None
    hole, item, joint = [*words, "", ""][:3]
    return Target(hole=hole, item=item, joint=joint)


def _joint(words: list[str]) -> Target | None:
    if not 2 <= len(words) <= 3:
        return None
    pieces = words[2] if len(words) == 3 else ""
    if pieces and not all(number.isdigit() for number in pieces.split(",")):
        return None
    return Target(part=words[0], joint=words[1], pieces=pieces)


def hole_order(hole: str) -> tuple[int, str]:
    """Sort holes as people count them: 2, 3a, 3b, 10."""
    return int(hole.rstrip("ab")), hole
