"""Why nothing opens a job, in words: the rule that closed the last way left is named."""

from eldrim.core.access.errors import NoWayInError, UndecidedError
from eldrim.core.access.explain import place_name
from eldrim.core.access.problem import Closed, ClosedBy
from eldrim.core.engine import Engine
from eldrim.core.engine.targets import parse_target
from eldrim.core.words import say
from eldrim.core.words.messages import gettext, gettext_lazy, gettext_noop

FIX = gettext_lazy("state another way or a work-round for one of them")
MAX_NAMED = 4


def closed_words(engine: Engine, error: NoWayInError) -> str:
    """What keeps a job shut, from a hole down to the rule that closed the last way left."""
    if isinstance(error, UndecidedError):
        return gettext(
            "no way in was found within the limit of the search; force or forbid a way of it"
        )
    chain = " → ".join(_name(engine, key) for key in error.chain)
    if error.loop:
        return gettext("no way in: {chain}: each must be off before the other", chain=chain)
    if not error.closed:
        return gettext("no way in: {chain}: nothing opens it", chain=chain)
    named = [_closed(engine, closed) for closed in error.closed[:MAX_NAMED]]
    return gettext(
        "no way in: {chain}: nothing opens it: {named}", chain=chain, named="; ".join(named)
    )


def _name(engine: Engine, text: str) -> str:
    """A part or a target as people call it."""
    target = parse_target(text)
    if target is not None and target.hole:
        return (
            say(f"item.{target.item}", hole=target.hole)
            if target.item
            else gettext("hole {hole}", hole=target.hole)
        )
    if target is not None and target.item:
        return place_name(engine, target.item)
    part = engine.parts.get(text.split("/")[0])
    return part.name if part else text.replace("/", " ")


def _closed(engine: Engine, closed: Closed) -> str:
    """One way that is not offered, and the rule that closed it."""
    part = engine.parts[closed.part]
    way = part.ways.get(closed.key)
    called = say(f"doing.{way.kind.value}", part=part.name) if way else _round(engine, closed)
    return f"“{called}” {gettext(_REASONS[closed.by], what=closed.what)}"


def _round(engine: Engine, closed: Closed) -> str:
    rounds = (h.rounds for h in engine.hindrances if h.part == closed.part)
    kind = next(named[closed.key].kind for named in rounds if closed.key in named)
    how = say(f"round.{kind.value}")
    return say("doing.round", part=engine.parts[closed.part].name, how=how)


_REASONS = {
    ClosedBy.JOB: gettext_noop("is ruled out by this question"),
    ClosedBy.FORCED: gettext_noop("is ruled out, since another way of it is asked for"),
    ClosedBy.FEEL: gettext_noop("is work by feel, which a house rule forbids"),
    ClosedBy.LACKING: gettext_noop("needs “{what}”, which is said to be lacking"),
    ClosedBy.CRIB: gettext_noop("needs tools that the crib lacks"),
    ClosedBy.TORQUE: gettext_noop("leaves no room for the torque that is due there"),
    ClosedBy.NOT_CLEARING: gettext_noop("does not clear it"),
}
