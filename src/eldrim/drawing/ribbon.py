"""The step ribbon: width is minutes, a notch is a change of set-up."""

from eldrim.core.procedure.model import Plan, Step, segments
from eldrim.core.quantity import format_number
from eldrim.core.words import say
from eldrim.drawing.svg import el, text, title

WIDTH, TOP, HEIGHT = 1236.0, 24.0, 34.0
GAP = 4.0
LABEL_FROM = 52.0


def draw(plan: Plan) -> str:
    """Return the ribbon of a plan as an SVG element; each step carries its index."""
    cut = segments(plan)
    scale = (WIDTH - GAP * len(cut)) / max(plan.minutes, 0.1)
    x, index, shapes = 0.0, 0, []
    for phase, steps in cut:
        minutes = sum(s.minutes for s in steps)
        shapes.append(_phase(phase.value, minutes, x, minutes * scale))
        for step in steps:
            shapes.append(_step(step, index, x, step.minutes * scale))
            x += step.minutes * scale
            index += 1
        x += GAP
    taken = format_number(plan.minutes, 1)
    cursor = el("path", d=f"M0 {TOP - 6:g}v{HEIGHT + 20:g}", class_="cursor")
    return el(
        "svg",
        title(say("draw.ribbon", steps=len(plan.steps), minutes=taken)),
        *shapes,
        cursor,
        class_="ribbon",
        viewBox=f"0 0 {WIDTH:g} 76",
        role="img",
        aria_label=say("draw.ribbon_about", minutes=taken, changes=plan.tool_changes),
    )


def _phase(name: str, minutes: float, x: float, width: float) -> str:
    shapes = el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="phase")
    if width > 8 * len(name):
        shapes += text(x + 1, TOP - 8, name, class_="phase-name")
    if width > LABEL_FROM + 8 * len(name):
        shapes += text(x + width - 1, TOP - 8, f"{minutes:.0f}", class_="phase-minutes")
    return shapes


def _step(step: Step, index: int, x: float, width: float) -> str:
    notch = ""
    if step.changes_setup:
        notch = el("path", d=f"M{x - 4.5:.1f} 68l4.5 -8l4.5 8z", class_="notch")
    body = el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="step")
    return el("g", title(f"{step.text}, {step.minutes:g} min"), body, notch, data_step=index)
