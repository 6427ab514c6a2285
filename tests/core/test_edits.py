"""Edits hang on step keys: whatever is recompiled, each is there or in the tray."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import (
    OWN,
    Edit,
    OwnStep,
    apply_edits,
    may_be_left_out,
    orphans,
)
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import job, tug

FRONT = compile_plan(tug(), job(2, 4))
WHOLE = compile_plan(tug(), job(1, 2, 3, 4, 5, 6))
OTHER = compile_plan(tug(), job(4), DEFAULT_RULES.using(first_cylinder="easiest_first"))
PLANS: dict[str, Plan] = {"front": FRONT, "whole": WHOLE, "other": OTHER}
KEYS = [s.key for s in FRONT.steps]

edits = st.dictionaries(
    st.sampled_from(KEYS),
    st.builds(
        Edit,
        text=st.sampled_from(["", "Said otherwise"]),
        note=st.sampled_from(["", "n"]),
        left_out=st.sampled_from(["", "not on this unit"]),
        hold=st.booleans(),
    ),
    max_size=8,
)
own = st.lists(st.sampled_from(KEYS), max_size=4).map(
    lambda places: {
        f"{OWN}{i}": Edit(own=OwnStep(text="Look at the hose", after=p))
        for i, p in enumerate(places)
    }
)


@given(edits, own, st.sampled_from(sorted(PLANS)))
def test_any_edit_survives_a_recompile_or_lies_in_the_tray(
    changed: dict[str, Edit], added: dict[str, Edit], name: str
) -> None:
    """In the steps, among those left out, or an orphan; never nowhere, never twice."""
    made = PLANS[name]
    every = {**changed, **added}
    done = apply_edits(made, every)
    tray = orphans(made, every)
    steps = {s.key: s for s in done.steps}
    left_out = {o.key for o in done.left_out}
    anchors = {s.key for s in made.steps}
    for key, edit in every.items():
        if edit.empty:
            continue
        if edit.own:
            assert (key in steps) is (key not in tray)
            assert (edit.own.after in anchors) is (key in steps)
        elif key not in anchors:
            assert key in tray
        elif edit.left_out and may_be_left_out(next(s for s in made.steps if s.key == key)):
            assert key in left_out
            assert key not in steps
        else:
            assert steps[key].note == edit.note
            assert steps[key].hold is edit.hold
            assert not edit.text or steps[key].text == edit.text
    assert len(steps) == len(done.steps)


def test_own_steps_follow_each_other_whatever_order_they_were_written_in() -> None:
    """One behind another own step stands there; without its step it is an open point."""
    chain = {
        f"{OWN}z": Edit(own=OwnStep(text="Look at the hose", after="ready/codes")),
        f"{OWN}a": Edit(own=OwnStep(text="Look at its clamp", after=f"{OWN}m")),
        f"{OWN}m": Edit(own=OwnStep(text="Look at its end", after=f"{OWN}z")),
    }
    done = apply_edits(FRONT, chain)
    keys = [s.key for s in done.steps]
    place = keys.index("ready/codes")
    assert keys[place + 1 : place + 4] == [f"{OWN}z", f"{OWN}m", f"{OWN}a"]
    assert not orphans(FRONT, chain)
    lost = {f"{OWN}x": Edit(own=OwnStep(text="Look at the mast", after="remove/mast"))}
    assert set(orphans(FRONT, lost)) == {f"{OWN}x"}
    told = [p.text for p in apply_edits(FRONT, lost).open_points if p.key.startswith("lost/")]
    assert told == ["an edit has no step to stand at: Look at the mast"]


@given(edits, own)
def test_order_waits_and_minutes_hold_after_any_edit(
    changed: dict[str, Edit], added: dict[str, Edit]
) -> None:
    """Nothing waits on a step that is not there, nothing stands before what it waits on."""
    done = apply_edits(FRONT, {**changed, **added})
    place = {s.key: i for i, s in enumerate(done.steps)}
    before = {s.key for s in FRONT.steps}
    for step in done.steps:
        for key in step.after:
            assert key in place or key not in before
            assert key not in place or place[key] < place[step.key]
    assert done.minutes == pytest.approx(sum(s.minutes for s in done.steps), abs=0.11)
    assert sum(p.minutes for p in done.phases) == pytest.approx(done.minutes, abs=0.5)


@given(edits)
def test_cautions_and_checks_are_out_of_reach(changed: dict[str, Edit]) -> None:
    """What a step does decides them; no wording takes them away."""
    for step in apply_edits(FRONT, changed).steps:
        computed = next(s for s in FRONT.steps if s.key == step.key)
        assert step.cautions == computed.cautions
        assert step.checks == computed.checks


@pytest.mark.parametrize(
    "key",
    sorted(
        set(KEYS) & {"ready/unit", "ready/tools", "prove/tools", "prove/openings", "prove/sign"}
    ),
)
def test_some_steps_are_never_left_out(key: str) -> None:
    """Unit, tools counted, signing."""
    done = apply_edits(FRONT, {key: Edit(left_out="no time")})
    assert key in {s.key for s in done.steps}
    assert not done.left_out


def test_a_step_whose_ground_changed_under_an_edit_is_marked() -> None:
    """With what was reworded; unchanged ground is not mentioned."""
    key = "torque/plug/2"
    now = next(s.text for s in FRONT.steps if s.key == key)
    same = apply_edits(FRONT, {key: Edit(text="Mine", computed=now)})
    moved = apply_edits(FRONT, {key: Edit(text="Mine", computed="Torque plug two")})
    assert next(s for s in same.steps if s.key == key).computed_before == ""
    assert next(s for s in moved.steps if s.key == key).computed_before == "Torque plug two"


def test_what_waited_on_a_left_out_step_waits_on_what_that_one_waited_on() -> None:
    """The chain closes over the gap."""
    well = next(s for s in FRONT.steps if s.key == "clean/well/2")
    done = apply_edits(FRONT, {"clean/well/2": Edit(left_out="open engine")})
    plug = next(s for s in done.steps if s.key == "remove/plug/2")
    assert set(well.after) <= set(plug.after)
