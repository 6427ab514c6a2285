"""The well in section with the stack in it, to scale, its clearances dimensioned."""

import math

from eldrim.core.base.quantity import format_number
from eldrim.core.tools.stack import Stack, StackPiece
from eldrim.core.words import say
from eldrim.drawing.svg import el, path, text

# Pixels to a millimetre; every length in the drawing is a length of the stack times this.
SCALE = 2.4
AXIS, WIDTH, METAL = 230.0, 780.0, 52.0
PLUG_THREAD_MM, MARGIN_MM = 16.0, 14.0
HANDLE_SHOWN_MM = 62.0
HATCH = el(
    "defs",
    el(
        "pattern",
        el("path", d="M0 9L9 0", class_="hatch-line"),
        id="hatch-metal",
        width=9,
        height=9,
        patternUnits="userSpaceOnUse",
    ),
)


def draw(stack: Stack) -> str:
    """Return the section for one stack on a plug or fastener."""
    up = max(
        stack.rises + stack.handle_head + MARGIN_MM,
        (stack.room or 0) + MARGIN_MM,
        stack.surround + MARGIN_MM,
    )
    if stack.room is not None and stack.room > stack.rises + 90:
        up = stack.rises + stack.handle_head + MARGIN_MM
    down = stack.below + PLUG_THREAD_MM + 12
    view = _View(stack, up)
    height = (up + down) * SCALE
    return el(
        "svg",
        HATCH,
        view.metal(),
        view.pieces(),
        view.head(),
        view.handle(),
        view.over(),
        view.dimensions(),
        view.names(),
        class_="well-section",
        viewBox=f"0 0 {WIDTH:g} {height:.1f}",
        role="img",
        aria_label=_description(stack),
    )


def _description(stack: Stack) -> str:
    return say(
        "draw.stack",
        action=say(f"action.{stack.action}").capitalize(),
        pieces=", ".join(f"{piece.name} {_mm(piece.length)}" for piece in stack.pieces),
        length=_mm(stack.length),
        depth=_mm(stack.below),
        rise=_mm(stack.rises),
    )


def _mm(value: float) -> str:
    return f"{format_number(value, 1)} mm"


class _View:
    """One section. Heights count from the rim upwards, in mm; ``y`` turns them into the page."""

    def __init__(self, stack: Stack, up: float) -> None:
        self.stack, self.up = stack, up
        widest = max((piece.outside for piece in stack.pieces), default=20.0)
        self.bore = stack.bore or widest + 14

    def y(self, height: float) -> float:
        return (self.up - height) * SCALE

    def metal(self) -> str:
        """The head on both sides of the well, hatched, with what stands round it."""
        half, s = self.bore / 2 * SCALE, self.stack
        floor, rim, bump = self.y(-s.below), self.y(0), self.y(s.surround)
        shapes = []
        for side in (-1, 1):
            inner, outer = AXIS + side * half, AXIS + side * (half + METAL)
            points = [(inner, floor), (inner, rim), (inner + side * 12, rim)]
            points += [
                (inner + side * 18, bump),
                (outer, bump),
                (outer, floor + 30),
                (AXIS + side * 14, floor + 30),
                (AXIS + side * 14, floor),
            ]
            shapes.append(el("path", d=path(points), class_="metal"))
        return "".join(shapes)

    def head(self) -> str:
        """The plug or fastener at the bottom: thread, hex, what goes up inside the socket."""
        s, y0 = self.stack, self.y(-self.stack.below)
        hexagon = el(
            "rect", x=AXIS - 19, y=y0 - 9 * SCALE, width=38, height=9 * SCALE, class_="hidden"
        )
        thread = el(
            "rect", x=AXIS - 13, y=y0, width=26, height=PLUG_THREAD_MM * SCALE, class_="thread"
        )
        tall = max(s.grip, 8.0) * SCALE
        core = el("rect", x=AXIS - 8, y=y0 - tall, width=16, height=tall, class_="hidden")
        return thread + hexagon + (core if s.grip else "")

    def pieces(self) -> str:
        """Socket, extensions and joints, each as long as it is; what leans is drawn leaning."""
        shapes, at, x = [], -self.stack.below, AXIS
        for piece in self.stack.pieces:
            shapes.append(self._piece(piece, x, at))
            x += piece.length * math.sin(math.radians(piece.lean)) * SCALE
            at += piece.length * math.cos(math.radians(piece.lean))
        self.top = (x, at)
        return "".join(shapes)

    def _piece(self, piece: StackPiece, x: float, at: float) -> str:
        wide, tall = piece.outside * SCALE, piece.length * SCALE
        bottom = self.y(at)
        turn = f"rotate({piece.lean:g} {x:.1f} {bottom:.1f})" if piece.lean else None
        body = el(
            "rect",
            x=x - wide / 2,
            y=bottom - tall,
            width=wide,
            height=tall,
            class_=f"piece {piece.kind}",
            data_piece=piece.id,
        )
        inner = ""
        if piece.kind == "extension":
            thin = wide * 0.32
            inner = el(
                "rect",
                x=x - thin,
                y=bottom - tall + 9,
                width=2 * thin,
                height=max(tall - 18, 2),
                class_="shank",
            )
        if piece.kind == "swivel":
            inner = el("circle", cx=x, cy=bottom - tall / 2, r=wide * 0.28, class_="shank")
        return el("g", body, inner, transform=turn)

    def handle(self) -> str:
        """The handle's head and the start of its bar, broken off."""
        if not self.stack.handle:
            return ""
        x, at = self.top
        tall, top = self.stack.handle_head * SCALE, self.y(at + self.stack.handle_head)
        bar = HANDLE_SHOWN_MM * SCALE
        grip = el(
            "rect", x=x - 16 * SCALE, y=top, width=32 * SCALE, height=tall, class_="handle", rx=8
        )
        arm = el(
            "path",
            d=f"M{x + 38:.1f} {top + tall * 0.3:.1f}h{bar:.1f}l-6 {tall * 0.2:.1f}"
            f"l6 {tall * 0.2:.1f}h-{bar:.1f}z",
            class_="handle",
        )
        lean = self.stack.pieces[-1].lean if self.stack.pieces else 0.0
        turn = f"rotate({lean:g} {x:.1f} {top + tall:.1f})" if lean else None
        return el("g", arm, grip, transform=turn)

    def over(self) -> str:
        """What stands over the well, where it limits the room."""
        room = self.stack.room
        if room is None or room > self.up:
            return ""
        y = self.y(room)
        left, right = AXIS - 150, AXIS + 200
        box = el(
            "path", d=path([(left, y), (right, y), (right, y - 22), (left, y - 22)]), class_="metal"
        )
        return box + text(left + 6, y - 28, say("draw.room", figure=_mm(room)), class_="tiny")

    def dimensions(self) -> str:
        s, left = self.stack, AXIS - self.bore / 2 * SCALE - METAL
        shapes = [self._height(left - 16, -s.below, 0, _mm(s.below), say("draw.deep"))]
        shapes.append(self._height(left - 16, 0, s.rises, _mm(s.rises), say("draw.over_rim")))
        if s.surround and s.rises > s.surround:
            shapes.append(
                self._height(
                    AXIS + self.bore / 2 * SCALE + METAL + 10,
                    s.surround,
                    s.rises,
                    _mm(s.clears),
                    say("draw.clear"),
                )
            )
        if s.room is not None and s.room_left is not None and s.room <= self.up:
            shapes.append(
                self._height(
                    AXIS - 118, s.room - s.room_left, s.room, _mm(s.room_left), say("draw.left")
                )
            )
        return "".join(shapes) + self._bore()

    def _height(self, x: float, low: float, high: float, size: str, name: str) -> str:
        y1, y2 = self.y(low), self.y(high)
        line = el(
            "path",
            d=f"M{x - 6:.1f} {y1:.1f}h12M{x - 6:.1f} {y2:.1f}h12M{x:.1f} {y1:.1f}V{y2:.1f}",
            class_="dim",
        )
        middle = (y1 + y2) / 2
        if x > AXIS:
            return line + text(x + 8, middle + 4, f"{size} {name}", class_="value")
        return (
            line
            + text(x - 9, middle + 1, size, class_="end value")
            + text(x - 9, middle + 16, name, class_="end tiny")
        )

    def _bore(self) -> str:
        if self.stack.bore is None or self.stack.bore_left is None:
            return ""
        half, y = self.bore / 2 * SCALE, self.y(-self.stack.below) + 44
        line = el(
            "path",
            d=f"M{AXIS - half:.1f} {y - 6:.1f}v12M{AXIS + half:.1f} {y - 6:.1f}v12"
            f"M{AXIS - half:.1f} {y:.1f}H{AXIS + half:.1f}",
            class_="dim",
        )
        said = say("draw.bore", figure=_mm(self.stack.bore), free=_mm(self.stack.bore_left))
        return line + text(AXIS + half + 10, y + 4, said, class_="value")

    def names(self) -> str:
        """The pieces by name and length, from the top down, each led to its place."""
        shapes, at = [], -self.stack.below
        middles = []
        for piece in self.stack.pieces:
            rise = piece.length * math.cos(math.radians(piece.lean))
            middles.append((at + rise / 2, piece))
            at += rise
        labels = [(self.y(hole), f"{p.name}", _mm(p.length), p.outside) for hole, p in middles]
        if self.stack.handle:
            y = self.y(at + self.stack.handle_head / 2)
            labels.append((y, self.stack.handle, "", 32.0 + 2 * HANDLE_SHOWN_MM))
        free = 1e9
        x = AXIS + 226
        for y, name, size, outside in labels:
            place = min(y, free - 34)
            free = place
            start = min(AXIS + outside / 2 * SCALE, x - 30)
            shapes.append(
                el("path", d=f"M{start:.1f} {y:.1f}L{x - 8:.1f} {place:.1f}", class_="leader")
            )
            shapes.append(text(x, place + (0 if size else 5), name, class_="name"))
            if size:
                shapes.append(text(x, place + 15, size, class_="tiny"))
        return "".join(shapes)
