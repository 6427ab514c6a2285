"""The step ribbon: width is minutes, a notch is a change of set-up."""

from collections.abc import Iterable

from eldrim.core.base.quantity import format_number
from eldrim.core.procedure.editions.fold import Chapter, chapters
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.words import say
from eldrim.drawing.svg import el, text, title

WIDTH, TOP, HEIGHT = 1236.0, 42.0, 34.0
GAP = 4.0
# Names stand in the lower line; one that has no room there stands above it, with a stroke down.
LINES = (TOP - 8, TOP - 26)
LETTER, DIGIT = 7.4, 8.0
# From the end of a name to what stands beside it.
ROOM = 10.0


def draw(plan: Plan) -> str:
    """Return the ribbon of a plan as an SVG element; each step carries its index."""
    cut = chapters(plan.steps)
    scale = (WIDTH - GAP * len(cut)) / max(plan.minutes, 0.1)
    x, frames, shapes, heads = 0.0, [], [], []
    for chapter in cut:
        begin = x
        for index in sorted(number for one in chapter.acts for number in one.numbers):
            step = plan.steps[index - 1]
            shapes.append(_step(step, index - 1, x, step.minutes * scale))
            x += step.minutes * scale
        frames.append(_frame(begin, x - begin))
        heads.append((chapter, begin, x))
        x += GAP
    taken = format_number(plan.minutes, 1)
    cursor = el("path", d=f"M0 {TOP - 6:g}v{HEIGHT + 20:g}", class_="cursor")
    return el(
        "svg",
        title(say("draw.ribbon", steps=len(plan.steps), minutes=taken)),
        # The frames lie under the steps, which are clicked at.
        *frames,
        *shapes,
        *_heads(heads),
        cursor,
        class_="ribbon",
        viewBox=f"0 0 {WIDTH:g} {TOP + HEIGHT + 18:g}",
        role="img",
        aria_label=say("draw.ribbon_about", minutes=taken, changes=plan.tool_changes),
    )


def _frame(x: float, width: float) -> str:
    return el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="phase")


def _heads(found: Iterable[tuple[Chapter, float, float]]) -> list[str]:
    """The name of each chapter and its minutes, none over another."""
    ends, shapes = [0.0 for _ in LINES], []
    for chapter, begin, end in found:
        name, minutes = _name(chapter, end - begin), f"{chapter.minutes:.0f}"
        width = len(name) * LETTER
        at = min(max(begin + 1, 1.0), WIDTH - width)
        line = next((one for one, taken in enumerate(ends) if taken <= at), 0)
        at = max(at, ends[line])
        shapes.append(text(at, LINES[line], name, class_="phase-name"))
        if line:
            shapes.append(el("path", d=f"M{begin + 1:.1f} {TOP - 22:g}V{TOP:g}", class_="to-phase"))
        ends[line] = at + width + ROOM
        if not line and end - ends[0] > len(minutes) * DIGIT:
            shapes.append(text(end - 1, LINES[0], minutes, class_="phase-minutes"))
            ends[0] = end + 1
    return shapes


def _name(chapter: Chapter, width: float) -> str:
    """What is done meanwhile; of a round which holes have their turn, where there is room."""
    if not chapter.holes:
        return say(f"phase.{chapter.phase.value}")
    long = say("doc.in_turn", holes=", ".join(chapter.holes))
    return long if len(long) * LETTER < width else say("doc.in_turn_short")


def _step(step: Step, index: int, x: float, width: float) -> str:
    notch, foot = "", TOP + HEIGHT + 10
    if step.changes_setup:
        notch = el("path", d=f"M{x - 4.5:.1f} {foot:g}l4.5 -8l4.5 8z", class_="notch")
    body = el("rect", x=x, y=TOP, width=width, height=HEIGHT, class_="step")
    return el("g", title(f"{step.text}, {step.minutes:g} min"), body, notch, data_step=index)
