"""The plan to draw on: every part and lead to be taken hold of, the one in hand with its marks."""

from itertools import pairwise

from eldrim.core.engine import Engine, Part
from eldrim.core.engine.parts import LINE_KINDS
from eldrim.core.leads.ways import lead_ways
from eldrim.core.words.messages import gettext
from eldrim.drawing.engine_plan import PlanView, every_hole, frame, ground
from eldrim.drawing.svg import el, path, text, title


def draw(engine: Engine, selected: str) -> str:
    """Return the plan with every part to be taken hold of, the selected one with its handle."""
    view = PlanView(photo=True)
    order = sorted(engine.parts.items(), key=lambda i: (i[0] == selected, i[1].level, i[0]))
    places = _name_places(engine, selected)
    parts = "".join(
        _to_hold(key, part, places[key], selected=key == selected) for key, part in order
    )
    in_hand = engine.parts.get(selected)
    handle = "".join(drawn(selected, in_hand) for drawn in (_handle, _corners, _pieces) if in_hand)
    return el(
        "svg",
        title(gettext("Plan of {engine} from above, to be drawn on", engine=engine.title)),
        *ground(engine, view),
        parts,
        el("g", every_hole(engine, view), class_="under-hand"),
        _leads_to_hold(engine, selected),
        handle,
        class_="engine-plan editing",
        viewBox=frame(engine, view),
        role="group",
        data_editing="yes",
        aria_label=gettext("Plan of {engine} from above, to be drawn on", engine=engine.title),
    )


# About how wide a letter of a part's name is on the plan, and how high.
LETTER_WIDE, LETTER_HIGH = 7.0, 14.0


def _name_places(engine: Engine, selected: str) -> dict[str, tuple[float, float]]:
    """Where each part is named: at a corner of it, none over another while there is a free one."""
    order = sorted(engine.parts.items(), key=lambda i: (i[0] != selected, -i[1].level, i[0]))
    taken: list[tuple[float, float, float]] = []
    places = {}
    for key, part in order:
        wide = LETTER_WIDE * len(part.name)
        at = _corners_for_name(part, wide)
        places[key] = next((one for one in at if _is_free(one, wide, taken)), at[0])
        taken.append((*places[key], wide))
    return places


def _corners_for_name(part: Part, wide: float) -> list[tuple[float, float]]:
    (left, right), (top, bottom) = (
        (min(side), max(side)) for side in zip(*part.outline, strict=True)
    )
    inside = [(x, y) for y in (top + 15, bottom - 6) for x in (left + 5, right - wide - 5)]
    outside = [(left + 5, top - 5), (left + 5, bottom + LETTER_HIGH), (right + 5, top + 15)]
    return [*inside, (left + 5, (top + bottom) / 2), *outside]


def _is_free(at: tuple[float, float], wide: float, taken: list[tuple[float, float, float]]) -> bool:
    return not any(
        at[0] < x + other and x < at[0] + wide and abs(at[1] - y) < LETTER_HIGH
        for x, y, other in taken
    )


def _to_hold(key: str, part: Part, named_at: tuple[float, float], *, selected: bool) -> str:
    points, closed = list(part.outline), part.kind not in LINE_KINDS
    shape = el("path", d=path(points, closed), class_="outline" if closed else "cable")
    said = gettext("{part}, level {level}", part=part.name, level=part.level)
    said += gettext(", selected") if selected else ""
    name = text(*named_at, part.name, class_="part-name")
    state = " selected" if selected else ""
    return el(
        "g",
        title(said),
        shape,
        name,
        class_=f"part hold {part.kind.value}{state}",
        data_edit=key,
        tabindex="0",
        role="button",
        aria_label=said,
        aria_pressed="true" if selected else "false",
    )


def _corners(key: str, part: Part) -> str:
    """The corners of the part in hand, and between them where one can be put on."""
    points, closed = part.outline, part.kind not in LINE_KINDS
    sides = pairwise([*points, points[0]] if closed else points)
    between = [
        _mark_of(
            ((x + other_x) / 2, (y + other_y) / 2),
            gettext("Put a corner on {part} here, {place}", part=part.name, place=place + 1),
            r=5,
            class_="between",
            data_between=f"{key}/{place}",
            data_of="part",
        )
        for place, ((x, y), (other_x, other_y)) in enumerate(sides)
    ]
    corners = [
        _mark_of(
            at,
            gettext("Corner {place} of {part}", place=place + 1, part=part.name),
            r=8,
            class_="holder",
            data_holder=f"{key}/{place}",
            data_of="part",
        )
        for place, at in enumerate(points)
    ]
    return "".join(between) + "".join(corners)


def _pieces(key: str, part: Part) -> str:
    """Where the bolts, clips and so on of the part in hand sit, as far as that is stated."""
    return "".join(
        _piece(at, f"{key}/{place}/{name}", _piece_words(name, place, part))
        for name, joint in part.joints.items()
        for place, at in enumerate(joint.at)
    )


def _piece_words(name: str, place: int, part: Part) -> str:
    return gettext("{joint} {place} of {part}", joint=name, place=place + 1, part=part.name)


def _piece(at: tuple[float, float], holds: str, said: str) -> str:
    """A diamond to take hold of: no corner and no holder is drawn so."""
    x, y, half = *at, 9.0
    return el(
        "path",
        title(said),
        d=path([(x, y - half), (x + half, y), (x, y + half), (x - half, y)], closed=True),
        class_="piece",
        data_holder=holds,
        data_of="piece",
        tabindex="0",
        role="button",
        aria_label=said,
    )


def _leads_to_hold(engine: Engine, selected: str) -> str:
    """Every lead to be taken in hand; the one in hand with its holders and where one can be put."""
    ways = [(selected == f"lead/{hole}", hole, way) for hole, way in lead_ways(engine).items()]
    # The one in hand on top, so that no other is taken in its place.
    return "".join(
        _lead_to_hold(hole, way.points, mine=mine)
        for mine, hole, way in sorted(ways, key=lambda one: one[0])
        if way.points
    )


def _lead_to_hold(hole: str, points: tuple[tuple[float, float], ...], *, mine: bool) -> str:
    line, name = path(list(points), closed=False), gettext("lead {hole}", hole=hole)
    state = " selected" if mine else ""
    lead = el(
        "g",
        title(gettext("Lead {hole}", hole=hole)),
        el("path", d=line, class_="lead-way"),
        el("path", d=line, class_="lead-reach"),
        class_=f"lead-hold{state}",
        data_edit=f"lead/{hole}",
        tabindex="0",
        role="button",
        aria_label=gettext("Way of {name}", name=name) + (gettext(", selected") if mine else ""),
    )
    if not mine:
        return lead
    between = [
        _mark_of(
            ((x + other_x) / 2, (y + other_y) / 2),
            gettext("Put a holder of {name} here, {place}", name=name, place=place + 1),
            r=6,
            class_="between",
            data_between=f"{hole}/{place}",
        )
        for place, ((x, y), (other_x, other_y)) in enumerate(pairwise(points))
    ]
    holders = [
        _mark_of(
            at,
            gettext("Holder {place} of {name}", place=place + 1, name=name),
            r=10,
            class_="holder",
            data_holder=f"{hole}/{place}",
        )
        for place, at in enumerate(points[1:-1])
    ]
    return lead + "".join(between) + "".join(holders)


def _mark_of(at: tuple[float, float], said: str, **attributes: object) -> str:
    """A round mark to take hold of."""
    more = {"tabindex": "0", "role": "button", "aria_label": said, **attributes}
    return el("circle", title(said), cx=at[0], cy=at[1], **more)


def _handle(key: str, part: Part) -> str:
    """A square at the lower right corner, to make the part larger or smaller."""
    x, y = max(point[0] for point in part.outline), max(point[1] for point in part.outline)
    return el("rect", x=x + 9, y=y + 9, width=14, height=14, class_="handle", data_size=key)
