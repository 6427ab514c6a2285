"""Steps alike but for their hole are said once, and nothing is lost by it."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import OWN, Edit, OwnStep, apply_edits
from eldrim.core.procedure.editions.fold import Act, Round, acts_of, fold, unfold
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import job, tug
from tests.core.test_plans import questions

STAGES = compile_plan(tug(), job(2, 4, 6))
IN_TURN = compile_plan(tug(), job(2, 4, 6), DEFAULT_RULES.using(open_at_once="one_at_a_time"))
BY_BANK = compile_plan(
    tug(), job(1, 2, 3, 4, 5, 6), DEFAULT_RULES.using(first_cylinder="bank_by_bank")
)


def act(plan: Plan, start: str) -> Act:
    """The act whose first step's key begins so."""
    return next(one for one in acts_of(fold(plan.steps)) if one.first.key.startswith(start))


@pytest.mark.parametrize("name", sorted(questions()))
def test_every_demo_plan_is_folded_without_loss(name: str) -> None:
    """Unfolding gives the same steps in the same order, and each is in one act."""
    plan = compile_plan(*questions()[name])
    folded = fold(plan.steps)
    assert unfold(folded) == list(plan.steps)
    kept = [step.key for one in acts_of(folded) for step in one.steps]
    assert sorted(kept) == sorted(step.key for step in plan.steps)


texts = st.sampled_from(["", "Said otherwise", "Said of {hole} otherwise"])
keys = st.sampled_from([s.key for s in STAGES.steps] + ["torque/plug/*", "remove/plug/*"])
changes = st.dictionaries(
    keys,
    st.builds(Edit, text=texts, note=st.sampled_from(["", "n"]), hold=st.booleans()),
    max_size=8,
)


@given(changes, st.lists(keys, max_size=3), st.sampled_from(["stages", "in turn", "by bank"]))
def test_folding_is_lossless_whatever_was_edited(
    changed: dict[str, Edit], own_after: list[str], name: str
) -> None:
    """Own steps between, wordings of one hole, holds: the steps come back as they were."""
    added = {
        f"{OWN}{at}": Edit(own=OwnStep(text="Look at the hose", after=after))
        for at, after in enumerate(own_after)
    }
    plan = {"stages": STAGES, "in turn": IN_TURN, "by bank": BY_BANK}[name]
    done = apply_edits(plan, {**changed, **added})
    assert unfold(fold(done.steps)) == list(done.steps)


shuffled = st.permutations(list(STAGES.steps) + list(IN_TURN.steps[:0]))


@given(shuffled)
def test_folding_is_lossless_in_any_order(steps: list[Step]) -> None:
    """Whatever order steps stand in, folding keeps it."""
    assert unfold(fold(steps)) == steps


def test_stage_by_stage_an_act_has_a_row_for_each_hole() -> None:
    """Three holes are 58 steps and 30 acts: what is done at all wells is said once."""
    folded = fold(STAGES.steps)
    assert not any(isinstance(block, Round) for block in folded)
    assert len(acts_of(folded)) <= 30 < 50 < len(STAGES.steps)
    pulled = act(STAGES, "remove/plug")
    assert pulled.text == "Take out plug 2, 4, 6"
    assert pulled.holes == ("2", "4", "6")
    assert pulled.detail.startswith("Socket square and fully down")


def test_one_cylinder_at_a_time_the_acts_are_said_once_for_all() -> None:
    """For each of the holes in turn: the same acts in the same order."""
    (turn,) = [block for block in fold(IN_TURN.steps) if isinstance(block, Round)]
    assert set(turn.holes) == {"2", "4", "6"}
    operations = [one.first.key.operation.value for one in turn.acts]
    assert operations.index("remove/coil") < operations.index("remove/plug")
    assert operations.index("remove/plug") < operations.index("torque/plug")
    assert all(len(one.rows) == 3 for one in turn.acts)


def test_bank_by_bank_each_bank_has_its_acts() -> None:
    """What is done at one bank is not said of the other, since a start lies between."""
    pulled = [one for one in acts_of(fold(BY_BANK.steps)) if one.every == "remove/plug/*"]
    assert [set(one.holes) for one in pulled] in (
        [{"1", "3", "5"}, {"2", "4", "6"}],
        [{"2", "4", "6"}, {"1", "3", "5"}],
    )


def test_what_is_said_of_one_hole_stands_in_its_row() -> None:
    """A mark on the coil or a note of the well is not said of the other holes."""
    sheet: dict[str, Any] = tug().model_dump(mode="json", by_alias=True)
    sheet["cylinders"]["4"]["mark"] = "A7"
    plan = compile_plan(type(tug()).model_validate(sheet), job(2, 4, 6))
    pulled = act(plan, "remove/coil")
    assert "A7" not in pulled.detail
    assert ["A7" in " ".join(step.here) for step in pulled.steps] == [False, True, False]
    assert all("A7" in step.detail for step in pulled.steps if step.hole == "4")


def test_cautions_are_common_only_where_every_step_has_them() -> None:
    """An own caution at one hole is that hole's; the computed ones are said once."""
    done = apply_edits(STAGES, {"remove/plug/4": Edit(cautions=("The hose is close",))})
    pulled = act(done, "remove/plug")
    assert [c.text for c in pulled.common("cautions")] == [
        c.text for c in STAGES.steps if c.key == "remove/plug/2" for c in c.cautions
    ]
    more = {step.hole: [c.text for c in pulled.more(step, "cautions")] for step in pulled.steps}
    assert more == {"2": [], "4": ["The hose is close"], "6": []}


def test_holes_of_which_the_same_is_said_share_a_row() -> None:
    """A caution at two of three holes stands once for both; the third has nothing of its own."""
    more = Edit(cautions=("The hose is close",))
    done = apply_edits(STAGES, {"remove/plug/4": more, "remove/plug/6": more})
    pulled = act(done, "remove/plug")
    assert [[step.hole for step in steps] for steps in pulled.groups] == [["2"], ["4", "6"]]
    assert [pulled.silent(step) for step in pulled.steps] == [True, False, False]


def test_a_part_with_its_joints_is_one_act() -> None:
    """The posts and the cover they hold are told together, by the step that moves it."""
    off = act(STAGES, "release/sound-cover")
    assert off.text == "Lift off the sound cover"
    assert len(off.rows) == 2
    assert off.every == ""
