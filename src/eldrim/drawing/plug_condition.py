"""A plug's tip as it can look, small enough for a button: the word stands beside it."""

from eldrim.drawing.svg import el

# Shell, insulator nose, centre electrode and ground strap, seen from the side, on 48 by 40.
SHELL = "M4 6h26v28h-26zM30 9h4M30 31h4"
NOSE = "M18 12h14l8 4v8l-8 4h-14z"
CENTRE = "M40 18h4v4h-4z"
STRAP = "M30 32h16v-9h-3v6h-13z"
SHARP, ROUNDED = "M40 18h4v4h-4z", "M40 18h2q2 0 2 2t-2 2h-2z"


def draw(condition: str) -> str:
    """Return the drawing of a condition by the name it is kept under; plain for an unknown one."""
    fill, marks = LOOKS.get(condition, ("", ()))
    centre = el("path", d=ROUNDED if condition == "edges-rounded" else SHARP, class_="metal")
    strap = el(
        "path", d="M30 32h16v-4l-5 -1h-11z" if condition == "tip-bent" else STRAP, class_="metal"
    )
    seat = el(
        "path",
        d="M4 3h26v3h-26z" if condition != "badly-seated" else "M4 3h26v3h-26zM4 -1l26 2v2h-26z",
        class_="ring-line",
    )
    return el(
        "svg",
        seat,
        el("path", d=SHELL, class_="shell"),
        el("path", d=NOSE, class_=f"nose {fill}".strip()),
        centre,
        strap,
        *(el("path", d=d, class_=kind) for d, kind in marks),
        viewBox="0 -2 52 42",
        class_="plug-look",
        aria_hidden="true",
    )


def _dots(*places: tuple[float, float]) -> str:
    return "".join(f"M{x} {y}h.1" for x, y in places)


HATCH = "M19 13l6 14M23 12l7 16M28 12l7 15M33 13l4 9"
DROPS = "M22 29q-3 4 0 6q3 -2 0 -6M30 29q-3 4 0 6q3 -2 0 -6"
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
}  # fmt: skip
