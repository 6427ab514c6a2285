"""Figures as a step shows them: printed, converted, aimed, set on a wrench, with their source."""

from eldrim.core.base.quantity import Quantity, convert, make, parse, working_unit
from eldrim.core.engine import Engine
from eldrim.core.engine.model import TO_STATE, Plug
from eldrim.core.figures.gap import gap_limits
from eldrim.core.figures.sheet import FigureInForce, compounded, look_up, plug_of, source_text
from eldrim.core.figures.torque import Window, angle_after_seating, seating
from eldrim.core.procedure.model import StepFigure
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stack_finder import StackChoice
from eldrim.core.tools.wrench_choice import against
from eldrim.core.tools.wrench_setting import Setting
from eldrim.core.words import printed, say

ALSO = {
    "N·m": "lbf·ft",
    "lbf·ft": "N·m",
    "lbf·in": "N·m",
    "kgf·m": "N·m",
    "kgf·cm": "N·m",
    "mm": "in",
    "in": "mm",
    "thou": "mm",
    "°C": "°F",
    "°F": "°C",
}


class StepFigures:
    """The figures of one engine, variant, set of rules and crib, ready for steps."""

    def __init__(self, engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> None:
        """Remember whose figures these are."""
        self.engine, self.variant, self.rules, self.crib = engine, variant, rules, crib
        self._plain: dict[tuple[str, str], StepFigure | None] = {}
        self._torques: dict[tuple[str, str, Window, Setting | None], StepFigure] = {}

    def plain(self, key: str, name: str) -> StepFigure | None:
        """A figure that is read, not dialled: gap, voltage, temperature."""
        if (key, name) not in self._plain:
            found = look_up(self.engine, key, self.variant)
            shown = None if found is None else self._shown(key, name, found, found.value.mid)
            self._plain[key, name] = shown
        return self._plain[key, name]

    def gap(self) -> StepFigure | None:
        """The plug's gap; one number printed alone as the range it is read as."""
        shown = self.plain("plug-gap", say("figure.gap"))
        found = look_up(self.engine, "plug-gap", self.variant)
        if shown is None or found is None or found.value.is_range:
            return shown
        low, high = gap_limits(found.value, self.rules.school["single_gap"])
        if low == high:
            return shown
        span = printed(make(low, found.value.unit, high).text)
        said = say("sum.gap_alone", printed=shown.printed, span=span)
        return shown.model_copy(update={"min": low, "max": high, "sum": (said,)})

    def torque(
        self, key: str, name: str, window: tuple[FigureInForce, Window], choice: StackChoice | None
    ) -> StepFigure:
        """A torque with its aim by the house rule and the setting on the wrench chosen.

        ``window`` is the figure in force and the torques that are right by it.
        """
        stated, wanted = window
        dial = choice.setting if choice and stated.settled else None
        asked = (key, name, wanted, dial)
        if asked not in self._torques:
            self._torques[asked] = self._torque(key, name, stated, wanted, dial)
        return self._torques[asked]

    def _torque(
        self, key: str, name: str, stated: FigureInForce, wanted: Window, dial: Setting | None
    ) -> StepFigure:
        done = self._shown(key, name, stated, wanted.aim)
        low, high = (self._typed(stated, value) for value in (wanted.low, wanted.high))
        others = against(self.crib, wanted, dial) if dial else ()
        return done.model_copy(
            update={"setting": dial, "sum": wanted.sum, "against": others, "min": low, "max": high}
        )

    def plug_angle(self, plug: Plug) -> StepFigure:
        """Turns after seating: the maker's where stated, else shop practice, and marked as that."""
        stated = look_up(self.engine, "plug-angle", self.variant)
        if stated is not None:
            return self._shown("plug-angle", say("figure.angle"), stated, stated.value.mid)
        used = self.rules.school["inspect_or_replace"] == "refit_in_limits"
        value = parse(angle_after_seating(plug.seat, plug.thread, used))
        turns = say(f"angle.{seating(plug.seat, plug.thread, used)}")
        return StepFigure(
            key="plug-angle",
            name=say("figure.angle"),
            printed=turns,
            value=value.mid,
            unit="°",
            min=value.low,
            max=value.high,
            aim=value.mid,
            converted=printed(value.printed_in("°")),
            variant=self.engine.variants[self.variant].name,
            fallback=True,
            source=say("figure.fallback_angle", thread=plug.thread, seat=say(f"seat.{plug.seat}")),
        )

    def compound(self) -> bool:
        """Whether thread compound goes on, by the chosen school (docs/craft.md §10)."""
        return compounded(self.engine, plug_of(self.engine, self.variant), self.rules)

    def _typed(self, found: FigureInForce, number: float) -> float:
        base = working_unit(found.value.dimension).symbol
        return float(f"{convert(number, base, found.value.unit):.6g}")

    def _shown(self, key: str, name: str, found: FigureInForce, wanted: float) -> StepFigure:
        value, figure = found.value, found.figure
        return StepFigure(
            key=key,
            name=name,
            printed=printed(value.text),
            converted=_also(value),
            value=self._typed(found, value.mid),
            unit=value.unit,
            min=self._typed(found, value.low),
            max=self._typed(found, value.high),
            aim=self._typed(found, wanted),
            source=found.source,
            variant=self.engine.variants[self.variant].name,
            fallback=found.fallback,
            plus=printed(str(figure.plus)) if figure and figure.plus else "",
            settled=figure.settled if figure and found.rivals else "",
            rivals=tuple(
                f"{printed(str(rival.value))} ({source_text(self.engine, rival)})"
                for rival in found.rivals
            ),
            unsettled=not found.settled,
            unsourced=figure is not None and figure.source == TO_STATE,
        )


def _also(value: Quantity) -> str:
    """The figure in the other unit people use, where there is one."""
    other = ALSO.get(value.unit)
    return printed(value.printed_in(other)) if other else ""
