"""A run is the fold of its entries; what may be added is decided here."""

from dataclasses import replace
from datetime import UTC, datetime
from uuid import uuid4

import pytest

from eldrim.core.base.errors import RunError
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.model import SIGNING, Step
from eldrim.core.procedure.steps.plug_steps import torque_reading
from eldrim.core.reading_choices import PLUG_CONDITIONS
from eldrim.core.run.admission import NOTHING_KNOWN, Known, admit, same_serial
from eldrim.core.run.blockers import first_open
from eldrim.core.run.carried import as_kept, cannot_follow
from eldrim.core.run.entries import NO_ENTRY, Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.holes import not_done, stages
from eldrim.core.run.parts_needed import parts_needed
from eldrim.core.run.plug_set import Background, set_of_run, signs_at
from eldrim.core.run.readings import at_limit, outside_words
from eldrim.core.run.report import finding_words
from eldrim.core.run.state import RunState, fold, with_entry
from eldrim.core.run.stops import STOPS, stops_at
from eldrim.core.run.verdicts import taken_up
from tests.builders import engine, job, tug, typical

PLAN = compile_plan(engine(1), job(1))
K = EntryKind


def entry(kind: EntryKind, step: str = "", **more: object) -> Entry:
    """An entry with a fresh id."""
    return Entry.model_validate({"id": uuid4(), "kind": kind, "step": step, **more})


def put(
    state: RunState, made: Entry, role: Role = Role.TECHNICIAN, known: Known = NOTHING_KNOWN
) -> RunState:
    """Admit and add."""
    made = as_kept(PLAN, state, made)
    admit(PLAN, state, made, role, known)
    return with_entry(state, Recorded(entry=made, by="x", role=role, at=datetime.now(UTC)))


def walk(until: str = "") -> RunState:
    """The state once every step before ``until`` is done properly."""
    state = RunState()
    for step in PLAN.steps:
        if step.key in (until, SIGNING):
            break
        for r in step.readings:
            state = put(state, entry(K.READING, step.key, reading=r.key, value=typical(r)))
        state = put(state, entry(K.DONE, step.key, checks=tuple(c.key for c in step.checks)))
    return state


def test_a_run_followed_properly_can_be_signed() -> None:
    """Every check closed: signed, and then nothing more."""
    state = put(walk(), entry(K.SIGN, SIGNING))
    assert state.signed is not None
    with pytest.raises(RunError, match="signed"):
        put(state, entry(K.SIGN, SIGNING))


def test_it_cannot_be_signed_with_a_check_open() -> None:
    """The message names the open step."""
    with pytest.raises(RunError, match="cannot be signed yet; still open: "):
        put(walk("prove/start"), entry(K.SIGN, SIGNING))


def test_a_value_outside_its_window_is_refused_with_the_reason() -> None:
    """And recorded only as a deviation, with a reason, that a lead must accept."""
    state = walk("torque/plug/1")
    wrong = {"reading": "torque", "value": 31.0, "unit": "N·m"}
    with pytest.raises(RunError, match=r"31 N·m is over 28 N·m: outside the maker's figure"):
        put(state, entry(K.READING, "torque/plug/1", **wrong))
    with pytest.raises(RunError, match="needs a reason"):
        put(state, entry(K.DEVIATION, "torque/plug/1", **wrong))
    deviation = entry(K.DEVIATION, "torque/plug/1", reason="clicked late", **wrong)
    state = put(state, deviation)
    assert deviation.id in state.deviations
    accept = entry(K.ACCEPT, refers_to=deviation.id)
    with pytest.raises(RunError, match="only a lead"):
        put(state, accept)
    assert not put(state, accept, Role.LEAD).deviations


def test_an_open_deviation_blocks_the_signature_until_it_is_corrected() -> None:
    """Measured again and in the window: the deviation is replaced, both stay in the entries."""
    state = walk("torque/plug/1")
    state = put(
        state, entry(K.DEVIATION, "torque/plug/1", reading="torque", value=9.0, reason="late")
    )
    assert state.deviations
    state = put(state, entry(K.READING, "torque/plug/1", reading="torque", value=24.0))
    assert not state.deviations


def test_a_lead_says_not_so_and_it_stays_open() -> None:
    """With a word; corrected or accepted it is open no more, and what was said stays."""
    state = walk("torque/plug/1")
    off = entry(K.DEVIATION, "torque/plug/1", reading="torque", value=9.0, reason="late")
    state = put(state, off)
    no = {"refers_to": off.id, "step": "torque/plug/1"}
    with pytest.raises(RunError, match="only a lead"):
        put(state, entry(K.REFUSE, **no, note="the wrench says 24"))
    with pytest.raises(RunError, match="in a word"):
        put(state, entry(K.REFUSE, **no), Role.LEAD)
    state = put(state, entry(K.REFUSE, **no, note="the wrench says 24"), Role.LEAD)
    assert off.id in state.deviations
    assert state.refused[off.id].entry.note == "the wrench says 24"
    corrected = put(state, entry(K.READING, "torque/plug/1", reading="torque", value=24.0))
    assert not corrected.deviations
    assert not put(state, entry(K.ACCEPT, refers_to=off.id), Role.LEAD).deviations


def test_a_lead_says_do_it_again_and_the_step_is_open_again() -> None:
    """The value holds no more; of what was left out, all that was closed with it is open."""
    state = walk("torque/plug/1")
    off = entry(K.DEVIATION, "torque/plug/1", reading="torque", value=9.0, reason="late")
    state = put(put(state, off), entry(K.DONE, "torque/plug/1"))
    again = entry(K.AGAIN, "torque/plug/1", refers_to=off.id, note="new washer first")
    with pytest.raises(RunError, match="no such open"):
        put(state, entry(K.AGAIN, "fit/coil/1", refers_to=off.id, note="x"), Role.LEAD)
    state = put(state, again, Role.LEAD)
    assert not state.deviations
    assert ("torque/plug/1", "torque") not in state.values
    assert "torque/plug/1" not in state.closings
    with pytest.raises(RunError, match="Torque"):
        put(state, entry(K.DONE, "torque/plug/1"))
    left = put(walk("remove/plug/1"), skip := entry(K.SKIP, "remove/plug/1", reason="stuck"))
    assert "gap/plug/1" in left.closings or "torque/plug/1" in left.closings
    sent_back = entry(K.AGAIN, "remove/plug/1", refers_to=skip.id, note="warm it up first")
    opened = put(left, sent_back, Role.LEAD)
    assert not {"remove/plug/1", "torque/plug/1"} & set(opened.closings)
    assert not opened.deviations


def test_a_step_left_out_needs_a_reason_and_the_lead() -> None:
    """A skipped step is a deviation like any other."""
    with pytest.raises(RunError, match="only with a reason"):
        put(RunState(), entry(K.SKIP, "ready/codes"))
    state = put(RunState(), entry(K.SKIP, "ready/codes", reason="Told so by the lead"))
    assert len(state.deviations) == 1


def test_a_step_is_done_only_with_its_readings_and_checks() -> None:
    """Both are named."""
    with pytest.raises(RunError, match="Meter; Unit and variant"):
        put(RunState(), entry(K.DONE, "ready/unit"))


def test_the_order_that_matters_is_kept() -> None:
    """No plug is torqued before it was started."""
    with pytest.raises(RunError, match="first: "):
        put(walk("start/plug/1"), entry(K.DONE, "torque/plug/1"))


@pytest.mark.parametrize(
    ("made", "says"),
    [
        (entry(K.DONE, "fly/plug/1"), "no step"),
        (entry(K.READING, "ready/unit", reading="wings", value=1), "no reading"),
        (entry(K.READING, "ready/unit", reading="meter", value="many"), "enter a number"),
        (entry(K.READING, "ready/unit", reading="meter", value=float("nan")), "enter a number"),
        (entry(K.READING, "ready/codes", reading="codes", value="  "), "nothing was entered"),
        (entry(K.READING, "read/plug/1", reading="condition", value="fine"), "choose one"),
        (entry(K.DEVIATION, "ready/unit", reading="meter", value=4.0, reason="x"), "inside"),
        (entry(K.DONE, SIGNING), "closed by signing"),
        (entry(K.ACCEPT, refers_to=uuid4()), "only a lead"),
    ],
)
def test_nonsense_is_refused(made: Entry, says: str) -> None:
    """Each refusal says what is wrong."""
    with pytest.raises(RunError, match=says):
        put(walk(made.step) if made.step.startswith("read/") else RunState(), made)


def test_a_limit_belongs_to_the_window() -> None:
    """At the limit is in; a hair beyond is out."""
    torque = next(s for s in PLAN.steps if s.key == "torque/plug/1").readings[0]
    assert outside_words(torque, 20) == outside_words(torque, 28) == ""
    assert "under 20" in outside_words(torque, 19.99)


def test_folding_again_gives_the_same_state() -> None:
    """State is nothing but its entries."""
    state, kept = RunState(), []
    for step in PLAN.steps[:2]:
        for r in step.readings:
            made = entry(
                K.READING, step.key, reading=r.key, value=4.0 if r.kind == "number" else "none"
            )
            kept.append(Recorded(entry=made, by="x", role=Role.TECHNICIAN, at=datetime.now(UTC)))
            state = with_entry(state, kept[-1])
    assert fold(kept) == state


def test_a_hold_point_waits_for_the_lead() -> None:
    """Nobody closes it before; a lead releases it, once; then it is closed like any other."""
    first = PLAN.steps[0]
    made = apply_edits(PLAN, {first.key: Edit(hold=True)})
    state = RunState()
    for r in first.readings:
        value = 1.0 if r.kind == "number" else "2231"
        state = put(state, entry(K.READING, first.key, reading=r.key, value=value))
    done = entry(K.DONE, first.key, checks=tuple(c.key for c in first.checks))
    release = entry(K.RELEASE, first.key)
    with pytest.raises(RunError, match="hold point"):
        admit(made, state, done, Role.TECHNICIAN)
    with pytest.raises(RunError, match="only a lead"):
        admit(made, state, release, Role.TECHNICIAN)
    admit(made, state, release, Role.LEAD)
    at = datetime.now(UTC)
    state = with_entry(state, Recorded(entry=release, by="lead", role=Role.LEAD, at=at))
    admit(made, state, done, Role.TECHNICIAN)
    with pytest.raises(RunError, match="not held"):
        admit(made, state, release, Role.LEAD)
    with pytest.raises(RunError, match="not held"):
        admit(PLAN, RunState(), release, Role.LEAD)


def test_a_stop_bars_its_step_and_the_signing_until_it_is_cleared() -> None:
    """Cleared by naming it; only where it can be met."""
    state = walk("start/plug/1")
    stop = entry(K.STOP, "start/plug/1", reason="cross_thread")
    with pytest.raises(RunError, match="cannot be met"):
        put(state, entry(K.STOP, "start/plug/1", reason="oil_in_well"))
    state = put(state, stop)
    state = put(state, entry(K.READING, "start/plug/1", reading="free_turns", value=3))
    done = entry(K.DONE, "start/plug/1", checks=("by_hand",))
    with pytest.raises(RunError, match="a stop is open here"):
        put(state, done)
    with pytest.raises(RunError, match="no such open stop"):
        put(state, entry(K.RESUME, "start/plug/1", refers_to=uuid4()))
    cleared = {"refers_to": stop.id, "note": "chased by hand"}
    state = put(state, entry(K.RESUME, "start/plug/1", **cleared))
    assert "start/plug/1" in put(state, done).closings


def test_a_step_closed_by_mistake_is_opened_again() -> None:
    """By naming what closed it; whatever comes after waits for it again, what was read stays."""
    state = walk("torque/plug/1")
    closing = state.closings["start/plug/1"].entry.id
    reopen = entry(K.REOPEN, "start/plug/1", refers_to=closing)
    opened = put(state, reopen)
    assert "start/plug/1" not in opened.closings
    assert ("start/plug/1", "free_turns") in opened.values
    torque = entry(K.READING, "torque/plug/1", reading="torque", value=24.0)
    with pytest.raises(RunError, match="first: Start plug 1"):
        put(opened, torque)
    with pytest.raises(RunError, match="not closed"):
        put(opened, reopen)
    again = put(opened, entry(K.DONE, "start/plug/1", checks=("by_hand",)))
    with pytest.raises(RunError, match="closed by somebody else"):
        put(again, reopen)


def test_what_was_left_out_may_be_done_after_all() -> None:
    """The tool turns up: the deviation is gone once the step is open again."""
    state = put(RunState(), entry(K.SKIP, "ready/codes", reason="tool"))
    assert state.deviations
    state = put(
        state, entry(K.REOPEN, "ready/codes", refers_to=state.closings["ready/codes"].entry.id)
    )
    assert not state.deviations
    assert state.current(PLAN) == PLAN.steps[0]


def test_only_a_lead_ends_a_run_unfinished() -> None:
    """With a reason of the list; what is open stays open, and nothing comes after."""
    state = walk("start/plug/1")
    end = entry(K.END, reason="repair", note="helicoil")
    with pytest.raises(RunError, match="only a lead ends"):
        put(state, end)
    with pytest.raises(RunError, match="why it ends"):
        put(state, entry(K.END, reason="tired"), Role.LEAD)
    ended = put(state, end, Role.LEAD)
    assert ended.unfinished
    assert ended.open_steps(PLAN)
    with pytest.raises(RunError, match="nothing can be added"):
        put(ended, entry(K.DONE, "start/plug/1", checks=("by_hand",)))
    assert not put(walk(), entry(K.SIGN, SIGNING)).unfinished


GAP = next(s for s in compile_plan(tug(), job(2)).steps if s.key == "gap/plug/2").readings[0]


@pytest.mark.parametrize(
    ("low", "high", "value", "verdict"),
    [
        (1.0, 1.1, 1.05, "in"),
        (1.0, 1.1, 1.03, "in"),
        (1.0, 1.1, 1.02, "at limit"),
        (1.0, 1.1, 1.1, "at limit"),
        (1.0, 1.1, 1.12, "at limit"),
        (1.0, 1.1, 1.13, "out"),
        (1.0, 1.1, 0.97, "out"),
        # One value, or less room than a step of the gauge: near it is as good as it gets.
        (0.787, 0.787, 0.8, "in"),
        (0.787, 0.787, 0.75, "out"),
        (1.0, 1.04, 1.02, "in"),
        (1.0, 1.04, 1.05, "at limit"),
    ],
)
def test_the_gauge_s_step_limits_the_verdict(
    low: float, high: float, value: float, verdict: str
) -> None:
    """Closer to a limit than half a step of the gauge is neither in nor out."""
    asked = GAP.model_copy(update={"low": low, "high": high})
    assert asked.resolution == 0.05
    found = "out" if outside_words(asked, value) else "at limit" if at_limit(asked, value) else "in"
    assert found == verdict


def test_with_an_adapter_the_torque_is_judged_as_the_wrench_shows_it() -> None:
    """Set less, shown less: the limits go along with the setting."""
    step = next(s for s in compile_plan(tug(), job(2)).steps if s.key == "torque/plug/2")
    figure = step.figures[0]
    assert figure.setting is not None
    dial = figure.setting.model_copy(update={"factor": 0.8, "value": 14.0})
    plain, through = (
        torque_reading(figure),
        torque_reading(figure.model_copy(update={"setting": dial})),
    )
    assert (plain.low, plain.high) == (15, 20)
    assert (through.low, through.high) == (12, 16)
    assert through.label != plain.label
    assert not outside_words(through, 14.0)


def test_what_differs_is_said_from_the_list_and_closes_nothing() -> None:
    """It is gathered for the trainer."""
    state = put(RunState(), entry(K.DIFFERS, "ready/codes", reason="other_part"))
    assert [r.entry.reason for r in state.differs] == ["other_part"]
    assert state.closings == {}
    with pytest.raises(RunError, match="from the list"):
        put(state, entry(K.DIFFERS, "ready/codes", reason="it felt odd"))


def test_the_plate_is_compared_with_the_card() -> None:
    """The whole of it, whatever stands between the signs; none at all is no match."""
    assert same_serial("ELDRIM UNIT tug-14 22-31", "2231")
    assert same_serial("br57 0871", "BR57-0871")
    assert not same_serial("2248", "2231")
    assert not same_serial("--", "2231")


def test_every_stop_says_what_to_do_and_can_be_met_somewhere() -> None:
    """No dead end: acts, and what must hold to go on."""
    for stop in STOPS:
        assert stop.name
        assert all(stop.steps)
        assert stop.clear
    made = compile_plan(tug(), job(1, 2, 3))
    met = {s.key for step in made.steps for s in stops_at(step)}
    assert met == {s.key for s in STOPS}


def test_the_holes_say_how_far_they_are() -> None:
    """Stage by stage, in any order that nothing forbids."""
    made = compile_plan(tug(), job(2, 4))
    state = RunState()
    assert stages(made, state) == {"2": "closed", "4": "closed"}
    gone_through = []
    for step in made.steps:
        recorded = Recorded(
            entry=entry(K.DONE, step.key), by="x", role=Role.TECHNICIAN, at=datetime.now(UTC)
        )
        state = with_entry(state, recorded)
        gone_through.append(stages(made, state)["4"])
    assert list(dict.fromkeys(gone_through)) == [
        "closed",
        "open_coil",
        "open",
        "read",
        "fitted",
        "torqued",
        "coil_on",
        "connected",
    ]


def test_a_hole_may_be_taken_before_another_where_nothing_forbids() -> None:
    """The last in the list first: torque 4 before 2, once all are started."""
    made = compile_plan(tug(), job(2, 4))
    torques = [s for s in made.steps if s.key.startswith("torque/plug/")]
    state = RunState()
    for step in made.steps:
        if step is torques[0]:
            break
        recorded = Recorded(
            entry=entry(K.DONE, step.key), by="x", role=Role.TECHNICIAN, at=datetime.now(UTC)
        )
        state = with_entry(state, recorded)
    assert first_open(made, state, torques[-1]) is None
    seats = next(s for s in made.steps if s.key.startswith("fit/coil/"))
    assert first_open(made, state, seats)


def test_two_values_written_without_knowing_of_each_other_wait_for_a_word() -> None:
    """Both are kept; nothing is signed until a person says which holds."""
    at = {"step": "ready/codes", "reading": "codes"}
    one = entry(K.READING, **at, value="none", names=NO_ENTRY)
    other = entry(K.READING, **at, value="P0306", names=NO_ENTRY)
    state = put(put(RunState(), one), other)
    [both] = state.conflicts.values()
    assert [r.entry.value for r in both] == ["none", "P0306"]
    signing = put(walk(), one)
    signing = put(signing, other)
    with pytest.raises(RunError, match="two values"):
        put(signing, entry(K.SIGN, SIGNING))
    settled = put(state, entry(K.READING, **at, value="none", refers_to=other.id))
    assert settled.conflicts == {}
    assert settled.values["ready/codes", "codes"].entry.value == "none"


def test_a_third_value_written_unknowing_stands_beside_the_two() -> None:
    """None is dropped while no one has said which holds."""
    at = {"step": "ready/codes", "reading": "codes"}
    state = RunState()
    for value in ("none", "P0306", "P0301"):
        state = put(state, entry(K.READING, **at, value=value, refers_to=NO_ENTRY))
    [every] = state.conflicts.values()
    assert [r.entry.value for r in every] == ["none", "P0306", "P0301"]


def test_a_correction_and_the_same_value_twice_are_no_conflict() -> None:
    """A correction names what it corrects; two who read alike agree."""
    at = {"step": "ready/codes", "reading": "codes"}
    one = entry(K.READING, **at, value="none", names=NO_ENTRY)
    for after_it in (
        entry(K.READING, **at, value="P0306", refers_to=one.id),
        entry(K.READING, **at, value="none", names=NO_ENTRY),
        entry(K.READING, **at, value="P0306"),
    ):
        assert put(put(RunState(), one), after_it).conflicts == {}


def test_nothing_is_written_into_a_step_that_waits() -> None:
    """Looking ahead is for reading."""
    ahead = {"step": "torque/plug/1", "reading": "torque", "value": 24.0, "unit": "N·m"}
    for kind, more in ((K.READING, {}), (K.DEVIATION, {"value": 31.0, "reason": "late"})):
        with pytest.raises(RunError, match="first: "):
            put(RunState(), entry(kind, **{**ahead, **more}))
    assert put(walk("torque/plug/1"), entry(K.READING, **ahead)).values


def test_a_wrench_that_went_over_its_window_stays_a_deviation() -> None:
    """A second click in the window does not mend a stretched thread."""
    at = {"step": "torque/plug/1", "reading": "torque", "unit": "N·m", "how": "device"}
    state = put(walk("torque/plug/1"), entry(K.OVER, **at, value=36.0, reason="peak"))
    state = put(state, entry(K.READING, **at, value=24.0))
    [open_] = state.deviations.values()
    assert open_.entry.value == 36.0
    done = put(state, entry(K.DONE, "torque/plug/1"))
    with pytest.raises(RunError, match="cannot be signed"):
        put(done, entry(K.SIGN, SIGNING))
    assert not put(done, entry(K.ACCEPT, refers_to=open_.entry.id), Role.LEAD).deviations
    with pytest.raises(RunError, match="inside its window"):
        put(walk("torque/plug/1"), entry(K.OVER, **at, value=24.0, reason="peak"))
    typed = entry(K.DEVIATION, **{**at, "how": "typed"}, value=36.0, reason="late")
    again = put(put(walk("torque/plug/1"), typed), entry(K.READING, **at, value=24.0))
    assert typed.id in again.deviations


def test_what_a_device_said_is_kept_though_it_was_not_taken() -> None:
    """It changes nothing else."""
    at = {"step": "torque/plug/1", "reading": "torque", "value": 4.0}
    state = put(walk("torque/plug/1"), entry(K.HEARD, **at, how="device"))
    assert [r.entry.value for r in state.heard["torque/plug/1", "torque"]] == [4.0]
    assert ("torque/plug/1", "torque") not in state.values
    assert not state.deviations


CARRIED = compile_plan(tug(), job(2, 4))


@pytest.mark.parametrize(
    ("left_out", "closes", "leaves"),
    [
        (
            "remove/plug/4",
            ["read/plug/4", "gap/plug/4", "start/plug/4", "torque/plug/4"],
            ["read/coil/4", "fit/coil/4", "connect/coil/4/connector", "prove/start"],
        ),
        (
            "remove/coil/4",
            ["clean/well/4", "remove/plug/4", "torque/plug/4", "read/coil/4", "fit/coil/4"],
            ["tighten/coil/4/bolt", "connect/coil/4/connector", "remove/plug/2", "prove/start"],
        ),
        (
            "release/coil/4/bolt",
            ["remove/coil/4", "torque/plug/4", "fit/coil/4", "tighten/coil/4/bolt"],
            ["connect/coil/4/connector", "torque/plug/2"],
        ),
        (
            "start/plug/4",
            ["torque/plug/4", "fit/coil/4", "connect/coil/4/connector", "prove/start"],
            ["torque/plug/2", "prove/tools", "prove/codes-again"],
        ),
        (
            "fit/coil/4",
            ["tighten/coil/4/bolt", "connect/coil/4/connector", "prove/start", "prove/load"],
            ["fit/coil/2"],
        ),
        (
            "remove/sound-cover",
            ["fit/sound-cover", "release/coil/2/bolt", "torque/plug/4"],
            ["connect/sound-cover/posts", "prove/start"],
        ),
        ("clean/well/4", [], ["remove/plug/4"]),
        ("ready/codes", [], ["prove/codes-again"]),
    ],
)
def test_what_cannot_follow_is_closed_with_what_could_not_be_done(
    left_out: str, closes: list[str], leaves: list[str]
) -> None:
    """A plug that is still in is not read or tightened; its coil goes back on."""
    step = next(s for s in CARRIED.steps if s.key == left_out)
    carried = cannot_follow(CARRIED, step)
    assert set(closes) <= set(carried)
    assert not set(leaves) & set(carried)
    made = as_kept(CARRIED, RunState(), entry(K.SKIP, left_out, reason="stuck"))
    recorded = Recorded(entry=made, by="x", role=Role.TECHNICIAN, at=datetime.now(UTC))
    state = with_entry(RunState(), recorded)
    assert set(state.closings) == {left_out, *carried}
    assert len(state.deviations) == 1
    last = [*carried, left_out][0]
    opened = entry(K.REOPEN, last, refers_to=made.id)
    admit(CARRIED, state, opened, Role.TECHNICIAN)
    recorded = Recorded(entry=opened, by="x", role=Role.TECHNICIAN, at=datetime.now(UTC))
    again = with_entry(state, recorded)
    assert not again.closings
    assert not again.deviations


def test_the_unit_is_confirmed_and_another_plate_stops_the_run() -> None:
    """Not left out, and recorded as another only a lead lets it go on."""
    with pytest.raises(RunError, match="confirmed by its plate"):
        put(RunState(), entry(K.SKIP, "ready/unit", reason="told"))
    known = Known("2231")
    plate = {"step": "ready/unit", "reading": "serial", "value": "12231"}
    with pytest.raises(RunError, match="the plate says 12231"):
        put(RunState(), entry(K.READING, **plate), known=known)
    other = entry(K.DEVIATION, **plate, reason="plate_worn")
    state = put(RunState(), other, known=known)
    state = put(state, entry(K.READING, "ready/unit", reading="meter", value=4000))
    checks = tuple(c.key for c in PLAN.steps[0].checks)
    with pytest.raises(RunError, match="until a lead decides"):
        put(state, entry(K.DONE, "ready/unit", checks=checks))
    state = put(state, entry(K.ACCEPT, refers_to=other.id), Role.LEAD)
    assert put(state, entry(K.DONE, "ready/unit", checks=checks)).closings


@pytest.mark.parametrize(
    ("value", "says"),
    [(3_999.0, "cannot stand at"), (4_000_000.0, "many times that"), (4_000.0, ""), (9_000.0, "")],
)
def test_a_meter_does_not_go_back_nor_a_thousand_times_on(value: float, says: str) -> None:
    """Only with a reason."""
    known = Known("", 4_000.0)
    made = {"step": "ready/unit", "reading": "meter", "value": value}
    if not says:
        assert put(RunState(), entry(K.READING, **made), known=known).values
        return
    with pytest.raises(RunError, match=says):
        put(RunState(), entry(K.READING, **made), known=known)
    assert put(RunState(), entry(K.DEVIATION, **made, reason="meter_new"), known=known).deviations


@pytest.mark.parametrize(
    ("step", "reading", "value"),
    [
        ("ready/battery", "volts", 126.0),
        ("read/plug/1", "gap_found", -1.0),
        ("read/plug/1", "gap_found", 118.0),
        ("start/plug/1", "free_turns", 600.0),
        ("ready/temperature", "temperature", -10.0),
        ("ready/temperature", "air", 210.0),
        ("torque/plug/1", "torque", 2400.0),
    ],
)
def test_what_can_hardly_be_is_kept_only_with_a_reason(
    step: str, reading: str, value: float
) -> None:
    """Neither as a reading nor as something waited for."""
    state = walk(step)
    for kind in (K.READING, K.WATCH):
        with pytest.raises(RunError, match="can hardly be"):
            put(state, entry(kind, step, reading=reading, value=value))
    made = entry(K.DEVIATION, step, reading=reading, value=value, reason="twice")
    assert put(state, made).deviations


def test_what_is_due_next_lies_ahead() -> None:
    """By the meter and by the day."""
    state = walk()
    stands = state.values["ready/unit", "meter"].entry.value
    for reading, value in (("next_meter", stands), ("next_due", "2020-01-01")):
        with pytest.raises(RunError, match=r"has passed|not after the day"):
            put(state, entry(K.READING, SIGNING, reading=reading, value=value))


def test_what_fell_in_is_cleared_by_a_lead_with_a_word() -> None:
    """Nobody else says that it is out; and nothing is cleared without saying how."""
    state = walk("remove/plug/1")
    stop = entry(K.STOP, "remove/plug/1", reason="dropped_in")
    state = put(state, stop)
    clear = entry(K.RESUME, "remove/plug/1", refers_to=stop.id, note="nut, by magnet")
    with pytest.raises(RunError, match="only a lead says"):
        put(state, clear)
    with pytest.raises(RunError, match="in a word"):
        put(state, clear.model_copy(update={"note": ""}), Role.LEAD)
    assert not put(state, clear, Role.LEAD).stops


@pytest.mark.parametrize(
    ("begins", "stop"),
    [
        ("torque/plug/", "keeps_turning"),
        ("torque/plug/", "thread_out"),
        ("remove/plug/", "shell_broken"),
        ("read/plug/", "ring_left"),
        ("release/coil/", "fastener_rounded"),
        ("tighten/coil/", "fastener_broken"),
        ("connect/coil/", "tab_broken"),
        ("prove/start", "coolant_leak"),
        ("prove/load", "fuel_smell"),
    ],
)
def test_what_happens_can_be_said_where_it_happens(begins: str, stop: str) -> None:
    """Tightening and connecting too."""
    steps = [s for s in CARRIED.steps if s.key.startswith(begins)]
    assert steps
    assert all(stop in {one.key for one in stops_at(step)} for step in steps)


def test_a_hole_where_something_was_left_out_is_told_whatever_followed() -> None:
    """Its coil may be back on: it is not as planned."""
    before = walk("remove/plug/1")
    assert not_done(PLAN, before) == ()
    left = entry(K.SKIP, "remove/plug/1", reason="stuck")
    kept = Recorded(entry=left, by="tam", role=Role.TECHNICIAN, at=datetime.now(UTC))
    assert not_done(PLAN, with_entry(before, kept)) == ("1",)


def read_all(condition: str = "wet-oily,well-oil") -> RunState:
    """The state once its only plug was read so."""
    state = walk("read/plug/1")
    values = {"condition": condition, "gap_found": 0.8}
    for key, value in values.items():
        state = put(state, entry(K.READING, "read/plug/1", reading=key, value=value))
    state = put(state, entry(K.DONE, "read/plug/1"))
    if any(step.key == "read/coil/1" for step in PLAN.steps):
        sound = {"reading": "condition", "value": "sound"}
        state = put(state, entry(K.READING, "read/coil/1", **sound))
        state = put(state, entry(K.DONE, "read/coil/1"))
    return state


def test_several_signs_are_kept_at_one_hole() -> None:
    """Each that is offered, once; what is in order stands alone."""
    state = read_all()
    assert signs_at(PLAN, state)["1"] == {"black", "wet", "oily", "well-oil", "sound"}
    again = walk("read/plug/1")
    for wrong in ("wet-oily,fine", "wet-oily,wet-oily", "tan-dry,wet-oily", "wet-oily,"):
        with pytest.raises(RunError, match="choose one"):
            put(again, entry(K.READING, "read/plug/1", reading="condition", value=wrong))


def test_a_single_condition_of_an_older_edition_stays_single() -> None:
    """Its reading takes one, as it was released; what it says is read as its signs."""
    old = PLAN.model_copy(update={"steps": tuple(_single(step) for step in PLAN.steps)})
    state = walk("read/plug/1")
    several = entry(K.READING, "read/plug/1", reading="condition", value="wet-oily,well-oil")
    with pytest.raises(RunError, match="choose one"):
        admit(old, state, several, Role.TECHNICIAN)
    said = entry(K.READING, "read/plug/1", reading="condition", value="wet, black, oily")
    admit(old, state, said, Role.TECHNICIAN)
    kept = with_entry(
        state, Recorded(entry=said, by="x", role=Role.TECHNICIAN, at=datetime.now(UTC))
    )
    assert signs_at(old, kept)["1"] == {"black", "wet", "oily"}


def _single(step: Step) -> Step:
    """The step as editions had it before several signs could be picked."""
    readings = tuple(
        r.model_copy(update={"several": False, "folded": None, "choices": PLUG_CONDITIONS})
        if r.key == "condition"
        else r
        for r in step.readings
    )
    return step.model_copy(update={"readings": readings})


def test_a_run_s_plugs_tell_once_every_hole_is_read() -> None:
    """The verdict, with the gap and the stops of the hole; beside the last set of the unit."""
    sheet = engine(1)
    assert not set_of_run(sheet, PLAN, walk("read/plug/1"), Background(None, "hours")).whole
    found = set_of_run(sheet, PLAN, read_all(), Background(None, "hours"))
    assert found.whole
    assert [v.cause for v in found.found.verdicts] == ["oil-in-well", "oil-up"]
    before = Past(uuid4(), datetime.now(UTC), PLAN, [], read_all("tan-dry"))
    later = set_of_run(sheet, PLAN, read_all("tan-dry"), Background(before, "hours"))
    assert later.found.over_time == ()


def test_what_plugs_ran_is_the_meter_since_they_were_fitted() -> None:
    """Under the least distance they cannot tell yet; a meter of seasons says nothing."""
    before = Past(uuid4(), datetime.now(UTC), PLAN, [], walk())
    stood = before.meter
    assert stood is not None
    state = put(
        walk("ready/unit"), entry(K.READING, "ready/unit", reading="meter", value=stood + 3)
    )
    read = replace(read_all(), values={**read_all().values, **state.values})
    young = set_of_run(engine(1), PLAN, read, Background(before, "hours"))
    assert (young.plugs.since_h, young.found.status) == (3.0, "too-young")
    assert set_of_run(engine(1), PLAN, read, Background(before, "seasons")).found.status == "judged"
    unfitted = Past(uuid4(), datetime.now(UTC), PLAN, [], walk("torque/plug/1"))
    assert set_of_run(engine(1), PLAN, read, Background(unfitted, "hours")).plugs.since_h is None


def test_a_verdict_is_taken_up_or_doubted_with_the_reason() -> None:
    """Taken up, it puts its parts on the list and is a finding; doubted, it asks for nothing."""
    state, place = read_all(), {"step": "read/plug/1", "reading": "oil-in-well@1"}
    taken = put(state, entry(K.VERDICT, **place, value="taken"))
    assert [part.name for part in parts_needed(PLAN, taken)] == ["cover gasket", "coil boot"]
    said = taken.verdicts[place["step"], place["reading"]].entry
    assert "Oil gets into this well (hole 1)" in finding_words(step_of("read/plug/1"), said)
    with pytest.raises(RunError, match="what you see otherwise"):
        put(taken, entry(K.VERDICT, **place, value="doubted"))
    doubted = put(taken, entry(K.VERDICT, **place, value="doubted", note="wiped from a rag"))
    assert not parts_needed(PLAN, doubted)
    assert not taken_up(doubted)


@pytest.mark.parametrize(
    "wrong",
    [
        {"reading": "witchcraft@1", "value": "taken"},
        {"reading": "oil-up@9", "value": "taken"},
        {"reading": "oil-up", "value": "taken"},
        {"reading": "oil-up@1", "value": "perhaps"},
    ],
)
def test_a_verdict_that_is_none_is_refused(wrong: dict[str, str]) -> None:
    """Of no cause, at no hole of the run, or with another word."""
    with pytest.raises(RunError, match="no verdict"):
        put(read_all(), entry(K.VERDICT, "read/plug/1", **wrong))


def test_a_verdict_waits_until_its_plug_was_read() -> None:
    """Nothing is said of what nobody saw."""
    with pytest.raises(RunError, match="first"):
        put(RunState(), entry(K.VERDICT, "read/plug/1", reading="oil-up@1", value="taken"))


def test_what_plugs_forbid_is_cleared_by_a_lead_only() -> None:
    """Coolant in a cylinder: no start until a lead says so."""
    stop = entry(K.STOP, "read/plug/1", reason="no_start")
    state = put(read_all("crust"), stop)
    clear = entry(K.RESUME, "read/plug/1", refers_to=stop.id, note="pressure holds")
    with pytest.raises(RunError, match="lead"):
        put(state, clear)
    assert not put(state, clear, Role.LEAD).stops


def step_of(key: str) -> Step:
    """A step of the plan."""
    return next(step for step in PLAN.steps if step.key == key)
