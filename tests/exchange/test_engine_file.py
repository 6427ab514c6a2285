"""Engine files: read whole or not at all, every problem named, written so they read back equal."""

import json
from pathlib import Path
from typing import Any

import jsonschema
import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.engine import Engine
from eldrim.core.errors import EngineError, Problem
from eldrim.exchange.engine_file import MAX_BYTES, read_engine, write_engine
from eldrim.exchange.schema import SCHEMA_FILE, schema_text
from tests.builders import document, part, tug
from tests.core.test_access import obstructed

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
    assert found["parts.a.kind"] == "is none of the known words"


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


@settings(max_examples=60, deadline=None)
@given(obstructed())
def test_any_engine_survives_being_written_and_read(made: Engine) -> None:
    """Export then import is the identity, also for what no way opens."""
    assert read_engine(write_engine(made).encode(), complete=False) == made
    assert read_engine(made.model_dump_json().encode(), complete=False) == made


@settings(max_examples=80, deadline=None)
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
