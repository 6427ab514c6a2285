"""A search followed in the bay: whatever each test says, the work is right and it ends."""

import json
from datetime import timedelta
from functools import cache
from pathlib import Path
from uuid import UUID

import pytest
from bench.faults import complaints
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import RunError
from eldrim.core.engine import Engine
from eldrim.core.faults.acts import CARRIER, NOTHING, PLUG, REPAIR, TEST
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint, Kind
from eldrim.core.faults.diagnosis import WhatIf, diagnose
from eldrim.core.faults.follow import Asked, follow_plan
from eldrim.core.faults.ways import ways
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.run.admission import admit
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.path import GONE, HANDED, NO, NOT_CURED, OUTCOME, YES
from eldrim.core.run.report import report
from eldrim.core.run.search_report import told, watched
from eldrim.core.run.state import fold, fold_all, with_entry
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.core.demo_sheets import ENGINES, SIX
from tests.core.followed_searches import START, Bay, needed_to_run, runs_engine, search_plan
from tests.core.test_faults import last_variant, ways_of

K = EntryKind
VECTORS = Path(__file__).parent.parent / "vectors"
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


@pytest.mark.sweep(16)
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
        holes = set(engine.holes_of_all(act.cylinders))
        if step.key != works or row.needs == NOTHING or not holes:
            continue
        running = act.hands is None and runs_engine(step)
        for move in plan.moves:
            if holes & set(move.serves) and not (running and move.part in needed_to_run(plan)):
                assert move.part in bay.parts_off, (step.key, move.part)
        if running:
            continue
        if row.needs in (CARRIER, PLUG):
            assert holes <= bay.carriers_off
        if row.needs == PLUG:
            assert holes <= bay.plugs_out


@cache
def coil_search() -> Plan:
    """A misfire of 1, behind the plenum, plugs young."""
    return plan_of(SIX.id, "misfire 1")


def followed(plan: Plan, **answers: str) -> Bay:
    """A run of a search where each act comes to what is said of it; the others to no or not."""

    def choose(step: Step, reading: Reading) -> str:
        act = step.key.item.rstrip("0123456789-")
        wanted = answers.get(act.replace("-", "_"), "")
        return wanted or next(w for w in (NO, NOT_CURED, HANDED) if w in reading.choices)

    bay = Bay(plan, choose)
    for _ in bay.follow():
        pass
    return bay


def swap_search() -> Plan:
    """A misfire of 2, in the open, where changing coils over is worth it."""
    complaint = Complaint(codes=read_codes(SIX, "P0302"))
    variant = last_variant(SIX)
    return search_plan(SIX, variant, complaint, ways_of(SIX.id), complaint="P0302")


def test_a_coil_that_took_the_misfire_along_is_renewed_where_it_is() -> None:
    """It went from 2 to its partner: there the new one goes in, and the report says so."""
    plan = swap_search()
    assert plan.search is not None
    swap = next(act for key, act in plan.search.acts.items() if key.startswith("swap-coil"))
    bay = followed(plan, swap_coil=YES, renew_coil="cured")
    renewed = [s.text for s in bay.done if s.key.operation is Operation.FIND_HANDS]
    assert renewed[-1] == f"New coil at {swap.cylinders[1]}"
    past = Past(UUID(int=1), START, plan, bay.entries, bay.state)
    assert past.renewed_coils == {swap.cylinders[1]}
    found = told(plan, bay.state)
    assert found is not None
    assert found.conclusion == "Proven: Coil of 2"
    # The bad one is gone; that of the partner stayed at 2.
    assert found.moved == (f"coil of {swap.cylinders[1]} at 2",)
    assert any(step.key.operation is Operation.FIND_SETTLE for step in bay.done)
    assert list(watched(plan, bay.state).values()) == [f"Watch after '{plan.title}': Coil of 2"]


def test_what_vanished_when_parts_changed_places_is_watched() -> None:
    """It is gone: nothing more is opened, and what was loose is watched."""
    bay = followed(swap_search(), swap_coil=GONE)
    path = bay.state.path(bay.plan)
    assert path is not None
    assert path.proven is not None
    assert path.taken[-1].outcome == GONE
    assert not [s for s in bay.done if "New" in s.text]


def test_what_is_ruled_out_is_told_with_how_surely() -> None:
    """Each outcome moves what is believed; what a repair did not cure is out."""
    bay = followed(coil_search())
    found = told(bay.plan, bay.state)
    assert found is not None
    assert found.conclusion == "No cause was proven."
    assert sum(share for _, share in (*found.likely, *found.ruled_out)) == pytest.approx(1)
    assert found.ruled_out
    assert len(found.path) == len({one.title for one in found.path})


def test_a_repair_computed_on_the_spot_waits_for_a_lead() -> None:
    """Unless an edition holds it, or the house lets the technician go on."""
    plan = coil_search()
    repairs = [s for s in plan.steps if s.key.operation is Operation.FIND_HANDS]
    held = {s.text for s in repairs if s.hold}
    assert held
    assert all("change places" not in text for text in held)
    bay = Bay(plan, always(YES, NOT_CURED))
    for step in bay.follow():
        if step.hold:
            for reading in step.readings:
                bay.write(K.READING, step.key, reading=reading.key, value=bay.value(step, reading))
            with pytest.raises(RunError, match="hold point"):
                bay.write(K.DONE, step.key, checks=tuple(c.key for c in step.checks))
            return
    raise AssertionError("no repair was come to")


def test_an_outcome_that_was_gone_on_by_stays() -> None:
    """It is not written over, nor opened again once something was done on it."""
    plan = coil_search()
    bay = Bay(plan, always(NO, NOT_CURED))
    seen: list[Step] = []
    for step in bay.follow():
        if seen:
            break
        seen += [step] if any(r.key == OUTCOME for r in step.readings) else []
    first = seen[0]
    closed = bay.state.closings[first.key].entry.id
    opened = with_entry(bay.state, reopening(bay, first, closed))
    admit(plan, bay.state, reopening(bay, first, closed).entry, Role.TECHNICIAN)
    assert opened.current(plan) == first, "nothing was done on it: it may be said anew"
    with pytest.raises(RunError, match="went on by it"):
        bay.write(K.READING, first.key, reading=OUTCOME, value=YES)
    bay.do(bay.state.current(plan) or first)
    closing = bay.state.closings[first.key].entry.id
    with pytest.raises(RunError, match="it stays"):
        bay.write(K.REOPEN, first.key, refers_to=closing)


def reopening(bay: Bay, step: Step, closing: UUID) -> Recorded:
    """The entry that opens a step again."""
    entry = Entry(id=UUID(int=10**9), kind=K.REOPEN, step=step.key, refers_to=closing)
    return Recorded(entry=entry, by="tam", role=Role.TECHNICIAN, at=START + timedelta(days=1))


def test_a_step_of_another_branch_is_not_done() -> None:
    """What the tests did not lead to is refused in words."""
    plan = coil_search()
    bay = Bay(plan, always(NO, NOT_CURED))
    other = next(s for s in plan.steps if s.key.operation is Operation.FIND_PROOF)
    with pytest.raises(RunError, match="belongs to a branch that was not taken"):
        bay.write(K.DONE, other.key)


def test_a_test_that_cannot_be_done_ends_the_search() -> None:
    """Left out with its reason, all goes back on, and the run says that nothing was proven."""
    plan = coil_search()
    bay = Bay(plan, always(NO, NOT_CURED))
    for step in bay.follow():
        if any(r.key == OUTCOME for r in step.readings):
            bay.write(K.SKIP, step.key, reason="stuck")
            break
    bay.write(K.ACCEPT, "", Role.LEAD, refers_to=next(iter(bay.state.deviations)))
    for _ in bay.follow():
        pass
    assert bay.state.signed
    assert not bay.parts_off | bay.carriers_off | bay.plugs_out
    found = told(plan, bay.state)
    assert found is not None
    assert found.path[-1].outcome == "could not be done"


def test_what_was_done_before_it_was_done_anew_stays_in_the_report() -> None:
    """A search comes to steps again: what was last done at each is told, all of it is kept."""
    bay = followed(coil_search())
    whole, now = fold_all(bay.entries), fold(bay.entries)
    assert set(now.closings) < set(whole.closings)
    laps = [e.entry.step for e in bay.entries if e.entry.kind is K.DONE]
    assert len(laps) > len(set(laps)), "it did come to some again"


def test_every_running_act_asks_for_what_the_engine_needs() -> None:
    """Tools are counted before every start, whatever was opened."""
    bay = followed(coil_search())
    counted = False
    for step in bay.done:
        if step.key.operation is Operation.COUNT_TOOLS:
            counted = True
        if step.key.operation is Operation.FIND_PROOF:
            assert counted
            counted = False


def test_a_search_is_written_in_the_language_of_its_job() -> None:
    """Every sentence of it, acts and outcomes too; the tree is the same."""
    variant = last_variant(SIX)
    complaint = Complaint(codes=read_codes(SIX, "P0302"))
    english = search_plan(SIX, variant, complaint, ways_of(SIX.id))
    german = search_plan(SIX, variant, complaint, ways_of(SIX.id), language="de")
    assert german.title == "Ursache finden: P0302"
    assert [s.key for s in german.steps] == [s.key for s in english.steps]
    same = [e.key for e, d in zip(english.steps, german.steps, strict=True) if e.text == d.text]
    assert not same
    assert german.search is not None
    assert english.search is not None
    assert german.search.nodes == english.search.nodes
    assert {c.title for c in german.search.causes}.isdisjoint(
        c.title for c in english.search.causes
    )


def test_what_the_engine_runs_without_is_off_where_it_is_wiggled() -> None:
    """The connector is moved while it runs: the cover over it is off by then."""
    variant = last_variant(SIX)
    proven = {Kind.COIL_CIRCUIT: {"connector": 60.0}}
    complaint = Complaint(codes=read_codes(SIX, "P0302,P0352"), proven=proven)
    asked = WhatIf(without=frozenset({"measure-supply", "spark-tester"}), prices={"connector": 90})
    plan = search_plan(SIX, variant, complaint, ways_of(SIX.id), asked)
    bay = Bay(plan, always(YES, NOT_CURED))
    for step in bay.follow():
        if step.key.item == "wiggle-2":
            assert bay.parts_off == {"sound-cover"}
            return
    raise AssertionError("nothing was wiggled")


def test_tools_are_counted_where_a_search_ends_with_something_open() -> None:
    """By a house that starts after the whole refit no cover goes on last: counted all the same."""
    variant, rules = last_variant(SIX), DEFAULT_RULES.using(first_start="after_refit")
    complaint = Complaint(codes=read_codes(SIX, "P0302"))
    found = diagnose(SIX, variant, complaint, ways(SIX, variant, rules, STANDARD_CRIB))
    bay = Bay(follow_plan(Asked(SIX, variant, rules, STANDARD_CRIB), found), always(NO))
    for step in bay.follow():
        if any(r.key == OUTCOME for r in step.readings):
            assert bay.carriers_off
            bay.write(K.SKIP, step.key, reason="stuck")
            bay.write(K.ACCEPT, "", Role.LEAD, refers_to=next(iter(bay.state.deviations)))
            break
    for _ in bay.follow():
        pass
    last = [step.key.operation for step in bay.done[-2:]]
    assert last == [Operation.COUNT_TOOLS_AGAIN, Operation.SIGN]
    assert not bay.parts_off | bay.carriers_off


def test_a_search_kept_by_this_version_stays_readable() -> None:
    """Its tree, what resets, and what it proved; written down whole as it was kept."""
    kept = json.loads((VECTORS / "search-run.json").read_text())
    plan = Plan.model_validate(kept["plan"])
    entries = [Recorded.model_validate(entry) for entry in kept["entries"]]
    state = fold(entries)
    assert state.signed
    found = told(plan, state)
    assert found is not None
    assert found.conclusion == "Proven: Coil of 2"
    assert [one.outcome for one in found.path] == ["no", "cured"]
    lines = {line.key for line in report(plan, entries)}
    assert "find/proof/renew-coil-2" in lines
    assert "find/test/spark-tester-2" not in lines


def test_a_search_is_not_signed_before_its_end() -> None:
    """It says what is still open, not that signing is of another branch."""
    bay = Bay(coil_search(), always(NO))
    with pytest.raises(RunError, match="still open"):
        bay.write(K.SIGN, "prove/sign", checks=("ok",))
