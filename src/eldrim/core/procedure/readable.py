"""Tools on a finished plan, named in the language it is written in."""

from eldrim.core.procedure.model import Plan, RollItem, Step, StepFigure
from eldrim.core.tools.stack import Stack
from eldrim.core.words import tool


def with_tools_named(plan: Plan) -> Plan:
    """The plan with every tool as it is read; until here tools are known by their crib names."""
    return plan.model_copy(
        update={
            "steps": tuple(_step(s) for s in plan.steps),
            "tools": tuple(map(tool, plan.tools)),
            "roll": tuple(_item(i) for i in plan.roll),
        }
    )


def _step(step: Step) -> Step:
    return step.model_copy(
        update={
            "tools": tuple(map(tool, step.tools)),
            "stacks": tuple(_stack(s) for s in step.stacks),
            "figures": tuple(_figure(f) for f in step.figures),
        }
    )


def _stack(stack: Stack) -> Stack:
    pieces = tuple(p.model_copy(update={"name": tool(p.name)}) for p in stack.pieces)
    return stack.model_copy(update={"pieces": pieces, "handle": tool(stack.handle)})


def _figure(figure: StepFigure) -> StepFigure:
    if figure.setting is None:
        return figure
    dial = figure.setting.model_copy(update={"wrench": tool(figure.setting.wrench)})
    return figure.model_copy(update={"setting": dial})


def _item(item: RollItem) -> RollItem:
    return item.model_copy(update={"name": tool(item.name)})
