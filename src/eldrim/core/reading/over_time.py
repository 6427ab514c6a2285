"""What became of a set since it was read the time before: cured, the same, worse, moved."""

from typing import Literal

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.reading.observed import Judged, PlugSet
from eldrim.core.reading.signs import amiss, in_order


class Change(Frozen):
    """How one hole stands to the last set. ``moved`` where what left another hole came here."""

    hole: str
    change: Literal["cured", "same", "worse", "changed", "new", "moved"]
    before: tuple[str, ...] = ()
    now: tuple[str, ...] = ()


def changes(engine: Engine, plugs: PlugSet, seen: Judged) -> tuple[Change, ...]:
    """How each hole read both times changed; a hole clean both times is not told.

    Signs that say nothing yet (too little running, before a repair) count as not seen, except
    that a hole is not called cured by them.
    """
    before = {hole: amiss(signs) for hole, signs in plugs.last.items() if hole in plugs.seen}
    now = {hole: amiss(seen.signs.get(hole, ())) for hole in before}
    unsure = plugs.too_young or plugs.old_story
    left = {sign for hole, had in before.items() for sign in had - now[hole]}
    found = []
    for hole in engine.holes:
        if hole not in before:
            continue
        had, has = before[hole], now[hole]
        change = _change(had, has, left)
        if change is None or (change == "cured" and unsure):
            continue
        found.append(Change(hole=hole, change=change, before=in_order(had), now=in_order(has)))
    return tuple(found)


def _change(
    had: frozenset[str], has: frozenset[str], left: set[str]
) -> Literal["cured", "same", "worse", "changed", "new", "moved"] | None:
    if not had and not has:
        return None
    if not has:
        return "cured"
    if not had:
        return "moved" if has <= left else "new"
    if had == has:
        return "same"
    return "worse" if had < has else "changed" if has - had else "same"
