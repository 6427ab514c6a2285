"""How parts of a number last: the share that still works by age, as stairs in their limits."""

from collections.abc import Iterator

from eldrim.core.interval.life import meter_words
from eldrim.core.lessons.parts import Lasting
from eldrim.core.words.messages import gettext
from eldrim.drawing.svg import el, path, text, title

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 620.0, 220.0, 58.0, 22.0, 16.0, 40.0
Points = list[tuple[float, float]]


def draw(found: Lasting) -> str:
    """The stairs heavy, their limits tinted; empty where nothing failed."""
    if not found.stairs:
        return ""
    last = found.stairs[-1]
    still = gettext(
        "{share} % still work at {counts}",
        share=f"{100 * last.share:.0f}",
        counts=meter_words(last.age, found.counts),
    )
    around = [*_stairs(found, "high"), *reversed(_stairs(found, "low"))]
    return el(
        "svg",
        title(
            gettext(
                "{failed} of {count} failed; {still}",
                failed=found.failed,
                count=found.count,
                still=still,
            )
        ),
        *_rules(),
        el("path", d=path(around), class_="limits"),
        el("path", d=path(_stairs(found, "share"), closed=False), class_="line"),
        *_ages(found),
        class_="survival",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
    )


def _x(found: Lasting, age: float) -> float:
    return LEFT + age / found.oldest * (WIDTH - LEFT - RIGHT)


def _y(share: float) -> float:
    return TOP + (1 - share) * (HEIGHT - TOP - BOTTOM)


def _stairs(found: Lasting, which: str) -> Points:
    """Down at each failure: the shares, or one of their limits."""
    points, share = [(_x(found, 0.0), _y(1.0))], 1.0
    for stair in found.stairs:
        points.append((_x(found, stair.age), _y(share)))
        share = {"share": stair.share, "low": stair.low, "high": stair.high}[which]
        points.append((_x(found, stair.age), _y(share)))
    return [*points, (_x(found, found.oldest), _y(share))]


def _rules() -> Iterator[str]:
    for at in (1.0, 0.5, 0.0):
        yield el("path", d=path([(LEFT, _y(at)), (WIDTH - RIGHT, _y(at))], False), class_="rule")
        yield text(LEFT - 8, _y(at) + 4, f"{at * 100:.0f} %", class_="value", text_anchor="end")


def _ages(found: Lasting) -> Iterator[str]:
    for age, anchor in ((0.0, "start"), (found.oldest / 2, "middle"), (found.oldest, "end")):
        words = meter_words(age, found.counts)
        yield text(_x(found, age), HEIGHT - 14, words, class_="day", text_anchor=anchor)
