"""Cautions: always attached by what a step does, never typed, never removable (handbook §19)."""

from enum import StrEnum

from eldrim.core.procedure.model import Caution

DEFERS_TO = (
    "Follow the maker's manual and local rules; they come before this sheet. "
    "Work reserved to licensed persons stays theirs."
)


class Act(StrEnum):
    """What a step does that calls for a caution."""

    AIR = "compressed_air"
    SHARP = "sharp_edges"
    HOT = "hot_parts"
    SPARK = "ignition_high_voltage"
    BATTERY = "battery"
    FUEL = "fuel"
    RUN = "running_engine"
    COOLANT = "coolant"
    SPRING = "spring_clamp"
    CHEMICAL = "chemical"
    LIFT = "heavy_lift"
    OPENING = "open_engine"
    ALUMINIUM = "aluminium_thread"
    MARINE = "marine_vapour"
    GAS = "gas_fuel"
    OLD_GASKET = "gasket_dust"


A = Act
TEXTS: dict[Act, str] = {
    A.AIR: "Compressed air: wear eye protection and blow away from yourself.",
    A.SHARP: "Sharp edges within reach: wear gloves.",
    A.HOT: "Hot parts: do not start above the stated temperature; burns, and the head grips the "
    "plug.",
    A.SPARK: "Ignition high voltage: never touch coils or leads with the engine running; "
    "pacemaker wearers keep away.",
    A.BATTERY: "Battery: acid and spark. Negative comes off first and goes on last.",
    A.FUEL: "Fuel: no flame, pressure relieved, rag round the joint, extinguisher at hand, "
    "ventilate.",
    A.RUN: "Engine running: exhaust extraction on, brake and chocks set; sleeves, hair and "
    "jewellery clear of belts and fans.",
    A.COOLANT: "Coolant: below boiling, cap eased first; it scalds.",
    A.SPRING: "Spring under load: wear eye protection.",
    A.CHEMICAL: "Chemical: eye protection and gloves.",
    A.LIFT: "Heavy part: two persons lift.",
    A.OPENING: "Open engine: nothing may fall in; plug the opening at once.",
    A.ALUMINIUM: "Aluminium thread: stop if it needs force; never an impact driver.",
    A.MARINE: "Vapour gathers low in a boat: blower on, then sniff, before anything sparks.",
    A.GAS: "Gas fuel: isolate the supply; certified persons where the law says so.",
    A.OLD_GASKET: "Old gasket: do not blow dust; wipe it off damp.",
}


def cautions(acts: set[Act]) -> tuple[Caution, ...]:
    """Return the cautions for what a step does, in the fixed order of the table."""
    return tuple(Caution(key=act.value, text=TEXTS[act]) for act in Act if act in acts)
