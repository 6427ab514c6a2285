"""Cautions: always attached by what a step does, never typed, never removable (handbook §19)."""

from enum import StrEnum

from eldrim.core.procedure.model import Caution
from eldrim.core.words import say


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


def cautions(acts: set[Act]) -> tuple[Caution, ...]:
    """Return the cautions for what a step does, in the fixed order of the table."""
    return tuple(
        Caution(key=act.value, text=say(f"caution.{act.value}")) for act in Act if act in acts
    )
