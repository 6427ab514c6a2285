"""Engine files in and out: YAML or JSON, every problem named by its path, nothing half-read."""

import json
import re
from collections.abc import Hashable
from difflib import get_close_matches
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.model import (
    Bank,
    Coil,
    Cylinder,
    Figure,
    Ignition,
    Layout,
    Lead,
    Plug,
    Source,
    Variant,
    Well,
)
from eldrim.core.engine.parts import Hindrance, Joint, Part, Risk, Way, WorkRound
from eldrim.core.reachable import unreachable
from eldrim.core.words.messages import gettext
from eldrim.exchange.model_faults import fault_words

MAX_BYTES = 1_000_000
# Stand-ins for what is not understood, so that the rest can be checked: lengths first.
STAND_INS: tuple[Any, ...] = (
    "10 mm",
    "10 N·m",
    "1 min",
    "10°",
    "12 V",
    "10 km",
    1,
    [1, 1],
    [[0, 0], [9, 0], [0, 9]],
    "x",
    "other",
    "bolt",
    "hides",
    {},
    [],
    False,
)
Place = tuple[int | str, ...]

# How a fault in a file is mended, by Pydantic's kind of error. {expected} is its own.
FIXES = {
    "extra_forbidden": "check the spelling, or remove it",
    "missing": "add it",
    "enum": "use {expected}",
    "literal_error": "use {expected}",
    "string_type": "write it in quotes",
    "int_type": "write it without quotes",
    "int_parsing": "write it without quotes",
    "float_type": "write it without quotes",
    "float_parsing": "write it without quotes",
    "bool_type": "write true or false",
    "bool_parsing": "write true or false",
    "tuple_type": "write it in square brackets",
    "dict_type": "give each entry its key",
}


def read_engine(data: bytes, *, complete: bool = True) -> Engine:
    """Read an engine from the bytes of a file.

    Raises :class:`EngineError` with every problem found: unreadable text, unknown or missing
    fields, quantities not understood, inconsistencies, and, with ``complete``, holes no way
    reaches.
    """
    engine = validate_engine(_load(data))
    problems = check(engine)
    if not problems and complete:
        problems = unreachable(engine)
    if problems:
        raise EngineError(problems)
    return engine


def validate_engine(document: Any) -> Engine:
    """Turn a plain document into an engine, or raise :class:`EngineError` with paths."""
    if not isinstance(document, dict):
        raise EngineError(
            [Problem("", gettext("the file holds no mapping"), gettext("start with 'format:'"))]
        )
    try:
        return Engine.model_validate(document)
    except ValidationError as error:
        raise EngineError([*_problems(error, document), *_further(document, error)]) from error


def _further(document: dict[str, Any], error: ValidationError) -> list[Problem]:
    """What is wrong besides: found in the document with stand-ins for what is not understood.

    A stand-in is the first of STAND_INS the place takes; what takes none is left out with its
    entry. Nothing said of a stand-in or of an entry left out is returned.
    """
    tried: dict[Place, int] = {}
    faults = error.errors()
    for _ in range(2 * len(STAND_INS)):
        for fault in faults:
            tried[fault["loc"]] = tried.get(fault["loc"], -1) + 1
            if fault["type"] in ("extra_forbidden", "too_short"):
                tried[fault["loc"]] = len(STAND_INS)
        try:
            engine = Engine.model_validate(_with_stand_ins(document, tried))
        except ValidationError as again:
            faults = again.errors()
            continue
        known = [path_text(loc) for loc in tried]
        keys = {str(loc[-1]) for loc, index in tried.items() if index > len(STAND_INS)}
        return [
            problem
            for problem in check(engine)
            if not any(problem.path.startswith(path) for path in known)
            and not any(f"'{key}'" in problem.message for key in keys)
        ]
    return []


def _with_stand_ins(document: dict[str, Any], tried: dict[Place, int]) -> Any:
    """A copy with the stand-in each place has come to; past the last, the entry is left out."""
    copied = json.loads(json.dumps(document, default=str))
    in_order = sorted(tried, key=lambda loc: [str(step).zfill(8) for step in loc], reverse=True)
    for loc in in_order:
        steps = [step for step in loc if step != "[key]"]
        index = tried[loc]
        if index > len(STAND_INS):
            steps = steps[:-1]
        if not steps:
            continue
        holder = copied
        for step in steps[:-1]:
            holder = _inside(holder, step)
        last = steps[-1]
        if index < len(STAND_INS):
            _put(holder, last, STAND_INS[index])
        elif isinstance(holder, list) and isinstance(last, int):
            del holder[last : last + 1]
        elif isinstance(holder, dict):
            holder.pop(str(last), None)
    return copied


def _put(holder: Any, step: int | str, value: Any) -> None:
    if isinstance(holder, list) and isinstance(step, int) and step < len(holder):
        holder[step] = value
    elif isinstance(holder, dict):
        holder[str(step)] = value


def _inside(holder: Any, step: int | str) -> Any:
    if isinstance(holder, list) and isinstance(step, int) and step < len(holder):
        return holder[step]
    return holder.get(str(step)) if isinstance(holder, dict) else None


def write_engine(engine: Engine) -> str:
    """Write an engine as YAML; reading it back gives an equal engine."""
    document = engine.model_dump(mode="json", exclude_defaults=True)
    document = {"format": engine.format, **document}
    return yaml.safe_dump(document, allow_unicode=True, sort_keys=False, width=100)


def changes(before: Engine | None, after: Engine) -> list[tuple[str, str, str]]:
    """What differs between two sheets: the path inside the file, what stood there, what will."""
    old, new = (_flat(sheet) if sheet else {} for sheet in (before, after))
    paths = dict.fromkeys((*old, *new))
    return [
        (path, old.get(path, ""), new.get(path, ""))
        for path in paths
        if old.get(path) != new.get(path)
    ]


def _flat(engine: Engine) -> dict[str, str]:
    found: dict[str, str] = {}

    def walk(value: Any, path: tuple[str | int, ...]) -> None:
        if isinstance(value, dict) and value:
            for key, inner in value.items():
                walk(inner, (*path, key))
        elif isinstance(value, list) and any(isinstance(v, dict) for v in value):
            for index, inner in enumerate(value):
                walk(inner, (*path, index))
        else:
            found[path_text(path)] = value if isinstance(value, str) else json.dumps(value)

    plain = engine.model_dump(mode="json", exclude_defaults=True)
    walk({k: v for k, v in plain.items() if k != "revision"}, ())
    return found


def _problems(error: ValidationError, document: Any) -> list[Problem]:
    """One problem a place: a list is not also called too short because its entry was wrong."""
    found = error.errors()
    locations = [fault["loc"] for fault in found]
    return [
        _problem(e, document)
        for e in found
        if e["type"] != "too_short"
        or not any(
            len(loc) > len(e["loc"]) and loc[: len(e["loc"])] == e["loc"] for loc in locations
        )
    ]


def _problem(error: Any, document: Any) -> Problem:
    kind, expected = error["type"], error.get("ctx", {}).get("expected", "")
    fix = FIXES.get(kind, "see docs/engine-file.md")
    said, typed = fault_words(error), ""
    known = re.findall(r"'([^']+)'", expected)
    if kind in ("enum", "literal_error"):
        # There may be dozens of them; they stand with the fix.
        typed = str(error.get("input", ""))
        said = gettext("'{typed}' is none of the known words", typed=typed[:40])
    if kind == "extra_forbidden":
        typed, known = str(error["loc"][-1]), _fields_at(error["loc"])
    near = get_close_matches(typed, known, n=1, cutoff=0.5) if typed else []
    hint = gettext("did you mean '{near}'? ", near=near[0]) if near else ""
    return Problem(path_text(error["loc"]), said, hint + fix.format(expected=expected))


def _fields_at(loc: tuple[int | str, ...]) -> list[str]:
    """The names of the fields a sheet has at the place of an unknown one."""
    models: dict[str, type[BaseModel]] = {
        "layout": Layout,
        "wells": Well,
        "cylinders": Cylinder,
        "ignition": Ignition,
        "variants": Variant,
        "sources": Source,
        "figures": Figure,
        "plugs": Plug,
        "coils": Coil,
        "leads": Lead,
        "parts": Part,
        "joints": Joint,
        "ways": Way,
        "hindrances": Hindrance,
        "rounds": WorkRound,
        "risks": Risk,
        "banks": Bank,
    }
    named = [str(step) for step in loc[:-1] if str(step) in models]
    return list((models[named[-1]] if named else Engine).model_fields)


def path_text(loc: tuple[int | str, ...]) -> str:
    """Write a location as people read it: ``parts.plenum.joints.bolts.count``."""
    text = ""
    for step in loc:
        if isinstance(step, int) and text != "cylinders":
            text += f"[{step}]"
        elif step != "[key]":
            text += f".{step}" if text else str(step)
    return text


def _load(data: bytes) -> Any:
    if len(data) > MAX_BYTES:
        raise EngineError(
            [
                Problem(
                    "", gettext("the file is over 1 MB"), gettext("an engine sheet is far smaller")
                )
            ]
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise EngineError(
            [
                Problem(
                    "",
                    gettext("byte {start} is not UTF-8 text", start=error.start),
                    gettext("save it as UTF-8"),
                )
            ]
        ) from error
    return _load_json(text) if text.lstrip().startswith("{") else _load_yaml(text)


def _load_json(text: str) -> Any:
    try:
        return json.loads(text, object_pairs_hook=_no_doubles)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise EngineError([Problem(place, error.msg, gettext("correct the JSON there"))]) from error
    except RecursionError as error:
        raise EngineError([Problem("", gettext("nested too deeply"))]) from error


def _no_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    keys = [k for k, _ in pairs]
    for key in keys:
        if keys.count(key) > 1:
            raise EngineError([Problem(key, gettext("this key stands twice"), gettext("keep one"))])
    return dict(pairs)


def _load_yaml(text: str) -> Any:
    try:
        try:
            return yaml.load(text, Loader=_QuickLoader)
        except yaml.YAMLError:
            return yaml.load(text, Loader=_TellingLoader)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        place = f"line {mark.line + 1}, column {mark.column + 1}" if mark else ""
        raise EngineError([_yaml_problem(place, error)]) from error
    except (yaml.YAMLError, RecursionError, ValueError) as error:
        raise EngineError(
            [Problem("", gettext("not readable as YAML: {error}", error=error))]
        ) from error


def _yaml_problem(place: str, error: yaml.MarkedYAMLError) -> Problem:
    """What YAML stumbled over, and what was expected there."""
    said = error.problem or "not YAML"
    inside = f" {error.context}" if error.context else ""
    for found, fix in YAML_FIXES:
        if found in said:
            return Problem(place, f"{said}{inside}", fix)
    return Problem(
        place, f"{said}{inside}", gettext("expected here: 'key: value', two blanks further in")
    )


YAML_FIXES = (
    ("tab", "indent with blanks, never with tabs"),
    ("cannot start any token", "indent with blanks, or put the text in quotes"),
    ("mapping values are not allowed", "put a text with a colon in quotes"),
    ("expected <block end>", "line the key up with those above it"),
    ("could not find expected ':'", "write the key, a colon and a blank: key: value"),
    ("expected ',' or ']'", "close the list with ]"),
    ("expected ',' or '}'", "close the mapping with }"),
    ("found unexpected end of stream", "close the quotes"),
    ("did not find expected", "line it up with the entries above it"),
)


class _Strict(yaml.composer.Composer, yaml.constructor.SafeConstructor, yaml.resolver.BaseResolver):
    """Safe, without aliases (a small file must not unfold into a huge one) or double keys."""

    def compose_node(self, parent: Any, index: Any) -> Any:
        if self.check_event(yaml.AliasEvent):  # type: ignore[attr-defined]
            mark = self.peek_event().start_mark  # type: ignore[attr-defined]
            raise yaml.MarkedYAMLError(
                problem=gettext("aliases are not allowed"), problem_mark=mark
            )
        return super().compose_node(parent, index)

    def construct_mapping(self, node: Any, deep: bool = False) -> dict[Hashable, Any]:
        seen: set[Any] = set()
        for key_node, _ in node.value:
            key = self.construct_object(key_node, deep=True)
            if key in seen:
                raise yaml.MarkedYAMLError(
                    problem=gettext("'{key}' stands twice", key=key),
                    problem_mark=key_node.start_mark,
                )
            seen.add(key)
        return super().construct_mapping(node, deep)


# Dates and the like stay text; only what a sheet uses is read as anything else.
_Strict.yaml_implicit_resolvers = {
    first: [(tag, regexp) for tag, regexp in found if not tag.endswith(("timestamp", "merge"))]
    for first, found in yaml.SafeLoader.yaml_implicit_resolvers.items()
}


class _QuickLoader(_Strict, yaml.CSafeLoader):
    """Takes its events from libyaml, five times as fast as from Python; its faults are terse."""

    def __init__(self, stream: str) -> None:
        """Begin to read."""
        yaml.CSafeLoader.__init__(self, stream)
        yaml.composer.Composer.__init__(self)


class _TellingLoader(_Strict, yaml.SafeLoader):
    """Takes its events from Python, which says best what it stumbled over."""
