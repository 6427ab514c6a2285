"""The step ribbon: width is minutes, a notch is a change of set-up."""

from eldrim.core.procedure.model import Plan
from eldrim.drawing.svg import el, text, title

WIDTH, TOP, HEIGHT = 1236.0, 24.0, 34.0
GAP = 4.0
LABEL_FROM = 52.0


def draw(plan: Plan) -> str:
    """Return the ribbon of a plan as an SVG element."""
    shown = [p for p in plan.phases if p.minutes > 0]
    scale = (WIDTH - GAP * len(shown)) / max(plan.minutes, 0.1)
    x, shapes = 0.0, []
    for phase in shown:
        width = phase.minutes * scale
        shapes.append(el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="phase"))
        label, minutes = phase.phase.value, f"{phase.minutes:.0f}"
        if width > 8 * len(label):
            shapes.append(text(x + 1, TOP - 8, label, class_="phase-name"))
        if width > LABEL_FROM + 8 * len(label):
            shapes.append(text(x + width - 1, TOP - 8, minutes, class_="phase-minutes"))
        shapes += _steps(plan, phase.phase.value, x, scale)
        x += width + GAP
    return el(
        "svg", title(f"{len(plan.steps)} steps, {plan.minutes:g} minutes"), *shapes,
        class_="ribbon", viewBox=f"0 0 {WIDTH:g} 76", role="img",
        aria_label=f"Steps by phase; {plan.minutes:g} minutes, "
        f"{plan.tool_changes} changes of set-up",
    )  # fmt: skip


def _steps(plan: Plan, phase: str, x: float, scale: float) -> list[str]:
    shapes = []
    for step in plan.steps:
        if step.phase.value != phase:
            continue
        width = step.minutes * scale
        notch = ""
        if step.changes_setup:
            notch = el("path", d=f"M{x - 4.5:.1f} 68l4.5 -8l4.5 8z", class_="notch")
        body = el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="step")
        shapes.append(el("g", title(f"{step.text}, {step.minutes:g} min"), body, notch))
        x += width
    return shapes
