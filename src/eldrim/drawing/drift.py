"""What a torque wrench showed against what it was set to, week by week, with its line."""

from collections.abc import Callable, Iterator

from eldrim.core.lessons.figures import WrenchDrift
from eldrim.core.words.language import day_words
from eldrim.core.words.messages import gettext
from eldrim.drawing.svg import el, path, text, title

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 620.0, 170.0, 58.0, 14.0, 16.0, 34.0
# Drawn at least so far either way, as a share.
LEAST_SPAN = 0.05
RULES = ((0.0, "as set", "set"), (0.04, "+4 %", "tolerance"), (-0.04, "−4 %", "tolerance"))
Place = Callable[[float], float]


def draw(found: WrenchDrift) -> str:
    """The weeks as dots, set as a rule across, the line heavier; days at its ends."""
    span = max([LEAST_SPAN, *(abs(one.ratio - 1) * 1.1 for one in found.weeks)])
    first, last = found.weeks[0].week, found.weeks[-1].week
    wide = (last - first).days or 1

    def x(day: float) -> float:
        return LEFT + (day - first.toordinal()) / wide * (WIDTH - LEFT - RIGHT)

    def y(share: float) -> float:
        half = (HEIGHT - TOP - BOTTOM) / 2
        return TOP + half - share / span * half

    ends = [
        (x(day.toordinal()), y(ratio - 1))
        for day, ratio in ((first, found.line.first), (last, found.line.last))
    ]
    return el(
        "svg",
        title(
            gettext(
                "{found}: {share} % over {weeks} weeks of use",
                found=found.name,
                share=f"{100 * found.share:+.1f}",
                weeks=len(found.weeks),
            )
        ),
        *_rules(y, span),
        *_dots(found, x, y),
        el("path", d=path(ends, closed=False), class_="line"),
        text(LEFT, HEIGHT - 10, day_words(first), class_="day"),
        text(WIDTH - RIGHT, HEIGHT - 10, day_words(last), class_="day", text_anchor="end"),
        class_="drift",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
    )


def _rules(y: Place, span: float) -> Iterator[str]:
    """Across at what it is set to, and at the tolerance of a click wrench."""
    for at, words, kind in RULES:
        if abs(at) <= span:
            across = path([(LEFT, y(at)), (WIDTH - RIGHT, y(at))], closed=False)
            yield el("path", d=across, class_=kind)
            yield text(LEFT - 8, y(at) + 4, words, class_="value", text_anchor="end")


def _dots(found: WrenchDrift, x: Place, y: Place) -> Iterator[str]:
    for one in found.weeks:
        said = gettext(
            "week of {week}: {ratio} %",
            week=day_words(one.week),
            ratio=f"{100 * (one.ratio - 1):+.1f}",
        )
        place = {"cx": x(one.week.toordinal()), "cy": y(one.ratio - 1)}
        yield el("circle", title(said), **place, r=3.0, class_="week")
