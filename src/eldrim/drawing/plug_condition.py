"""A plug's tip as it can look, small enough for a button: the word stands beside it."""

from eldrim.drawing.svg import el

VIEW = "0 -2 52 42"
# What an unknown one is drawn as.
PLAIN = "plain"
# Shell, insulator nose, centre electrode and ground strap, seen from the side, on 48 by 40.
SHELL = "M4 6h26v28h-26zM30 9h4M30 31h4"
NOSE = "M18 12h14l8 4v8l-8 4h-14z"
CENTRE = "M40 18h4v4h-4z"
STRAP = "M30 32h16v-9h-3v6h-13z"
RING = "M4 3h26v3h-26z"
SEATS: dict[str, tuple[str, ...]] = {
    "badly-seated": ("M4 3h26v3h-26zM4 -1l26 2v2h-26z",),
    "two-rings": (RING, "M4 -1h26v3h-26z"),
    "ring-missing": (),
    "loose": ("M4 -1h26v3h-26z",),
}
STRAPS = {
    "edges-rounded": "M30 32h13q3 0 3 -3v-6h-3v6h-13z",
    "tip-bent": "M30 32h16v-4l-5 -1h-11z",
    "gap-closed": "M30 32h16v-11h-4v7h-12z",
    "strap-worn": "M30 32h16v-9h-2l-2 7h-12z",
}
SHARP, ROUNDED = "M40 18h4v4h-4z", "M40 18h2q2 0 2 2t-2 2h-2z"


def draw(condition: str) -> str:
    """Return the drawing of a condition by the name it is kept under, from :func:`symbols`."""
    known = condition if condition in LOOKS else PLAIN
    return el(
        "svg",
        el("use", href=f"#look-{known}"),
        viewBox=VIEW,
        class_="plug-look",
        aria_hidden="true",
    )


def symbols() -> str:
    """Every look once, to be shown again wherever it is picked."""
    every = (PLAIN, *LOOKS)
    drawn = (el("symbol", _look(one), id=f"look-{one}", viewBox=VIEW) for one in every)
    return el("svg", *drawn, class_="plug-look visually-hidden", aria_hidden="true")


def _look(condition: str) -> str:
    fill, marks = LOOKS.get(condition, ("", ()))
    worn = condition in ("edges-rounded", "centre-worn")
    return el(
        "g",
        *(el("path", d=d, class_="ring-line") for d in SEATS.get(condition, (RING,))),
        el("path", d=SHELL, class_="shell"),
        el("path", d=NOSE, class_=f"nose {fill}".strip()),
        el("path", d=ROUNDED if worn else SHARP, class_="metal"),
        el("path", d=STRAPS.get(condition, STRAP), class_="metal"),
        *(el("path", d=d, class_=kind) for d, kind in marks),
        class_="look",
    )


def _dots(*places: tuple[float, float]) -> str:
    return "".join(f"M{x} {y}h.1" for x, y in places)


HATCH = "M19 13l6 14M23 12l7 16M28 12l7 15M33 13l4 9"
DROPS = "M22 29q-3 4 0 6q3 -2 0 -6M30 29q-3 4 0 6q3 -2 0 -6"
DRIP = "q-3 4 0 5q3 -1 0 -5"
WALLS = "M2 2v34M50 2v34"
BOOT = "M1 9h14v22h-14z"
# What fills the nose, and what is drawn on it: hatch for soot, dots for crust, drops for wet.
LOOKS: dict[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "tan-dry": ("tan", ()),
    "white-clean": ("white", ()),
    "white-blisters": ("white", (
        (_dots((22, 16), (27, 22), (32, 17), (35, 21)), "dot"), ("M40 18l-3 2l3 2", "line"))),
    "sooty-black": ("soot", ((HATCH, "hatch-line"),)),
    "wet-oily": ("soot", ((HATCH, "hatch-line"), (DROPS, "drop"))),
    "wet-fuel": ("white", ((DROPS, "drop"),)),
    "crust": ("white", (
        (_dots((20, 15), (24, 20), (28, 15), (32, 22), (36, 18), (22, 25)), "dot"),)),
    "yellow-glaze": ("tan", (("M20 16h14M20 20h16M20 24h14", "line"),)),
    "rust-red": ("tan", ((_dots((8, 12), (14, 20), (9, 27), (24, 18), (31, 21)), "dot"),)),
    "insulator-track": ("white", (("M18 19l5 -2l4 4l5 -3l8 2", "track"),)),
    "insulator-cracked": ("white", (("M26 12l-2 5l4 3l-3 8", "track"),)),
    "badly-seated": ("white", ()),
    "edges-rounded": ("tan", ()),
    "tip-bent": ("tan", ()),
    "steam-clean": ("white", (("M19 20q3 -5 6 0t6 0t6 0", "line"),)),
    "specks": ("tan", ((_dots((37, 15), (38, 20), (37, 25)), "dot"),)),
    "varnish-smell": ("white", ((DROPS, "drop"), ("M34 10q3 -4 0 -8M40 12q3 -4 0 -8", "line"))),
    "strap-worn": ("tan", ()),
    "centre-worn": ("tan", ()),
    "gap-closed": ("tan", ()),
    "stain": ("white", (("M21 12v16", "track"),)),
    "stain-streaked": ("white", (("M21 12v16M21 15h10M21 20h13M21 25h9", "track"),)),
    "two-rings": ("white", ()),
    "ring-missing": ("white", (("M6 1h22", "line"),)),
    "blow-by": ("white", (("M7 7l5 9M13 7l5 9M19 7l5 9M25 7l4 7", "track"),)),
    "loose": ("white", (("M6 38q11 5 22 0M24 37l4 1l-1 -4", "line"),)),
    "stiff": ("white", (("M7 12l4 4l-4 4l4 4l-4 4", "track"),)),
    "thread-carbon": ("white", ((_dots((26, 10), (28, 15), (26, 20), (28, 25), (26, 30)), "dot"),)),
    "thread-rust": ("white", ((_dots((14, 10), (20, 10), (14, 30), (20, 30), (26, 30)), "dot"),)),
    "shell-rust": ("white", ((_dots((7, 10), (10, 16), (7, 22), (10, 28)), "dot"),)),
    "well-oil": ("white", ((WALLS, "line"), (f"M8 34{DRIP}M46 34{DRIP}", "drop"))),
    "well-water": ("white", ((WALLS, "line"), ("M3 37q3 -4 6 0t6 0t6 0t6 0t6 0t6 0t6 0", "line"))),
    "boot-oily": ("white", ((BOOT, "line"), ("M9 22q-3 5 0 7q3 -2 0 -7", "drop"))),
    "boot-torn": ("white", ((BOOT, "line"), ("M9 10l-3 6l5 4l-4 5l3 5", "track"))),
    "boot-burnt": ("white", ((BOOT, "line"), (_dots((7, 14), (10, 20), (7, 26)), "dot"))),
}  # fmt: skip
