"""The order of the leads: what was found tower by tower, what is wrong, the fewest swaps."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations, product
from math import dist

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.leads.ways import LeadWay, lead_ways, tower_of
from eldrim.core.words.messages import gettext

# Leads nearer than this for longer than this lie side by side, in mm (shop practice).
NEAR, LONG = 35.0, 120.0
# Points are looked at so far apart along a lead, in mm.
STRIDE = 5.0


class Mistake(StrEnum):
    """What is wrong with an order, as one would say it."""

    RIGHT = "right"
    CROSSED = "crossed"
    SAME_SPARK = "same-spark"
    CHANGED_ROUND = "changed-round"
    SHIFTED = "shifted"
    HALF_TURN = "half-turn"
    AGAINST = "against"
    PAIRS = "pairs"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Swap:
    """Two leads that change their towers; after it the first tower is right."""

    towers: tuple[int, int]
    holes: tuple[str, str]


@dataclass(frozen=True)
class Beside:
    """Two holes that fire one after the other, whose leads lie side by side for so long, in mm."""

    holes: tuple[str, str]
    length: float


@dataclass(frozen=True)
class Ring:
    """An order as it was found: by tower, the hole it should go to and goes to.

    ``wanted`` is the nearest order that is right: of a pack the leads of a pair may stay changed
    over. ``shift`` is how many towers on, as the rotor turns, the lead of each belongs; ``rounds``
    are the towers whose leads are changed round among them once that is put right.
    """

    meant: dict[int, str]
    found: dict[int, str]
    wanted: dict[int, str]
    mistake: Mistake
    shift: int
    rounds: tuple[tuple[int, ...], ...]
    swaps: tuple[Swap, ...]
    side_by_side: tuple[Beside, ...]

    @property
    def wrong(self) -> frozenset[int]:
        """The towers whose lead has to move."""
        return frozenset(t for t, hole in self.found.items() if self.wanted[t] != hole)

    @property
    def changed_over(self) -> bool:
        """Whether leads of a pair are changed over: the same spark, but not as the sheet has it."""
        return self.wanted != self.meant

    @property
    def right(self) -> bool:
        """Whether every lead has its spark."""
        return self.mistake in (Mistake.RIGHT, Mistake.SAME_SPARK)


def read_ring(engine: Engine, found: Mapping[int, str]) -> Ring:
    """What an order that was found amounts to. A tower that is not named was not looked at.

    Raises :class:`ProblemsError` where the sheet states no towers, or a tower or hole is named
    that is none, or a hole twice.
    """
    meant = {tower: hole for hole, tower in sorted(tower_of(engine).items(), key=lambda i: i[1])}
    _sensible(meant, found)
    if len(found) < len(meant):
        wrong = [tower for tower, hole in found.items() if meant[tower] != hole]
        so_far: tuple[tuple[int, ...], ...] = (tuple(wrong),) if wrong else ()
        apart = beside(engine)
        return Ring(meant, dict(found), meant, Mistake.UNKNOWN, 0, so_far, (), apart)
    wanted = _wanted(engine, meant, found)
    order = [list(wanted.values()).index(found[tower]) for tower in wanted]
    if engine.ignition.pack:
        name = _of_pack(engine, order, same=wanted == meant)
    else:
        name = _of_ring(order)
    mistake, shift, rounds = name
    towers = list(meant)
    named = tuple(tuple(towers[place] for place in one) for one in rounds)
    swaps = _swaps(wanted, found)
    apart = beside(engine)
    return Ring(meant, dict(found), wanted, mistake, shift, named, swaps, apart)


def _sensible(meant: Mapping[int, str], found: Mapping[int, str]) -> None:
    if not meant:
        fix = gettext(
            "state the towers of the pack on the sheet; twin plugs on a distributor are not read"
        )
        raise ProblemsError([Problem("found", gettext("the sheet states no towers"), fix)])
    problems = []
    for tower, hole in found.items():
        if tower not in meant:
            fix = gettext("there are towers {meant}", meant=", ".join(map(str, meant)))
            problems.append(
                Problem("found", gettext("there is no tower {tower}", tower=tower), fix)
            )
        if hole not in meant.values():
            fix = gettext("there are holes {values}", values=", ".join(sorted(meant.values())))
            problems.append(Problem("found", gettext("there is no hole {hole}", hole=hole), fix))
    for hole in sorted(set(found.values())):
        twice = [str(tower) for tower, one in found.items() if one == hole]
        if len(twice) > 1:
            said = gettext(
                "towers {twice} both go to hole {hole}", twice=" and ".join(twice), hole=hole
            )
            problems.append(Problem("found", said, gettext("a lead goes to one tower")))
    if problems:
        raise ProblemsError(problems)


def cycles(order: list[int]) -> tuple[tuple[int, ...], ...]:
    """The rounds in which places are changed among them, without those in their place."""
    found, seen = [], set[int]()
    for start in range(len(order)):
        round_, at = [], start
        while at not in seen:
            seen.add(at)
            round_.append(at)
            at = order[at]
        if len(round_) > 1:
            found.append(tuple(round_))
    return tuple(found)


def fewest(order: list[int]) -> int:
    """How many swaps of two put an order right: one less than the places in each round."""
    return sum(len(one) - 1 for one in cycles(order))


# What one would call an order: the mistake, the shift, and the rounds left once it is undone.
Name = tuple[Mistake, int, tuple[tuple[int, ...], ...]]


def _of_ring(order: list[int]) -> Name:
    """What it is called with the fewest mistakes: of equal ones crossed leads, the least shift.

    A shift of all, or all set against the rotor's direction, is one mistake.
    """
    count = len(order)
    offers: list[tuple[int, int, Name]] = [(fewest(order), 0, (_plain(order), 0, cycles(order)))]
    for shift in range(1, count):
        left = [(hole - shift) % count for hole in order]
        kind = Mistake.HALF_TURN if 2 * shift == count else Mistake.SHIFTED
        near = min(shift, count - shift)
        offers.append((1 + fewest(left), near, (kind, shift, cycles(left))))
    back = [(-hole) % count for hole in order]
    offers.append((1 + fewest(back), count, (Mistake.AGAINST, 0, cycles(back))))
    return min(offers, key=lambda offer: offer[:2])[2]


def _plain(order: list[int]) -> Mistake:
    rounds = cycles(order)
    if not rounds:
        return Mistake.RIGHT
    return Mistake.CROSSED if all(len(one) == 2 for one in rounds) else Mistake.CHANGED_ROUND


def _of_pack(engine: Engine, order: list[int], *, same: bool) -> Name:
    """Of a pack, against the nearest order with the right sparks; ``same`` is the sheet's own."""
    rounds = cycles(order)
    if not rounds:
        return (Mistake.RIGHT if same else Mistake.SAME_SPARK), 0, rounds
    whole = _pairs_changed(engine, order)
    return (Mistake.PAIRS if whole else _plain(order)), 0, rounds


def _pairs_changed(engine: Engine, order: list[int]) -> bool:
    """Whether the leads of each pair go to one pair together, if not to its own."""
    towers = engine.ignition.pack.towers if engine.ignition.pack else {}
    holes = [engine.holes[towers[number]][0] for number in sorted(towers)]
    pair_of = {one: pair for pair in engine.ignition.waste_spark_pairs for one in pair}
    if set(pair_of) != set(holes):
        return False
    goes: dict[tuple[int, int], set[tuple[int, int]]] = {}
    for place, other in enumerate(order):
        goes.setdefault(pair_of[holes[place]], set()).add(pair_of[holes[other]])
    return all(len(to) == 1 for to in goes.values())


def _swaps(wanted: Mapping[int, str], found: Mapping[int, str]) -> tuple[Swap, ...]:
    """The fewest swaps of two leads that mend it, tower by tower."""
    now, made = dict(found), []
    for tower, hole in wanted.items():
        if now[tower] != hole:
            other = next(one for one, had in now.items() if had == hole)
            made.append(Swap((tower, other), (now[tower], hole)))
            now[tower], now[other] = hole, now[tower]
    return tuple(made)


def _wanted(engine: Engine, meant: dict[int, str], found: Mapping[int, str]) -> dict[int, str]:
    """Where each tower's lead is to go: of the orders with the right sparks the nearest.

    The leads of a waste-spark pair have the same spark, so each pair may stay changed over.
    """
    tower = {hole: one for one, hole in meant.items()}
    pairs = engine.ignition.waste_spark_pairs if engine.ignition.pack else ()
    best = meant
    for turned in product((False, True), repeat=len(pairs)):
        wanted = dict(meant)
        for pair in (pair for pair, turn in zip(pairs, turned, strict=True) if turn):
            one, other = (tower[engine.holes_of(cylinder)[0]] for cylinder in pair)
            wanted[one], wanted[other] = wanted[other], wanted[one]
        if _apart(wanted, found) < _apart(best, found):
            best = wanted
    return best


def _apart(wanted: Mapping[int, str], found: Mapping[int, str]) -> int:
    holes = list(wanted.values())
    return fewest([holes.index(found[tower]) for tower in wanted])


def beside(engine: Engine) -> tuple[Beside, ...]:
    """Holes that fire one after the other and whose leads lie side by side for long.

    By the ways on the plan; a lead without one is not looked at.
    """
    order, ways = engine.ignition.firing_order, lead_ways(engine)
    if engine.ignition.kind == "coil_on_plug" or len(order) < 3:
        return ()
    after = {
        frozenset((one, other)) for one, other in zip(order, (*order[1:], order[0]), strict=True)
    }
    found = []
    for one, other in combinations(engine.holes, 2):
        cylinders = frozenset(engine.holes[hole][0] for hole in (one, other))
        if cylinders in after and one in ways and other in ways:
            length = _together(ways[one], ways[other])
            if length >= LONG:
                found.append(Beside((one, other), round(length, -1)))
    return tuple(found)


def _together(one: LeadWay, other: LeadWay) -> float:
    """For how long one way runs near another, in mm; their towers are near one another anyway."""
    mine, theirs = _along(one), _along(other)
    near = [p for p in mine if min((dist(p, q) for q in theirs), default=NEAR + 1) <= NEAR]
    return len(near) * STRIDE


def _along(way: LeadWay) -> list[tuple[float, float]]:
    """Points along a way, so far apart."""
    found: list[tuple[float, float]] = []
    for (x, y), (to_x, to_y) in zip(way.points, way.points[1:], strict=False):
        long = dist((x, y), (to_x, to_y))
        steps = int(long // STRIDE)
        found += [
            (x + (to_x - x) * n * STRIDE / long, y + (to_y - y) * n * STRIDE / long)
            for n in range(steps)
        ]
    return found
