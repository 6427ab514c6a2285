"""The engine behind the adapter's stand-in: what is broken on it, and what that makes of a run.

A fault sits in a part, not at a cylinder: a bad coil that changes places takes its misfire along.
"""

from dataclasses import dataclass, field

from eldrim.core.words.messages import gettext

# What can be broken at a cylinder. A boot goes with its coil; a connector stays.
ITEMS = ("coil", "boot", "plug", "injector", "connector")
MOVES = ("coil", "plug", "injector")
CYLINDERS = range(1, 13)
# A run of the length the trade asks for, in turns of the crank; half of them fire a cylinder.
TURNS = 2000
# Of its firings a broken cylinder misses so many in a hundred.
MISSED = {"coil": 90, "connector": 60, "boot": 45, "plug": 30, "injector": 95}
# Counted so often, a misfire sets its code.
SETS_CODE = 40


@dataclass
class PlayedEngine:
    """Which part of which cylinder is broken, where each is by now, and what was counted."""

    broken: set[tuple[str, int]] = field(default_factory=set)
    at: dict[str, dict[int, int]] = field(default_factory=lambda: {item: {} for item in MOVES})
    counts: dict[int, int] = field(default_factory=dict)
    wet_only: bool = False
    wet: bool = False

    def broken_at(self, cylinder: int) -> list[str]:
        """What is broken at a cylinder now."""
        found = []
        for item in ITEMS:
            moves = "coil" if item == "boot" else item
            came = self.at.get(moves, {}).get(cylinder, cylinder)
            dry = item == "boot" and self.wet_only and not self.wet
            if (item, came) in self.broken and not dry:
                found.append(item)
        return found

    def run(self) -> list[str]:
        """Run it for a while: count what misfires, and return the codes that sets."""
        codes = []
        for cylinder in CYLINDERS:
            broken = self.broken_at(cylinder)
            missed = max((MISSED[item] for item in broken), default=0) * TURNS // 200
            self.counts[cylinder] = self.counts.get(cylinder, 0) + missed
            if self.counts[cylinder] >= SETS_CODE:
                codes.append(f"P03{cylinder:02d}")
                if {"coil", "connector"} & set(broken):
                    codes.append(f"P{350 + cylinder:04d}")
                if "injector" in broken:
                    codes.append(f"P{200 + cylinder:04d}")
        return codes

    def clear(self) -> None:
        """Codes cleared: it counts from nothing again."""
        self.counts.clear()

    def play(self, words: list[str]) -> None:
        """``break coil 5``, ``swap coil 5 3``, ``renew coil 3``, ``mend connector 5``, ``wet``,
        ``dry``, ``whole``. Raises :class:`ValueError` for anything else.
        """
        match words:
            case ["break", item, number] if item in ITEMS:
                self.broken.add((item, self._came(item, number)))
            case ["break", "boot", number, "wet"]:
                self.broken.add(("boot", self._came("boot", number)))
                self.wet_only = True
            case ["renew" | "mend", item, number] if item in ITEMS:
                self.broken.discard((item, self._came(item, number)))
            case ["swap", item, one, other] if item in MOVES:
                here, there = self._came(item, one), self._came(item, other)
                self.at[item][self._cylinder(one)] = there
                self.at[item][self._cylinder(other)] = here
            case ["wet"] | ["dry"]:
                self.wet = words == ["wet"]
            case ["whole"]:
                self.broken.clear()
                self.at = {item: {} for item in MOVES}
                self.wet_only = False
            case _:
                raise ValueError(
                    gettext("'{words}' is not something to play", words=" ".join(words))
                )

    def _came(self, item: str, number: str) -> int:
        """Which cylinder the part that is at one now came from."""
        cylinder = self._cylinder(number)
        return self.at.get("coil" if item == "boot" else item, {}).get(cylinder, cylinder)

    @staticmethod
    def _cylinder(number: str) -> int:
        if not number.isdecimal() or int(number) not in CYLINDERS:
            raise ValueError(gettext("there is no cylinder '{number}'", number=number))
        return int(number)
