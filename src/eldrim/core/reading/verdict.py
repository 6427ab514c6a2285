"""What a set of plugs tells: causes with their holes, what speaks for and against, what to do."""

from typing import Literal

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.reading.causes import told_apart
from eldrim.core.reading.explanation import (
    MAX_NODES,
    Explanation,
    Hypothesis,
    best,
    covered,
    hypotheses,
    narrow_scope,
)
from eldrim.core.reading.observed import Judged, PlugSet, judged
from eldrim.core.reading.over_time import Change, changes
from eldrim.core.reading.signs import SIGNS, amiss, in_order
from eldrim.core.rules.house import Recheck

Confidence = Literal["clear", "likely", "open"]
# By how much an explanation must beat the next best one: 7 to 1, 2.7 to 1.
CLEAR, LIKELY = 2.0, 1.0
HEALTHY = "healthy"
# Answers that no cause is judged by deposits yet, and what is done then.
WAITS = {"too-young": "fit-again", "old-story": "fit-new"}


class ForSign(Frozen):
    """A sign that speaks for a cause: at which hole, how strongly."""

    hole: str
    sign: str
    weight: float


class Against(Frozen):
    """What speaks against a cause: a hole without any sign of it, or a sign left unexplained."""

    hole: str
    sign: str = Field("", description="The sign left unexplained; empty where none is seen.")


class Verdict(Frozen):
    """One cause of what was seen.

    ``margin`` is by how much log-odds the whole explanation beats the best one without it.
    ``instead`` is the cause that would take its place, ``tell_apart`` the check between the two.
    """

    cause: str
    scope: str
    holes: tuple[str, ...]
    place: str = Field("", description="What is shared, or the bank, as the sheet calls it.")
    confidence: Confidence
    margin: float
    speaks_for: tuple[ForSign, ...] = ()
    against: tuple[Against, ...] = ()
    instead: str = ""
    tell_apart: str = ""
    check: str = ""
    now: str = ""
    recheck: bool = False


class SetVerdict(Frozen):
    """What a whole set tells.

    ``status`` is *judged*, *too-young* (cannot tell yet), *old-story* (fitted before a repair) or
    *unread*. ``aside`` are signs set aside, by hole, each with the reason. ``unexplained`` are
    signs no believed cause explains. ``proven`` says that no better explanation exists.
    """

    status: Literal["judged", "too-young", "old-story", "unread"]
    verdicts: tuple[Verdict, ...]
    unexplained: tuple[Against, ...] = ()
    aside: dict[str, dict[str, str]] = Field(default_factory=dict)
    over_time: tuple[Change, ...] = ()
    read: tuple[str, ...]
    not_read: tuple[str, ...]
    recheck: Recheck = Recheck()
    proven: bool = True


def verdict_of(engine: Engine, variant: str, plugs: PlugSet) -> SetVerdict:
    """Judge a set (docs/craft.md §13). Deterministic; the same set always reads the same."""
    seen = judged(engine, plugs)
    among = hypotheses(engine, variant, seen, plugs.known)
    whole = best(among)
    work = MAX_NODES // max(len(whole.believed), 1)
    found = [
        _verdict(one, whole, best([h for h in among if h is not one], work), seen)
        for one in whole.believed
    ]
    found.sort(key=lambda v: (-v.margin, v.holes, v.cause))
    cover = covered(whole.believed)
    left = tuple(
        Against(hole=hole, sign=sign)
        for hole in engine.holes
        for sign in in_order(amiss(seen.signs.get(hole, ())))
        if (hole, sign) not in cover
    )
    read = tuple(hole for hole in engine.holes if hole in plugs.seen)
    status = _status(plugs, read)
    if status in WAITS:
        found.append(_waits(status, read))
    elif read and not found and not left:
        found = [_healthy(engine, read)]
    return SetVerdict(
        status=status,
        verdicts=tuple(found),
        unexplained=left,
        aside=seen.aside,
        over_time=changes(engine, plugs, seen),
        read=read,
        not_read=tuple(hole for hole in engine.holes if hole not in plugs.seen),
        recheck=plugs.recheck,
        proven=whole.proven,
    )


def _status(
    plugs: PlugSet, read: tuple[str, ...]
) -> Literal["judged", "too-young", "old-story", "unread"]:
    """Whether deposits could be judged at all; what lasts is judged all the same."""
    if not read:
        return "unread"
    if plugs.old_story:
        return "old-story"
    return "too-young" if plugs.too_young else "judged"


def _waits(status: str, read: tuple[str, ...]) -> Verdict:
    """Cannot tell yet, or tells the old story: an answer too, with what to do."""
    return Verdict(
        cause=status,
        scope="read",
        holes=read,
        confidence="open",
        margin=0.0,
        now=WAITS[status],
        recheck=True,
    )


def _healthy(engine: Engine, read: tuple[str, ...]) -> Verdict:
    whole = len(read) == len(engine.holes)
    scope = "all" if whole else "one" if len(read) == 1 else "read"
    return Verdict(
        cause=HEALTHY,
        scope=scope,
        holes=read,
        confidence="clear" if whole else "likely",
        margin=CLEAR if whole else LIKELY,
        now="go-on",
    )


def _verdict(one: Hypothesis, whole: Explanation, other: Explanation, seen: Judged) -> Verdict:
    margin = max(0.0, whole.gain - other.gain)
    rival = _rival(one, whole, other)
    return Verdict(
        cause=one.cause.id,
        scope=narrow_scope(one.place.scope).value,
        holes=one.place.holes,
        place=one.place.name,
        confidence="clear" if margin >= CLEAR else "likely" if margin >= LIKELY else "open",
        margin=round(margin, 2),
        speaks_for=_speaks_for(one),
        against=_speaks_against(one, whole, seen),
        instead=rival.cause.id if rival else "",
        tell_apart=told_apart(one.cause.id, rival.cause.id) if rival else one.cause.check,
        check=one.cause.check,
        now=one.cause.act,
        recheck=True,
    )


def _rival(one: Hypothesis, whole: Explanation, other: Explanation) -> Hypothesis | None:
    """The cause that explains most of the same signs where this one is not believed."""
    new = [h for h in other.believed if h not in whole.believed and h.cause.id != one.cause.id]
    shares = [(sum(h.explains[s] for s in h.explains if s in one.explains), h) for h in new]
    shares = [pair for pair in shares if pair[0] > 0]
    return max(shares, key=lambda pair: (pair[0], pair[1].name))[1] if shares else None


def _speaks_for(one: Hypothesis) -> tuple[ForSign, ...]:
    order = list(SIGNS)
    told = sorted(
        one.explains.items(),
        key=lambda item: (one.place.holes.index(item[0][0]), order.index(item[0][1])),
    )
    return tuple(ForSign(hole=hole, sign=sign, weight=weight) for (hole, sign), weight in told)


def _speaks_against(one: Hypothesis, whole: Explanation, seen: Judged) -> tuple[Against, ...]:
    """Holes that should show it and do not; and signs at its holes that nothing explains."""
    cover = covered(whole.believed)
    missing = [Against(hole=hole) for hole in one.missing]
    odd = [
        Against(hole=hole, sign=sign)
        for hole in one.place.holes
        for sign in in_order(amiss(seen.signs.get(hole, ())))
        if (hole, sign) not in cover
    ]
    return (*missing, *odd)
