"""The own steps of a search: what changes places or is renewed, what is seen, how it is proven."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import TestRow
from eldrim.core.faults.followed import Act
from eldrim.core.figures.battery import CABLE_DROP
from eldrim.core.operations import CautionCause, Operation
from eldrim.core.procedure.job.cautions import may_roll
from eldrim.core.procedure.job.step_figures import StepFigures
from eldrim.core.procedure.model import Check, Plan, Reading, Step, StepFigure
from eldrim.core.procedure.steps.ready_steps import codes_reading
from eldrim.core.procedure.steps.step_checks import check
from eldrim.core.procedure.steps.step_fields import from_rule
from eldrim.core.rules.house import HouseRules
from eldrim.core.run.path import CURED, END, GONE, HANDED, NO, NOT_CURED, OUTCOME, YES
from eldrim.core.step_key import StepKey
from eldrim.core.sums.electric_sums import COILS, OHMS_PER_METRE
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.missing_tools import missing_by_name
from eldrim.core.tools.naming import ToolRef, asked_ref, to_be_got
from eldrim.core.words import say

# What a repair brings with it, by the cause it cures.
CAUSES_OF = {
    "injector": frozenset({CautionCause.FUEL, CautionCause.PRESSURE}),
    "fuel": frozenset({CautionCause.FUEL, CautionCause.PRESSURE}),
    "mixture": frozenset({CautionCause.FUEL}),
    "connector": frozenset({CautionCause.SPARK}),
    "supply": frozenset({CautionCause.BATTERY}),
    "exhaust": frozenset({CautionCause.HOT}),
}
# The part that is renewed for a cause, as the sheet's numbers name it.
PART_OF = {"coil": "coil", "boot": "boot", "plug": "plug", "plugs": "plug", "lead": "lead"}
LEFT, BACK, RENEWED = "left", "back", "renewed"


@dataclass(frozen=True)
class Released:
    """An edition that holds a repair: its number and title, and its steps."""

    number: int
    title: str
    steps: tuple[Step, ...]


class FindSteps:
    """Makes the steps of the acts of one search, in the language in use."""

    def __init__(
        self, engine: Engine, variant: str, rules: HouseRules, crib: Crib, base: Plan
    ) -> None:
        """``base`` is the planner's procedure whose steps open and close."""
        self.engine, self.variant, self.rules, self.crib = engine, variant, rules, crib
        self.base = base
        self._figures = StepFigures(engine, variant, rules, crib)

    @staticmethod
    def title(act: Act) -> str:
        """What an act is called, at the cylinders it is done at."""
        at, *more = act.cylinders or ("",)
        partner = more[0] if act.swaps and more else ""
        where = at if act.swaps or not more else ", ".join(map(str, act.cylinders))
        if act.row.key == "renew-plugs":
            where = ""
        said = say(f"fault.act.{act.row.key}", cylinder=where, partner=partner)
        return " ".join(said.split())

    def hands(self, name: str, act: Act, released: Released | None) -> Step:
        """What is changed before its outcome is seen.

        A repair that no edition holds was computed on the spot: by house rule a lead releases it.
        """
        if act.swaps:
            return self._swap(name, act)
        cures = getattr(act.row, "cures", ())
        held = released is None and self.rules.release_on_the_spot
        numbers = [self.base.numbers.get(PART_OF[c], "") for c in cures if c in PART_OF]
        parts = ", ".join(dict.fromkeys(filter(None, numbers)))
        details = [
            say("find.part", parts=parts) if parts else "",
            say("find.keep_old"),
            say("find.by_edition", number=released.number, title=released.title)
            if released
            else say("find.on_the_spot"),
        ]
        return self._step(
            StepKey(Operation.FIND_HANDS, name),
            act,
            text=self.title(act),
            detail=" ".join(filter(None, details)),
            causes=frozenset().union(*(CAUSES_OF.get(c, frozenset()) for c in cures)),
            checks=(check("done", "find_done"),),
            minutes=act.row.minutes,
            hold=held,
        )

    def _swap(self, name: str, act: Act) -> Step:
        one, other = act.cylinders
        causes = {CautionCause.FUEL, CautionCause.PRESSURE} if act.swaps == "injector" else set()
        return self._step(
            StepKey(Operation.FIND_HANDS, name),
            act,
            text=say(f"find.swap.{act.swaps}", cylinder=one, partner=other),
            detail=say("find.swap_detail"),
            causes=frozenset(causes),
            checks=(check("marked", "find_marked"),),
            minutes=round(act.row.minutes / 2, 1),
        )

    def see(self, name: str, act: Act) -> Step:
        """The step that takes what came of an act."""
        if act.hands_over:
            return self._hand_over(name, act)
        if not isinstance(act.row, TestRow):
            return self._proof(name, act)
        figures, readings = self._measured(act.row.key)
        if act.runs and self._codes:
            readings = (*readings, codes_reading().model_copy(update={"required": False}))
        tools = (act.row.tool,) if act.row.tool else ("code-reader",) if act.swaps else ()
        return self._step(
            StepKey(Operation.FIND_TEST, name),
            act,
            text=self._question(act),
            detail=say("find.run_detail") if act.swaps else say(f"find.how.{act.row.key}"),
            causes=frozenset(act.row.causes) | self._rolls(act) | self._hot(act),
            checks=(check("seen", "find_seen"),),
            minutes=round(act.row.minutes / 2, 1) if act.swaps else act.row.minutes,
            tools=tools,
            figures=figures,
            readings=(*readings, self._outcome(act)),
        )

    def _question(self, act: Act) -> str:
        """What is asked; of what changed places, whether the complaint went along."""
        if not act.swaps:
            return self.title(act)
        one, other = act.cylinders
        return say("find.follows", cylinder=one, partner=other)

    def _outcome(self, act: Act) -> Reading:
        if not act.swaps:
            shown = {YES: say("fault.outcome.yes"), NO: say("fault.outcome.no")}
        else:
            one, other = act.cylinders
            shown = {
                YES: say("find.followed", partner=other),
                NO: say("find.stayed", cylinder=one),
                GONE: say("find.gone"),
            }
        return outcome(shown)

    def _proof(self, name: str, act: Act) -> Step:
        shown = {CURED: say("find.cured"), NOT_CURED: say("find.not_cured")}
        return self._step(
            StepKey(Operation.FIND_PROOF, name),
            act,
            text=say("find.proof", act=self.title(act)),
            detail=say("find.proof_detail"),
            causes=self._rolls(act),
            checks=(check("proof", "find_proof"),),
            minutes=None,
            tools=("code-reader",) if self._codes else (),
            readings=(*((codes_reading(),) if self._codes else ()), outcome(shown)),
        )

    def _hand_over(self, name: str, act: Act) -> Step:
        return self._step(
            StepKey(Operation.FIND_TEST, name),
            act,
            text=self.title(act),
            detail=say("find.hand_detail"),
            checks=(check("handed", "find_handed"),),
            minutes=2.0,
            readings=(outcome({HANDED: say("find.handed")}),),
            hold=True,
        )

    def settle(self, name: str, act: Act, hands: Step | None) -> Step:
        """What changed places is moved back or left, by decision (docs/craft.md §15)."""
        one, other = act.cylinders
        shown = {LEFT: say("find.left"), BACK: say("find.back"), RENEWED: say("find.renewed")}
        made = self._step(
            StepKey(Operation.FIND_SETTLE, name),
            act,
            text=say(f"find.settle.{act.swaps}", cylinder=one, partner=other),
            detail=say("find.settle_detail"),
            checks=(check("settled", "find_settled"),),
            minutes=None,
            readings=(
                Reading(
                    key="settled",
                    label=say("find.settled_label"),
                    kind="choice",
                    choices=tuple(shown),
                    shown=tuple(shown.values()),
                ),
            ),
        )
        after = (hands.key,) if hands else ()
        return made.model_copy(update={"places": (END,), "only_after": after})

    def _step(  # noqa: PLR0913 - a step is made of this many facts, each by name
        self,
        key: StepKey,
        act: Act,
        *,
        text: str,
        detail: str,
        checks: tuple[Check, ...],
        minutes: float | None,
        causes: frozenset[CautionCause] = frozenset(),
        tools: Iterable[str] = (),
        figures: tuple[StepFigure, ...] = (),
        readings: tuple[Reading, ...] = (),
        hold: bool = False,
    ) -> Step:
        whole = f"{text[:1].upper()}{text[1:]}"
        holes = self.engine.holes_of_all(act.cylinders)
        return Step(
            **from_rule(key, causes),
            object=say("find.thing"),
            cylinder=act.cylinders[0] if act.cylinders else None,
            text=whole,
            detail=detail,
            hold=hold,
            tools=tuple(self._tool(name) for name in tools),
            figures=figures,
            checks=checks,
            readings=readings,
            minutes=(key.rule.minutes or 0.0) if minutes is None else minutes,
            because=(say("find.because", holes=", ".join(holes)) if holes else say("find.why"),),
        )

    def _tool(self, name: str) -> ToolRef:
        ref = asked_ref(self.crib, name)
        return to_be_got(ref) if missing_by_name(self.crib, name) else ref

    def _rolls(self, act: Act) -> frozenset[CautionCause]:
        return frozenset(may_roll(self.engine)) if act.runs else frozenset()

    @staticmethod
    def _hot(act: Act) -> frozenset[CautionCause]:
        """Hands reach in, and the engine may have run for a test before."""
        return frozenset() if act.runs else frozenset({CautionCause.HOT})

    @cached_property
    def _codes(self) -> bool:
        return self.engine.diagnoses_itself(self.variant)

    # Electric tests: what is measured, against the sheet or a marked band.

    def _measured(self, test: str) -> tuple[tuple[StepFigure, ...], tuple[Reading, ...]]:
        if test == "measure-supply":
            return self._supply()
        if test == "lead-resistance":
            stated = self._figures.plain("lead-resistance", say("find.lead"))
            low = OHMS_PER_METRE["wound core"][0] / 1000
            high = OHMS_PER_METRE["carbon core"][1] / 1000
            figure = stated or self._band("lead-resistance", say("find.lead"), low, high, "kΩ/m")
            return (figure,), (_measured("resistance", say("find.lead_measured"), "kΩ"),)
        if test == "coil-resistance":
            figures, readings = [], []
            for side, unit, scale in (("primary", "Ω", 1.0), ("secondary", "kΩ", 1000.0)):
                low, high = (end / scale for end in COILS[f"coil {side}"])
                name = say(f"find.{side}")
                stated = self._figures.plain(f"coil-{side}", name)
                figures.append(stated or self._band(f"coil-{side}", name, low, high, unit))
                readings.append(_measured(side, name, unit))
            return tuple(figures), tuple(readings)
        return (), ()

    def _supply(self) -> tuple[tuple[StepFigure, ...], tuple[Reading, ...]]:
        """The supply against the battery at rest, the earth against what a cable may lose."""
        rest = self._figures.plain("battery-rest", say("find.supply"))
        lost = self._band("earth-drop", say("find.earth"), 0.0, CABLE_DROP, "V")
        figures = (rest, lost) if rest else (lost,)
        readings = (
            _measured("volts", say("find.supply"), "V"),
            _measured("earth", say("find.earth"), "V"),
        )
        return figures, readings

    def _band(self, key: str, name: str, low: float, high: float, unit: str) -> StepFigure:
        """A band of the craft, marked as one: the maker is silent."""
        return StepFigure(
            key=key,
            name=name,
            printed=f"{low:g} {say('to')} {high:g} {unit}",
            value=(low + high) / 2,
            unit=unit,
            min=low,
            max=high,
            aim=(low + high) / 2,
            source=say("find.band"),
            variant=self.engine.variants[self.variant].name,
            fallback=True,
        )


def outcome(shown: dict[str, str]) -> Reading:
    """The reading that the search goes on by: ids, with the words they are tapped by."""
    return Reading(
        key=OUTCOME,
        label=say("find.outcome"),
        kind="choice",
        choices=tuple(shown),
        shown=tuple(shown.values()),
    )


def _measured(key: str, label: str, unit: str) -> Reading:
    """What is read off the meter; not judged by itself, as in range proves little."""
    return Reading(key=key, label=label, kind="number", unit=unit, required=False)
