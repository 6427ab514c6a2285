"""A change said once holds at every hole of an act; one hole may be an exception."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.editions.edits import (
    OWN,
    Edit,
    OwnStep,
    apply_edits,
    orphans,
    placements,
)
from eldrim.core.procedure.editions.fold import acts_of, fold
from eldrim.core.procedure.editions.placement import Placement, act_neighbour, ordered_by
from eldrim.core.procedure.editions.wording import refuse_unknown, slots_of
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.house import DEFAULT_RULES
from tests.builders import job, tug

STAGES = compile_plan(tug(), job(2, 4, 6))
ALL = compile_plan(tug(), job(1, 2, 3, 4, 5, 6))
IN_TURN = compile_plan(tug(), job(2, 4, 6), DEFAULT_RULES.using(open_at_once="one_at_a_time"))
TORQUE = "torque/plug/*"


def steps_at(plan: Plan, start: str) -> dict[str, Step]:
    """The steps of an operation by hole."""
    return {s.hole or "": s for s in plan.steps if s.key.startswith(start) and not s.own}


def test_one_wording_for_all_holes_and_one_exception() -> None:
    """The act's wording names each hole; the hole with its own has that."""
    done = apply_edits(
        STAGES,
        {
            TORQUE: Edit(text="Click plug {hole} home at {setting}"),
            "torque/plug/6": Edit(text="Plug 6: the short extension"),
        },
    )
    said = {hole: s.text for hole, s in steps_at(done, "torque/plug/").items()}
    setting = STAGES.steps[0].figures or steps_at(STAGES, "torque/plug/")["2"].figures
    dialled = setting[0].setting
    assert dialled is not None
    assert said == {
        "2": f"Click plug 2 home at {dialled.text}",
        "4": f"Click plug 4 home at {dialled.text}",
        "6": "Plug 6: the short extension",
    }
    assert all(s.edited for s in steps_at(done, "torque/plug/").values())


def test_a_hole_added_later_has_it_too() -> None:
    """The edit is of the act, so that a larger job needs nothing typed again."""
    edits = {TORQUE: Edit(text="Click plug {hole} home", note="Left hand on the head.")}
    done = apply_edits(ALL, edits)
    found = steps_at(done, "torque/plug/")
    assert len(found) == 6
    assert {s.text for s in found.values()} == {f"Click plug {h} home" for h in "123456"}
    assert {s.note for s in found.values()} == {"Left hand on the head."}


def test_what_is_alike_stays_one_act() -> None:
    """A wording that names the hole is still said once; the exception stands in its row."""
    done = apply_edits(STAGES, {TORQUE: Edit(text="Click plug {hole} home")})
    (one,) = [a for a in acts_of(fold(done.steps)) if a.every == TORQUE]
    assert one.text == "Click plug 2, 4, 6 home"
    assert "text" not in one.rows[0].own


def test_notes_cautions_holds_minutes_and_photos_of_all_and_of_one() -> None:
    """A step has those of its act and its own beside them."""
    done = apply_edits(
        STAGES,
        {
            TORQUE: Edit(note="n", cautions=("Mind the hose",), minutes=2.0),
            "torque/plug/4": Edit(cautions=("And the stay",), hold=True, readings=("angle, °",)),
        },
    )
    found = steps_at(done, "torque/plug/")
    computed = steps_at(STAGES, "torque/plug/")
    more = {h: [c.text for c in s.cautions[len(computed[h].cautions) :]] for h, s in found.items()}
    assert more == {
        "2": ["Mind the hose"],
        "4": ["Mind the hose", "And the stay"],
        "6": ["Mind the hose"],
    }
    assert len({c.key for c in found["4"].cautions}) == len(found["4"].cautions)
    assert {h: s.hold for h, s in found.items()} == {"2": False, "4": True, "6": False}
    assert {s.minutes for s in found.values()} == {2.0}


def test_apart_a_hole_has_nothing_of_its_act() -> None:
    """Also what cannot be said by something in its place: no note, not left out."""
    edits = {
        "read/coil/*": Edit(left_out="coils are new"),
        "read/coil/4": Edit(apart=True),
        TORQUE: Edit(note="n"),
        "torque/plug/2": Edit(apart=True),
    }
    done = apply_edits(STAGES, edits)
    assert set(steps_at(done, "read/coil/")) == {"4"}
    assert {o.key for o in done.left_out} == {"read/coil/2", "read/coil/6"}
    assert {h: s.note for h, s in steps_at(done, "torque/plug/").items()} == {
        "2": "",
        "4": "n",
        "6": "n",
    }


def test_what_is_said_of_one_hole_stays_under_a_wording_of_all() -> None:
    """The act's “how” takes the place of what all share, never of the mark on one coil."""
    sheet = tug().model_dump(mode="json", by_alias=True)
    sheet["cylinders"]["4"]["mark"] = "A7"
    plan = compile_plan(type(tug()).model_validate(sheet), job(2, 4, 6))
    done = apply_edits(plan, {"remove/coil/*": Edit(detail="Turn it under {hole} and lift.")})
    found = steps_at(done, "remove/coil/")
    assert found["2"].detail == f"Turn it under 2 and lift. {' '.join(found['2'].here)}"
    assert found["4"].detail.startswith("Turn it under 4 and lift. ")
    assert "A7" in found["4"].detail


def test_changed_under_the_wording_is_told_at_each_hole() -> None:
    """What the act's wording was made on is compared with what is computed now."""
    edits = {TORQUE: Edit(text="Click {hole}", computed="Pull plug {hole} tight")}
    done = apply_edits(STAGES, edits)
    assert steps_at(done, "torque/plug/")["4"].computed_before == "Pull plug 4 tight"
    edits = {TORQUE: Edit(text="Click {hole}", computed="Torque plug {hole}")}
    same = apply_edits(STAGES, edits)
    assert steps_at(same, "torque/plug/")["4"].computed_before == ""


def test_an_own_step_after_an_act_follows_its_last_hole() -> None:
    """With a hole more it stands after that one."""
    edits = {f"{OWN}look": Edit(own=OwnStep(text="Look at all of them", after=TORQUE))}
    for plan in (STAGES, ALL):
        keys = [s.key for s in apply_edits(plan, edits).steps]
        last = max(i for i, k in enumerate(keys) if k.startswith("torque/plug/"))
        assert keys[last + 1] == f"{OWN}look"


def test_an_act_that_is_gone_lies_in_the_tray() -> None:
    """A job without coils to renew has no coil to look over."""
    edits = {"chase/plug/*": Edit(note="n"), TORQUE: Edit(note="n")}
    assert set(orphans(STAGES, edits)) == {"chase/plug/*"}


def test_old_edits_read_unchanged() -> None:
    """A wording of one step stands as it was typed, whatever is in braces."""
    done = apply_edits(STAGES, {"torque/plug/2": Edit(text="Set {setting} at {hole}")})
    assert steps_at(done, "torque/plug/")["2"].text == "Set {setting} at {hole}"


def test_a_wording_may_name_only_what_a_step_can_fill() -> None:
    """What stands for nothing is refused, with what may be written."""
    torque, coil = (steps_at(STAGES, s)["2"] for s in ("torque/plug/", "remove/coil/"))
    assert slots_of(torque) == ("hole", "setting", "figure", "tools")
    assert slots_of(coil) == ("hole",)
    refuse_unknown("text", "Click {hole} at {setting}", torque)
    with pytest.raises(ProblemsError, match=r"\{setting\} stands for nothing here"):
        refuse_unknown("text", "Click {hole} at {setting}", coil)


def test_differences_are_told_by_act() -> None:
    """One line for all holes where the change is alike, and one for the exception."""
    edits = {
        TORQUE: Edit(text="Click plug {hole} home"),
        "torque/plug/6": Edit(text="Plug 6, short extension"),
        "read/coil/*": Edit(left_out="new"),
    }
    found = difference(STAGES, apply_edits(STAGES, edits))
    worded = [(c.text, c.hole) for c in found.changed if c.what == "wording"]
    assert worded == [("Click plug 2, 4 home", "2, 4"), ("Plug 6, short extension", "6")]
    assert found.removed_acts == ("Look over coil 2, 4, 6",)


# Acts at holes that may follow one another, for moving them about.
HOLE_ACTS = sorted({s.key.at_every_hole for s in STAGES.steps if s.hole})
moves = st.lists(
    st.tuples(st.sampled_from(HOLE_ACTS), st.sampled_from(HOLE_ACTS), st.booleans()), max_size=6
)


def moved(plan: Plan, asked: list[tuple[str, str, bool]]) -> Plan:
    """The plan after these moves: an act, beside which, and whether before it."""
    edits: dict[str, Edit] = {}
    for order, (act, beside, before) in enumerate(asked, 1):
        where = {"precedes" if before else "follows": beside}
        kept = edits.get(act, Edit()).placed
        edits[act] = Edit(placed=(*kept, Placement(order=order, **where)))
    return apply_edits(plan, edits)


@given(moves, st.sampled_from(["stages", "in turn", "all"]))
def test_whatever_act_is_moved_nothing_comes_before_what_it_waits_on(
    asked: list[tuple[str, str, bool]], name: str
) -> None:
    """A well is open before its plug comes out, a plug out before one goes in, tight before its
    coil; and every hole has all its steps.
    """
    plan = {"stages": STAGES, "in turn": IN_TURN, "all": ALL}[name]
    done = moved(plan, asked)
    place = {s.key: i for i, s in enumerate(done.steps)}
    assert sorted(place) == sorted(s.key for s in plan.steps)
    for step in done.steps:
        assert all(place[key] < place[step.key] for key in step.after if key in place)
    chain = ("remove/coil", "clean/well", "remove/plug", "start/plug", "torque/plug", "fit/coil")
    for hole in {s.hole for s in plan.steps if s.hole}:
        there = [place[f"{start}/{hole}"] for start in chain]
        assert there == sorted(there)
    last_hole = max(place[s.key] for s in plan.steps if s.hole)
    covers = [place[k] for k in place if k.startswith("fit/") and k.rule.part]
    assert all(at > last_hole for at in covers)


def test_an_act_is_moved_for_all_holes_at_once() -> None:
    """Coils looked over right after they are pulled; the same for six holes."""
    for plan in (STAGES, ALL):
        done = moved(plan, [("read/coil/*", "remove/coil/*", False)])
        order = [a.every for a in acts_of(fold(done.steps)) if a.every]
        assert order.index("read/coil/*") == order.index("remove/coil/*") + 1
        assert all(s.moved for s in steps_at(done, "read/coil/").values())


def test_in_turn_an_act_moves_at_each_hole() -> None:
    """One cylinder at a time it is done at its hole, not for all of them together."""
    done = moved(IN_TURN, [("read/coil/*", "remove/coil/*", False)])
    keys = [s.key for s in done.steps]
    for hole in ("2", "4", "6"):
        assert keys.index(f"read/coil/{hole}") == keys.index(f"remove/coil/{hole}") + 1


def test_earlier_and_later_take_each_other_back() -> None:
    """One place later, then one earlier: as it was computed."""
    for plan in (STAGES, IN_TURN):
        steps = list(plan.steps)
        later = act_neighbour(steps, "read/plug/*", later=True)
        assert later is not None
        there, refused = placements(plan, {"read/plug/*": Edit(placed=(later,))})
        assert not refused
        assert [s.key for s in there] != [s.key for s in steps]
        back = act_neighbour(there, "read/plug/*", later=False)
        assert back is not None
        both = (later, back.model_copy(update={"order": 2}))
        again, refused = placements(plan, {"read/plug/*": Edit(placed=both)})
        assert not refused
        assert [s.key for s in again] == [s.key for s in steps]


@pytest.mark.parametrize(
    ("act", "where", "words"),
    [
        ("torque/plug/*", {"precedes": "start/plug/*"}, "comes before"),
        ("fit/coil/*", {"follows": "remove/coil/*"}, "stays among the steps of refit"),
        ("read/plug/*", {"follows": "start/plug/*"}, "comes before"),
        ("gap/plug/*", {"follows": "prove/start"}, "stays among the steps at the holes"),
        ("fit/coil/*", {"follows": "connect/coil/*/connector"}, "comes before"),
        ("read/plug/*", {"follows": "chase/plug/*"}, "not done at the same holes"),
    ],
)
def test_a_move_against_the_craft_says_why(act: str, where: dict[str, str], words: str) -> None:
    """Nothing is moved, and the reason names what stands against it."""
    there, refused = placements(STAGES, {act: Edit(placed=(Placement(order=1, **where),))})
    assert [s.key for s in there] == [s.key for s in STAGES.steps]
    assert words in refused[act]


def test_the_house_rule_that_orders_bolt_and_connector_is_named() -> None:
    """The school decides it; to depart from it is said, not moved."""
    ask = Edit(placed=(Placement(order=1, follows="connect/coil/*"),))
    _, refused = placements(STAGES, {"tighten/coil/bolt/*": ask})
    assert refused == {}
    act = next(s.key.at_every_hole for s in STAGES.steps if s.key.startswith("tighten/coil/2"))
    on = next(s.key.at_every_hole for s in STAGES.steps if s.key.startswith("connect/coil/2"))
    _, refused = placements(STAGES, {act: Edit(placed=(Placement(order=1, follows=on),))})
    assert "the house rule “Bolt or connector first on refit” says so" in refused[act]
    step = next(s for s in STAGES.steps if s.key.startswith("tighten/coil/2"))
    assert ordered_by(step) == ("coil_joint_first", "open_at_once", "first_cylinder")


def test_no_part_goes_back_over_a_hole_still_open() -> None:
    """Neither as a step of the part nor as one of the hole."""
    ask = Edit(placed=(Placement(order=1, follows="torque/plug/5"),))
    for key in ("faces/plenum", "fit/plenum"):
        _, refused = placements(ALL, {key: ask})
        assert key in refused
    first = next(s for s in ALL.steps if s.key.startswith("fit/coil/"))
    for key in ("faces/plenum", "fit/plenum"):
        back = Edit(placed=(Placement(order=1, follows=first.key),))
        _, refused = placements(ALL, {key: back})
        assert "comes before" in refused[key], key
