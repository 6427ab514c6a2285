"""The plug from the side, to scale, with the sizes that make it this plug and no other."""

from eldrim.core.engine.model import Plug
from eldrim.core.words.messages import gettext
from eldrim.drawing.svg import el, path, text

SCALE, AXIS, WIDTH = 4.6, 210.0, 470.0
HEX_TALL, STRAP, TOP = 9.0, 3.4, 16.0


def draw(plug: Plug) -> str:
    """Return the plug: insulator up, electrode down, reach, hex, thread and gap dimensioned."""
    seat = TOP + plug.height.mid * SCALE
    foot = seat + plug.reach.mid * SCALE
    gap = max(plug.gap_supplied.mid * SCALE, 2.5)
    thread = float(plug.thread.removeprefix("M").partition("×")[0])
    view = [
        _upper(plug, seat),
        _thread(thread, seat, foot),
        _seat(plug, thread, seat),
        _strap(thread, foot, gap),
        _dimensions(plug, seat, foot, gap),
    ]
    said = gettext(
        "Plug {part_number}: thread {thread}, reach {reach}, {seat} seat, hex {hex}, gap as "
        "supplied {gap_supplied}",
        part_number=plug.part_number,
        thread=plug.thread,
        reach=plug.reach,
        seat=plug.seat,
        hex=plug.hex,
        gap_supplied=plug.gap_supplied,
    )
    return el(
        "svg",
        *view,
        class_="plug-figure",
        viewBox=f"0 0 {WIDTH:g} {foot + 46:.0f}",
        role="img",
        aria_label=said,
    )


def _upper(plug: Plug, seat: float) -> str:
    """Hex, insulator with its ribs, terminal."""
    half, tall = plug.hex.mid / 2 * SCALE, HEX_TALL * SCALE
    hexagon = el("rect", x=AXIS - half, y=seat - tall, width=2 * half, height=tall, class_="metal")
    edge = el(
        "path",
        d=f"M{AXIS - half / 2:.1f} {seat - tall:.1f}v{tall:.1f}"
        f"M{AXIS + half / 2:.1f} {seat - tall:.1f}v{tall:.1f}",
        class_="thin",
    )
    wide = 5.2 * SCALE
    nose = el(
        "path",
        d=path(
            [
                (AXIS - wide, seat - tall),
                (AXIS - wide * 0.8, TOP + 34),
                (AXIS + wide * 0.8, TOP + 34),
                (AXIS + wide, seat - tall),
            ]
        ),
        class_="white",
    )
    ribs = "".join(
        f"M{AXIS - wide * 0.86:.1f} {TOP + 46 + 10 * n:.1f}h{wide * 1.72:.1f}" for n in range(4)
    )
    tip = el("rect", x=AXIS - 9, y=TOP, width=18, height=34, class_="metal")
    return hexagon + edge + nose + el("path", d=ribs, class_="thin") + tip


def _thread(thread: float, seat: float, foot: float) -> str:
    half = thread / 2 * SCALE
    body = el("rect", x=AXIS - half, y=seat, width=2 * half, height=foot - seat, class_="metal")
    turns = "".join(
        f"M{AXIS - half:.1f} {y:.1f}l{2 * half:.1f} 3" for y in _every(seat + 8, foot - 6, 6.5)
    )
    return body + el("path", d=turns, class_="thin")


def _every(first: float, last: float, step: float) -> list[float]:
    return [first + step * n for n in range(max(int((last - first) / step), 0))]


def _seat(plug: Plug, thread: float, seat: float) -> str:
    half = thread / 2 * SCALE
    if plug.seat == "gasket":
        return el(
            "rect",
            x=AXIS - half - 10,
            y=seat - 1,
            width=2 * half + 20,
            height=7,
            class_="ring",
            rx=3,
        )
    cone = [
        (AXIS - half - 9, seat - 8),
        (AXIS + half + 9, seat - 8),
        (AXIS + half, seat + 7),
        (AXIS - half, seat + 7),
    ]
    return el("path", d=path(cone), class_="ring")


def _strap(thread: float, foot: float, gap: float) -> str:
    half = thread / 2 * SCALE
    centre = el("rect", x=AXIS - 5, y=foot, width=10, height=8, class_="metal")
    y = foot + 8 + gap
    hook = path(
        [
            (AXIS + half - 4, foot),
            (AXIS + half - 4, y + STRAP * 2),
            (AXIS - 8, y + 7),
            (AXIS - 8, y),
            (AXIS + half - 12, y),
            (AXIS + half - 12, foot),
        ]
    )
    return centre + el("path", d=hook, class_="metal")


def _dimensions(plug: Plug, seat: float, foot: float, gap: float) -> str:
    half = plug.hex.mid / 2 * SCALE
    left, right = AXIS - half - 34, AXIS + half + 26
    reach = el(
        "path",
        d=f"M{left - 6:.1f} {seat:.1f}h26M{left - 6:.1f} {foot:.1f}h26"
        f"M{left:.1f} {seat:.1f}V{foot:.1f}",
        class_="dim",
    )
    middle = (seat + foot) / 2
    labels = (
        text(left - 8, middle, str(plug.reach), class_="end value")
        + text(left - 8, middle + 16, gettext("reach"), class_="end tiny")
        + text(
            right,
            seat - HEX_TALL * SCALE / 2 - 2,
            gettext("hex {hex}", hex=plug.hex),
            class_="value",
        )
        + text(right, seat + 8, gettext("{seat} seat", seat=gettext(plug.seat)), class_="value")
        + text(right, middle + 14, plug.thread, class_="value")
        + text(
            right,
            foot + 16 + gap,
            gettext("gap {gap} as supplied", gap=plug.gap_supplied),
            class_="value",
        )
    )
    rule = el(
        "path",
        d=f"M{AXIS - half:.1f} {seat - HEX_TALL * SCALE - 12:.1f}v-8"
        f"M{AXIS + half:.1f} {seat - HEX_TALL * SCALE - 12:.1f}v-8"
        f"M{AXIS - half:.1f} {seat - HEX_TALL * SCALE - 16:.1f}H{AXIS + half:.1f}",
        class_="dim",
    )
    return reach + rule + labels
