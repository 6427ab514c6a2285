"""What other engines of the shop already have: a part, its joints and its ways, offered by name."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from difflib import SequenceMatcher

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.edits import add_part
from eldrim.core.capture.held import torque_figure
from eldrim.core.capture.part_access import part_of, put, within
from eldrim.core.engine import Engine, Part
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import TO_BE_STATED
from eldrim.core.engine.parts import Joint, PartKind
from eldrim.core.words.messages import gettext

MOST_OFFERS = 12


@dataclass(frozen=True)
class Offer:
    """A part of another engine: ``engine`` and ``key`` say where it is, ``source`` in words.

    ``torques`` are what its sheet prints for its figures.
    """

    engine: str
    source: str
    key: str
    part: Part
    torques: Mapping[str, str] = field(default_factory=dict)

    def torque_of(self, joint: Joint) -> str:
        """What a joint of it is tightened to there; empty where nothing is stated."""
        return self.torques.get(joint.torque or "", "")


def offers(
    kind: PartKind | None, name: str, known: Iterable[Offer], most: int = MOST_OFFERS
) -> tuple[Offer, ...]:
    """Those of a kind (any kind without one), the best name first; one held alike stands once."""
    fits = [one for one in known if kind in (None, one.part.kind) and _says_something(one.part)]
    found: list[Offer] = []
    for one in sorted(fits, key=lambda one: (-_alike(name, one.part.name), one.source, one.key)):
        if not any(_same(one.part, other.part) for other in found):
            found.append(one)
    return tuple(found[:most])


def _says_something(part: Part) -> bool:
    return bool(part.joints or any(not way.estimated for way in part.ways.values()))


def _alike(name: str, other: str) -> float:
    """How alike two names are, 0 to 1."""
    return round(SequenceMatcher(None, name.casefold(), other.casefold()).ratio(), 2)


def _same(part: Part, other: Part) -> bool:
    return (part.name, part.joints, part.ways) == (other.name, other.joints, other.ways)


def take_joint(engine: Engine, key: str, other: Engine, theirs: str, joint: str) -> Engine:
    """Hold a part as one joint of another engine's part is held."""
    found = _theirs(other, theirs).joints.get(joint)
    return engine if found is None else _hold(engine, key, other, {joint: found})


def take_way(engine: Engine, key: str, other: Engine, theirs: str, way: str) -> Engine:
    """Give a part one way of another engine's part, in what it lets go that is held here too."""
    found = _theirs(other, theirs).ways.get(way)
    part = part_of(engine, key)
    if found is None:
        return engine
    ways = {**part.ways, way: within(found, part.joints)}
    return put(engine, key, part.model_copy(update={"ways": ways}))


def take_all(engine: Engine, key: str, other: Engine, theirs: str) -> Engine:
    """Hold a part as another engine's part is held, with its ways; what it had goes.

    Of a part that never moves there only the joints come: ours keeps its ways.
    """
    part, found = part_of(engine, key), _theirs(other, theirs)
    bare = part.model_copy(update={"joints": {}, "opens": found.opens})
    engine = _hold(put(engine, key, bare), key, other, found.joints)
    held = part_of(engine, key)
    ways = {name: within(way, held.joints) for name, way in found.ways.items()}
    return put(engine, key, held.model_copy(update={"ways": ways or held.ways}))


def put_on(engine: Engine, other: Engine, theirs: str) -> tuple[Engine, str]:
    """Put a part on the plan as another engine has it; return the sheet and its key here."""
    found = _theirs(other, theirs)
    wide, high = engine.layout.plan
    engine, key = add_part(engine, found.kind, (wide / 2, high / 2), found.name)
    kept = {"needed_to_run": found.needed_to_run, "level": found.level, "note": found.note}
    outline = _centred(found.outline, (wide, high))
    part = part_of(engine, key).model_copy(update={**kept, "outline": outline})
    return take_all(put(engine, key, part), key, other, theirs), key


def _theirs(other: Engine, key: str) -> Part:
    if key not in other.parts:
        said, fix = gettext("is no longer there"), gettext("load the page again")
        raise EngineError([Problem(f"{other.title}, {key}", said, fix)])
    return other.parts[key]


def _hold(engine: Engine, key: str, other: Engine, joints: dict[str, Joint]) -> Engine:
    """The part with more joints: a torque is to be sourced here, a number is its maker's own."""
    same_make = engine.make.casefold() == other.make.casefold()
    for name, joint in joints.items():
        torque = None
        if stated := other.figures.get(joint.torque or "", ()):
            engine, torque = torque_figure(engine, key, stated[0].value, _hint(other))
        number = joint.part_number if same_make else joint.part_number and TO_BE_STATED
        taken = joint.model_copy(update={"torque": torque, "part_number": number, "at": ()})
        part = part_of(engine, key)
        held = {**part.joints, free_key(name, tuple(part.joints)): taken}
        engine = put(engine, key, part.model_copy(update={"joints": held}))
    return engine


def _hint(other: Engine) -> str:
    return gettext("as on {make} {engine}", make=other.make, engine=other.name)[:80]


def _centred(
    outline: Sequence[tuple[float, float]], plan: tuple[float, float]
) -> tuple[tuple[float, float], ...]:
    """An outline with its middle on the plan's, made smaller where it would not fit."""
    lows, highs = (tuple(end(side) for side in zip(*outline, strict=True)) for end in (min, max))
    spans = [high - low or 1.0 for low, high in zip(lows, highs, strict=True)]
    scale = min(1.0, *(side / span for side, span in zip(plan, spans, strict=True)))
    return tuple(
        (
            round(plan[0] / 2 + (x - (lows[0] + highs[0]) / 2) * scale, 1),
            round(plan[1] / 2 + (y - (lows[1] + highs[1]) / 2) * scale, 1),
        )
        for x, y in outline
    )
