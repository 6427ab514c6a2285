"""Leads and their order as they are told: every finding with its sentence, in the language used."""

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.leads.heap import Heap, Lacking, Placed
from eldrim.core.leads.ring import Mistake, Ring
from eldrim.core.leads.ways import COIL
from eldrim.core.words import listed, say


class ToldMistake(Frozen):
    """What is wrong with an order; ``shift`` in towers, as the rotor turns."""

    kind: str
    words: str
    right: bool
    shift: int
    holes: tuple[tuple[str, ...], ...] = Field(description="Those changed round among them.")


class ToldSwap(Frozen):
    """Two leads to change over: ``holes`` are where they go now."""

    towers: tuple[int, int]
    holes: tuple[str, str]
    words: str


class ToldBeside(Frozen):
    """Two leads that fire one after the other and lie side by side, for so many mm."""

    holes: tuple[str, str]
    length: float
    words: str


class RingAnswer(Frozen):
    """The answer to an order that was found: by tower the hole meant and found."""

    towers: dict[int, str]
    found: dict[int, str]
    mistake: ToldMistake
    swaps: tuple[ToldSwap, ...]
    side_by_side: tuple[ToldBeside, ...]


def told_ring(ring: Ring) -> RingAnswer:
    """An order told in the language in use."""
    holes = tuple(tuple(ring.found[tower] for tower in one) for one in ring.rounds)
    return RingAnswer(
        towers=ring.meant,
        found=ring.found,
        mistake=ToldMistake(
            kind=ring.mistake,
            words=_mistake_words(ring, holes),
            right=ring.right,
            shift=_shift(ring),
            holes=holes,
        ),
        swaps=tuple(
            ToldSwap(
                towers=swap.towers,
                holes=swap.holes,
                words=say(
                    "ring.swap", one=swap.towers[0], other=swap.towers[1], hole=swap.holes[1]
                ),
            )
            for swap in ring.swaps
        ),
        side_by_side=tuple(
            ToldBeside(
                holes=one.holes,
                length=one.length,
                words=say(
                    "ring.beside", one=one.holes[0], other=one.holes[1], length=f"{one.length:g}"
                ),
            )
            for one in ring.side_by_side
        ),
    )


def _shift(ring: Ring) -> int:
    """By how many towers all leads are shifted the nearer way round; against the rotor: below 0."""
    count = len(ring.meant)
    back = -ring.shift % count
    return -ring.shift if 0 < ring.shift <= back else back


def _mistake_words(ring: Ring, holes: tuple[tuple[str, ...], ...]) -> str:
    words = _wrong_words(ring, holes)
    over = ring.changed_over and ring.mistake is not Mistake.SAME_SPARK
    return f"{words}. {say('ring.same-spark')}" if over else words


def _wrong_words(ring: Ring, holes: tuple[tuple[str, ...], ...]) -> str:
    each = ", ".join(map(listed, holes))
    if ring.mistake in (Mistake.CROSSED, Mistake.CHANGED_ROUND, Mistake.PAIRS):
        return say(f"ring.{ring.mistake}", holes=each)
    if ring.mistake is Mistake.UNKNOWN:
        return say("ring.unknown-wrong", holes=each) if holes else say("ring.unknown")
    far = _shift(ring)
    name = "shifted-back" if ring.mistake is Mistake.SHIFTED and far < 0 else ring.mistake
    count = say("ring.tower" if abs(far) == 1 else "ring.towers", count=abs(far))
    first = say(f"ring.{name}", count=count)
    return say("ring.and", first=first, holes=each) if holes and not ring.right else first


class ToldPlaced(Frozen):
    """A lead for a hole, in mm: ``run`` is what it has to be at least, ``slack`` what it has over
    its way; ``like`` are others as long.
    """

    hole: str
    lead: str
    length: float
    way: float
    run: float
    slack: float
    like: tuple[str, ...]
    words: str


class ToldShort(Frozen):
    """A hole that no lead fits, in mm: the longest that is left is ``by`` too short."""

    hole: str
    way: float
    run: float
    buy: float
    longest: str
    by: float
    words: str


class Bought(Frozen):
    """What to buy: the hole it is for, and how long in mm."""

    hole: str
    length: float


class HeapAnswer(Frozen):
    """The answer to a heap of leads; ``assignment`` in the order to take them."""

    assignment: tuple[ToldPlaced, ...]
    slack: float
    short: tuple[ToldShort, ...]
    buy: tuple[Bought, ...]
    left_over: tuple[str, ...]


def told_heap(heap: Heap) -> HeapAnswer:
    """A heap told in the language in use."""
    return HeapAnswer(
        assignment=tuple(map(_placed, heap.placed)),
        slack=heap.slack,
        short=tuple(map(_short, heap.lacking)),
        buy=tuple(Bought(hole=one.hole, length=one.buy) for one in heap.lacking),
        left_over=tuple(lead.name for lead in heap.left_over),
    )


def _placed(one: Placed) -> ToldPlaced:
    words = say(
        "heap.take_coil" if one.hole == COIL else "heap.take",
        lead=one.lead.name,
        length=format_number(one.lead.length, 1),
        hole=one.hole,
        slack=format_number(one.slack, 1),
        way=format_number(one.way, 1),
    )
    return ToldPlaced(
        hole=one.hole,
        lead=one.lead.name,
        length=round(one.lead.length, 1),
        way=round(one.way, 1),
        run=round(one.run, 1),
        slack=one.slack,
        like=one.like,
        words=words,
    )


def _short(one: Lacking) -> ToldShort:
    longest = one.longest.name if one.longest else ""
    name = "heap.short" if one.by > 0 else "heap.get"
    hole = say("heap.coil") if one.hole == COIL else one.hole
    by, buy = format_number(one.by, 1), format_number(one.buy, 0)
    return ToldShort(
        hole=one.hole,
        way=round(one.way, 1),
        run=round(one.run, 1),
        buy=one.buy,
        longest=longest,
        by=one.by,
        words=say(name, hole=hole, buy=buy, lead=longest, by=by),
    )


def ring_text(answer: RingAnswer) -> str:
    """An order as lines for a terminal."""
    lines = [answer.mistake.words]
    lines += [f"  {one.words}" for one in answer.swaps]
    lines += [f"  {one.words}" for one in answer.side_by_side]
    return "\n".join(lines)


def heap_text(answer: HeapAnswer) -> str:
    """A heap as lines for a terminal."""
    lines = []
    for one in answer.assignment:
        like = f" ({say('heap.like', leads=', '.join(one.like))})" if one.like else ""
        lines.append(f"{one.words}{like}")
    lines += [one.words for one in answer.short]
    if answer.left_over:
        lines.append(say("heap.left", leads=", ".join(answer.left_over)))
    return "\n".join([*lines, say("heap.slack", slack=format_number(answer.slack, 1))])
