"""Figures as a step shows them: printed, converted, aimed, set on a wrench, with their source."""

from eldrim.core.engine import Engine, Figure, applies
from eldrim.core.engine.model import Plug
from eldrim.core.engine.parts import Joint
from eldrim.core.figures.torque import aim, angle_after_seating, best_setting
from eldrim.core.procedure.model import StepFigure
from eldrim.core.quantity import (
    Dimension,
    Quantity,
    convert,
    format_number,
    parse,
    working_unit,
)
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.naming import PLUG_DRIVE, drive_of

ALSO = {"N·m": "lbf·ft", "lbf·ft": "N·m", "lbf·in": "N·m", "kgf·m": "N·m", "kgf·cm": "N·m",
        "mm": "in", "in": "mm", "thou": "mm", "°C": "°F", "°F": "°C"}  # fmt: skip


def find(engine: Engine, key: str, variant: str) -> Figure | None:
    """The figure for ``key`` that applies to ``variant``; None when the sheet is silent."""
    return next((f for f in engine.figures.get(key, ()) if applies(f.variants, variant)), None)


def source_text(engine: Engine, figure: Figure | Plug) -> str:
    """Document, edition and page: ``Marlet workshop manual, 4th edition, p. 6-12``."""
    source = engine.sources[figure.source]
    return f"{source.document}, {source.edition}, p. {figure.page}"


class Figures:
    """The figures of one engine, variant and set of rules, ready for steps."""

    def __init__(self, engine: Engine, variant: str, rules: HouseRules) -> None:
        """Remember whose figures these are."""
        self.engine, self.variant, self.rules = engine, variant, rules

    def plain(self, key: str, name: str) -> StepFigure | None:
        """A figure that is read, not dialled: gap, voltage, temperature."""
        figure = find(self.engine, key, self.variant)
        return None if figure is None else self._step_figure(key, name, figure, figure.value.mid)

    def torque(self, key: str, name: str, drive: str) -> StepFigure | None:
        """A torque with its aim by the house rule and the setting on the wrench to use."""
        figure = find(self.engine, key, self.variant)
        if figure is None:
            return None
        return self._torque_figure(key, name, figure, drive)

    def plug_torque(self, plug: Plug) -> StepFigure:
        """The plug's torque; less where the thread is lubricated and the source means dry."""
        figure = find(self.engine, "plug-torque", self.variant)
        assert figure is not None, "a consistent sheet states plug-torque for every variant"
        if self.compound(plug) and not figure.lubricated:
            return self._reduced("plug-torque", "plug torque", figure)
        return self._torque_figure("plug-torque", "plug torque", figure, PLUG_DRIVE)

    def plug_angle(self, plug: Plug) -> StepFigure:
        """Turns after seating: the maker's where stated, else shop practice, and marked as that."""
        stated = find(self.engine, "plug-angle", self.variant)
        if stated is not None:
            return self._step_figure("plug-angle", "turn after seating", stated, stated.value.mid)
        used = self.rules.school("inspect_or_replace") == "refit_in_limits"
        printed = angle_after_seating(plug.seat, plug.thread, used)
        value = parse(printed)
        return StepFigure(
            key="plug-angle", name="turn after seating", printed=printed, value=value.mid,
            unit="°", min=value.low, max=value.high, aim=value.mid,
            converted=value.printed_in("°"), variant=self.engine.variants[self.variant].name,
            source=f"fallback: shop practice for {plug.thread}, {plug.seat} seat; the maker is "
            "silent",
        )  # fmt: skip

    def compound(self, plug: Plug) -> bool:
        """Whether thread compound goes on, by the chosen school (handbook §10)."""
        school = self.rules.school("thread_compound")
        bare = plug.plating == "bare" and self.engine.layout.head == "aluminium"
        return school in ("always", "oil") or (school == "by_plating" and bare)

    def _torque_figure(self, key: str, name: str, figure: Figure, drive: str) -> StepFigure:
        wanted = aim(figure.value, self.rules.school("tightening"))
        done = self._step_figure(key, name, figure, wanted)
        found = best_setting(figure.value, wanted, drive)
        school = "low third" if self.rules.school("tightening") == "low_third" else "middle"
        low, high = done.min, done.max
        text = f"aim {format_number(done.aim, 2)} {done.unit}: {school} of "
        text += f"{format_number(low, 2)} to {format_number(high, 2)}"
        return done.model_copy(update={"setting": found[1] if found else None, "sum": text})

    def _reduced(self, key: str, name: str, figure: Figure) -> StepFigure:
        share = 1 - self.rules.compound_reduction
        value = figure.value
        window = Quantity(
            value.low * share, value.high * share, Dimension.TORQUE, value.unit, value.text
        )
        done = self._torque_figure(
            key, name, figure.model_copy(update={"value": window}), PLUG_DRIVE
        )
        percent = format_number(self.rules.compound_reduction * 100, 0)
        return done.model_copy(
            update={"sum": f"{done.sum}; {value.text} less {percent} % for thread compound"}
        )

    def _step_figure(self, key: str, name: str, figure: Figure, wanted: float) -> StepFigure:
        value = figure.value
        base = working_unit(value.dimension).symbol

        def typed(number: float) -> float:
            return float(f"{convert(number, base, value.unit):.6g}")

        return StepFigure(
            key=key,
            name=name,
            printed=value.text,
            converted=value.printed_in(ALSO[value.unit]) if value.unit in ALSO else "",
            value=typed(value.mid),
            unit=value.unit,
            min=typed(value.low),
            max=typed(value.high),
            aim=typed(wanted),
            source=source_text(self.engine, figure),
            variant=self.engine.variants[self.variant].name,
        )

    def of_joint(self, joint: Joint, name: str) -> StepFigure | None:
        """The torque of a fastener, where the sheet states one."""
        return self.torque(joint.torque, name, drive_of(joint)) if joint.torque else None
