"""Does this socket fit that head? By play across flats, and the pairs the trade knows."""

from enum import StrEnum
from typing import NamedTuple

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Quantity, format_number
from eldrim.core.engine.parts import Head
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


FITTING = frozenset({FitKind.EXACT, FitKind.INTERCHANGE})


class Fit(Frozen):
    """Whether a socket fits, and why; ``play`` is across flats, in mm."""

    kind: FitKind
    play: float
    words: str

    @property
    def fits(self) -> bool:
        """Whether it may be used."""
        return self.kind in FITTING


class _How(NamedTuple):
    """How a socket goes on a head, the play in mm, and what says so after the two sizes."""

    kind: FitKind
    play: float
    sentence: str = ""


def fits_on(
    size: Quantity, head: Head, socket: Socket, *, plug: bool = False, points: int = 6
) -> bool:
    """Whether a socket may be used on a head of this size, without the words of :func:`fit`."""
    return _how(size, head, socket, plug, points).kind in FITTING


def fit(size: Quantity, head: Head, socket: Socket, *, plug: bool = False, points: int = 6) -> Fit:
    """Say how ``socket`` goes on a ``head`` of this size; ``points`` is the fastener's own.

    Source: shop practice, docs/craft.md §7; the sum is socket across flats less head across flats.
    """
    how = _how(size, head, socket, plug, points)
    if socket.head is not head:
        words = say("fit.other_head", socket=socket.shown)
    elif how.sentence == "points":
        words = say("fit.points")
    else:
        words = say("fit.on", socket=_mm(socket.size), head=_mm(size), play=_play(how.play))
        if how.sentence:
            most = format_number(MAX_PLAY_MM, 1)
            words = say(f"fit.{how.sentence}", said=words, play=most)
    return Fit(kind=how.kind, play=how.play, words=words)


def _how(size: Quantity, head: Head, socket: Socket, plug: bool, points: int) -> _How:
    if socket.head is not head:
        return _How(FitKind.WRONG, 0)
    play = round(socket.size.mid - size.mid, 3)
    if points == 12 and socket.points == 6:
        return _How(FitKind.WRONG, play, "points")
    if abs(play) < 0.005:
        return _How(FitKind.EXACT, play)
    exact = head in (Head.SIX_LOBE, Head.OUTER_SIX_LOBE, Head.CROSS, Head.SLOT)
    paired = not exact and _paired(socket.size.mid, size.mid) and abs(play) <= PAIR_PLAY_MM
    if paired and (play >= 0 or -play <= PAIR_UNDER_MM):
        return _How(FitKind.INTERCHANGE, play, "pair" if play >= 0 else "pair_tight")
    if play < 0 and plug and play >= -PLUG_UNDERSIZE and not exact:
        return _How(FitKind.INTERCHANGE, play, "plug_hex")
    if play < 0 or exact:
        return _How(FitKind.TIGHT, play, "tight")
    if play <= MAX_PLAY_MM:
        return _How(FitKind.INTERCHANGE, play, "grips")
    return _How(FitKind.LOOSE, play, "loose")


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
