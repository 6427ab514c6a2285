"""Rows of a unit's life below its gaps: faces of its plugs, what was marked, what it cost."""

from collections.abc import Mapping
from typing import Protocol
from uuid import UUID

from eldrim.core.engine.targets import hole_order
from eldrim.core.run.life import Face, Moment, Noted
from eldrim.core.words.language import day_words
from eldrim.core.words.messages import gettext
from eldrim.drawing.plug_condition import LOOKS, PLAIN, VIEW
from eldrim.drawing.svg import el, path, text, title

FACE_ROW, HEAD, MARKS, COSTS = 25.0, 22.0, 48.0, 84.0
FACE_WIDTH, FACE_HEIGHT = 27.0, 22.0
# Planned and real cost of a run.
CostOfRun = tuple[float, float]


class TimeAxis(Protocol):
    """Where a moment lies across the picture, and its ends."""

    @property
    def left(self) -> float: ...
    @property
    def right(self) -> float: ...
    def at(self, moment: Moment) -> float:
        """A run's place."""
        ...


def faces_height(faces: tuple[Face, ...]) -> float:
    """How high the faces are: a row a hole."""
    return HEAD + FACE_ROW * len({one.hole for one in faces}) + 14 if faces else 0.0


def faces(found: tuple[Face, ...], across: TimeAxis, top: float) -> str:
    """A row a hole, its plug as it looked at each reading, each a link to its run."""
    holes = sorted({one.hole for one in found}, key=hole_order)
    shapes = [text(across.left, top + 4, gettext("How its plugs looked"), class_="head")]
    for row, hole in enumerate(holes):
        y = top + HEAD + row * FACE_ROW
        shapes.append(text(across.left - 8, y + 5, hole, class_="value"))
        shapes += [_face(one, across, y) for one in found if one.hole == hole]
    return "".join(shapes)


def _face(one: Face, across: TimeAxis, y: float) -> str:
    known = one.look if one.look in LOOKS else PLAIN
    look = el(
        "svg",
        el("use", href=f"#look-{known}"),
        x=across.at(one.at) - FACE_WIDTH / 2,
        y=y - FACE_HEIGHT / 2,
        width=FACE_WIDTH,
        height=FACE_HEIGHT,
        viewBox=VIEW,
        class_="face",
    )
    said = title(
        gettext("Hole {hole}: {said}", hole=one.hole, said=f"{one.words}, {day_words(one.at.day)}")
    )
    return el("a", said, look, href=f"/log/{one.at.run}")


def marks(found: tuple[Noted, ...], across: TimeAxis, top: float) -> str:
    """A corner where something was marked, a bar across it where codes were read."""
    y = top + 16
    head = gettext("Marked, a corner; fault codes, a corner on a bar")
    line = el("path", d=f"M{across.left:g} {y + 8:g}H{across.right:g}", class_="axis")
    shapes = [text(across.left, top, head, class_="head"), line]
    for one in found:
        x = across.at(one.at)
        corner = el("path", d=path([(x - 6, y + 7), (x, y - 5), (x + 6, y + 7)]), class_="marked")
        bar = el("path", d=f"M{x - 9:.1f} {y + 12:g}h18", class_="codes") if one.codes else ""
        said = "; ".join((*one.codes, *one.words))
        words = title(f"{day_words(one.at.day)}: {said}")
        shapes.append(el("a", words, corner, bar, href=f"/log/{one.at.run}"))
    return "".join(shapes)


def costs(
    moments: tuple[Moment, ...], known: Mapping[UUID, CostOfRun], across: TimeAxis, top: float
) -> str:
    """A bar a run as high as it cost, and a rule across it where it was planned."""
    most = max((max(known[m.run]) for m in moments if m.run in known), default=0.0) or 1.0
    bottom = top + COSTS - 26
    high = COSTS - 44

    def y(cost: float) -> float:
        return bottom - cost / most * high

    shapes = [
        text(
            across.left,
            top,
            gettext("What each run cost; a rule where it was planned"),
            class_="head",
        ),
        text(across.left - 6, y(most) + 4, f"{most:.0f} €", class_="value"),
        el("path", d=f"M{across.left:g} {bottom:g}H{across.right:g}", class_="axis"),
    ]
    for moment in moments:
        if moment.run not in known:
            continue
        planned, real = known[moment.run]
        x = across.at(moment)
        bar = el("rect", x=x - 3, y=y(real), width=6, height=bottom - y(real), class_="cost")
        rule = el("path", d=f"M{x - 7:.1f} {y(planned):.1f}h14", class_="planned")
        said = title(
            gettext(
                "{day}: {real} €, planned {planned} €",
                day=day_words(moment.day),
                real=f"{real:.0f}",
                planned=f"{planned:.0f}",
            )
        )
        shapes.append(el("a", said, bar, rule, href=f"/log/{moment.run}"))
    return "".join(shapes)
