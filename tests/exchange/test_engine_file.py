"""Engine files: read whole or not at all, every problem named, written so they read back equal."""

import json
import re
from pathlib import Path
from typing import Any

import jsonschema
import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine import Engine
from eldrim.exchange.engine_file import MAX_BYTES, read_engine, write_engine
from eldrim.exchange.schema import SCHEMA_FILE, schema_text
from tests.builders import document, part, tug
from tests.core.test_access import obstructed
from tests.sweeps import examples

DOCS = Path(__file__).parents[2] / "docs"


def problems(text: str | dict[str, Any]) -> dict[str, str]:
    """Path to message of everything wrong with a file."""
    data = text if isinstance(text, str) else yaml.safe_dump(text, allow_unicode=True)
    with pytest.raises(EngineError) as caught:
        read_engine(data.encode())
    return {p.path: p.message for p in caught.value.problems}


def test_writing_then_reading_is_the_identity() -> None:
    """As YAML and as JSON."""
    assert read_engine(write_engine(tug()).encode()) == tug()
    assert read_engine(tug().model_dump_json().encode()) == tug()
    again = read_engine(write_engine(tug()).encode())
    assert list(again.parts) == list(tug().parts)


def test_all_problems_are_listed_at_once_by_their_path() -> None:
    """Unknown field, bad unit, missing field, wrong kind: four places in one answer."""
    wrong = document()
    wrong["colour"] = "red"
    wrong["cylinders"][2]["wells"][0]["depth"] = "sixty"
    del wrong["layout"]["head"]
    wrong["parts"] = {"a": {**part(), "kind": "thingy"}}
    found = problems(wrong)
    assert set(found) == {"colour", "cylinders.2.wells[0].depth", "layout.head", "parts.a.kind"}
    assert "not a quantity" in found["cylinders.2.wells[0].depth"]
    assert found["layout.head"] == "is missing"
    assert found["parts.a.kind"] == "'thingy' is none of the known words"


def test_what_does_not_agree_is_listed_with_what_is_not_understood() -> None:
    """One pass, whatever the kinds of fault: spelling, units, cross-references, numbers."""
    wrong = document()
    wrong["colour"] = "red"
    wrong["plugs"][0]["reach"] = "1 m"
    wrong["figures"]["plug-gap"][0]["value"] = "eight"
    wrong["ignition"]["firing_order"] = [1, 2]
    wrong["parts"] = {"duct": {**part(), "kind": "dukt"}, "cover": part()}
    wrong["hindrances"] = [{"part": "covr", "of": ["hole/9"], "kind": "hides"}]
    wrong["cylinders"][2]["wells"][0]["bore"] = "240 mm"
    found = problems(wrong)
    assert {
        "colour",
        "plugs[0].reach",
        "figures.plug-gap[0].value",
        "ignition.firing_order",
        "parts.duct.kind",
        "hindrances[0].part",
        "hindrances[0].of",
        "cylinders.2.wells[0].bore",
    } <= set(found)


# What is misspelt, where, and the word that was meant.
NEAREST = [
    ({"layout": {"mountin": "along"}}, "layout.mountin", "mounting"),
    ({"parts": {"a": {**part(), "kind": "plenumm"}}}, "parts.a.kind", "plenum"),
    ({"parts": {"a": {**part(), "outlin": []}}}, "parts.a.outlin", "outline"),
    (
        {"parts": {"a": {**part(), "joints": {"j": {"kind": "bolts"}}}}},
        "parts.a.joints.j.kind",
        "bolt",
    ),
    (
        {"hindrances": [{"part": "a", "of": ["hole/1"], "kind": "hide"}]},
        "hindrances[0].kind",
        "hides",
    ),
    (
        {
            "parts": {"cover": part()},
            "hindrances": [{"part": "covre", "of": ["hole/1"], "kind": "hides"}],
        },
        "hindrances[0].part",
        "cover",
    ),
]


@pytest.mark.parametrize(("changes", "path", "meant"), NEAREST)
def test_an_unknown_word_gets_the_nearest(changes: dict[str, Any], path: str, meant: str) -> None:
    """So that a slip of the finger needs no manual."""
    wrong = document()
    for key, change in changes.items():
        wrong[key] = {**wrong[key], **change} if key == "layout" else change
    with pytest.raises(EngineError) as caught:
        read_engine(yaml.safe_dump(wrong, allow_unicode=True).encode())
    [problem] = [p for p in caught.value.problems if p.path == path]
    assert f"did you mean '{meant}'?" in problem.fix


YAML_FAULTS = [
    ("a:\n\tb: 1", "tab", "blanks"),
    ("a: b: c", "mapping values", "quotes"),
    ("a: [1, 2", "expected", "]"),
    ('a: "b', "unexpected end", "quotes"),
]


@pytest.mark.parametrize(("text", "said", "fix"), YAML_FAULTS)
def test_a_fault_of_yaml_says_what_was_expected(text: str, said: str, fix: str) -> None:
    """With line, column and the mend."""
    with pytest.raises(EngineError) as caught:
        read_engine(text.encode())
    [problem] = caught.value.problems
    assert problem.path.startswith("line ")
    assert fix in problem.fix, problem


def put(sheet: dict[str, Any], path: str, value: Any) -> None:
    """Change one place of a plain document, as ``cylinders.1.wells.0.depth``."""
    *way, last = path.split(".")
    for step in way:
        sheet = sheet[int(step)] if isinstance(sheet, list) else sheet[step]
    sheet[last] = value


# A value that cannot be, where, what is likely meant.
IMPOSSIBLE = [
    ("cylinders.1.wells.0.depth", "1000 mm", "100 mm"),
    ("cylinders.1.wells.0.bore", "240 mm", "24 mm"),
    ("cylinders.1.wells.0.bore", "0 mm", ""),
    ("cylinders.1.wells.0.depth", "-60 mm", ""),
    ("cylinders.1.wells.0.room_above", "-1 mm", ""),
    ("cylinders.1.wells.0.room_above", "0 mm", ""),
    ("cylinders.1.wells.0.tilt", "120°", "12°"),
    ("cylinders.1.wells.0.at", [1e9, 4], ""),
    ("cylinders.1.wells.0.at", [float("nan"), 4], ""),
    ("plugs.0.reach", "1 m", ""),
    ("plugs.0.reach", "190 mm", "19 mm"),
    ("plugs.0.hex", "160 mm", "16 mm"),
    ("parts.a.ways.remove.out", "-5 min", ""),
    ("parts.a.ways.remove.out", "900 min", ""),
    ("parts.a.outline", [[0, 0], [99999, 4]], ""),
    ("parts.a.outline", [[0, 0], [float("inf"), 4]], ""),
    ("layout.plan", [0, 300], ""),
    ("layout.block", [9000, 0, 10, 10], ""),
    ("parts.a.joints", {"j": {"kind": "bolt", "head": "hex", "size": "100 mm"}}, "10 mm"),
    ("layout.system", "120 V", ""),
]


@pytest.mark.parametrize(("path", "value", "meant"), IMPOSSIBLE)
def test_what_cannot_be_is_held_like_a_slip(path: str, value: Any, meant: str) -> None:
    """Named by its place, with the likely reading where there is one."""
    wrong = document()
    wrong["parts"] = {"a": part()}
    plain: dict[str, Any] = json.loads(json.dumps(wrong))
    put(plain, path, value)
    with pytest.raises(EngineError) as caught:
        read_engine(yaml.safe_dump(plain, allow_unicode=True).encode())
    dotted = re.sub(r"\.(\d+)", r"[\1]", path).replace("cylinders[1]", "cylinders.1")
    found = caught.value.problems
    near = [p for p in found if dotted.startswith(p.path) or p.path.startswith(dotted)]
    assert near, found
    assert not meant or any(meant in p.fix for p in near), near


def test_a_well_that_is_really_so_is_confirmed_in_words() -> None:
    """As a figure is."""
    odd = document()
    odd["cylinders"][1]["wells"][0] |= {"depth": "420 mm", "confirmed": "measured twice"}
    assert read_engine(yaml.safe_dump(odd, allow_unicode=True).encode())


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no mapping"),
        ("- 1", "no mapping"),
        ("a: [1", "expected"),
        ("a: 1\na: 2", "stands twice"),
        ('{"a": 1, "a": 2}', "stands twice"),
        ('{"a": ', "Expecting"),
        ("a: &x 1\nb: *x", "aliases are not allowed"),
        ("a: !!python/object:os.system x", "could not determine"),
    ],
)
def test_unreadable_files_say_where(text: str, says: str) -> None:
    """The reader is told the line or the key."""
    found = problems(text)
    assert any(says in message for message in found.values()), found


def test_bytes_that_are_no_text_and_files_too_large_are_refused() -> None:
    """Neither is half-read."""
    for data, says in ((b"\xff\xfe\x00a", "UTF-8"), (b"a" * (MAX_BYTES + 1), "1 MB")):
        with pytest.raises(EngineError, match=says):
            read_engine(data)


def test_a_loop_of_hindrances_is_found_on_reading() -> None:
    """A cylinder no plan opens is a problem of the file, with the chain."""
    made = document(
        parts={"a": part(), "b": part()},
        hindrances=[
            {"part": "a", "of": ["hole/1", "b"], "kind": "hides"},
            {"part": "b", "of": ["a"], "kind": "hides"},
        ],
    )
    found = problems(made)
    assert "loop" in found["hindrances"]
    assert "a → b → a" in found["hindrances"] or "b → a → b" in found["hindrances"]


def test_the_published_schema_is_current_and_accepts_the_demo() -> None:
    """docs/ holds what the code says; run `python -m eldrim.exchange.schema` to renew it."""
    assert (DOCS / SCHEMA_FILE).read_text() == schema_text()
    schema = json.loads(schema_text())
    jsonschema.validate(tug().model_dump(mode="json"), schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({**tug().model_dump(mode="json"), "colour": 1}, schema)
    assert schema["title"] == Engine.__name__


@settings(max_examples=examples(60), deadline=None)
@given(obstructed())
def test_any_engine_survives_being_written_and_read(made: Engine) -> None:
    """Export then import is the identity, also for what no way opens."""
    assert read_engine(write_engine(made).encode(), complete=False) == made
    assert read_engine(made.model_dump_json().encode(), complete=False) == made


@settings(max_examples=examples(80), deadline=None)
@given(
    st.recursive(
        st.none() | st.booleans() | st.integers(-5, 5) | st.text(max_size=6),
        lambda inner: (
            st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3)
        ),
        max_leaves=8,
    ),
    st.sampled_from(sorted(document())),
)
def test_nonsense_in_any_field_is_a_list_of_problems_never_a_crash(value: Any, field: str) -> None:
    """Every problem has a place and words."""
    assert all(p.message for p in _all_problems({**document(), field: value}))


def _all_problems(plain: dict[str, Any]) -> list[Problem]:
    """What reading finds wrong; anything but a clean answer or a list of problems escapes."""
    try:
        read_engine(json.dumps(plain).encode())
    except EngineError as error:
        return error.problems or [Problem("", "")]
    return []
