"""Taking an engine apart beside it, tap by tap, timed: what that tells, and what it cannot tell.

The order things came off in, and where they lie on the plan, give hindrances and minutes. Only
what neither can tell is asked: did one have to be off before the next, or did you just start there?
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import make
from eldrim.core.capture.minutes import estimate_way
from eldrim.core.capture.part_access import part_of, put
from eldrim.core.capture.propose import answer, covered_holes, laps_over
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Hindrance, HindranceKind, Part, Way, WayKind
from eldrim.core.words.messages import gettext

TapAct = Literal["start", "off", "aside", "unclip", "open", "on", "pause"]
# Out of the way, in whichever manner; and which way of the part that times.
AWAY: dict[TapAct, WayKind] = {
    "off": WayKind.REMOVE,
    "aside": WayKind.SWING_ASIDE,
    "unclip": WayKind.UNCLIP,
}
MIN_MINUTES = 0.1


class Tap(Frozen):
    """One tap: ``at`` in minutes since the first, and the part's key or the hole's number."""

    act: TapAct
    what: str
    at: float


@dataclass(frozen=True)
class Question:
    """Did ``first`` have to be off before ``then``, which came next and does not lie under it?"""

    first: str
    then: str
    words: str


@dataclass(frozen=True)
class TeardownFindings:
    """What a teardown tells: the sheet with it, in words, and what is still to be asked."""

    engine: Engine
    said: tuple[str, ...]
    questions: tuple[Question, ...]


def derive(engine: Engine, taps: tuple[Tap, ...]) -> TeardownFindings:
    """Work out minutes and hindrances from the taps of one teardown, in the order they came.

    Raises :class:`EngineError` for a tap that names what the sheet does not have.
    """
    _known(engine, taps)
    said: list[str] = []
    engine = _timed(engine, taps, said)
    engine = _covering(engine, taps, said)
    engine = _opened(engine, taps, said)
    engine = _refitted(engine, taps, said)
    return TeardownFindings(engine, tuple(said), tuple(_questions(engine, taps)))


def _known(engine: Engine, taps: tuple[Tap, ...]) -> None:
    for tap in taps:
        if tap.act in AWAY or tap.act == "on":
            part_of(engine, tap.what)
        elif tap.act == "open" and tap.what not in engine.holes:
            raise EngineError(
                [Problem(f"hole {tap.what}", gettext("does not exist"), gettext("tap a hole"))]
            )


def _timed(engine: Engine, taps: tuple[Tap, ...], said: list[str]) -> Engine:
    """Minutes of each part: from the part before to its own, out and back; a pause left out."""
    worked, moved = 0.0, {tap.what: tap.act for tap in taps if tap.act in AWAY}
    for before, tap in pairwise(taps):
        worked += 0.0 if before.act == "pause" else tap.at - before.at
        if tap.act == "open":
            worked = 0.0
        if tap.act not in AWAY and tap.act != "on":
            continue
        part = part_of(engine, tap.what)
        key, way = _way_of(part, AWAY[moved.get(tap.what, "off")])
        minutes = make(round(max(worked, MIN_MINUTES), 1), "min")
        worked = 0.0
        side = "out" if tap.act in AWAY else "back"
        timed = way.model_copy(update={side: minutes, "estimated": False})
        ways = {**part.ways, key: timed}
        engine = put(engine, tap.what, part.model_copy(update={"ways": ways}))
        out = gettext("{part}: {minutes} out", part=part.name, minutes=minutes)
        back = gettext("{part}: {minutes} back", part=part.name, minutes=minutes)
        said.append(out if side == "out" else back)
    return engine


def _way_of(part: Part, kind: WayKind) -> tuple[str, Way]:
    """The part's way of this kind; one estimated where it has none. Off means as it usually is."""
    if kind is WayKind.REMOVE:
        return next(iter(part.ways.items()))
    for key, way in part.ways.items():
        if way.kind is kind:
            return key, way
    return kind.value.replace("_", "-"), estimate_way(kind, part.joints)


def _order(taps: tuple[Tap, ...]) -> list[str]:
    """The parts in the order they came off, each once."""
    return list(dict.fromkeys(tap.what for tap in taps if tap.act in AWAY))


def _covering(engine: Engine, taps: tuple[Tap, ...], said: list[str]) -> Engine:
    """Off before another it lies over: it blocked that one's way out, and lies higher."""
    order = _order(taps)
    for index, first in enumerate(order):
        for then in order[index + 1 :]:
            if not laps_over(engine, first, then) or _stated(engine, first, then):
                continue
            engine = _above(engine, first, then)
            engine = answer(engine, first, (then,), "blocks_exit")
            names = engine.parts[first].name, engine.parts[then].name.lower()
            said.append(
                gettext(
                    "{upper} blocks the way out of {lower}: it lies over it, and came off first",
                    upper=names[0],
                    lower=names[1],
                )
            )
    return engine


def _above(engine: Engine, first: str, then: str) -> Engine:
    upper, lower = engine.parts[first], engine.parts[then]
    if upper.level > lower.level:
        return engine
    return put(engine, first, upper.model_copy(update={"level": min(lower.level + 1, 20)}))


def _opened(engine: Engine, taps: tuple[Tap, ...], said: list[str]) -> Engine:
    """A hole opened after parts that lie over it came off: they hid it."""
    off: list[str] = []
    for tap in taps:
        if tap.act in AWAY:
            off.append(tap.what)
        if tap.act != "open":
            continue
        for part in off:
            target = f"hole/{tap.what}"
            if tap.what in covered_holes(engine, part) and not _stated(engine, part, target):
                engine = answer(engine, part, (target,), "hides")
                said.append(
                    gettext("{part} hides hole {hole}", part=engine.parts[part].name, hole=tap.what)
                )
    return engine


def _refitted(engine: Engine, taps: tuple[Tap, ...], said: list[str]) -> Engine:
    """Back on in another order than the way out turned round: the one waits for the other."""
    off = _order(taps)
    back = list(dict.fromkeys(tap.what for tap in taps if tap.act == "on" and tap.what in off))
    for first, then in pairwise(back):
        turned_round = off.index(first) > off.index(then)
        if turned_round or _stated(engine, first, then) or first in _waits_for(engine, then):
            continue
        if then in _waits_for(engine, first):
            continue
        part = engine.parts[then]
        later = part.model_copy(update={"refit_after": (*part.refit_after, first)})
        engine = put(engine, then, later)
        names = part.name, engine.parts[first].name.lower()
        said.append(gettext("{then} goes back after {first}", then=names[0], first=names[1]))
    return engine


def _waits_for(engine: Engine, part: str) -> set[str]:
    """The parts that are back before this one, however many stand between."""
    found: set[str] = set()
    waiting = [part]
    while waiting:
        new = set(engine.parts[waiting.pop()].refit_after) - found
        found |= new
        waiting += new
    return found


def _stated(engine: Engine, part: str, target: str) -> bool:
    named = any(
        hindrance.part == part and target in hindrance.of for hindrance in engine.hindrances
    )
    return named or f"{part}>{target}" in engine.free


def _questions(engine: Engine, taps: tuple[Tap, ...]) -> list[Question]:
    """Neighbours in the order that the plan does not connect: only the trainer knows."""
    found = []
    for first, then in pairwise(_order(taps)):
        if not laps_over(engine, first, then) and not _stated(engine, first, then):
            names = engine.parts[first].name.lower(), engine.parts[then].name.lower()
            words = gettext(
                "Did the {first} have to be off before the {then}, or did you just start there?",
                first=names[0],
                then=names[1],
            )
            found.append(Question(first, then, words))
    return found


def reply(engine: Engine, first: str, then: str, *, needed: bool) -> Engine:
    """Keep the trainer's answer to a question."""
    if not needed:
        return answer(engine, first, (then,), "free")
    part_of(engine, first), part_of(engine, then)
    made = Hindrance(part=first, of=(then,), kind=HindranceKind.BLOCKS_TOOL)
    return engine.model_copy(update={"hindrances": (*engine.hindrances, made)})
