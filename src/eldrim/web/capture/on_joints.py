"""Acts on what holds a part, how it gets out of the way, and what it stands in the way of."""

from typing import get_args

from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture import held, hindrances, ways
from eldrim.core.capture.part_access import part_of
from eldrim.core.capture.propose import HindranceAnswer, answer
from eldrim.core.capture.shorthand import MAX_LENGTH, understand
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import HindranceKind, RiskLevel
from eldrim.core.words.messages import gettext
from eldrim.web.capture.act_form import (
    BoardAction,
    Done,
    minutes,
    part_keys,
    shift,
    variant_keys,
    whole,
    words,
)
from eldrim.web.filters import worded
from eldrim.web.forms import text_field


def _line(form: FormData) -> str:
    return text_field(form, "joint", MAX_LENGTH + 1)


def _joint(engine: Engine, part: str, form: FormData) -> Done:
    said = understand(_line(form))
    return held.add_joint(engine, part, said), gettext("held by: {form}", form=_line(form)), part


def _rejoint(engine: Engine, part: str, form: FormData) -> Done:
    made = held.restate_joint(engine, part, text_field(form, "key"), understand(_line(form)))
    return made, gettext("held by: {form}", form=_line(form)), part


def _unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return held.remove_joint(engine, part, key), gettext("joint away: {key}", key=key), part


def _place_joint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return held.place_joint(engine, part, key), gettext("on the plan: {key}", key=key), part


def _move_piece(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    made = held.move_piece(engine, part, key, whole(form, "place"), shift(form))
    return made, gettext("moved: {part}", part=key), part


def _unplace_joint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return held.unplace_joint(engine, part, key), gettext("off the plan: {key}", key=key), part


def _way(engine: Engine, part: str, form: FormData) -> Done:
    """One way; the fields that are not sent stay as they were."""
    timed = _timed(form)
    chosen = tuple(str(key) for key in form.getlist("releases"))
    every = set(chosen) == set(part_of(engine, part).joints)
    facts: dict[str, object] = {
        "kind": text_field(form, "kind"),
        "called": text_field(form, "called"),
        "releases": None if every else chosen,
        "opens": tuple(words(form, "opens")) or None,
        **timed,
    }
    if "note" in form:
        facts |= {**_doing(form), "by_feel": text_field(form, "by_feel") == "yes"}
        facts["persons"] = whole(form, "persons") or 1
    made = ways.set_way(engine, part, text_field(form, "key"), facts)
    kind = text_field(form, "kind").replace("_", " ")
    return made, gettext("way: {kind}", kind=kind), part


def _timed(form: FormData) -> dict[str, object]:
    """Minutes out and back: both, or neither for an estimate."""
    out, back = (minutes(form, name) for name in ("out", "back"))
    if (out is None) is not (back is None):
        fix = gettext("say both, or leave both empty for an estimate")
        raise EngineError([Problem("minutes", gettext("one of two is said"), fix)])
    return {"out": out and f"{out:g} min", "back": back and f"{back:g} min"}


def _doing(form: FormData) -> dict[str, object]:
    """What a way and a work-round have in common."""
    return {
        "tools": words(form, "tools"),
        "skills": words(form, "skills"),
        "risks": [_risk(word) for word in text_field(form, "risks").split(",") if word.strip()],
        "good_for_torque": text_field(form, "good_for_torque") == "yes",
        "note": text_field(form, "note"),
    }


def _risk(said: str) -> dict[str, str]:
    """``broken tab: high``, in the words of the page; where its level is not said it is low."""
    what, _, level = said.rpartition(":")
    if not what:
        return {"what": said.strip()}
    levels = {word: one.value for one in RiskLevel for word in (one.value, worded(one.value))}
    if level.strip().lower() not in levels:
        told = gettext("'{level}' is no level of a risk", level=level.strip())
        raise EngineError([Problem("risks", told, gettext("low, medium or high"))])
    return {"what": what.strip(), "level": levels[level.strip().lower()]}


def _unway(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return ways.remove_way(engine, part, key), gettext("way away: {key}", key=key), part


def _reply(engine: Engine, part: str, form: FormData) -> Done:
    targets = tuple(t for t in text_field(form, "targets").split(",") if t)
    said: HindranceAnswer = next(
        (a for a in get_args(HindranceAnswer) if a == text_field(form, "answer")), "free"
    )
    over = text_field(form, "over")
    return answer(engine, over, targets, said), f"{over}: {said.replace('_', ' ')}", part


def _unhinder(engine: Engine, part: str, form: FormData) -> Done:
    index = whole(form, "index")
    kept = tuple(hindrance for i, hindrance in enumerate(engine.hindrances) if i != index)
    return engine.model_copy(update={"hindrances": kept}), gettext("hindrance away"), part


def _hinder(engine: Engine, part: str, form: FormData) -> Done:
    target, kind = text_field(form, "target"), HindranceKind(text_field(form, "kind"))
    if text_field(form, "turned") and target in engine.parts:
        made = hindrances.hinder(engine, target, part, kind)
        return made, gettext("{target} in the way of {part}", target=target, part=part), part
    made = hindrances.hinder(engine, part, _with_pieces(target, form), kind)
    return made, gettext("in the way of {target}", target=target), part


def _with_pieces(target: str, form: FormData) -> str:
    """A target, with the pieces of its joint that are meant where some are named."""
    pieces = ",".join(words(form, "pieces"))
    return f"{target}/{pieces}" if pieces else target


def _rehinder(engine: Engine, part: str, form: FormData) -> Done:
    """Say a hindrance anew: what it is, what it stands before, the ways that clear it."""
    index = whole(form, "index")
    of = [str(target) for target in form.getlist("of")]
    if more := text_field(form, "target"):
        of.append(_with_pieces(more, form))
    every = set(part_of(engine, part).ways)
    cleared = tuple(str(way) for way in form.getlist("cleared_by"))
    if every and not cleared:
        told, fix = (
            gettext("nothing clears it"),
            gettext("tick one way, or say the part never moves"),
        )
        raise EngineError([Problem("cleared_by", told, fix)])
    facts = {
        "kind": text_field(form, "kind"),
        "of": tuple(dict.fromkeys(of)),
        "cleared_by": () if set(cleared) == every else cleared,
        "variants": variant_keys(engine, form),
        "note": text_field(form, "note"),
    }
    return hindrances.restate_hindrance(engine, index, facts), gettext("hindrance changed"), part


def _round(engine: Engine, part: str, form: FormData) -> Done:
    """How the work is done with it left in place."""
    timed = _timed(form)
    if timed["out"] is None:
        fix = gettext("write minutes out and back; 0 where it takes none")
        raise EngineError([Problem("minutes", gettext("are not said"), fix)])
    facts = {"kind": text_field(form, "kind"), **timed, **_doing(form)}
    facts["needs"] = part_keys(engine, form, "needs")
    key, kind = text_field(form, "key"), text_field(form, "kind").replace("_", " ")
    made = hindrances.work_round(engine, whole(form, "index"), key, facts)
    return made, gettext("worked round: {kind}", kind=kind), part


def _unround(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    made = hindrances.no_work_round(engine, whole(form, "index"), key)
    return made, gettext("no longer worked round: {key}", key=key), part


JOINT_ACTIONS: dict[str, BoardAction] = {
    "joint": _joint,
    "rejoint": _rejoint,
    "unjoint": _unjoint,
    "place-joint": _place_joint,
    "piece": _move_piece,
    "unplace-joint": _unplace_joint,
    "way": _way,
    "unway": _unway,
    "answer": _reply,
    "unhinder": _unhinder,
    "hinder": _hinder,
    "rehinder": _rehinder,
    "round": _round,
    "unround": _unround,
}
