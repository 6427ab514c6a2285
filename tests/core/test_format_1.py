"""What was kept in the first format opens, runs on, compares, is edited and is printed."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from pydantic import TypeAdapter

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.run.admission import admit
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.parts_needed import parts_needed
from eldrim.core.run.report import report
from eldrim.core.run.state import RunState, fold, with_entry
from eldrim.exchange.procedure_files import markdown, steps_csv
from eldrim.printing import long_form, run_sheet
from tests.builders import tug

VECTORS = Path(__file__).parents[1] / "vectors"
ENTRIES = TypeAdapter(list[Recorded])


def kept(name: str) -> dict[str, Any]:
    """A file of things kept in the first format, as they lie in a database of then."""
    found: dict[str, Any] = json.loads((VECTORS / f"format-1-{name}.json").read_text())
    return found


EDITIONS = [("run", "edition"), ("editions", "before"), ("german", "before"), ("german", "after")]


@pytest.mark.parametrize(("name", "which"), EDITIONS)
def test_an_edition_opens_as_it_was_and_is_kept_in_the_present_format(
    name: str, which: str
) -> None:
    """No step, word or minute changes; read again from the new format it is the same."""
    document = kept(name)[which]
    plan = Plan.model_validate(document)
    assert [str(s.key) for s in plan.steps] == [s["key"] for s in document["steps"]]
    assert [s.text for s in plan.steps] == [s["text"] for s in document["steps"]]
    assert [s.minutes for s in plan.steps] == [s["minutes"] for s in document["steps"]]
    for step, was in zip(plan.steps, document["steps"], strict=True):
        assert [c.text for c in step.cautions] == [c["text"] for c in was["cautions"]]
        assert [t.name for t in step.tools] == was["tools"]
        assert all(t.id for t in step.tools)
    again = plan.model_dump(mode="json")
    assert again["format"] == "eldrim.plan/2"
    assert Plan.model_validate(again) == plan


def test_a_run_folds_to_the_same_report() -> None:
    """Line for line what the earlier version said of it."""
    run = kept("run")
    plan = Plan.model_validate(run["edition"])
    said = [
        {
            k: [
                {n: x for n, x in v_.items() if n not in ("how", "judged", "typed", "says")}
                for v_ in v
            ]
            if k == "values"
            else v
            for k, v in asdict(line).items()
            if k in run["report"][0]
        }
        for line in report(plan, ENTRIES.validate_python(run["entries"]))
    ]
    now, before = json.loads(json.dumps(said)), run["report"]
    for line, kept_line in zip(now, before, strict=True):
        # A mark says more today: when a stop was cleared, that a step was not done.
        marks, kept_marks = line.pop("marks"), kept_line.pop("marks")
        assert len(marks) >= len(kept_marks)
        assert all(any(m.split(" (")[0] in w for w in marks) for m in kept_marks)
    assert now == before


def test_a_run_that_began_then_goes_on_now() -> None:
    """Each of its entries is admitted again, and the next step can be done."""
    run = kept("run")
    plan = Plan.model_validate(run["edition"])
    state = RunState()
    for recorded in ENTRIES.validate_python(run["entries"]):
        # What ended a stop was not asked for in those days.
        asked = {"note": "dried"} if recorded.entry.kind is EntryKind.RESUME else {}
        admit(plan, state, recorded.entry.model_copy(update=asked), recorded.role)
        state = with_entry(state, recorded)
    assert state == fold(ENTRIES.validate_python(run["entries"]))


def test_two_editions_compare_as_they_did() -> None:
    """The same lines, merged over the same holes."""
    both = kept("editions")
    found = difference(Plan.model_validate(both["before"]), Plan.model_validate(both["after"]))
    lines = [[c.what, c.text, c.before, c.after, c.hole] for c in found.changed]
    assert lines == both["changed"]


def test_two_german_editions_merge_their_holes_too() -> None:
    """One line where each hole had its own."""
    both = kept("german")
    found = difference(Plan.model_validate(both["before"]), Plan.model_validate(both["after"]))
    assert [(c.step, c.hole) for c in found.changed] == [
        ("torque/plug/2", "2, 4"),
        ("fit/coil/2", "2, 4"),
        ("fit/coil/2", "2, 4"),
        ("tighten/coil/2/bolt", "2, 4"),
    ]


def test_edits_made_then_apply_to_a_plan_of_now() -> None:
    """A note, a wording, a step of one's own, a step left out."""
    both = kept("editions")
    edits = {key: Edit.model_validate(e) for key, e in both["edits"].items()}
    made = apply_edits(Plan.model_validate(both["before"]), edits)
    by_key = {str(s.key): s for s in made.steps}
    assert by_key["remove/plug/2"].note == "Slowly."
    assert by_key["remove/plug/2"].hold
    assert by_key["torque/plug/4"].text == "Torque plug 4 with care"
    assert by_key["own/1"].text == "Wipe the rail"
    assert "ready/codes" not in by_key


def test_it_is_printed_and_written_out() -> None:
    """Job sheet, run sheet, table and text."""
    run = kept("run")
    plan = Plan.model_validate(run["edition"])
    entries = ENTRIES.validate_python(run["entries"])
    page = long_form.page(plan, tug(), "edition 1", "released", {})
    assert page.count('<div class="step">') == len(plan.steps)
    about = run_sheet.RunFacts(
        {"Unit": "Tug 14"}, parts_needed(plan, fold(entries)), {}, ZoneInfo("UTC")
    )
    assert run_sheet.pdf(plan, entries, about).startswith(b"%PDF")
    assert steps_csv(plan).count("\n") >= len(plan.steps)
    assert plan.title in markdown(plan, 1)


def test_an_entry_s_old_name_for_what_it_refers_to_is_read() -> None:
    """``names`` is ``refers_to`` now."""
    one = "00000000-0000-4000-8000-000000000001"
    read = Entry.model_validate({"id": one, "kind": "accept", "names": one})
    assert str(read.refers_to) == one
    assert read.model_dump(mode="json")["refers_to"] == one
    assert Role.TECHNICIAN.value == "technician"


def test_nothing_changed_where_only_the_format_did() -> None:
    """A tool is the same when it is called the same, though its id was made from its name."""
    document = kept("run")["edition"]
    plan = Plan.model_validate(document)
    fresh = compile_plan(tug(), plan.job, DEFAULT_RULES)
    found = difference(plan, fresh)
    tools = {c.after for c in found.changed if c.what == "tools"}
    # Only the code reader was not named then, and the bar is what breaks a plug loose today.
    loose = "plug socket 16 mm, ⅜ in; extension 75 mm, ⅜ in; breaker bar ⅜ in; ratchet ⅜ in"
    assert tools <= {"code reader", loose}
    assert found.tools_removed == ("ratchet 250 mm ⅜ in",)
    assert set(found.tools_added) <= {"code reader", "breaker bar ⅜ in"}


def test_ids_of_sockets_and_handles_are_those_of_their_stacks() -> None:
    """The stacks of then had ids already."""
    plan = Plan.model_validate(kept("run")["edition"])
    [step] = [s for s in plan.steps if s.key == "release/coil/2/bolt"]
    assert [t.id for t in step.tools] == ["s-14-10", "h-14-ratchet-140"]
    assert step.setup == ("s-14-10", "h-14-ratchet-140")
