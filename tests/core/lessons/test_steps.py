"""Steps that do not hold in the bay, the pace of acts, searches and costs."""

import random

import pytest

from eldrim.core.lessons.digest import Signed, StepRow
from eldrim.core.lessons.pace import LearntPace, learn_pace, with_pace
from eldrim.core.lessons.searches import searches
from eldrim.core.lessons.steps import by_risk, failing_steps
from eldrim.core.operations import Operation
from tests.builders import tug
from tests.core.lessons.rows import mark, signed, step

PLUG, LEAK, COIL = "remove/plug/5", "prove/start", "remove/coil/5"


def test_steps_that_fail_are_ranked_by_minutes_lost_and_by_risk() -> None:
    """One loses most minutes, one is the more dangerous; one that went well is not there."""
    runs = [
        signed(
            n,
            steps=(
                step(PLUG, 1.0, 6.0, mark("differs", "longer")),
                step(LEAK, 2.0, 3.0, mark("stop", "fuel_smell")),
                step(COIL, 1.0, 1.0),
            ),
        )
        for n in range(4)
    ]
    found = failing_steps(runs)
    assert [one.step for one in found] == [PLUG, LEAK]
    assert [one.step for one in by_risk(found)] == [LEAK, PLUG]
    assert (found[0].lost, found[0].runs, found[0].marked_runs) == (20.0, 4, 4)
    assert found[0].counts == {"differs": 4}
    assert found[0].reporters == ("tam",)
    assert all(one.trend for one in found)


def test_under_three_runs_it_is_a_case_not_a_trend() -> None:
    """It is shown, and not called one."""
    found = failing_steps([signed(n, steps=(step(PLUG, 1, 1, mark("skip")),)) for n in range(2)])
    assert [(one.marked_runs, one.trend) for one in found] == [(2, False)]


def test_a_step_that_is_slow_without_a_word() -> None:
    """Its middle is far over its plan in three runs or more; one long run makes none."""
    slow = [signed(n, steps=(step(PLUG, 2.0, 5.0),)) for n in range(3)]
    assert [one.slow for one in failing_steps(slow)] == [True]
    once = [signed(n, steps=(step(PLUG, 2.0, 30.0 if n == 0 else 2.1),)) for n in range(6)]
    assert not failing_steps(once)


def paced(runs: list[Signed]) -> dict[Operation, LearntPace]:
    """What is learnt of the vee six, by act."""
    return {one.operation: one for one in learn_pace(tug(), runs)}


def rows(slow: float, hand: float, chance: random.Random) -> tuple[StepRow, ...]:
    """A run by a hand of this pace, in which plugs come out so many times slower."""
    others = ("clean/well", "read/plug", "gap/plug", "start/plug", "torque/plug")
    plain = [
        step(f"{act}/{h}", 1.0, hand * chance.uniform(0.8, 1.2))
        for act in others
        for h in (1, 3, 5)
    ]
    return (
        *plain,
        *(
            step(f"remove/plug/{h}", 1.2, 1.2 * slow * hand * chance.uniform(0.8, 1.2))
            for h in (1, 3, 5)
        ),
    )


def test_an_act_comes_to_its_true_pace() -> None:
    """Drawn towards the plan while few; noisy runs by all hands settle where the truth is."""
    chance = random.Random(8)
    runs = [signed(n, steps=rows(1.8, chance.choice((0.9, 1.0, 1.1)), chance)) for n in range(60)]
    few, many = (paced(runs[:count])[Operation.REMOVE_PLUG] for count in (3, 60))
    assert 1 < few.proposed < many.proposed
    assert many.proposed == pytest.approx(1.8, rel=0.06)
    assert many.worth_a_look
    assert not paced(runs)[Operation.READ_PLUG].worth_a_look


def test_a_slow_hand_makes_no_slow_act() -> None:
    """Whoever takes half as long again for everything says nothing of one act."""
    chance = random.Random(2)
    found = paced([signed(n, steps=rows(1.0, 1.5, chance)) for n in range(12)])
    assert not [one for one in found.values() if one.worth_a_look]


def test_one_run_never_swings_a_pace() -> None:
    """However slow it was."""
    chance = random.Random(3)
    runs = [signed(n, steps=rows(1.0, 1.0, chance)) for n in range(8)]
    before = paced(runs)[Operation.REMOVE_PLUG]
    after = paced([*runs, signed(9, steps=rows(9.0, 1.0, chance))])[Operation.REMOVE_PLUG]
    assert after.proposed == pytest.approx(before.proposed, abs=0.12)
    assert not after.worth_a_look


def test_what_is_taken_into_the_sheet_is_planned_with() -> None:
    """Its next revision states the pace; runs planned with it teach nothing more."""
    chance = random.Random(6)
    runs = [signed(n, steps=rows(1.8, 1.0, chance)) for n in range(20)]
    learnt = paced(runs)[Operation.REMOVE_PLUG]
    sheet = with_pace(tug(), [learnt])
    assert sheet.pace == {"remove/plug": learnt.proposed}
    assert sheet.revision == tug().revision + 1
    again = {one.operation: one for one in learn_pace(sheet, runs)}
    assert not again[Operation.REMOVE_PLUG].worth_a_look


def test_searches_are_held_against_their_tree() -> None:
    """Means of each kind; nothing of what was no search."""
    runs = [
        signed(n, search={"kind": "one-cylinder", "expected": 40.0, "proven": ("coil",)})
        for n in range(3)
    ]
    [found] = searches([*runs, signed(9)])
    assert (found.kind, found.expected, found.took, found.proven) == (
        "one-cylinder",
        40.0,
        60.0,
        (("coil", 3),),
    )
    assert found.trend
    assert found.off == 1.5
