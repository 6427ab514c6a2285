"""What can be seen at a hole once its plug is out (docs/craft.md §13).

A *sign* is one thing seen: a colour, a smell, oil in the well. What is picked in the bay may stand
for several: "wet, black, oily" is three signs.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from eldrim.core.reading_choices import CONDITIONS_BEFORE


class Place(StrEnum):
    """Where a sign is looked for."""

    NOSE = "nose"
    WETNESS = "wetness"
    SMELL = "smell"
    ELECTRODES = "electrodes"
    INSULATOR = "insulator"
    SEAT = "seat"
    THREAD = "thread"
    WELL = "well"
    BOOT = "boot"
    COIL = "coil"


@dataclass(frozen=True)
class Sign:
    """One thing that can be seen. A ``healthy`` one speaks for a hole in order.

    ``lasting`` signs say the same however short the plug ran; deposits and colours need running
    time before they show anything.
    """

    id: str
    place: Place
    healthy: bool = False
    lasting: bool = False


P = Place
_ALL = (
    Sign("tan", P.NOSE, healthy=True),
    Sign("white", P.NOSE),
    Sign("black", P.NOSE),
    Sign("soot", P.NOSE),
    Sign("red", P.NOSE),
    Sign("yellow", P.NOSE),
    Sign("crust", P.NOSE),
    Sign("steam-clean", P.NOSE),
    Sign("blister", P.NOSE),
    Sign("specks", P.NOSE),
    Sign("dry", P.WETNESS, healthy=True),
    Sign("wet", P.WETNESS),
    Sign("oily", P.WETNESS),
    Sign("fuel-smell", P.SMELL),
    Sign("varnish-smell", P.SMELL),
    Sign("rounded", P.ELECTRODES),
    Sign("strap-worn", P.ELECTRODES),
    Sign("centre-worn", P.ELECTRODES),
    Sign("melted", P.ELECTRODES),
    Sign("gap-wide", P.ELECTRODES),
    Sign("gap-closed", P.ELECTRODES, lasting=True),
    Sign("tip-bent", P.ELECTRODES, lasting=True),
    Sign("cracked", P.INSULATOR, lasting=True),
    Sign("track", P.INSULATOR, lasting=True),
    Sign("stain", P.INSULATOR, healthy=True),
    Sign("stain-streaked", P.INSULATOR, lasting=True),
    Sign("ring-uneven", P.SEAT, lasting=True),
    Sign("two-rings", P.SEAT, lasting=True),
    Sign("ring-missing", P.SEAT, lasting=True),
    Sign("blow-by", P.SEAT, lasting=True),
    Sign("loose", P.SEAT, lasting=True),
    Sign("thread-carbon", P.THREAD),
    Sign("thread-rust", P.THREAD, lasting=True),
    Sign("stiff", P.THREAD, lasting=True),
    Sign("shell-rust", P.THREAD, lasting=True),
    Sign("well-oil", P.WELL, lasting=True),
    Sign("well-water", P.WELL, lasting=True),
    Sign("boot-oily", P.BOOT, lasting=True),
    Sign("boot-torn", P.BOOT, lasting=True),
    Sign("boot-burnt", P.BOOT, lasting=True),
    Sign("spring-stretched", P.BOOT, lasting=True),
    Sign("sound", P.COIL, healthy=True),
    Sign("coil-cracked", P.COIL, lasting=True),
    Sign("coil-bulged", P.COIL, lasting=True),
    Sign("coil-burnt", P.COIL, lasting=True),
    Sign("rusty-foot", P.COIL, lasting=True),
    Sign("pins-bent", P.COIL, lasting=True),
    Sign("pins-green", P.COIL, lasting=True),
)
SIGNS: dict[str, Sign] = {sign.id: sign for sign in _ALL}

# What is picked as one and says several signs; all else that is picked is a sign of its own.
PICKED: dict[str, tuple[str, ...]] = {
    "tan-dry": ("tan", "dry"),
    "white-clean": ("white",),
    "white-blisters": ("white", "blister"),
    "sooty-black": ("black", "soot", "dry"),
    "wet-oily": ("black", "wet", "oily"),
    "wet-fuel": ("wet", "fuel-smell"),
    "yellow-glaze": ("yellow",),
    "rust-red": ("red",),
    "insulator-track": ("track",),
    "edges-rounded": ("rounded",),
    "insulator-cracked": ("cracked",),
    "badly-seated": ("ring-uneven",),
    "oily-boot": ("boot-oily",),
    "bent-pins": ("pins-bent",),
}


def signs_of(picked: Iterable[str]) -> frozenset[str]:
    """The signs that what was picked stands for; picks of every earlier edition are known.

    What is not known says nothing: a later Eldrim may have written it.
    """
    found: set[str] = set()
    for one in picked:
        known = CONDITIONS_BEFORE.get(one, one)
        found.update(PICKED.get(known, (known,) if known in SIGNS else ()))
    return frozenset(found)


def amiss(signs: Iterable[str]) -> frozenset[str]:
    """The signs among these that a hole in order does not show."""
    return frozenset(sign for sign in signs if not SIGNS[sign].healthy)


def in_order(signs: Iterable[str]) -> tuple[str, ...]:
    """Signs in the order of the table, so that the same set always reads the same."""
    chosen = set(signs)
    return tuple(sign for sign in SIGNS if sign in chosen)
