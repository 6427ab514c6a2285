"""The run sheet: one side for a plain run, and nothing that was said of it is lost."""

from datetime import timedelta
from functools import cache
from html import unescape
from uuid import UUID
from zoneinfo import ZoneInfo

import pytest

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.report import report
from eldrim.printing import run_sheet
from eldrim.printing.paper import sheet
from tests.builders import job, tug
from tests.core.test_waiting import START
from tests.printing.test_job_sheet import pages, words

K = EntryKind
ABOUT = run_sheet.RunFacts({"Unit": "Tug 14"}, [], {"tam": "Tam Okely"}, ZoneInfo("UTC"))
TYPICAL = {"serial": "2231", "codes": "none", "condition": "tan", "torque": 17.5}


@cache
def plan_of(*holes: int) -> Plan:
    """The tug's plan for some holes."""
    return compile_plan(tug(), job(*holes))


def whole_run(plan: Plan, **other: dict[str, object]) -> list[Recorded]:
    """Every step closed by one person a minute after the other, all readings in the middle.

    ``other`` are fields of the entries that close a step or give a reading, by its key.
    """
    found: list[Recorded] = []

    def write(**fields: object) -> None:
        number = len(found) + 1
        entry = Entry.model_validate({"id": UUID(int=number), **fields})
        when = START + timedelta(minutes=number)
        found.append(Recorded(entry=entry, by="tam", role=Role.TECHNICIAN, at=when))

    for step in plan.steps:
        for reading in (r for r in step.readings if r.required):
            middle = [v for v in (reading.low, reading.high) if v is not None]
            value = sum(middle) / len(middle) if middle else TYPICAL.get(reading.key, 100)
            said = {"kind": K.READING, "reading": reading.key, "value": value}
            write(step=step.key, **{**said, **other.get(f"{step.key}/{reading.key}", {})})
        closing = K.SIGN if step is plan.steps[-1] else K.DONE
        done = {"kind": closing, "checks": [check.key for check in step.checks]}
        write(step=step.key, **{**done, **other.get(step.key, {})})
    return found


def text(plan: Plan, entries: list[Recorded]) -> str:
    """What stands on the run sheet."""
    return words(sheet("run_sheet", **run_sheet.facts(plan, entries, ABOUT)))


@pytest.mark.parametrize("holes", [(2,), (2, 4, 6), (1, 3, 5), (1, 2, 3, 4, 5, 6)])
def test_a_plain_run_is_one_side(holes: tuple[int, ...]) -> None:
    """Also of six holes with the plenum off."""
    plan = plan_of(*holes)
    assert pages(run_sheet.pdf(plan, whole_run(plan), ABOUT)) == 1


def test_everything_in_the_report_stands_on_it() -> None:
    """Each value with its window, each proof, each mark; who did it and when."""
    plan = plan_of(2, 4, 6)
    entries = whole_run(
        plan,
        **{
            "torque/plug/4/torque": {
                "kind": "deviation",
                "value": 24,
                "reason": "read twice",
                "how": "typed",
            },
            "read/plug/6/condition": {"value": "oily"},
            "clean/well/2": {"kind": "skip", "reason": "no air here", "checks": []},
        },
    )
    said = text(plan, entries)
    for line in report(plan, entries, ABOUT.called):
        for value in line.values:
            assert value.value in said, (line.key, value.label)
            assert not value.window or value.window in said
            assert not value.reason or value.reason in said
            assert not value.says or value.says in said
        for one in (*line.proofs, *line.marks, *line.settings):
            assert one in said, (line.key, one)
    assert "Tam Okely" in said
    assert "24 !" in said
    assert "NOT DONE: no air here" in said


def test_somebody_else_is_named_where_they_did_it() -> None:
    """Most was done by one; the step another one closed says so."""
    plan = plan_of(2)
    entries = [
        e.model_copy(update={"by": "ria"}) if e.entry.step == "torque/plug/2" else e
        for e in whole_run(plan)
    ]
    page = sheet("run_sheet", **run_sheet.facts(plan, entries, ABOUT))
    lines = {
        unescape(part.split("<b", 1)[1].split(">", 1)[1].split("</b>")[0]): part
        for part in page.split('<div class="act">')[1:]
    }
    assert "<i>ria</i>" in lines["Torque plug 2"]
    assert "<i>" not in lines["Take out plug 2"]


def test_what_is_open_is_said_to_be_open() -> None:
    """A run printed before its end."""
    plan = plan_of(2, 4)
    entries = [e for e in whole_run(plan) if e.entry.step != "torque/plug/4"]
    assert text(plan, entries).count("open") >= 1
