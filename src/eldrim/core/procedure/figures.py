"""Figures as a step shows them: printed, converted, aimed, set on a wrench, with their source."""

from eldrim.core.engine import Engine
from eldrim.core.engine.model import Plug
from eldrim.core.figures.sheet import (
    Looked,
    compounded,
    look_up,
    plug_of,
    source_text,
)
from eldrim.core.figures.torque import Window, angle_after_seating
from eldrim.core.procedure.model import StepFigure
from eldrim.core.quantity import convert, parse, working_unit
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.reach import Found
from eldrim.core.tools.weighing import against

ALSO = {"N·m": "lbf·ft", "lbf·ft": "N·m", "lbf·in": "N·m", "kgf·m": "N·m", "kgf·cm": "N·m",
        "mm": "in", "in": "mm", "thou": "mm", "°C": "°F", "°F": "°C"}  # fmt: skip


class Figures:
    """The figures of one engine, variant, set of rules and crib, ready for steps."""

    def __init__(self, engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> None:
        """Remember whose figures these are."""
        self.engine, self.variant, self.rules, self.crib = engine, variant, rules, crib

    def plain(self, key: str, name: str) -> StepFigure | None:
        """A figure that is read, not dialled: gap, voltage, temperature."""
        found = look_up(self.engine, key, self.variant)
        return None if found is None else self._shown(key, name, found, found.value.mid)

    def torque(
        self, key: str, name: str, looked: tuple[Looked, Window], found: Found | None
    ) -> StepFigure:
        """A torque with its aim by the house rule and the setting on the wrench chosen."""
        stated, wanted = looked
        dial = found.setting if found and stated.settled else None
        done = self._shown(key, name, stated, wanted.aim)
        low, high = (self._typed(stated, v) for v in (wanted.low, wanted.high))
        others = against(self.crib, wanted, dial) if dial else ()
        return done.model_copy(
            update={"setting": dial, "sum": wanted.sum, "against": others, "min": low,
                    "max": high}
        )  # fmt: skip

    def plug_angle(self, plug: Plug) -> StepFigure:
        """Turns after seating: the maker's where stated, else shop practice, and marked as that."""
        stated = look_up(self.engine, "plug-angle", self.variant)
        if stated is not None:
            return self._shown("plug-angle", "turn after seating", stated, stated.value.mid)
        used = self.rules.school("inspect_or_replace") == "refit_in_limits"
        printed = angle_after_seating(plug.seat, plug.thread, used)
        value = parse(printed)
        return StepFigure(
            key="plug-angle", name="turn after seating", printed=printed, value=value.mid,
            unit="°", min=value.low, max=value.high, aim=value.mid,
            converted=value.printed_in("°"), variant=self.engine.variants[self.variant].name,
            source=f"fallback: shop practice for {plug.thread}, {plug.seat} seat; the maker is "
            "silent", fallback=True,
        )  # fmt: skip

    def compound(self) -> bool:
        """Whether thread compound goes on, by the chosen school (handbook §10)."""
        return compounded(self.engine, plug_of(self.engine, self.variant), self.rules)

    def _typed(self, found: Looked, number: float) -> float:
        base = working_unit(found.value.dimension).symbol
        return float(f"{convert(number, base, found.value.unit):.6g}")

    def _shown(self, key: str, name: str, found: Looked, wanted: float) -> StepFigure:
        value, figure = found.value, found.figure
        return StepFigure(
            key=key, name=name, printed=value.text,
            converted=value.printed_in(ALSO[value.unit]) if value.unit in ALSO else "",
            value=self._typed(found, value.mid), unit=value.unit,
            min=self._typed(found, value.low), max=self._typed(found, value.high),
            aim=self._typed(found, wanted), source=found.source,
            variant=self.engine.variants[self.variant].name, fallback=found.fallback,
            plus=str(figure.plus) if figure and figure.plus else "",
            settled=figure.settled if figure and found.rivals else "",
            rivals=tuple(f"{r.value} ({source_text(self.engine, r)})" for r in found.rivals),
            unsettled=not found.settled,
        )  # fmt: skip
