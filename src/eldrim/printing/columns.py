"""Lines set in two columns of about the same height, in their order."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

from eldrim.printing.act_lines import ActLine

T = TypeVar("T")
# Letters in a line of half a page, and how many lines a heading and a picture take.
LINE_LETTERS = 61
HEADING_LINES = 1.7
# Columns higher than so many lines are read in parts.
MOST_LINES = 30


@dataclass(frozen=True)
class Item:
    """A heading with its minutes, acts in a paragraph, or the picture of the engine: neither."""

    heading: str = ""
    minutes: str = ""
    lines: tuple[ActLine, ...] = ()
    height: float = 0.0


Columns = tuple[list[Item], list[Item]]


def heading(text: str, minutes: str) -> Item:
    """The heading of the lines that follow."""
    return Item(heading=text, minutes=minutes, height=HEADING_LINES)


def act(*lines: ActLine) -> Item:
    """Acts in one paragraph, its height reckoned from its letters."""
    letters = sum(map(_letters, lines))
    return Item(lines=lines, height=-(-letters // LINE_LETTERS) + 0.15)


def _letters(line: ActLine) -> int:
    wide = 0.1 * len(line.text) + 1.5 * len(line.letters)
    words = [line.letters, line.number, line.code, line.text, line.how, line.tools, line.hold]
    words += [*line.notes, *line.differs, *(f"[] {tick}" for tick in line.ticks)]
    words += [f"{b.label} {b.window} {b.unit} {'_' * 9}" for b in line.blanks]
    words += [f"{f.setting} {f.range} (1)" for f in line.figures]
    return round(wide + sum(len(word) + 1 for word in (*words, line.minutes) if word))


def paragraphs(lines: Sequence[ActLine], most: float) -> list[Item]:
    """The acts, as many in a paragraph as make no more than so many lines; one at least."""
    found: list[Item] = []
    for line in lines:
        longer = act(*found[-1].lines, line) if found else None
        if longer and longer.height <= most:
            found[-1] = longer
        else:
            found.append(act(line))
    return found


def picture(lines: float) -> Item:
    """The picture of the engine, so many lines high."""
    return Item(height=lines)


def beside(drawing: Item, ready: Sequence[Item], way_in: Sequence[Item]) -> Columns:
    """What comes before the holes: the picture before all of it, or before the way in, whichever
    is less high.
    """
    ways = in_two([drawing, *ready, *way_in]), in_two([*ready, drawing, *way_in])
    return min(ways, key=height)


def height(two: Columns) -> float:
    """The height of two columns, in lines."""
    return max(map(_height, two))


def in_parts(items: Sequence[Item]) -> list[Columns]:
    """The items in two columns, in parts that are read one after the other where they are high, so
    that no column goes on over the side.
    """
    whole = in_two(items)
    count = -(-height(whole) // MOST_LINES)
    if count < 2:
        return [whole]
    each, parts, taken = _height(items) / count, [list[Item]()], 0.0
    for item in items:
        taken += item.height
        if taken > each * len(parts) and parts[-1] and not parts[-1][-1].heading:
            parts.append([])
        parts[-1].append(item)
    return [in_two(part) for part in parts]


def _height(items: Sequence[Item]) -> float:
    return sum(item.height for item in items)


def balanced(
    items: Sequence[T], high: Callable[[T], float], may_end: Callable[[T], bool] = lambda _: True
) -> tuple[list[T], list[T]]:
    """Items in two columns cut where both are most alike; ``high`` tells how high one is,
    ``may_end`` whether the first column may end with it.
    """
    whole = sum(map(high, items))
    best, cut, first = whole, len(items), 0.0
    for place, item in enumerate(items, 1):
        first += high(item)
        highest = max(first, whole - first)
        if may_end(item) and highest < best:
            best, cut = highest, place
    return list(items[:cut]), list(items[cut:])


def in_two(items: Sequence[Item]) -> Columns:
    """The items cut where both columns are most alike; no heading stands last in the first."""
    return balanced(items, lambda item: item.height, lambda item: not item.heading)
