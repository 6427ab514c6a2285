"""What stands in the way of what, as it is stated on the board: how it clears, what goes round."""

from collections.abc import Callable, Mapping, Sequence

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.part_access import part_of
from eldrim.core.consistency import check
from eldrim.core.engine import Engine, Target, parse_target
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.parts import Hindrance, HindranceKind, WorkRound
from eldrim.core.words.messages import gettext


def without_targets(
    hindrances: Sequence[Hindrance], gone: Callable[[Target], bool]
) -> tuple[Hindrance, ...]:
    """The hindrances without what has gone; one left with nothing to hinder goes too."""
    kept = []
    for hindrance in hindrances:
        parsed = [(text, parse_target(text)) for text in hindrance.of]
        of = tuple(text for text, target in parsed if target is None or not gone(target))
        if of:
            kept.append(hindrance.model_copy(update={"of": of}))
    return tuple(kept)


def hinder(engine: Engine, key: str, target: str, kind: HindranceKind) -> Engine:
    """Say that a part stands in the way of something: a hole, a part, or one joint of either."""
    part_of(engine, key)
    said = Hindrance(part=key, of=(target,), kind=kind)
    made = engine.model_copy(update={"hindrances": (*engine.hindrances, said)})
    known = check(engine)
    wrong = [problem for problem in check(made) if problem not in known]
    if wrong:
        raise EngineError(wrong)
    return made


def hindrance_at(engine: Engine, index: int) -> Hindrance:
    """One by its place on the sheet; raises :class:`EngineError` when it has gone."""
    if not 0 <= index < len(engine.hindrances):
        said, fix = gettext("is no longer there"), gettext("load the page again")
        raise EngineError([Problem("hindrances", said, fix)])
    return engine.hindrances[index]


def restate_hindrance(engine: Engine, index: int, facts: Mapping[str, object]) -> Engine:
    """Change what is said of one hindrance: kind, targets, the ways that clear it, variants, note.

    One that is left with no target goes.
    """
    plain = hindrance_at(engine, index).model_dump(mode="json")
    if facts.get("of") == ():
        return _with(engine, index, ())
    return _with(engine, index, (Hindrance.model_validate({**plain, **facts}),))


def work_round(engine: Engine, index: int, key: str, facts: Mapping[str, object]) -> Engine:
    """State a way of working round a hindrance, whole; with no ``key`` it is a new one."""
    hindrance = hindrance_at(engine, index)
    stated = WorkRound.model_validate(facts)
    key = key or free_key(stated.kind.value.replace("_", "-"), tuple(hindrance.rounds))
    rounds = {**hindrance.rounds, key: stated}
    return _with(engine, index, (hindrance.model_copy(update={"rounds": rounds}),))


def no_work_round(engine: Engine, index: int, key: str) -> Engine:
    """Take a way of working round away."""
    hindrance = hindrance_at(engine, index)
    rounds = {name: stated for name, stated in hindrance.rounds.items() if name != key}
    return _with(engine, index, (hindrance.model_copy(update={"rounds": rounds}),))


def _with(engine: Engine, index: int, changed: tuple[Hindrance, ...]) -> Engine:
    kept = (*engine.hindrances[:index], *changed, *engine.hindrances[index + 1 :])
    return engine.model_copy(update={"hindrances": kept})
