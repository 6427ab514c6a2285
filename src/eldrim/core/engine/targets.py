"""The things that can be hindered, as they are written in a sheet."""

from dataclasses import dataclass

SERVICED = ("coil", "plug", "lead")


@dataclass(frozen=True, order=True)
class Target:
    """A hole (``hole`` set, ``item`` optional) or a part (``part`` set, ``way`` optional)."""

    hole: str = ""
    item: str = ""
    part: str = ""
    way: str = ""

    def covers(self, other: "Target") -> bool:
        """Whether a hindrance of this stands in the way of ``other``."""
        if self.hole:
            return self.hole == other.hole and self.item in ("", other.item)
        return self.part == other.part and self.way in ("", other.way)

    def __str__(self) -> str:
        """Write the target as a sheet does."""
        words = ("hole", self.hole, self.item) if self.hole else (self.part, self.way)
        return "/".join(word for word in words if word)


def parse_target(text: str) -> Target | None:
    """Read ``hole/3``, ``hole/3/plug``, ``plenum`` or ``plenum/remove``; None if it is neither."""
    words = text.strip().split("/")
    if words[0] == "hole":
        if len(words) == 2:
            return Target(hole=words[1])
        if len(words) == 3 and words[2] in SERVICED:
            return Target(hole=words[1], item=words[2])
        return None
    if len(words) <= 2 and all(words):
        return Target(part=words[0], way=words[1] if len(words) == 2 else "")
    return None


def hole_order(hole: str) -> tuple[int, str]:
    """Sort holes as people count them: 2, 3a, 3b, 10."""
    return int(hole.rstrip("ab")), hole
