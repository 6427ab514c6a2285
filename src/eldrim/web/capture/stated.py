"""Ways, hindrances and work-rounds in words, as the board lists them."""

from collections.abc import Iterator

from eldrim.core.access.explain import place_name
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import Hindrance, HindranceKind, Way, WayKind, WorkRound
from eldrim.core.engine.targets import Target, parse_target
from eldrim.core.words import printed, say
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.web.filters import worded

WAYS = {
    WayKind.REMOVE: gettext_lazy("off"),
    WayKind.SWING_ASIDE: gettext_lazy("swing aside"),
    WayKind.UNCLIP: gettext_lazy("unclip"),
    WayKind.LOOSEN_AND_SHIFT: gettext_lazy("loosen and shift"),
}
# What a part may do to another, as a sentence reads: "Plenum hides hole 2".
HINDERS = {
    HindranceKind.HIDES: gettext_lazy("hides"),
    HindranceKind.BLOCKS_TOOL: gettext_lazy("blocks the tool at"),
    HindranceKind.BLOCKS_EXIT: gettext_lazy("blocks the way out of"),
    HindranceKind.HOLDS_SHORT: gettext_lazy("holds short"),
    HindranceKind.CARRIES_FASTENER: gettext_lazy("carries what holds"),
    HindranceKind.SAFETY: gettext_lazy("has to be off, for safety, before"),
}


def way_name(key: str, way: Way) -> str:
    """What a way is called among the ways of its part."""
    own = key.removeprefix(way.kind.value.replace("_", "-")).strip("-").replace("-", " ")
    return f"{WAYS[way.kind]}, {own}" if own else str(WAYS[way.kind])


def way_words(key: str, way: Way) -> str:
    """All that is stated of a way."""
    return "; ".join(filter(None, _way_facts(key, way)))


def _way_facts(key: str, way: Way) -> Iterator[str]:
    took = gettext("{out} out, {back} back", **_minutes(way))
    took += f" {gettext('estimated')}" if way.estimated else ""
    yield f"{way_name(key, way)}: {took}"
    if way.releases is not None:
        let_go = ", ".join(way.releases) or gettext("nothing")
        yield gettext("lets go {joints}", joints=let_go)
    if way.opens:
        yield gettext("opens {openings}", openings=", ".join(way.opens))
    if way.persons > 1:
        yield gettext("{count} persons", count=way.persons)
    yield gettext("by feel") if way.by_feel else ""
    yield from _doing_facts(way)


def _minutes(stated: Way | WorkRound) -> dict[str, str]:
    """Minutes out and back, as the reader's language writes them."""
    return {"out": printed(str(stated.out)), "back": printed(str(stated.back))}


def _doing_facts(stated: Way | WorkRound) -> Iterator[str]:
    """What a way and a work-round have in common."""
    yield "" if stated.good_for_torque else gettext("no room for the torque wrench")
    yield ", ".join(stated.tools)
    yield ", ".join(stated.skills)
    if stated.risks:
        risks = ", ".join(f"{risk.what} ({worded(risk.level)})" for risk in stated.risks)
        yield gettext("may go wrong: {risks}", risks=risks)
    yield stated.note


def round_words(engine: Engine, stated: WorkRound) -> str:
    """All that is stated of a work-round."""
    more = gettext("{out} more out, {back} more back", **_minutes(stated))
    said = [f"{say(f'round.{stated.kind}')}, {more}"]
    if stated.needs:
        parts = ", ".join(_part_name(engine, key) for key in stated.needs)
        said.append(gettext("with {parts} away", parts=parts))
    return "; ".join(filter(None, [*said, *_doing_facts(stated)]))


def hindrance_words(engine: Engine, hindrance: Hindrance) -> str:
    """What a part stands in the way of, and what is stated of that."""
    what = ", ".join(target_words(engine, target) for target in hindrance.of)
    said = [f"{HINDERS[hindrance.kind]} {what}"]
    if hindrance.cleared_by:
        ways = engine.parts[hindrance.part].ways
        clear = [way_name(key, ways[key]) for key in hindrance.cleared_by if key in ways]
        said.append(gettext("cleared by {ways}", ways=", ".join(clear)))
    said += [
        gettext("worked round: {how}", how=round_words(engine, one))
        for one in hindrance.rounds.values()
    ]
    if hindrance.variants:
        said.append(gettext("only on {variants}", variants=", ".join(hindrance.variants)))
    return "; ".join(filter(None, [*said, hindrance.note]))


def target_words(engine: Engine, said: str) -> str:
    """What can be stood in the way of, in words; as it is written where it is no target."""
    target = parse_target(said)
    if target is None:
        return said
    if target.hole:
        return _at_hole(target)
    if target.item:
        return place_name(engine, target.item)
    name = _part_name(engine, target.part)
    if target.joint:
        pieces = f" {target.pieces}" if target.pieces else ""
        return gettext("{joint} of {part}", joint=f"{target.joint}{pieces}", part=name)
    part = engine.parts.get(target.part)
    way = part.ways.get(target.way) if part else None
    return f"{name}: {way_name(target.way, way)}" if way else name


def _at_hole(target: Target) -> str:
    if target.joint:
        return gettext(
            "{joint} of {item} {hole}",
            joint=target.joint,
            item=worded(target.item),
            hole=target.hole,
        )
    if target.item:
        return f"{worded(target.item)} {target.hole}"
    return gettext("hole {hole}", hole=target.hole)


def _part_name(engine: Engine, key: str) -> str:
    return engine.parts[key].name if key in engine.parts else key
