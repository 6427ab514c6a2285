"""The tool roll: every tool of a job in its pocket, in order of use, for counting out and back."""

from textwrap import wrap

from eldrim.core.procedure.model import RollItem
from eldrim.core.words import say
from eldrim.drawing.svg import el, text

POCKET, COLUMNS, TALL = 108.0, 10, 172.0
ROW = TALL + 76
# Every tool that states its size is drawn to this one scale.
PX_PER_MM = 0.42
FLOOR, STRAP = TALL - 10, 12.0


def draw(items: tuple[RollItem, ...], columns: int = COLUMNS) -> str:
    """Return the roll; a missing tool is an empty pocket, its outline broken."""
    rows = -(-len(items) // columns)
    width, height = POCKET * min(columns, max(len(items), 1)), ROW * rows
    cloths = [_cloth(min(columns, len(items) - columns * r), r) for r in range(rows)]
    pockets = [_pocket(item, index, columns) for index, item in enumerate(items)]
    missing = sum(bool(i.missing) for i in items)
    said = say("draw.roll", count=len(items))
    said += say("draw.roll_missing", count=missing) if missing else ""
    return el(
        "svg",
        *cloths,
        *pockets,
        class_="tool-roll",
        viewBox=f"0 0 {width:g} {height:g}",
        role="img",
        aria_label=said,
    )


# In a list each kind has a scale of its own: a socket would be a dot beside a breaker bar.
LYING_PX = {
    "socket": 0.8,
    "extension": 0.36,
    "swivel": 0.8,
    "reducer": 0.8,
    "handle": 0.26,
    "wrench": 0.2,
}


def lying(item: RollItem) -> str:
    """One tool lying on its side, to the scale of its kind: for lists."""
    if not item.length:
        return ""
    scale = LYING_PX[item.kind]
    larger = item.model_copy(
        update={
            "length": item.length * scale / PX_PER_MM,
            "outside": item.outside * scale / PX_PER_MM,
        }
    )
    wide = item.length * scale + 6
    shape = el("g", _tool(larger), transform="translate(3 15) rotate(90)")
    return el(
        "svg",
        shape,
        class_="tool-roll lying",
        viewBox=f"0 0 {wide:.0f} 30",
        width=f"{wide:.0f}",
        height=30,
        aria_hidden="true",
    )


def _cloth(pockets: int, row: int) -> str:
    """One row of the roll: the cloth, its seams, and the strap that holds the tools."""
    y, wide = ROW * row + 2, POCKET * pockets
    cloth = el("rect", x=1, y=y, width=wide - 2, height=TALL, class_="cloth")
    seams = "".join(f"M{POCKET * n:.0f} {y:.0f}v{TALL:.0f}" for n in range(1, pockets))
    return cloth + (el("path", d=seams, class_="seam") if seams else "")


def _pocket(item: RollItem, index: int, columns: int) -> str:
    x, y = POCKET * (index % columns), ROW * (index // columns)
    gone = " gone" if item.missing else ""
    strap = el(
        "rect", x=x + 6, y=y + FLOOR - STRAP - 2, width=POCKET - 12, height=STRAP, class_="strap"
    )
    number = text(x + 10, y + 22, str(index + 1), class_="place")
    words = wrap(item.name, 17)[:3]
    lines = [
        text(x + POCKET / 2, y + TALL + 18 + 14 * n, line, class_="mid name")
        for n, line in enumerate(words)
    ]
    uses = say("draw.once" if item.uses == 1 else "draw.uses", count=item.uses)
    said = say("draw.to_get") if item.missing else uses
    below = text(x + POCKET / 2, y + TALL + 20 + 14 * len(words), said, class_="mid tiny")
    shape = el(
        "g",
        _tool(item),
        transform=f"translate({x + POCKET / 2:.1f} {y + FLOOR:.1f})",
        class_=f"tool{gone}",
    )
    return el("g", strap, shape, number, *lines, below, class_=f"pocket{gone}")


def _tool(item: RollItem) -> str:
    """A silhouette standing on the pocket's floor, as long and as wide as the tool is."""
    long, wide = item.length * PX_PER_MM, item.outside * PX_PER_MM
    if item.kind == "socket":
        return _bar(wide, long) + el("path", d=f"M{-wide / 2:.1f} {-long * 0.4:.1f}h{wide:.1f}")
    if item.kind in ("extension", "swivel", "reducer"):
        end = min(7.0, long / 3)
        return _bar(wide * 0.5, long) + _bar(wide, end) + _bar(wide, end, long - end)
    if item.kind == "handle":
        return _bar(7, long) + _bar(11, long * 0.5) + el("circle", cx=0, cy=8 - long, r=9)
    if item.kind == "wrench":
        scale = "".join(f"M-6 {-long * 0.36 - 4 * n:.1f}h12" for n in range(6))
        grip = _bar(8, long) + _bar(14, long * 0.32)
        return grip + el("path", d=scale) + el("circle", cx=0, cy=8 - long, r=10)
    return _pouch()


def _pouch() -> str:
    """What states no size lies in a pouch with a flap; it is not drawn to scale."""
    body = el("path", d="M-28 -60v48q0 12 12 12h32q12 0 12 -12v-48z")
    return body + el("path", d="M-31 -66h62v20q-31 10 -62 0z") + el("circle", cx=0, cy=-43, r=3)


def _bar(wide: float, tall: float, up: float = 0.0) -> str:
    return el("rect", x=-wide / 2, y=-tall - up, width=wide, height=tall)
