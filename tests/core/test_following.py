"""A search followed in the bay: whatever each test says, the work is right and it ends."""

from functools import cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.faults import complaints
from eldrim.core.engine import Engine
from eldrim.core.errors import RunError
from eldrim.core.faults.acts import CARRIER, PLUG, REPAIR, TEST
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import EntryKind, Role
from eldrim.core.run.path import GONE, HANDED, NO, NOT_CURED, OUTCOME, YES
from eldrim.core.run.state import fold, fold_all
from eldrim.core.run.watched import told, watched
from tests.core.demo_sheets import ENGINES, SIX
from tests.core.followed_searches import Bay, needed_to_run, runs_engine, search_plan
from tests.core.test_faults import last_variant, ways_of

K = EntryKind
SEARCHES = [
    (sheet.id, name)
    for sheet in ENGINES.values()
    for name, _ in complaints(sheet, last_variant(sheet))
]


@cache
def plan_of(sheet: str, name: str) -> Plan:
    """The search for one of the complaints an engine can have."""
    engine = ENGINES[sheet]
    complaint = dict(complaints(engine, last_variant(engine)))[name]
    return search_plan(engine, last_variant(engine), complaint, ways_of(sheet), complaint=name)


def always(*wanted: str):  # type: ignore[no-untyped-def]
    """Answers with the first of these that a reading offers; else with its first."""

    def choose(_: Step, reading: Reading) -> str:
        return next((w for w in wanted if w in reading.choices), reading.choices[0])

    return choose


@pytest.mark.parametrize(("sheet", "name"), SEARCHES)
@settings(max_examples=4, deadline=None)
@given(data=st.data())
def test_whatever_is_said_the_work_is_right(sheet: str, name: str, data: st.DataObject) -> None:
    """Nothing runs open, nothing is worked on closed, and at the end all is back."""
    plan, engine = plan_of(sheet, name), ENGINES[sheet]
    bay = Bay(plan, lambda _, reading: data.draw(st.sampled_from(reading.choices)))
    needed = needed_to_run(plan)
    for step in bay.follow():
        if runs_engine(step):
            assert not bay.carriers_off | bay.plugs_out
            assert not bay.parts_off & needed
        require_open(engine, plan, bay, step)
    assert bay.state.signed
    assert not bay.parts_off | bay.carriers_off | bay.plugs_out
    assert bay.state.signed.entry.step == "prove/sign"


def require_open(engine: Engine, plan: Plan, bay: Bay, step: Step) -> None:
    """Assert that what an act works on is open where it is done."""
    assert plan.search is not None
    for key, act in plan.search.acts.items():
        name = "-".join(part for part in key.split("-") if not part.isdigit())
        row = TEST.get(name) or REPAIR[name]
        works = act.hands if act.hands else act.sees
        if step.key != works or (act.hands is None and runs_engine(step)):
            continue
        holes = set(engine.holes_of_all(act.cylinders))
        if row.needs in (CARRIER, PLUG):
            assert holes <= bay.carriers_off
        if row.needs == PLUG:
            assert holes <= bay.plugs_out
