"""A photo with its marks: numbered rings and arrows that hold on any ground."""

from eldrim.core.procedure.photos import Mark, Photo
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text, title

# Shares of the photo's width.
RING, ARROW, LINE, NUMBER = 0.05, 0.13, 0.006, 0.034


def draw(photo: Photo, source: str) -> str:
    """Return the photo with its marks as SVG; ``source`` is the address of the picture."""
    wide, high = photo.width, photo.height
    marks = "".join(_mark(index, m, wide, high) for index, m in enumerate(photo.marks, 1))
    picture = el("image", href=source, width=wide, height=high)
    said = [mark.words for mark in photo.marks if mark.words]
    words = ". ".join([photo.caption or say("draw.photo"), *said])
    return el(
        "svg",
        title(words),
        picture,
        marks,
        viewBox=f"0 0 {wide} {high}",
        role="img",
        class_="photo",
    )


def _mark(number: int, mark: Mark, wide: int, high: int) -> str:
    x, y, unit = mark.x * wide, mark.y * high, wide
    # Dark under light: seen on chrome and on shadow.
    shape = _ring(x, y, unit) if mark.kind == "ring" else _arrow(x, y, unit, wide, high)
    under = el("g", shape, stroke="#16211f", stroke_width=unit * LINE * 2.4)
    over = el("g", shape, stroke="#fffdf6", stroke_width=unit * LINE)
    at_x, at_y = _label(mark, x, y, unit, wide, high)
    plate = el(
        "circle",
        cx=at_x,
        cy=at_y,
        r=unit * NUMBER * 0.78,
        fill="#16211f",
        stroke="#fffdf6",
        stroke_width=unit * LINE * 0.6,
    )
    said = text(
        at_x,
        at_y + unit * NUMBER * 0.36,
        str(number),
        fill="#fffdf6",
        font_size=unit * NUMBER,
        text_anchor="middle",
        font_weight="700",
    )
    return el("g", under, over, plate, said, fill="none")


def _ring(x: float, y: float, unit: float) -> str:
    return el("circle", cx=x, cy=y, r=unit * RING, fill="none")


def _tail(x: float, y: float, unit: float, wide: int, high: int) -> tuple[float, float]:
    """Where an arrow starts: towards the middle of the photo, where there is room."""
    side = 1 if x < wide / 2 else -1
    down = 1 if y < high / 2 else -1
    return x + side * unit * ARROW * 0.7, y + down * unit * ARROW * 0.7


def _arrow(x: float, y: float, unit: float, wide: int, high: int) -> str:
    tail_x, tail_y = _tail(x, y, unit, wide, high)
    dx, dy = (tail_x - x) * 0.32, (tail_y - y) * 0.32
    shaft = path([(tail_x, tail_y), (x, y)], closed=False)
    head = path([(x + dx, y), (x, y), (x, y + dy)], closed=False)
    return el(
        "path", d=f"{shaft} {head}", fill="none", stroke_linecap="round", stroke_linejoin="round"
    )


def _label(
    mark: Mark, x: float, y: float, unit: float, wide: int, high: int
) -> tuple[float, float]:
    if mark.kind == "arrow":
        return _tail(x, y, unit, wide, high)
    up = -1 if y > high * 0.15 else 1
    return x + unit * RING * 0.9, y + up * unit * RING * 0.9
