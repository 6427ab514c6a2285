"""What differs between two plans: said once, where it is, with both values."""

from eldrim.core.job import Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import job, tug


def front(**schools: str) -> Plan:
    """The tug's front bank, plugs only, under these schools."""
    asked = job(2, 4, work=(Work.PLUG,), variant="late")
    return compile_plan(tug(), asked, DEFAULT_RULES.with_schools(schools))


def with_order(made: Plan, *places: int) -> Plan:
    """The plan with its steps in the order of these places, then the rest."""
    rest = [i for i in range(len(made.steps)) if i not in places]
    return made.model_copy(update={"steps": tuple(made.steps[i] for i in (*places, *rest))})


def test_tools_that_come_and_go_are_named() -> None:
    """Each on its side; what both use is not."""
    found = difference(front(retrieval="magnet"), front(retrieval="hose"))
    assert found.tools_removed == ("pick-up magnet",)
    assert found.tools_added == ("old boot or hose",)
    assert difference(front(), front()).tools_removed == ()


def test_steps_that_come_and_go_are_named() -> None:
    """A chaser's step at every hole."""
    found = difference(front(), front(thread_cleaning="every_hole"))
    assert [str(s.key) for s in found.added] == ["chase/plug/2", "chase/plug/4"]
    assert found.removed == ()
    back = difference(front(thread_cleaning="every_hole"), front())
    assert [str(s.key) for s in back.removed] == ["chase/plug/2", "chase/plug/4"]
    assert back.added == ()


def test_only_the_steps_that_were_moved_are_named() -> None:
    """Those that keep their order among themselves are not."""
    made = front()
    texts = [s.text for s in made.steps]
    assert difference(made, made).moved == ()
    assert difference(made, with_order(made, 2, 0, 1)).moved == (texts[2],)
    assert difference(made, with_order(made, 1, 2, 3, 0)).moved == (texts[0],)
    assert difference(made, with_order(made, 0, 3, 1, 2)).moved == (texts[3],)
    assert set(difference(made, with_order(made, 4, 0, 1, 3, 2)).moved) in (
        {texts[4], texts[2]},
        {texts[4], texts[3]},
    )


def test_a_value_that_changed_at_every_hole_is_one_line() -> None:
    """With both values, and the holes it is at."""
    found = difference(front(), front(tightening="low_third"))
    [change] = [c for c in found.changed if c.step == "torque/plug/2"]
    assert (change.what, change.hole) == ("figure", "2, 4")
    assert change.before != change.after
    assert change.text == "Torque plug 2, 4"


def test_minutes_and_changes_of_set_up_stand_side_by_side() -> None:
    """Before, after."""
    one, other = front(), front(thread_cleaning="every_hole")
    found = difference(one, other)
    assert found.minutes == (one.minutes, other.minutes)
    assert found.tool_changes == (one.tool_changes, other.tool_changes)
    assert not found.empty
    assert difference(one, one).empty


def test_a_new_revision_of_the_sheet_alone_is_no_change() -> None:
    """It stands on the first step, and nothing is to be done about it."""
    revised = tug().model_copy(update={"revision": tug().revision + 1})
    asked = job(2, 4, work=(Work.PLUG,), variant="late")
    assert difference(front(), compile_plan(revised, asked, DEFAULT_RULES)).empty
