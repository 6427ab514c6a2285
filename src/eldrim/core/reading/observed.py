"""A set of plugs as it was read, and what is known of it."""

from enum import StrEnum
from statistics import median

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.reading.signs import SIGNS, in_order
from eldrim.core.rules.house import Recheck

# One gap grown by more than two steps of a gauge over the others is a sign.
GAUGE_STEP_MM = 0.05
GROWN_STEPS = 2
WEAR = ("strap-worn", "centre-worn")


class Known(StrEnum):
    """What is said of a set that shifts how it is judged."""

    STALE = "stale"
    IDLING = "idling"
    NEW = "new"
    REPAIRED = "repaired"


class PlugSet(Frozen):
    """What was seen at each hole that was read; a hole not read is left out.

    ``gaps`` are in mm. ``since_km`` and ``since_h`` are what the plugs ran since they were fitted.
    ``known`` says what else is known; ``repaired`` that something was mended after they were
    fitted. ``last`` is what was seen at the same holes the time before.
    """

    seen: dict[str, frozenset[str]]
    gaps: dict[str, float] = Field(default_factory=dict)
    since_km: float | None = None
    since_h: float | None = None
    known: frozenset[Known] = frozenset()
    last: dict[str, frozenset[str]] = Field(default_factory=dict)
    recheck: Recheck = Recheck()

    @property
    def too_young(self) -> bool:
        """Whether the plugs ran too little to show anything."""
        ran = [
            value < least
            for value, least in (
                (self.since_km, self.recheck.km),
                (self.since_h, self.recheck.hours),
            )
            if value is not None
        ]
        return bool(ran) and all(ran)

    @property
    def old_story(self) -> bool:
        """Whether they were fitted before a repair, and tell of the time before it."""
        return Known.REPAIRED in self.known


class Judged(Frozen):
    """The signs a verdict rests on, and those set aside, each with the reason why."""

    signs: dict[str, frozenset[str]]
    aside: dict[str, dict[str, str]]


def judged(engine: Engine, plugs: PlugSet) -> Judged:
    """What of a set counts on this engine: what is normal here or says nothing yet is set aside."""
    signs = {hole: set(seen) for hole, seen in plugs.seen.items()}
    for hole in _grown(plugs.gaps):
        signs.setdefault(hole, set()).add("gap-wide")
    aside: dict[str, dict[str, str]] = {}
    alternate = _alternates(engine, signs)
    for hole, seen in signs.items():
        for sign in in_order(seen):
            reason = _aside(engine, plugs, sign, seen) or (
                "waste-spark" if sign in WEAR and alternate else ""
            )
            if reason and not SIGNS[sign].healthy:
                aside.setdefault(hole, {})[sign] = reason
    counted = {hole: frozenset(seen - set(aside.get(hole, ()))) for hole, seen in signs.items()}
    return Judged(signs=counted, aside=aside)


def _aside(engine: Engine, plugs: PlugSet, sign: str, seen: set[str]) -> str:
    """Why a sign says nothing of a fault here; empty where it counts."""
    layout = engine.layout
    if sign == "white" and layout.fuel == "gas" and not seen & {"blister", "melted"}:
        return "gas"
    if layout.cycle == "two_stroke" and (sign == "oily" or (sign == "wet" and "oily" in seen)):
        return "two-stroke"
    if sign == "black" and layout.cycle == "two_stroke" and "oily" in seen:
        return "two-stroke"
    if SIGNS[sign].lasting:
        return ""
    if plugs.old_story:
        return "repaired"
    return "too-young" if plugs.too_young else ""


def _grown(gaps: dict[str, float]) -> list[str]:
    """The holes whose gap stands more than two gauge steps over the others'."""
    found = []
    for hole, gap in gaps.items():
        others = [other for key, other in gaps.items() if key != hole]
        limit = GROWN_STEPS * GAUGE_STEP_MM + 1e-9
        if len(others) > 1 and gap - median(others) > limit:
            found.append(hole)
    return found


def _alternates(engine: Engine, signs: dict[str, set[str]]) -> bool:
    """Whether in each waste-spark pair one strap and one centre wore: both polarities, no fault."""
    pairs = engine.ignition.waste_spark_pairs
    worn = [
        [
            wear
            for number in pair
            for hole in engine.holes_of(number)
            for wear in WEAR
            if wear in signs.get(hole, ())
        ]
        for pair in pairs
    ]
    told = [kinds for kinds in worn if kinds]
    return bool(told) and all(sorted(kinds) == sorted(WEAR) for kinds in told)
