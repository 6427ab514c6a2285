"""The ways of a part, as they are stated on the board."""

from collections.abc import Mapping

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.base.quantity import make
from eldrim.core.capture.hindrances import without_targets
from eldrim.core.capture.minutes import estimate_way
from eldrim.core.capture.part_access import part_of, put
from eldrim.core.engine import Engine
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.parts import Hindrance, Part, Way, WayKind
from eldrim.core.words.messages import gettext

NO_TIME = make(0, "min")


def set_way(engine: Engine, key: str, way: str, facts: Mapping[str, object]) -> Engine:
    """State a way of a part, new or in the place of ``way``; what is not said of it stays.

    ``facts`` are fields of :class:`Way`; ``out`` and ``back`` both None are an estimate from the
    joints let go. Without ``way`` it is the one way of its kind, and with a name of its own in
    ``called`` one beside it.
    """
    part = part_of(engine, key)
    kind = WayKind(str(facts["kind"]))
    way = way or _key(part, kind, str(facts.get("called") or ""))
    known = part.ways.get(way) or Way(kind=kind, out=NO_TIME, back=NO_TIME, estimated=True)
    said = {name: value for name, value in facts.items() if name in Way.model_fields}
    timed = said.get("out") is not None and said.get("back") is not None
    if not timed:
        said = {name: value for name, value in said.items() if name not in ("out", "back")}
    plain = known.model_dump(mode="json")
    made = Way.model_validate({**plain, **said, "estimated": not timed})
    made = made if timed else estimate_way(kind, part.joints, made)
    return put(engine, key, part.model_copy(update={"ways": {**part.ways, way: made}}))


def _key(part: Part, kind: WayKind, called: str) -> str:
    plain = kind.value.replace("_", "-")
    return free_key(f"{plain} {called}", tuple(part.ways)) if called else plain


def remove_way(engine: Engine, key: str, way: str) -> Engine:
    """Take a way away, with what stood in its way; a part keeps at least one.

    Raises :class:`EngineError` where it is the only one, or the only one that clears something.
    """
    part, place = part_of(engine, key), f"parts.{key}.ways.{way}"
    if len(part.ways) < 2:
        said = gettext("is the only way to move it")
        raise EngineError([Problem(place, said, gettext("state another one first"))])
    if any(h.part == key and h.cleared_by == (way,) for h in engine.hindrances):
        said = gettext("alone clears what it stands in the way of")
        raise EngineError([Problem(place, said, gettext("say there which other way clears it"))])
    ways = {name: stated for name, stated in part.ways.items() if name != way}
    kept = without_targets(
        engine.hindrances, lambda target: (target.part, target.way) == (key, way)
    )
    hindrances = tuple(_not_cleared_by(hindrance, key, way) for hindrance in kept)
    engine = engine.model_copy(update={"hindrances": hindrances})
    return put(engine, key, part.model_copy(update={"ways": ways}))


def _not_cleared_by(hindrance: Hindrance, key: str, way: str) -> Hindrance:
    if hindrance.part != key:
        return hindrance
    left = tuple(clearing for clearing in hindrance.cleared_by if clearing != way)
    return hindrance.model_copy(update={"cleared_by": left})
