"""A step put elsewhere: within its phase, never against a hindrance, the sums counted again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits, placements
from eldrim.core.procedure.editions.placement import Placement, movable, neighbour, place
from eldrim.core.procedure.model import Phase, Plan, Step
from eldrim.core.procedure.whole_job.setup_changes import change_minutes
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import job, tug

WHOLE = compile_plan(tug(), job(1, 2, 3, 4, 5, 6))
CHEAP = compile_plan(
    tug(), job(1, 2, 3, 4, 5, 6), DEFAULT_RULES.model_copy(update={"set_up_minutes": 0})
)
STEPS = list(WHOLE.steps)
KEYS = [s.key for s in STEPS]
CAN = [s.key for s in STEPS if movable(s)]
moves = st.lists(st.tuples(st.sampled_from(CAN), st.sampled_from(KEYS)), max_size=8)


MOVED_BY = ("remove", "swing", "shift", "unclip")


def edits(asked: list[tuple[str, str]]) -> dict[str, Edit]:
    """The moves as a draft keeps them, in the order they were made."""
    kept: dict[str, Edit] = {}
    for at, (key, follows) in enumerate(asked, 1):
        before = kept.get(key, Edit()).placed
        kept[key] = Edit(placed=(*before, Placement(order=at, follows=follows)))
    return kept


def keys(made: Plan | list[Step]) -> list[str]:
    """The order."""
    return [s.key for s in (made.steps if isinstance(made, Plan) else made)]


@given(moves)
def test_whatever_is_moved_nothing_comes_before_what_it_waits_on(
    asked: list[tuple[str, str]],
) -> None:
    """Every step is there once, in its phase's stretch, after what hinders it."""
    done = apply_edits(WHOLE, edits(asked))
    index = {k: i for i, k in enumerate(keys(done))}
    assert sorted(index) == sorted(KEYS)
    assert [s.phase for s in done.steps] == [s.phase for s in STEPS]
    for step in done.steps:
        assert all(index[k] < index[step.key] for k in step.after if k in index)
    for key in KEYS:
        if key.startswith("plug-opening/"):
            before = next(k for k, place in index.items() if place == index[key] - 1)
            assert before.split("/") in ([verb, key.split("/")[1]] for verb in MOVED_BY)


@given(moves)
def test_a_move_that_does_not_hold_says_why_and_changes_nothing(
    asked: list[tuple[str, str]],
) -> None:
    """The last move puts the step, with what goes with it, right after the named one, or is
    refused in words.
    """
    if not asked:
        return
    key, follows = asked[-1]
    before, _ = placements(WHOLE, edits(asked[:-1]))
    after, against = place(WHOLE, before, key, follows)
    if against:
        assert keys(after) == keys(before)
    else:
        next_one = after[keys(after).index(follows) + 1]
        moved = next(step for step in after if step.key == key)
        assert next_one.key == key or next_one.part == moved.part


@given(moves, st.sampled_from([WHOLE, CHEAP]))
def test_changes_of_set_up_are_counted_again(asked: list[tuple[str, str]], made: Plan) -> None:
    """Each step costs its own work, and the change from what was in hand before it."""
    done = apply_edits(made, edits(asked))
    bare = {s.key: s.minutes - _change(made, i) for i, s in enumerate(made.steps)}
    for i, step in enumerate(done.steps):
        assert step.minutes == pytest.approx(bare[step.key] + _change(done, i), abs=0.11)
    assert done.minutes == pytest.approx(sum(s.minutes for s in done.steps), abs=0.11)
    assert done.tool_changes == sum(s.changes_setup for s in done.steps)


def _change(made: Plan, at: int) -> float:
    held = next((s.setup for s in reversed(made.steps[:at]) if s.setup), "")
    setup = made.steps[at].setup
    return change_minutes(made.change_cost, held, setup) if setup else 0.0


def test_an_impossible_move_names_the_hindrance() -> None:
    """The stays lie over a fastener of the plenum, in both directions of the job."""
    off = place(WHOLE, STEPS, "remove/rear-stays", "remove/plenum")[1]
    assert "rear stays: over a fastener of the intake plenum" in off
    back = place(WHOLE, STEPS, "fit/rear-stays", "unplug-opening/plenum")[1]
    assert "comes before" in back


@pytest.mark.parametrize(
    ("key", "follows", "words"),
    [
        ("ready/isolate", "ready/unit", "fixed"),
        ("prove/start", "prove/sign", "fixed"),
        ("torque/plug/1", "gap/plug/1", "comes before"),
        ("plug-opening/plenum", "release/loom/clips", "fixed"),
        ("release/sound-cover/posts", "fit/plenum", "among the steps of uncover"),
        ("release/throttle-body/connector", "remove/plenum", "comes before"),
        ("release/loom/clips", "nowhere", "not there"),
        ("release/plenum/bolts", "remove/plenum", "comes before"),
    ],
)
def test_what_is_refused(key: str, follows: str, words: str) -> None:
    """Fixed places, other phases, an opening left open, a part's own order."""
    assert words in place(WHOLE, STEPS, key, follows)[1]


def test_nothing_comes_between_an_opening_and_its_plugging() -> None:
    """What opens it takes the plugging along, what closes it the unplugging."""
    lift = next(s for s in STEPS if s.key == "remove/plenum")
    free = [lift.model_copy(update={"after": ()}) if s.key == lift.key else s for s in STEPS]
    done = place(WHOLE, free, "remove/plenum", "remove/sound-cover")[0]
    at = keys(done).index("remove/plenum")
    assert keys(done)[at - 1] == "remove/sound-cover"
    assert keys(done)[at + 1] == "plug-opening/plenum"
    clips = next(s for s in free if s.key == "release/sound-cover/posts")
    alone = [s.model_copy(update={"after": ()}) for s in done]
    refused = place(WHOLE, alone, clips.key, "remove/plenum")[1]
    assert "nothing comes between" in refused
    later = neighbour(alone, keys(alone)[at - 1], later=True)
    assert later == "plug-opening/plenum"


def test_one_earlier_and_one_later_take_each_other_back() -> None:
    """And the part numbers follow the order."""
    key = "remove/rear-stays"
    here = KEYS.index("swing/throttle-body")
    up = place(WHOLE, STEPS, "swing/throttle-body", neighbour(STEPS, KEYS[here], later=False))[0]
    if keys(up) != KEYS:
        down = place(WHOLE, up, KEYS[here], neighbour(up, KEYS[here], later=True))[0]
        assert keys(down) == KEYS
    first = edits(
        [
            ("release/rear-stays/bolts", KEYS[KEYS.index("release/sound-cover/posts") - 1]),
            (key, "release/rear-stays/bolts"),
        ]
    )
    done = apply_edits(WHOLE, first)
    assert done.moves[0].part == "rear-stays"
    assert [m.number for m in done.moves] == list(range(1, len(done.moves) + 1))
    assert WHOLE.moves[0].part != "rear-stays"
    assert set(done.tools) == set(WHOLE.tools)
    assert next(s for s in done.steps if s.key == key).moved


def test_a_part_whose_steps_are_all_left_out_keeps_its_number_among_the_moves() -> None:
    """Its steps are gone, and it is still counted where it stood: not first, not last."""
    part = WHOLE.moves[1].part
    gone = {s.key: Edit(left_out="off already") for s in WHOLE.steps if s.part == part}
    left = apply_edits(WHOLE, gone)
    assert not [s for s in left.steps if s.part == part and s.phase is Phase.UNCOVER]
    assert [m.part for m in left.moves] == [m.part for m in WHOLE.moves]
