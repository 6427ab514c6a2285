"""Which torque wrench for a window: the best of the crib, and what speaks against the others."""

from eldrim.core.base.quantity import format_number
from eldrim.core.figures.torque import Window
from eldrim.core.tools.crib import Crib, Wrench
from eldrim.core.tools.wrench_setting import Setting, preference, setting, why_not
from eldrim.core.words import say


def weigh(crib: Crib, wanted: Window) -> list[tuple[Wrench, Setting]]:
    """Return the crib's torque wrenches that can be set for a window, best first."""
    able = [
        (wrench, s)
        for wrench in crib.wrenches
        if wrench.count and (s := setting(wanted, wrench)) is not None
    ]
    return sorted(able, key=lambda pair: preference(pair[1], wanted, pair[0]))


def against(crib: Crib, wanted: Window, chosen: Setting) -> tuple[str, ...]:
    """Return what speaks against each wrench of the crib that was not chosen.

    A chosen one that is still to be got is in no crib: the others then cannot do it.
    """
    able = {w.id: (w, s) for w, s in weigh(crib, wanted)}
    ours = next(
        (preference(s, wanted, w) for w, s in able.values() if s.wrench_id == chosen.wrench_id),
        None,
    )
    said = []
    for wrench in crib.wrenches:
        if not wrench.count or wrench.id == chosen.wrench_id:
            continue
        theirs = preference(able[wrench.id][1], wanted, wrench) if wrench.id in able else None
        if theirs is None or ours is None:
            said.append(f"{wrench.shown}: {why_not(wanted, wrench)}")
        else:
            said.append(f"{wrench.shown}: {_second(theirs, ours)}")
    return tuple(said)


Preference = tuple[bool, float, float, str]


def _second(theirs: Preference, ours: Preference) -> str:
    if theirs[0] and not ours[0]:
        return say("wrench.lapsed")
    if theirs[1] > ours[1]:
        off = format_number(theirs[1] * 100, 0)
        return say("wrench.off", off=off, ours=format_number(ours[1] * 100, 0))
    if theirs[2] > ours[2]:
        spread = format_number(theirs[2], 1)
        return say("wrench.spread", spread=spread, ours=format_number(ours[2], 1))
    return say("wrench.more")
