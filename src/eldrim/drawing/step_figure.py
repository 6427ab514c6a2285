"""The drawing that belongs to a step: of its figure, of the pulley, of a curve or of voltages."""

from eldrim.core.engine import Engine
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Step
from eldrim.drawing import advance_curve, figure, pulley, volt_scale


def draw(step: Step, plan: Plan, engine: Engine) -> str:
    """Return it; empty where numbers alone say it.

    An old plug is read without one: the aim is that of a new. The pulley is drawn from the sheet,
    so only while that is the one the plan was made on.
    """
    operation = step.key.operation
    if operation is Operation.READ_PLUG:
        return ""
    if operation is Operation.TURN_TO_MARK:
        same = engine.timing is not None and engine.revision == plan.revision
        return pulley.draw(engine.timing, step.figures[0].value) if same and engine.timing else ""
    if operation is Operation.TIME_CURVE:
        return advance_curve.draw(step.readings)
    volts = volt_scale.draw(step.readings[0]) if step.readings else ""
    return volts or next((drawn for f in step.figures if (drawn := figure.draw(f))), "")
