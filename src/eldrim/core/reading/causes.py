"""What makes plugs look as they do, over which holes, and how strongly each sign speaks for it.

Weights are log-odds (docs/reading.md): strong 3, medium 2, weak 1. A cause's ``rarity`` is what it
has to earn before it is believed at all.
"""

from dataclasses import dataclass, field
from enum import StrEnum

STRONG, MEDIUM, WEAK = 3.0, 2.0, 1.0


class Scope(StrEnum):
    """Over which holes a cause acts: one hole; a cylinder with all its holes; and so on."""

    ONE = "one"
    CYLINDER = "cylinder"
    NEIGHBOURS = "neighbours"
    PAIR = "pair"
    SHARED = "shared"
    BANK = "bank"
    ENDS = "ends"
    ALL = "all"


@dataclass(frozen=True)
class Cause:
    """A cause: where it acts, what it shows, which check proves it, what to do at once.

    ``needs`` names what the engine must have for it; ``context`` what was said of the set that
    makes it commoner, by how much. ``only`` is a context without which it is not thought of.
    """

    id: str
    scope: Scope
    signs: dict[str, float]
    check: str
    act: str
    rarity: float = 2.0
    needs: tuple[str, ...] = ()
    context: dict[str, float] = field(default_factory=dict)
    only: str = ""


def _weights(strong: str = "", medium: str = "", weak: str = "") -> dict[str, float]:
    """A row of the table, from three lists of signs."""
    rows = ((strong, STRONG), (medium, MEDIUM), (weak, WEAK))
    return {sign: weight for signs, weight in rows for sign in signs.split()}


S, W = Scope, _weights
ONE, CYLINDER, ALL, BANK, PAIR, BESIDE, ENDS, SHARED = (
    S.ONE,
    S.CYLINDER,
    S.ALL,
    S.BANK,
    S.PAIR,
    S.NEIGHBOURS,
    S.ENDS,
    S.SHARED,
)
_TABLE = (
    # One cylinder
    Cause("coil", ONE, W("coil-cracked coil-bulged coil-burnt",
          "soot wet fuel-smell spring-stretched", "black rusty-foot"),
          "swap-coil", "renew-coil", 1.7, ("coil",)),
    Cause("lead", ONE, W("boot-burnt", "soot wet fuel-smell boot-torn", "black track"),
          "lead-resistance", "renew-lead", 1.7, ("lead",)),
    Cause("flash-over", ONE, W("track boot-torn boot-burnt stain-streaked", "",
          "boot-oily well-oil well-water wet fuel-smell soot black"),
          "look-boot", "renew-boot-plug", 1.8),
    Cause("connection", ONE, W("pins-bent pins-green", "", "soot wet fuel-smell black"),
          "wiggle", "mend-connector", 2.4, ("coil",)),
    Cause("injector-rich", CYLINDER, W("", "soot wet fuel-smell", "black"),
          "swap-injector", "test-injector", 2.2, ("injection",)),
    Cause("injector-lean", CYLINDER, W("", "white blister gap-wide", "melted rounded"),
          "swap-injector", "test-injector", 2.3, ("injection",)),
    Cause("hot-cylinder", CYLINDER, W("blister melted specks", "gap-wide",
          "white rounded cracked"), "timing-cooling", "stop-load", 2.0),
    Cause("oil-up", CYLINDER, W("oily", "", "wet black"), "compression", "test-compression", 1.8),
    Cause("coolant-in", CYLINDER, W("crust steam-clean"), "pressure-test", "no-start", 2.0,
          ("liquid",)),
    Cause("worn-one", ONE, W("rounded gap-wide strap-worn centre-worn"), "plug-age", "renew-plugs",
          2.4),
    Cause("badly-seated", ONE, W("ring-uneven two-rings ring-missing blow-by loose", "",
          "blister stain-streaked"), "look-seat", "seat-anew", 1.6),
    Cause("struck", ONE, W("tip-bent gap-closed", "", "cracked"), "look-inside", "no-start", 2.0),
    Cause("broken-plug", ONE, W("cracked", "", "wet fuel-smell soot"), "plug-history",
          "renew-plug", 1.8),
    Cause("wrong-reach-one", ONE, W("thread-carbon", "tip-bent"), "part-number", "right-plug", 2.0),
    Cause("thread", ONE, W("thread-rust stiff"), "look-thread", "chase-thread", 1.8),
    Cause("water-in-well", ONE, W("well-water shell-rust", "rusty-foot thread-rust",
          "red pins-green"), "look-seal", "renew-seal", 1.6),
    Cause("oil-in-well", ONE, W("well-oil boot-oily"), "look-gasket", "renew-gasket", 1.6),
    # Two that share something
    Cause("gasket-between", BESIDE, W("crust steam-clean", "wet oily soot fuel-smell", "black"),
          "leak-down", "test-compression", 2.4, ("liquid",)),
    Cause("pair-coil", PAIR, W("", "soot wet fuel-smell", "black"), "swap-pack", "renew-pack", 2.0),
    # What the sheet says several share
    Cause("shared-air", SHARED, W("", "white blister gap-wide", "melted rounded"),
          "leak-spray", "mend-leak", 2.2, ("air",)),
    Cause("shared-fuel", SHARED, W("", "soot wet fuel-smell white", "black blister"),
          "fuel-pressure", "test-feed", 2.2, ("fuel",)),
    Cause("shared-oil", SHARED, W("oily", "", "wet black"), "look-inlet", "mend-inlet", 2.2,
          ("oil",)),
    Cause("shared-cooling", SHARED, W("blister", "white gap-wide specks melted", "rounded"),
          "timing-cooling", "stop-load", 2.2, ("cooling",)),
    Cause("shared-sensor", SHARED, W("", "soot white fuel-smell", "black wet blister"),
          "compare-trims", "test-sensor", 2.2, ("sensor",)),
    Cause("shared-other", SHARED, W("", "soot white wet fuel-smell blister oily gap-wide",
          "black"), "compare-shared", "test-shared", 2.4, ("other",)),
    # A bank, the ends
    Cause("bank-rich", BANK, W("soot", "fuel-smell black", "wet"), "compare-trims", "test-sensor",
          2.0),
    Cause("bank-lean", BANK, W("", "white gap-wide blister", "melted rounded specks"),
          "leak-spray", "mend-leak", 2.0),
    Cause("bank-gasket", BANK, W("well-oil boot-oily"), "look-gasket", "renew-gasket", 1.8),
    Cause("ends-hot", ENDS, W("", "white blister gap-wide", "melted specks rounded"),
          "timing-cooling", "stop-load", 2.2),
    Cause("ends-air", ENDS, W("", "soot", "black wet fuel-smell"), "compare-air", "test-share",
          2.4),
    # All alike
    Cause("rich", ALL, W("soot", "black", "wet fuel-smell"), "mixture", "mixture", 1.8),
    Cause("idling", ALL, W("soot", "black"), "use", "work-engine", 3.0,
          context={"idling": 2.0}),
    Cause("cold-range", ALL, W("", "soot black", "wet"), "part-number", "right-plug", 2.6),
    Cause("lean", ALL, W("", "white gap-wide", "blister rounded"), "leak-spray", "mend-leak",
          1.6, ("petrol",)),
    Cause("too-hot", ALL, W("blister melted specks", "white", "rounded gap-wide"),
          "timing-cooling", "stop-load", 1.8),
    Cause("worn-out", ALL, W("rounded gap-wide strap-worn centre-worn"), "plug-age", "renew-plugs",
          1.0),
    Cause("stale-fuel", ALL, W("varnish-smell", "wet", "fuel-smell"), "fuel-sample", "fresh-fuel",
          2.4, context={"stale": 1.4}),
    Cause("flooded", ALL, W("", "wet fuel-smell", "black"), "dry-start", "dry-out", 2.4),
    Cause("weak-spark", ALL, W("", "soot wet fuel-smell", "black"), "spark-test", "test-spark", 2.4,
          ("distributor",)),
    Cause("additive", ALL, W("red", "yellow"), "fuel-sample", "fresh-fuel", 2.0),
    Cause("hard-use", ALL, W("yellow"), "use", "renew-plugs", 2.0),
    Cause("breather", ALL, W("oily", "", "wet black"), "look-breather", "test-compression", 2.0),
    Cause("running-in", ALL, W("oily", "", "wet black"), "read-again", "go-on", 1.0,
          only="new"),
    Cause("wrong-reach", ALL, W("thread-carbon", "tip-bent"), "part-number", "right-plug", 1.8),
    Cause("wells-open", ALL, W("well-water shell-rust", "rusty-foot thread-rust", "red"),
          "look-seal", "renew-seal", 2.0),
)  # fmt: skip
CAUSES: dict[str, Cause] = {cause.id: cause for cause in _TABLE}


def told_apart(first: str, second: str) -> str:
    """The check that tells two causes best apart: of those that prove each, the quicker one."""
    one, other = CAUSES[first].check, CAUSES[second].check
    return min((one, other), key=lambda check: EASE.get(check, len(EASE)))


# Checks from the quickest, hardly touching anything, to the one that takes longest.
EASE = {
    check: place
    for place, check in enumerate(
        (
            "look-boot",
            "look-seat",
            "look-thread",
            "look-seal",
            "look-gasket",
            "look-breather",
            "use",
            "plug-age",
            "plug-history",
            "part-number",
            "wiggle",
            "swap-coil",
            "lead-resistance",
            "swap-pack",
            "compare-trims",
            "leak-spray",
            "look-inlet",
            "look-inside",
            "fuel-sample",
            "mixture",
            "spark-test",
            "dry-start",
            "compare-air",
            "compare-shared",
            "fuel-pressure",
            "compression",
            "swap-injector",
            "timing-cooling",
            "leak-down",
            "pressure-test",
            "read-again",
        )
    )
}
