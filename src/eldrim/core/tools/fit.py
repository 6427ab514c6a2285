"""Does this socket fit that head? By play across flats, and the pairs the trade knows."""

from enum import StrEnum

from eldrim.core.engine.parts import Head
from eldrim.core.frozen import Frozen
from eldrim.core.quantity import Quantity, format_number
from eldrim.core.tools.crib import Socket
from eldrim.core.words import say

# Play across flats in mm up to which a socket grips (docs/craft.md §7).
MAX_PLAY_MM = 0.3
# Pairs that are taken for each other in the workshop, metric and inch, each by its own name; the
# larger goes on the smaller, and where the play is past what grips it is looked at first.
WORKSHOP_PAIRS_MM = (
    (8.0, 7.9375), (10.0, 9.525), (11.0, 11.1125), (13.0, 12.7), (14.0, 14.2875), (16.0, 15.875),
    (19.0, 19.05), (20.8, 20.6375), (21.0, 20.6375), (22.0, 22.225), (24.0, 23.8125),
    (27.0, 26.9875), (32.0, 31.75),
)  # fmt: skip
# So much under size a socket of a pair still goes on: heads are made under their nominal size.
PAIR_UNDER_MM = 0.12
# Past this play even a pair is refused.
PAIR_PLAY_MM = 0.31
# Plug hexes are made under their nominal size; so much smaller a socket still goes on.
PLUG_UNDERSIZE = 0.2


class FitKind(StrEnum):
    """How a socket goes on a head."""

    EXACT = "exact"
    INTERCHANGE = "interchange"
    LOOSE = "loose"
    TIGHT = "tight"
    WRONG = "wrong"


class Fit(Frozen):
    """Whether a socket fits, and why; ``play`` is across flats, in mm."""

    kind: FitKind
    play: float
    words: str

    @property
    def fits(self) -> bool:
        """Whether it may be used."""
        return self.kind in (FitKind.EXACT, FitKind.INTERCHANGE)


def fit(size: Quantity, head: Head, socket: Socket, *, plug: bool = False, points: int = 6) -> Fit:
    """Say how ``socket`` goes on a ``head`` of this size; ``points`` is the fastener's own.

    Source: shop practice, docs/craft.md §7; the sum is socket across flats less head across flats.
    """
    if socket.head is not head:
        return Fit(kind=FitKind.WRONG, play=0, words=say("fit.other_head", socket=socket.shown))
    play = round(socket.size.mid - size.mid, 3)
    said = say("fit.on", socket=_mm(socket.size), head=_mm(size), play=_play(play))
    if points == 12 and socket.points == 6:
        return Fit(kind=FitKind.WRONG, play=play, words=say("fit.points"))
    if abs(play) < 0.005:
        return Fit(kind=FitKind.EXACT, play=play, words=said)
    exact = head in (Head.SIX_LOBE, Head.OUTER_SIX_LOBE, Head.CROSS, Head.SLOT)
    if not exact and _paired(socket.size.mid, size.mid) and abs(play) <= PAIR_PLAY_MM:
        pair = "fit.pair" if play >= 0 else "fit.pair_tight"
        if play >= 0 or -play <= PAIR_UNDER_MM:
            return Fit(kind=FitKind.INTERCHANGE, play=play, words=say(pair, said=said))
    if play < 0 and plug and play >= -PLUG_UNDERSIZE and not exact:
        words = say("fit.plug_hex", said=said)
        return Fit(kind=FitKind.INTERCHANGE, play=play, words=words)
    if play < 0 or exact:
        return Fit(kind=FitKind.TIGHT, play=play, words=say("fit.tight", said=said))
    if play <= MAX_PLAY_MM:
        words = say("fit.grips", said=said, play=format_number(MAX_PLAY_MM, 1))
        return Fit(kind=FitKind.INTERCHANGE, play=play, words=words)
    return Fit(kind=FitKind.LOOSE, play=play, words=say("fit.loose", said=said))


_PAIRS = {frozenset((round(a, 3), round(b, 3))) for a, b in WORKSHOP_PAIRS_MM}


def _paired(one: float, other: float) -> bool:
    """Whether two sizes are a pair of the workshop."""
    return frozenset((round(one, 3), round(other, 3))) in _PAIRS


def _mm(size: Quantity) -> str:
    printed = str(size)
    return printed if size.unit == "mm" else f"{printed} ({format_number(size.mid, 2)} mm)"


def _play(play: float) -> str:
    if abs(play) < 0.005:
        return say("fit.made")
    return say("fit.play" if play > 0 else "fit.small", by=format_number(abs(play), 2))
