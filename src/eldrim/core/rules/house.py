"""House rules: the school chosen per topic, and the prices the planner weighs with."""

from typing import Literal

from pydantic import Field

from eldrim.core.engine.parts import RiskLevel
from eldrim.core.frozen import Frozen


class HouseRules(Frozen):
    """The shop's habits. Every field changes steps, order, values or checks (handbook §20)."""

    version: int = 1
    tightening: Literal["mid", "low_third"] = "mid"
    thread_compound: Literal["by_plating", "never"] = "by_plating"
    first_cylinder: Literal["worst_first", "by_number", "easiest_first"] = "worst_first"
    first_start: Literal["before_covers", "after_full_refit"] = "before_covers"
    work_by_feel: Literal["allowed", "forbidden"] = "allowed"
    risk_minutes: dict[RiskLevel, float] = Field(
        default={RiskLevel.LOW: 1.0, RiskLevel.MEDIUM: 3.0, RiskLevel.HIGH: 8.0},
        description="What a risk costs in minutes when ways are compared.",
    )
    set_up_minutes: float = Field(0.4, description="What one change of set-up costs.")
    compound_reduction: float = Field(0.3, ge=0, le=0.6)
    temperature_limit: str = "0 to 40 °C"


DEFAULT_RULES = HouseRules()
