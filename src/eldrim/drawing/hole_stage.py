"""How far a hole is, as a small drawing looking down the well: the word stands beside it."""

from eldrim.drawing.svg import el

WELL = el("circle", cx=24, cy=24, r=19, class_="well-edge")
HEXAGON = "M24 14l8.7 5v10l-8.7 5l-8.7 -5v-10z"
PLUG = el("path", d=HEXAGON, class_="hex") + el("circle", cx=24, cy=24, r=3, class_="post")
COIL = el("path", d="M13 13h22v22h-22z", class_="coil-top")
# What lies in the well at each stage, the lowest first.
INSIDE = {
    "closed": COIL + el("path", d="M24 13v-11M18 2h12", class_="wire"),
    "open_coil": PLUG,
    "open": el("path", d="M14 20l14 -14M11 30l23 -23M17 36l20 -20M26 40l14 -14", class_="hollow"),
    "read": el("path", d="M14 20l14 -14M11 30l23 -23M17 36l20 -20M26 40l14 -14", class_="hollow")
    + el("path", d="M15 25l6 6l13 -14", class_="tick-line"),
    "fitted": PLUG,
    "torqued": el("path", d=HEXAGON, class_="hex tight")
    + el("path", d="M9 24a15 15 0 0 1 26 -10M35 6v8h-8", class_="turn"),
    "coil_on": COIL,
    "connected": COIL + el("path", d="M24 13v-11M18 2h12", class_="wire")
    + el("path", d="M17 25l5 5l10 -12", class_="tick-line light"),
}  # fmt: skip


def symbols() -> str:
    """Return every stage as a symbol, to be used by its name: ``stage-open``."""
    return el(
        "svg",
        *(
            el("symbol", WELL, inside, id=f"stage-{name}", viewBox="0 0 48 48")
            for name, inside in INSIDE.items()
        ),
        class_="visually-hidden",
        aria_hidden="true",
    )
