"""The engine seen from above: holes, what lies over them, what lifts off, where to stand."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from eldrim.core.engine import Engine, Part
from eldrim.core.engine.model import Side
from eldrim.core.engine.parts import LINE_KINDS
from eldrim.core.leads.ways import tower_places
from eldrim.core.procedure.model import Move
from eldrim.core.words import say
from eldrim.core.words.messages import gettext
from eldrim.drawing import balloons, polygon
from eldrim.drawing.svg import el, path, text, title

HOLE, CORE = 30.0, 17.0
HATCHES = ((9.0, 0.8), (6.0, 0.9), (4.0, 1.0))
MARGIN = 46.0
# From balloon to balloon, in radii.
BALLOON_GAP = 2.5
# A leader ends so far inside the part it names, where there is room.
LEADER_END_MM = 14.0

# Where the page itself points at holes and parts: every one is drawn to be pointed at.
ANY = "*"
# So many letters stand beside a hole.
MOST_LETTERS = 2


@dataclass(frozen=True)
class PlanView:
    """What to show: chosen holes, moves made, links of the holes, cost levels 0 to 2.

    ``letters`` stand at holes, for what is said of them beside the plan; ``opened`` are parts that
    are moved away, with the letter each has there. ``balloon`` is the radius of a balloon in mm:
    larger where the whole plan stands small, as is ``digit``, the height of the numbers of holes.
    ``ways`` are the ways of leads by hole, ``swap`` is what a tapped hole renews, ``at_towers``
    tells that the distributor or the pack is worked at; ``photo`` lays the sheet's own picture
    under it, where it has one.
    """

    chosen: frozenset[str] = frozenset()
    moves: tuple[Move, ...] = ()
    links: Mapping[str, str] = field(default_factory=dict)
    levels: Mapping[str, int] = field(default_factory=dict)
    costs: Mapping[str, str] = field(default_factory=dict)
    compact: bool = False
    here: str = ""
    small_moves: tuple[str, ...] = ()
    letters: Mapping[str, str] = field(default_factory=dict)
    opened: Mapping[str, str] = field(default_factory=dict)
    balloon: float = 16
    digit: float = 0
    ways: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    swap: str = "#way-in"
    at_towers: bool = False
    photo: bool = False

    @property
    def marks(self) -> dict[str, str]:
        """What stands in the balloon of each part that moves."""
        return {move.part: str(move.number) for move in self.moves} | dict(self.opened)


def draw(engine: Engine, view: PlanView) -> str:
    """Return the plan as an SVG element, to scale in millimetres."""
    layers = [*ground(engine, view), _ways(view)]
    holes = every_hole(engine, view)
    parts = "" if view.compact else _parts(engine, view)
    small = [_small_moves(engine, view), _small_part(engine, view), holes]
    layers += small if view.compact else [parts, holes]
    layers += [] if view.compact else [_balloons(engine, view)]
    return el(
        "svg",
        title(_description(engine)),
        *layers,
        class_="engine-plan compact" if view.compact else "engine-plan",
        viewBox=frame(engine, view),
        role="group" if view.links else "img",
        aria_label=_description(engine),
    )


def ground(engine: Engine, view: PlanView) -> list[str]:
    """What lies under everything that moves: the photo, the surroundings, the block, the towers."""
    return [
        _defs(),
        _photo(engine) if view.photo else "",
        _surroundings(engine, view),
        _block(engine),
        _towers(engine, view),
    ]


def every_hole(engine: Engine, view: PlanView) -> str:
    """The holes with their numbers."""
    return "".join(_hole(engine, hole, view) for hole in engine.holes)


def _description(engine: Engine) -> str:
    mounting = say(f"draw.{engine.layout.mounting}")
    return say("draw.plan", engine=engine.title, mounting=mounting)


def frame(engine: Engine, view: PlanView) -> str:
    """The whole plan with room for balloons; when compact, only the block and what is at it."""
    if view.compact:
        x, y, width, height = engine.layout.block
        holes = [well.at for _, well in engine.holes.values()]
        left, top = (
            min(x, *(point[0] for point in holes)) - 66,
            min(y, *(point[1] for point in holes)) - 66,
        )
        right = max(x + width, *(hole[0] for hole in holes)) + 66
        bottom = max(y + height, *(point[1] for point in holes)) + 66
        # Whatever may be pointed at has to be inside.
        at = [p for part in engine.parts.values() for p in part.outline] if view.here else []
        for x, y in (point for way in view.ways.values() for point in way):
            at += [(x - 24, y - 24), (x + 24, y + 24)]
        left, right = (
            min([left, *(point[0] - 6 for point in at)]),
            max([right, *(point[0] + 6 for point in at)]),
        )
        top, bottom = (
            min([top, *(point[1] - 6 for point in at)]),
            max([bottom, *(point[1] + 6 for point in at)]),
        )
        return f"{left:g} {top:g} {right - left:g} {bottom - top:g}"
    width, height = engine.layout.plan
    return f"{-MARGIN:g} {-MARGIN:g} {width + 2 * MARGIN:g} {height + 2 * MARGIN:g}"


def _defs() -> str:
    patterns = "".join(
        el(
            "pattern",
            el("path", d=f"M0 0V{gap:g}", class_="hatch-line", stroke_width=line),
            id=f"hatch-{index}",
            width=gap,
            height=gap,
            patternUnits="userSpaceOnUse",
            patternTransform="rotate(45)",
        )
        for index, (gap, line) in enumerate(HATCHES)
    )
    wall = el(
        "pattern",
        el("path", d="M0 0V10", class_="wall-line"),
        id="hatch-wall",
        width=10,
        height=10,
        patternUnits="userSpaceOnUse",
        patternTransform="rotate(45)",
    )
    return el("defs", patterns, wall)


def _block(engine: Engine) -> str:
    x, y, width, height = engine.layout.block
    shapes = [el("rect", x=x, y=y, width=width, height=height, rx=10, class_="block")]
    for key in engine.banks:
        places = [w.at for hole, (n, w) in engine.holes.items() if engine.cylinders[n].bank == key]
        if places:
            shapes.append(_bank(places, engine.layout.block))
    return el("g", *shapes)


def _towers(engine: Engine, view: PlanView) -> str:
    """The distributor or the pack, with its towers, where the sheet states them."""
    places = tower_places(engine)
    if not places:
        return ""
    cap, shapes = engine.ignition.distributor, []
    if cap:
        radius = cap.across.mid / 2 + 14
        shapes.append(el("circle", cx=cap.at[0], cy=cap.at[1], r=radius, class_="cap"))
    else:
        row = [places[number] for number in sorted(places)]
        shapes.append(el("path", d=path(row, closed=False), class_="pack"))
    shapes += [el("circle", cx=x, cy=y, r=8, class_="tower-there") for x, y in places.values()]
    return el(
        "g",
        title(say("draw.towers")),
        *shapes,
        class_="towers worked" if view.at_towers else "towers",
    )


def _ways(view: PlanView) -> str:
    return "".join(
        el("path", d=path(list(way), closed=False), class_="lead-way")
        for way in view.ways.values()
        if way
    )


def _bank(places: list[tuple[float, float]], block: tuple[float, float, float, float]) -> str:
    """A head: room round its holes, kept inside the block where the holes lie inside it."""
    left, right = min(x for x, _ in places) - 56, max(x for x, _ in places) + 56
    top, bottom = min(y for _, y in places) - 56, max(y for _, y in places) + 56
    x, y, width, height = block
    if all(x <= px <= x + width and y <= py <= y + height for px, py in places):
        left, right = max(left, x + 8), min(right, x + width - 8)
        top, bottom = max(top, y + 8), min(bottom, y + height - 8)
    return el("rect", x=left, y=top, width=right - left, height=bottom - top, rx=8, class_="bank")


def _photo(engine: Engine) -> str:
    """The sheet's own picture, under everything; a page shows or hides it."""
    photo = engine.layout.photo
    if photo is None:
        return ""
    width, height = photo.size
    return el(
        "image",
        href=f"/images/{photo.image}.jpg",
        x=0,
        y=0,
        width=width,
        height=height,
        preserveAspectRatio="none",
        class_="plan-photo",
    )


def _surroundings(engine: Engine, view: PlanView) -> str:
    layout = engine.layout
    x, y, width, height = layout.block
    shapes = [_timing(layout.timing_end, (x, y, width, height), view.compact)]
    if layout.bulkhead is not None and not view.compact:
        shapes.append(_wall(layout.bulkhead, layout.plan))
    if not view.compact:
        shapes.append(_stand(layout.stand, layout.plan))
    return el("g", *shapes, class_="surroundings")


def _timing(side: Side, block: tuple[float, float, float, float], compact: bool) -> str:
    x, y, width, height = block
    depth, inset = 54.0, 0.15
    boxes = {
        Side.LEFT: (x - depth, y + height * inset, depth, height * (1 - 2 * inset)),
        Side.RIGHT: (x + width, y + height * inset, depth, height * (1 - 2 * inset)),
        Side.TOP: (x + width * inset, y - depth, width * (1 - 2 * inset), depth),
        Side.BOTTOM: (x + width * inset, y + height, width * (1 - 2 * inset), depth),
    }
    bx, by, bw, bh = boxes[side]
    box = el("rect", x=bx, y=by, width=bw, height=bh, rx=6, class_="block")
    if compact:
        return box
    cx, cy = bx + bw / 2, by + bh / 2
    turn = f"rotate(-90 {cx:g} {cy:g})" if side in (Side.LEFT, Side.RIGHT) else None
    return box + text(cx, cy + 5, say("draw.timing_end"), class_="label mid", transform=turn)


def _wall(side: Side, plan: tuple[float, float]) -> str:
    width, height = plan
    thick = 14.0
    boxes = {
        Side.TOP: (20, 6, width - 40, thick),
        Side.BOTTOM: (20, height - 6 - thick, width - 40, thick),
        Side.LEFT: (6, 20, thick, height - 40),
        Side.RIGHT: (width - 6 - thick, 20, thick, height - 40),
    }
    x, y, wide, tall = boxes[side]
    wall = el("rect", x=x, y=y, width=wide, height=tall, class_="wall", fill="url(#hatch-wall)")
    spots = {
        Side.TOP: (x + 4, y + tall + 16),
        Side.BOTTOM: (x + 4, y - 6),
        Side.LEFT: (x + wide + 6, y + 14),
        Side.RIGHT: (x - 66, y + 14),
    }
    return wall + text(*spots[side], say("draw.bulkhead"), class_="label")


def _stand(side: Side, plan: tuple[float, float]) -> str:
    width, height = plan
    spots = {
        Side.BOTTOM: (width * 0.3, height - 6, 0),
        Side.TOP: (width * 0.3, 6, 180),
        Side.LEFT: (6, height * 0.6, 90),
        Side.RIGHT: (width - 6, height * 0.6, -90),
    }
    x, y, turn = spots[side]
    chevron = el(
        "path",
        d="M-36 10L0 -12L36 10",
        class_="stand",
        transform=f"translate({x:g} {y:g}) rotate({turn})",
    )
    label = {
        Side.BOTTOM: (x, y + 30),
        Side.TOP: (x, y - 18),
        Side.LEFT: (x - 12, y + 58),
        Side.RIGHT: (x + 12, y + 58),
    }[side]
    anchor = {Side.LEFT: "label", Side.RIGHT: "label end"}.get(side, "label mid")
    return chevron + text(*label, say("draw.stand"), class_=anchor)


def _parts(engine: Engine, view: PlanView) -> str:
    moving = {move.part: move for move in view.moves}
    order = sorted(engine.parts.items(), key=lambda item: (item[1].level, item[0]))
    return "".join(_part(key, part, moving.get(key), view.opened.get(key)) for key, part in order)


def _part(key: str, part: Part, move: Move | None, letter: str | None) -> str:
    state = "moves" if move or letter else "stays"
    if move:
        said = say("draw.part_moves", number=move.number, part=part.name, why=move.why)
    elif letter:
        said = say("draw.part_opened", letter=letter, part=part.name)
    else:
        said = say("draw.part_stays", part=part.name)
    points = list(part.outline)
    if part.kind in LINE_KINDS:
        line = path(points, closed=False)
        shapes = el("path", d=line, class_="cable") + el("path", d=line, class_="cable-core")
    else:
        shapes = el("path", d=path(points), class_="outline")
    return el("g", title(said), shapes, class_=f"part {state} {part.kind.value}", data_part=key)


def _small_part(engine: Engine, view: PlanView) -> str:
    if view.here == ANY:
        return "".join(
            el(
                "path",
                d=path(list(p.outline), p.kind not in LINE_KINDS),
                class_="maybe-here",
                data_part=key,
            )
            for key, p in engine.parts.items()
        )
    part = engine.parts.get(view.here)
    if part is None:
        return ""
    closed = part.kind not in LINE_KINDS
    return el("path", d=path(list(part.outline), closed), class_="here-part")


def _small_moves(engine: Engine, view: PlanView) -> str:
    return "".join(
        el(
            "path",
            d=path(list(engine.parts[move].outline), engine.parts[move].kind not in LINE_KINDS),
            class_="small-move",
        )
        for move in view.small_moves
    )


def _hole(engine: Engine, hole: str, view: PlanView) -> str:
    _, well = engine.holes[hole]
    x, y = well.at
    chosen, here = hole in view.chosen, hole == view.here
    level = view.levels.get(hole)
    fill = f"url(#hatch-{level})" if level is not None else None
    size = HOLE * (1.5 if view.compact else 1)
    shapes = el("circle", cx=x, cy=y, r=size, class_="ring", fill=fill)
    shapes += el("circle", cx=x, cy=y, r=CORE, class_="core")
    if view.digit:
        size = max(size, view.digit * 0.66)
        line = f"stroke-width: {view.digit * 0.16:g}" if chosen else None
        shapes = el("circle", cx=x, cy=y, r=size, class_="ring", fill=fill, style=line)
        low = y + view.digit * 0.36
        shapes += text(x, low, hole, class_="mid", style=_large(view.digit))
    else:
        shapes += text(x, y + 7, hole, class_="number mid")
    if not view.compact:
        shapes += text(x, y + HOLE + 17, "", class_="stage mid", data_stage_of=hole)
    shapes += _said_of(view.letters.get(hole, ""), x, y, size)
    kind = " ".join(key for key, on in (("chosen", chosen), ("here", here)) if on)
    named = hole if view.here == ANY else None
    group = el("g", shapes, class_=f"hole {kind}".strip(), data_hole=named)
    return _pressed(hole, group, view) if hole in view.links else group


def _pressed(hole: str, group: str, view: PlanView) -> str:
    """A hole to press: it is chosen, or let go of."""
    chosen = hole in view.chosen
    said = (
        gettext("Hole {hole}, chosen", hole=hole)
        if chosen
        else gettext("Hole {hole}, not chosen", hole=hole)
    )
    said += f"; {view.costs[hole]}" if hole in view.costs else ""
    return el(
        "a",
        title(said),
        group,
        href=view.links[hole],
        data_swap=view.swap,
        data_key=hole,
        aria_label=said,
        role="button",
        aria_pressed="true" if chosen else "false",
    )


def _said_of(words: str, x: float, y: float, size: float) -> str:
    """Letters beside a hole; what is longer stands below it."""
    if len(words) > MOST_LETTERS:
        return text(x, y + size + 30, words, class_="said-of mid")
    return text(x + size, y - size + 10, words, class_="said-of") if words else ""


def _large(size: float) -> str:
    """The size of a number on paper; a page on the screen takes no style of its own."""
    return f"font-size: {size:g}px; font-weight: 700"


def _balloons(engine: Engine, view: PlanView) -> str:
    marks = view.marks
    if not marks:
        return ""
    width, height = engine.layout.plan
    inset = -MARGIN / 2
    frame = (inset, inset, width - 2 * inset, height - 2 * inset)
    anchors = {part: _anchor(engine, part) for part in marks}
    spots = balloons.place(anchors, frame, view.balloon * BALLOON_GAP)
    return "".join(_balloon(part, marks[part], spots[part], anchors[part], view) for part in spots)


def _balloon(
    part: str, mark: str, spot: tuple[float, float], anchor: tuple[float, float], view: PlanView
) -> str:
    radius = view.balloon
    return el(
        "g",
        el("path", d=path([spot, anchor], closed=False), class_="leader"),
        el("circle", cx=anchor[0], cy=anchor[1], r=3.5, class_="dot"),
        el("circle", cx=spot[0], cy=spot[1], r=radius, class_="balloon"),
        text(
            spot[0],
            spot[1] + radius * 0.375,
            mark,
            class_="mid balloon-number",
            style=_large(radius * 1.2) if view.digit else None,
        ),
        class_="callout",
        data_part=part,
    )


def _anchor(engine: Engine, part: str) -> tuple[float, float]:
    """A point a little inside the outline's corner nearest to the plan's edge, so that leaders
    stay short and end in the part they name.
    """
    width, height = engine.layout.plan
    outline = engine.parts[part].outline
    corner = min(outline, key=lambda p: (min(p[0], width - p[0], p[1], height - p[1]), p))
    return polygon.inside_corner(outline, corner, LEADER_END_MM)
