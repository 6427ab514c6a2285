"""What tools are usually to be had: the crib taken where a shop states none, and what to buy.

Lengths and diameters are plausible for the kind, not any maker's; prices are guide prices in euro.
"""

from eldrim.core.base.quantity import parse
from eldrim.core.engine.parts import Head
from eldrim.core.engine.sizes import read_size
from eldrim.core.tools.crib import (
    Crib,
    Drive,
    Extension,
    Handle,
    Reducer,
    Socket,
    Special,
    Swivel,
    Tool,
    Wrench,
)

MM = "mm"
_SHORT = {"1/4": "14", "3/8": "38", "1/2": "12"}


def _key(*words: object) -> str:
    text = "-".join(str(word) for word in words)
    return text.replace(" ", "").replace(".", "-").replace("/", "-")


def _mm(value: float) -> str:
    return f"{value:g} {MM}"


def socket(drive: Drive, size: float, length: float, outside: float, price: float) -> Socket:
    """A six-point socket of the common length."""
    return Socket(
        id=_key("s", _SHORT[drive], size),
        drive=drive,
        size=parse(_mm(size)),
        price=price,
        length=parse(_mm(length)),
        outside=parse(_mm(outside)),
        depth=parse("12 mm"),
    )


def deep(drive: Drive, size: float, length: float, outside: float, price: float) -> Socket:
    """A deep six-point socket: a plug goes up inside, but is not held."""
    return Socket(
        id=_key("d", _SHORT[drive], size),
        drive=drive,
        size=parse(_mm(size)),
        price=price,
        length=parse(_mm(length)),
        outside=parse(_mm(outside)),
        depth=parse(_mm(length - 12)),
    )


def lobe(drive: Drive, size: str, price: float) -> Socket:
    """A six-lobe bit (T) or socket (E) by its number."""
    width = read_size(size)
    outer = size.startswith("E")
    return Socket(
        id=_key("e" if outer else "t", _SHORT[drive], size.lower()),
        drive=drive,
        head=Head.OUTER_SIX_LOBE if outer else Head.SIX_LOBE,
        size=width,
        length=parse("26 mm" if outer else "28 mm"),
        depth=parse("12 mm" if outer else "8 mm"),
        outside=parse(_mm(width.mid + 6)) if outer else parse("13 mm"),
        price=price,
    )


def bit(drive: Drive, head: Head, size: float, price: float) -> Socket:
    """A bit on a square."""
    return Socket(
        id=_key("b", _SHORT[drive], head.value.replace("_", "-"), size),
        drive=drive,
        head=head,
        size=parse(_mm(size)),
        length=parse("28 mm"),
        depth=parse("8 mm"),
        outside=parse("13 mm"),
        price=price,
    )


def plug_socket(  # noqa: PLR0913 - the columns of a table
    key: str,
    size: str,
    length: float,
    outside: float,
    depth: float,
    price: float,
    drive: Drive = "3/8",
    points: int = 6,
) -> Socket:
    """A socket that holds the plug."""
    return Socket.model_validate(
        {
            "id": key,
            "drive": drive,
            "size": size,
            "points": points,
            "length": _mm(length),
            "outside": _mm(outside),
            "depth": _mm(depth),
            "insert": "rubber",
            "price": price,
        }
    )


def extension(
    drive: Drive, length: float, outside: float, price: float, kind: str = "plain"
) -> Extension:
    """An extension of a drive."""
    return Extension.model_validate(
        {
            "id": _key("x", _SHORT[drive], length, *([kind] if kind != "plain" else [])),
            "drive": drive,
            "kind": kind,
            "length": _mm(length),
            "outside": _mm(outside),
            "price": price,
        }
    )


def handle(
    drive: Drive, kind: str, length: float, head: float, swing: float, price: float
) -> Handle:
    """A handle of a drive."""
    return Handle.model_validate(
        {
            "id": _key("h", _SHORT[drive], kind.replace("_", "-"), length),
            "drive": drive,
            "kind": kind,
            "length": _mm(length),
            "head": _mm(head),
            "swing": f"{swing:g}°",
            "price": price,
        }
    )


def crowfoot(size: float, offset: float, price: float) -> Socket:
    """An open crow's foot: thin, beside the fastener instead of over it."""
    return Socket(
        id=_key("c-38", size),
        drive="3/8",
        size=parse(_mm(size)),
        length=parse("9 mm"),
        depth=parse("9 mm"),
        outside=parse(_mm(size * 2)),
        offset=parse(_mm(offset)),
        price=price,
    )


SOCKETS = (
    *(socket("1/4", n, 16, n + 4.5, 4) for n in (5.5, 6, 7, 8, 9, 10, 11, 12, 13)),
    *(socket("3/8", n, 20, n + 6.5, 5) for n in (8, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19)),
    *(deep("3/8", n, 62, n + 6.5, 8) for n in (10, 12, 13, 14, 16, 18, 19, 21)),
    *(socket("1/2", n, 38, n + 8, 7) for n in (17, 19, 21, 22, 24, 27, 30, 32, 34, 36)),
    *(lobe("1/4", f"T{n}", 4) for n in (10, 15, 20, 25, 27, 30, 40)),
    *(lobe("3/8", f"T{n}", 5) for n in (30, 40, 45, 50, 55, 60)),
    *(lobe("1/4", f"E{n}", 5) for n in (4, 5, 6, 7, 8, 10)),
    *(lobe("3/8", f"E{n}", 6) for n in (10, 11, 12, 14, 16, 18, 20, 24)),
    *(bit("3/8", Head.INNER_HEX, n, 5) for n in (6, 8, 10)),
    bit("1/4", Head.SLOT, 4, 3), bit("1/4", Head.SLOT, 8, 3), bit("1/4", Head.CROSS, 1, 3),
    bit("1/4", Head.CROSS, 3, 3),
    bit("1/4", Head.INNER_HEX, 4, 4), bit("1/4", Head.INNER_HEX, 5, 4),
    bit("1/4", Head.INNER_HEX, 6, 4), bit("1/4", Head.SIX_LOBE, 5.5, 4),
    bit("1/4", Head.SIX_LOBE, 6.5, 4), bit("1/4", Head.SLOT, 6, 3), bit("1/4", Head.CROSS, 2, 3),
    *(crowfoot(n, o, p) for n, o, p in ((10, 26, 9), (11, 27, 9), (12, 28, 9), (13, 30, 9),
      (14, 31, 9), (16, 33, 10), (17, 34, 10), (18, 35, 11), (19, 36, 11), (22, 40, 12),
      (24, 42, 13), (27, 46, 14), (30, 50, 16), (32, 52, 17), (36, 56, 19))),
    plug_socket("p-14-12pt", "14 mm", 72, 18.6, 54, 18, points=12),
    plug_socket("p-16", "16 mm", 62, 22, 52, 11),
    plug_socket("p-16-thin", "16 mm", 70, 20.6, 52, 19),
    plug_socket("p-16-short", "16 mm", 48, 21, 44, 16),
    plug_socket("p-58", "5/8 in", 62, 22, 52, 11),
    plug_socket("p-18", "18 mm", 62, 24.5, 52, 12),
    plug_socket("p-20-8", "20.8 mm", 64, 27, 54, 12),
    plug_socket("p-1316", "13/16 in", 64, 27, 54, 12),
)  # fmt: skip
EXTENSIONS = (
    *(extension("1/4", n, 12, 5) for n in (50, 75, 100, 150)),
    *(extension("3/8", n, 17, 7) for n in (75, 150, 250)),
    extension("3/8", 75, 17, 12, "locking"), extension("3/8", 100, 17, 13, "locking"),
    extension("3/8", 150, 17, 15, "locking"), extension("3/8", 250, 17, 18, "locking"),
    extension("3/8", 100, 17, 10, "wobble"),
    extension("1/2", 125, 22, 9), extension("1/2", 250, 22, 12),
)  # fmt: skip
SWIVELS = (
    Swivel(id="u-14", drive="1/4", length=parse("32 mm"), outside=parse("13 mm"), price=9),
    Swivel(id="u-38", drive="3/8", length=parse("46 mm"), outside=parse("19 mm"), price=11),
)
REDUCERS = (
    Reducer(id="r-38-14", drive="3/8", to="1/4", length=parse("26 mm"), outside=parse("17 mm"),
            price=5),
    Reducer(id="r-12-38", drive="1/2", to="3/8", length=parse("34 mm"), outside=parse("22 mm"),
            price=6),
    Reducer(id="r-14-38", drive="1/4", to="3/8", length=parse("26 mm"), outside=parse("15 mm"),
            price=5),
)  # fmt: skip
HANDLES = (
    handle("1/4", "ratchet", 140, 24, 8, 24), handle("3/8", "ratchet", 180, 30, 8, 30),
    handle("3/8", "ratchet", 250, 32, 8, 36), handle("3/8", "breaker", 380, 28, 1, 28),
    handle("1/2", "ratchet", 260, 38, 8, 38), handle("1/4", "flex_ratchet", 160, 26, 5, 34),
    handle("3/8", "flex_ratchet", 200, 34, 5, 42), handle("3/8", "t_bar", 200, 20, 30, 14),
)  # fmt: skip
WRENCHES = (
    Wrench(id="t-14-20", drive="1/4", full_scale=20, graduation=0.2, length=parse("230 mm"),
           head=parse("28 mm"), price=140),
    Wrench(id="t-38-50", drive="3/8", full_scale=50, graduation=0.5, length=parse("320 mm"),
           head=parse("36 mm"), price=150),
    Wrench(id="t-12-200", drive="1/2", full_scale=200, graduation=1, length=parse("480 mm"),
           head=parse("42 mm"), price=170),
)  # fmt: skip
OTHERS = (
    ("clamp-pliers", "clamp pliers", 22), ("screwdriver-flat", "screwdriver, flat", 6),
    ("fuel-line-tool", "fuel line tool", 16), ("multimeter", "multimeter", 60),
    ("thermometer", "infrared thermometer", 45), ("air-gun", "air gun", 15),
    ("vacuum", "vacuum with thin nozzle", 90), ("wire-gauge", "wire gauge", 9),
    ("tray", "plug tray", 12), ("magnet", "pick-up magnet", 8), ("hose", "old boot or hose", 1),
    ("mirror", "mirror and light", 18), ("opening-plugs", "opening plugs", 14),
    ("reader", "code reader", 180), ("light", "light", 15),
    ("blade-gauge", "blade gauge", 8), ("blade-brass", "blade gauge, not magnetic", 11),
    ("timing-lamp", "timing lamp", 70), ("test-lamp", "test lamp", 6),
    ("dwell-meter", "dwell meter", 45),
)  # fmt: skip
SPECIALS = tuple(Special(id=key, called=name, price=p) for key, name, p in OTHERS)

STANDARD_CRIB = Crib(
    sockets=SOCKETS,
    extensions=EXTENSIONS,
    swivels=SWIVELS,
    reducers=REDUCERS,
    handles=HANDLES,
    wrenches=WRENCHES,
    specials=SPECIALS,
    specials_given=True,
)
"""A shop with everything usual; tools asked for by name are taken to be there."""


def catalogue() -> tuple[Tool, ...]:
    """Everything that can be bought, cheapest first."""
    return tuple(sorted(STANDARD_CRIB.all(), key=lambda t: (t.price, t.id)))
