"""The tree of tests and repairs: a branch is as wide as it is likely, as long as it takes.

What an act opens is told by its letter on the plan beside it.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from textwrap import wrap

from eldrim.core.faults.answer import ToldBranch, ToldNode
from eldrim.core.words import say
from eldrim.drawing.svg import el, text, title

BOX, LINE, PAD = 236.0, 18.0, 12.0
CHARS, CHARS_SMALL = 28, 34
APART, END_WIDTH, END_HEIGHT = 18.0, 82.0, 32.0
# How long a branch is at least, and for each minute of the act above it.
LEAST_LONG, PER_MINUTE, MOST_LONG = 58.0, 1.0, 130.0
WIDEST, THINNEST = 64.0, 2.0
# Rarer than this is told in the list beside the drawing alone: the first of these with which the
# drawing is no wider than the page.
DRAWN = (0.02, 0.04, 0.07, 0.12)
PAGE = 880.0
MARGIN = 14.0
# An act that opens more than this has its way in drawn as a line.
DEAR = 10.0


@dataclass(frozen=True)
class _Box:
    """A node laid out: its lines, its size, its children with their branches."""

    node: ToldNode
    lines: tuple[str, ...]
    small: tuple[str, ...]
    width: float
    below: tuple[tuple[ToldBranch, "_Box | None"], ...]

    @property
    def height(self) -> float:
        return PAD * 2 + LINE * len(self.lines) + 15 * len(self.small)

    @property
    def reach(self) -> float:
        """From the bottom of the box to the top of what follows."""
        minutes = self.node.minutes_own + self.node.minutes_access
        return min(MOST_LONG, LEAST_LONG + PER_MINUTE * minutes)


def draw(tree: ToldNode) -> str:
    """Return the tree as an SVG element in its natural size."""
    box = _fitting(tree)
    shapes = list(_drawn(box, MARGIN, MARGIN + 10))
    width, height = box.width + 2 * MARGIN, _deep(box) + 2 * MARGIN + 10
    return el(
        "svg",
        title(say("fault.drawing", act=tree.title)),
        *(shape for layer in (0, 1) for level, shape in shapes if level == layer),
        class_="fault-tree",
        viewBox=f"0 0 {width:g} {height:g}",
        width=width,
        height=height,
        role="img",
        aria_label=say("fault.drawing", act=tree.title),
    )


def _fitting(tree: ToldNode) -> _Box:
    """The tree with as much of it drawn as the page is wide."""
    boxes = [_laid_out(tree, least) for least in DRAWN]
    return next((box for box in boxes if box.width <= PAGE), boxes[-1])


def _laid_out(node: ToldNode, least: float) -> _Box:
    below = []
    for branch in sorted(node.outcomes, key=_from_the_left):
        if branch.chance >= least:
            follows = branch.node if branch.node and branch.node.chance >= least else None
            below.append((branch, _laid_out(follows, least) if follows else None))
    widths = [box.width if box else END_WIDTH for _, box in below]
    width = max(BOX, sum(widths) + APART * max(0, len(widths) - 1))
    small = say("fault.own", minutes=f"{node.minutes_own:.0f}")
    opens = ", ".join(node.letters)
    if opens:
        small += f"; {say('fault.opens', minutes=f'{node.minutes_access:.0f}', what=opens)}"
    lines, short = wrap(node.title, CHARS), wrap(small, CHARS_SMALL)
    return _Box(node, tuple(lines), tuple(short), width, tuple(below))


def _from_the_left(branch: ToldBranch) -> tuple[bool, float]:
    """What goes on stands at the left, the likeliest first; what ends at the right."""
    return branch.node is None, -branch.chance


def _deep(box: _Box) -> float:
    ends = [_deep(inner) if inner else END_HEIGHT for _, inner in box.below]
    return box.height + (box.reach + max(ends) if ends else 0.0)


def _drawn(box: _Box, left: float, top: float) -> Iterator[tuple[int, str]]:
    """Shapes with their layer: branches lie below boxes."""
    middle = left + BOX / 2
    yield 1, _boxed(box, left, top)
    if box.node.minutes_access > DEAR:
        yield 0, _way_in(box, left, top)
    bottom, child_top = top + box.height, top + box.height + box.reach
    whole = sum(max(branch.chance, 0.0) for branch, _ in box.below) or 1.0
    out = middle - min(BOX - 24, WIDEST * whole) / 2
    widths = [inner.width if inner else END_WIDTH for _, inner in box.below]
    at = left
    for (branch, inner), width in zip(box.below, widths, strict=True):
        wide = max(THINNEST, WIDEST * branch.chance)
        target = at + (BOX if inner else END_WIDTH) / 2
        yield 0, _band(out + wide / 2, bottom, target, child_top, wide)
        said = f"{branch.words.partition(':')[0]} {branch.chance * 100:.0f} %"
        yield 1, text(target + wide / 2 + 5, child_top - 12, said, class_="said")
        if inner:
            yield from _drawn(inner, at, child_top)
        else:
            yield 1, _end(branch, at, child_top)
        out += wide
        at += width + APART


def _boxed(box: _Box, left: float, top: float) -> str:
    kind = "repair" if box.node.kind == "repair" else "test"
    shapes = el("rect", x=left, y=top, width=BOX, height=box.height, class_="body")
    at = top + PAD + 13
    for line in box.lines:
        shapes += text(left + PAD, at, line, class_="act")
        at += LINE
    for line in box.small:
        shapes += text(left + PAD, at - 2, line, class_="small")
        at += 15
    opens = " ".join(one.key for one in box.node.opens) or None
    return el("g", title(box.node.title), shapes, class_=f"fault-{kind}", data_part=opens)


def _end(branch: ToldBranch, left: float, top: float) -> str:
    shapes = el("rect", x=left, y=top, width=END_WIDTH, height=END_HEIGHT, class_="end")
    words = say("fault.watch") if branch.outcome == "cured" else "…"
    shapes += text(left + END_WIDTH / 2, top + 22, words, class_="small mid")
    return el("g", shapes, class_="fault-end")


def _band(x: float, top: float, target: float, bottom: float, wide: float) -> str:
    half, mid = wide / 2, (top + bottom) / 2
    path = (
        f"M{x - half:.1f} {top:.1f}C{x - half:.1f} {mid:.1f} {target - half:.1f} {mid:.1f} "
        f"{target - half:.1f} {bottom:.1f}L{target + half:.1f} {bottom:.1f}"
        f"C{target + half:.1f} {mid:.1f} {x + half:.1f} {mid:.1f} {x + half:.1f} {top:.1f}Z"
    )
    return el("path", d=path, class_="branch")


def _way_in(box: _Box, left: float, top: float) -> str:
    """A line where the way in opens, with what it takes."""
    minutes = f"{box.node.minutes_access:.0f}"
    line = el("path", d=f"M{left:.1f} {top - 6:.1f}h{box.width:.1f}", class_="way-in-line")
    return line + text(left, top - 10, say("fault.way", minutes=minutes), class_="way")
