"""The drawing a step's figure calls for: torque rule, dial of turns, gap wedge, or none."""

from eldrim.core.base.quantity import convert
from eldrim.core.figures.gap import GAUGE_STEP_MM
from eldrim.core.procedure.model import StepFigure
from eldrim.drawing import gap_wedge, torque_rule, turn_dial


def draw(figure: StepFigure) -> str:
    """Return the drawing of a figure; empty where numbers alone say it."""
    if figure.setting is not None:
        return torque_rule.draw(figure)
    if figure.key == "plug-angle":
        low, high = (convert(value, figure.unit, "°") for value in (figure.min, figure.max))
        return turn_dial.draw(low, high)
    if figure.key == "plug-gap":
        low, high, aim = (
            convert(v, figure.unit, "mm") for v in (figure.min, figure.max, figure.aim)
        )
        return gap_wedge.draw(low, high, aim, None, GAUGE_STEP_MM, figure.unit)
    return ""
