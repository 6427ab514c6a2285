"""A procedure in open formats: out and in again the same; tables that a spreadsheet reads."""

import csv
import io
import json

import jsonschema
import pytest

from eldrim.core.base.errors import ProblemsError
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, OwnStep, apply_edits
from eldrim.demo.load import demo_crib, demo_engines
from eldrim.exchange import procedure_files as files
from tests.builders import job, tug

EDITS = {
    "torque/plug/2": Edit(text="Mine", hold=True),
    "own/x": Edit(own=OwnStep(text="=cmd()", after="torque/plug/2")),
}
MADE = apply_edits(compile_plan(tug(), job(2, 4)), EDITS)


@pytest.mark.sweep(4)
@pytest.mark.parametrize("engine", demo_engines(), ids=lambda e: e.id)
def test_json_loses_nothing(engine) -> None:  # type: ignore[no-untyped-def]
    """Export, import: the same; and it keeps to its schema."""
    variant = next(iter(engine.variants))
    asked = Job(
        cylinders=tuple(engine.cylinders), work=(carrier(engine), Work.PLUG), variant=variant
    )
    made = compile_plan(engine, asked, crib=demo_crib())
    whole = files.ProcedureFile(job=made.job, edits=EDITS, plan=made)
    text = files.write_json(whole)
    assert files.read_json(text.encode()) == whole
    jsonschema.validate(json.loads(text), files.schema())


def test_what_is_no_procedure_is_refused_by_place() -> None:
    """Nothing is half-read."""
    broken = json.loads(files.write_json(files.ProcedureFile(job=MADE.job, plan=MADE)))
    broken["plan"]["steps"][0]["minutes"] = "long"
    with pytest.raises(ProblemsError) as caught:
        files.read_json(json.dumps(broken).encode())
    assert [p.path for p in caught.value.problems] == ["plan.steps[0].minutes"]
    with pytest.raises(ProblemsError):
        files.read_json(b"{")


def test_steps_tools_and_parts_are_tables() -> None:
    """One row each, in order; a cell that starts like a formula is text."""
    rows = list(csv.DictReader(io.StringIO(files.steps_csv(MADE))))
    assert [r["key"] for r in rows] == [s.key for s in MADE.steps]
    assert "'=cmd()" in [r["text"] for r in rows]
    held = next(r for r in rows if r["key"] == "torque/plug/2")
    assert (held["hold"], held["text"]) == ("yes", "Mine")
    tools = list(csv.DictReader(io.StringIO(files.tools_csv(MADE))))
    assert [r["tool"] for r in tools] == [t.name for t in MADE.tools]
    parts = list(csv.DictReader(io.StringIO(files.parts_csv(MADE))))
    assert [int(r["quantity"]) for r in parts] == [p.quantity for p in MADE.parts]


def test_markdown_has_cautions_where_they_act() -> None:
    """Step, then its caution, then the next step."""
    text = files.markdown(MADE, 1)
    assert MADE.defers_to in text
    for step in MADE.steps:
        at = text.index(f"**{step.text}**")
        for caution in step.cautions:
            assert 0 < text.index(f"**Caution:** {caution.text}", at) - at < 1500


def test_a_table_changes_one_hole_without_fixing_what_its_act_says() -> None:
    """A note typed at one hole leaves the wording to the act; an emptied one goes by itself."""
    computed = compile_plan(tug(), job(2, 4, 6))
    edits = {"torque/plug/*": Edit(text="Click {hole}", note="Head held.")}
    draft = apply_edits(computed, edits)
    rows = list(csv.DictReader(io.StringIO(files.steps_csv(draft))))
    by_key = {row["key"]: row for row in rows}
    assert by_key["torque/plug/4"]["text"] == "Click 4"
    same = files.read_steps_csv(files.steps_csv(draft).encode(), computed, draft, edits)
    assert same == edits
    by_key["torque/plug/4"]["note"] = "Mind the stay."
    by_key["torque/plug/6"]["note"] = ""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(rows[0]))
    writer.writeheader()
    writer.writerows(rows)
    read = files.read_steps_csv(out.getvalue().encode(), computed, draft, edits)
    assert read["torque/plug/4"] == Edit(note="Mind the stay.")
    assert read["torque/plug/6"].apart
    done = apply_edits(computed, read)
    said = {s.hole: (s.text, s.note) for s in done.steps if s.key.startswith("torque/plug/")}
    assert said == {
        "2": ("Click 2", "Head held."),
        "4": ("Click 4", "Mind the stay."),
        "6": ("Click 6", ""),
    }
