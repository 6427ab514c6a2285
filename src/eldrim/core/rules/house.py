"""House rules: the school chosen per topic, and the prices the planner weighs with."""

from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, Unpack, cast

from pydantic import Field, field_validator

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.parts import RiskLevel, Text
from eldrim.core.rules.schools import Schools
from eldrim.core.rules.topics import BY_KEY, TOPICS
from eldrim.core.words.messages import gettext


class Departure(Frozen):
    """A procedure's own school on one topic, with the reason that is printed."""

    school: str
    reason: Text = Field(min_length=3)


Price = Annotated[float, Field(ge=0, le=120)]
# Unused life thrown away is accepted: by the sums, never, or whenever nothing more has to move.
Waste = Literal["break_even", "at_interval", "while_open"]


class Recheck(Frozen):
    """A plug shows nothing before it ran so far, and tells again after as much (docs/craft.md §13,
    default); by house rule.
    """

    km: float = 300.0
    hours: float = 5.0


DEFAULT_RECHECK = Recheck()


class HouseRules(Frozen):
    """The shop's habits. ``schools`` names those that differ from the default."""

    version: int = 1
    schools: dict[str, str] = Field(default_factory=dict)
    risk_minutes: dict[RiskLevel, Price] = Field(
        default={RiskLevel.LOW: 1.0, RiskLevel.MEDIUM: 3.0, RiskLevel.HIGH: 8.0},
        description="What a risk costs in minutes when ways are compared.",
    )
    set_up_minutes: float = Field(0.4, ge=0, description="What one change of set-up costs.")
    piece_minutes: float = Field(0.05, ge=0, description="And each piece exchanged at it.")
    compound_reduction: float = Field(
        0.3, ge=0, le=0.6, description="Share the aim loses on a lubricated thread."
    )
    compound_floor: float = Field(
        0.65, ge=0.3, le=1, description="Share of the lower limit no reduction goes below."
    )
    value_allowance: float = Field(
        0.1, ge=0.02, le=0.2, description="Share either way a single printed torque is read as."
    )
    temperature_limit: str = "0 to 40 °C"
    second_person: bool = Field(False, description="Another person approves before a release.")
    release_on_the_spot: bool = Field(
        True, description="A repair computed in a search waits for a lead to release it."
    )
    money_per_minute: float = Field(
        1.2, gt=0, le=100, description="What a minute of work costs; turns prices into minutes."
    )
    stop_cost: float = Field(
        300, ge=0, le=1_000_000, description="What an unplanned stop costs, where a unit says none."
    )
    waste_of_life: Waste = Field(
        "break_even", description="When a thing that still works is renewed along with a job."
    )
    km_per_hour: float = Field(
        60, ge=0.5, le=120, description="What an hour runs, where only the other is known, in km."
    )
    act_minutes: dict[str, Price] = Field(
        default_factory=dict,
        description="Minutes of tests and repairs where the house knows them better, by key.",
    )
    lead_slack: float = Field(
        30, ge=0, le=300, description="What a lead has over its way, both ends together, in mm."
    )
    lead_over: float = Field(
        120, ge=0, le=1_000, description="How much longer than it has to be it may be, in mm."
    )
    recheck_km: float = Field(300, ge=1, le=20_000, description="When plugs tell again, in km.")
    recheck_hours: float = Field(5, ge=0.1, le=500, description="When plugs tell again, in hours.")

    @field_validator("schools")
    @classmethod
    def _known(cls, schools: dict[str, str]) -> dict[str, str]:
        for topic, key in schools.items():
            known = (
                {school.key: school for school in BY_KEY[topic].schools} if topic in BY_KEY else {}
            )
            if key not in known:
                raise ValueError(
                    gettext("{topic}: there is no school '{key}'", topic=topic, key=key)
                )
            if known[key].refused:
                raise ValueError(
                    gettext(
                        "{key} is refused. {refused}",
                        key=known[key].name,
                        refused=known[key].refused,
                    )
                )
        return {t.key: schools[t.key] for t in TOPICS if schools.get(t.key, t.default) != t.default}

    @property
    def recheck(self) -> Recheck:
        """When plugs tell again."""
        return Recheck(km=self.recheck_km, hours=self.recheck_hours)

    @cached_property
    def school(self) -> Schools:
        """The school in force on each topic."""
        return cast(Schools, {t.key: self.schools.get(t.key, t.default) for t in TOPICS})

    def using(self, **schools: Unpack[Schools]) -> "HouseRules":
        """These rules with some schools changed; checked as always."""
        return self.with_schools(cast(Mapping[str, str], schools))

    def with_schools(self, schools: Mapping[str, str]) -> "HouseRules":
        """These rules with schools as somebody named them; one that is not known is refused."""
        plain: dict[str, Any] = self.model_dump()
        return HouseRules.model_validate({**plain, "schools": {**self.schools, **schools}})

    def departing(self, departures: dict[str, Departure]) -> "HouseRules":
        """These rules with a procedure's departures in force."""
        return self.with_schools({key: departure.school for key, departure in departures.items()})


DEFAULT_RULES = HouseRules()
