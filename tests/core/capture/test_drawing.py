"""Shapes to start from, drawing on them, and what the drawing asks and lacks."""

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import EngineError
from eldrim.core.capture import edits, held, hindrances
from eldrim.core.capture.missing import missing
from eldrim.core.capture.propose import answer, proposals
from eldrim.core.capture.shapes import BY_KEY, SHAPES, Beginning, Shape, start
from eldrim.core.capture.shorthand import understand
from eldrim.core.capture.ways import remove_way, set_way
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import HindranceKind, PartKind, Point
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.demo.load import demo_engines


def four() -> Engine:
    """An inline four as it is started."""
    return start(BY_KEY["inline-four"], Beginning("tarn-four", "Tarn", "four", "aluminium", "road"))


def ducted() -> tuple[Engine, str]:
    """The same with a duct over hole 4."""
    return edits.add_part(four(), PartKind.DUCT, (590, 250))


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.key)
def test_every_shape_is_a_sheet_one_can_plan_on(shape: Shape) -> None:
    """Consistent from the first moment, nothing empty, and not yet to be released from."""
    made = start(shape, Beginning("x", "Tarn", shape.name, "iron", "marine"))
    assert check(made) == []
    assert proposals(made) == []
    assert len(made.holes) == shape.each * len(shape.banks)
    job = Job(cylinders=tuple(made.cylinders), work=(carrier(made), Work.PLUG))
    done = compile_plan(made, job)
    assert any(p.bars for p in missing(made))
    assert done.steps
    width, height = made.layout.plan
    assert all(0 < w.at[0] < width and 0 < w.at[1] < height for _, w in made.holes.values())


def test_about_a_dozen_shapes_of_every_sort() -> None:
    """Inline, vee, flat, single and twin; every kind of ignition; across and along."""
    assert len(SHAPES) >= 12
    assert {s.shape for s in SHAPES} == {"inline", "vee", "flat", "single"}
    assert {s.ignition for s in SHAPES} == {"coil_on_plug", "coil_pack", "distributor"}
    assert {s.along for s in SHAPES} == {True, False}


def test_the_drawing_asks_what_lies_over_what() -> None:
    """A duct over hole 4, the cover over the duct; each asked once."""
    made, key = ducted()
    asked = {(q.part, q.targets) for q in proposals(made)}
    assert asked == {(key, ("hole/4",)), ("cover", (key,))}
    for question in proposals(made):
        made = answer(made, question.part, question.targets, question.answers[0])
    assert proposals(made) == []
    assert check(made) == []
    moved = {m.part for m in compile_plan(made, Job(cylinders=(4,), work=(Work.PLUG,))).moves}
    assert moved == {key, "cover"}
    assert {m.part for m in compile_plan(made, Job(cylinders=(1,), work=(Work.PLUG,))).moves} == {
        "cover"
    }


def test_what_was_looked_at_and_found_free_is_not_asked_again() -> None:
    """And does not hinder."""
    made, key = ducted()
    for question in proposals(made):
        made = answer(made, question.part, question.targets, "free")
    assert proposals(made) == []
    assert key not in {
        m.part for m in compile_plan(made, Job(cylinders=(4,), work=(Work.PLUG,))).moves
    }
    assert key not in str(edits.remove_part(made, key).free)


@given(
    st.sampled_from(list(PartKind)),
    st.lists(
        st.tuples(
            st.sampled_from(["move", "size", "turn"]), st.floats(-900, 900), st.floats(-900, 900)
        ),
        max_size=6,
    ),
)
def test_whatever_is_drawn_stays_on_the_plan_and_holds(
    kind: PartKind, acts: list[tuple[str, float, float]]
) -> None:
    """The sheet is consistent after every act."""
    made, key = edits.add_part(four(), kind, (300, 200))
    for act, x, y in acts:
        if act == "turn":
            made = edits.turn(made, key)
        else:
            made = (edits.move if act == "move" else edits.resize)(made, key, x, y)
        width, height = made.layout.plan
        xs, ys = zip(*made.parts[key].outline, strict=True)
        if act == "move":
            assert min(xs) >= -0.1
            assert max(xs) - min(xs) > width or max(xs) <= width + 0.1
            assert max(ys) - min(ys) > height or max(ys) <= height + 0.1
    assert check(made) == []
    assert Engine.model_validate(made.model_dump(mode="json")) == made


def test_joints_bring_minutes_and_figures_that_want_a_source() -> None:
    """A torque said at the engine is a figure to be looked up."""
    made, key = ducted()
    made = held.add_joint(made, key, understand("2 hex bolts 10 mm 9 Nm"))
    before = made.parts[key].ways["remove"].out.mid
    made = held.add_joint(made, key, understand("screw-clamp hose air"))
    assert made.parts[key].ways["remove"].out.mid > before
    assert check(made) == []
    figure = made.parts[key].joints["bolt"].torque or ""
    assert str(made.figures[figure][0].value) == "9 N·m"
    assert any("no source" in m.words and m.bars for m in missing(made))
    done = compile_plan(made, Job(cylinders=(4,), work=(Work.PLUG,), force=(f"{key}/remove",)))
    assert any(p.key.startswith("unsourced/") and p.bars for p in done.open_points)
    gone = held.remove_joint(made, key, "bolt")
    assert figure not in gone.figures


def test_timed_minutes_stay_when_joints_change() -> None:
    """Only estimates follow the joints."""
    made, key = ducted()
    made = set_way(made, key, "", {"kind": "loosen_and_shift", "out": "1.4 min", "back": "1.8 min"})
    made = held.add_joint(made, key, understand("4 hex bolts 10 mm"))
    ways = made.parts[key].ways
    assert (ways["loosen-and-shift"].out.mid, ways["loosen-and-shift"].estimated) == (1.4, False)
    assert ways["remove"].estimated
    less = remove_way(made, key, "remove")
    with pytest.raises(EngineError, match="only way"):
        remove_way(less, key, "loosen-and-shift")


def test_a_way_that_goes_takes_what_stood_before_it_along() -> None:
    """What hindered only that way goes; what only it clears keeps it."""
    made, key = ducted()
    made = set_way(made, key, "", {"kind": "swing_aside", "out": "1 min", "back": "1 min"})
    made, cover = edits.add_part(made, PartKind.COVER, (400, 200))
    made = hindrances.hinder(made, cover, f"{key}/swing-aside", HindranceKind.BLOCKS_EXIT)
    made = hindrances.hinder(made, key, "hole/1", HindranceKind.HIDES)
    hides = len(made.hindrances) - 1
    made = hindrances.restate_hindrance(made, hides, {"cleared_by": ("remove",)})
    with pytest.raises(EngineError, match="alone clears"):
        remove_way(made, key, "remove")
    less = remove_way(made, key, "swing-aside")
    assert cover not in {hindrance.part for hindrance in less.hindrances}
    assert check(less) == []


def test_joints_lie_along_their_part_and_go_with_it() -> None:
    """Spread evenly, a clip kept on the way of its loom; moved, sized and turned with the part."""
    made, loom = edits.add_part(four(), PartKind.LOOM, (200, 150))
    made = held.add_joint(made, loom, understand("3 clips"))
    made = held.place_joint(made, loom, "clip")
    first = made.parts[loom].joints["clip"].at
    assert len(set(first)) == 3
    pulled = held.move_piece(made, loom, "clip", 1, (10, 400)).parts[loom]
    assert on_line(pulled.outline, pulled.joints["clip"].at[1]), "pulled away, it stays on the way"
    moved = edits.move(made, loom, 50, 20).parts[loom].joints["clip"].at
    assert moved == tuple((x + 50, y + 20) for x, y in first)
    turned = edits.turn(made, loom).parts[loom]
    assert all(on_line(turned.outline, at) for at in turned.joints["clip"].at)
    assert check(edits.turn(made, loom)) == []
    assert not held.unplace_joint(made, loom, "clip").parts[loom].joints["clip"].at


@pytest.mark.parametrize(
    ("kind", "shares"),
    [
        (PartKind.LOOM, [0.25, 0.5, 0.75]),
        # Round a cover: half a step from its first corner, then a third of the way round each.
        (PartKind.COVER, [1 / 6, 3 / 6, 5 / 6]),
    ],
)
def test_pieces_lie_evenly_along_a_line_and_round_an_outline(
    kind: PartKind, shares: list[float]
) -> None:
    """None at the end of a loom; on a cover the last is as far from the first as from its own."""
    made, key = edits.add_part(four(), kind, (200, 150))
    made = held.place_joint(held.add_joint(made, key, understand("3 clips")), key, "clip")
    drawn = made.parts[key]
    line = drawn.outline if kind is PartKind.LOOM else (*drawn.outline, drawn.outline[0])
    whole = sum(math.dist(a, b) for a, b in pairwise(line))
    for at, share in zip(drawn.joints["clip"].at, shares, strict=True):
        assert math.dist(at, along(line, share * whole)) < 1


def along(line: tuple[Point, ...], far: float) -> Point:
    """The place so far along a line."""
    for (x, y), (to_x, to_y) in pairwise(line):
        side = math.dist((x, y), (to_x, to_y))
        if far <= side:
            return (x + (to_x - x) * far / side, y + (to_y - y) * far / side)
        far -= side
    return line[-1]


def on_line(line: tuple[Point, ...], at: Point) -> bool:
    """Whether a place is on one of the sides: as far by it as without it."""
    return any(
        math.dist(start, at) + math.dist(at, end) == pytest.approx(math.dist(start, end), abs=0.2)
        for start, end in pairwise(line)
    )


def test_a_joint_said_anew_keeps_its_key_and_its_figure() -> None:
    """A torque that did not change is still sourced; one that did waits for its source."""
    made, key = ducted()
    made = held.add_joint(made, key, understand("2 hex bolts 10 mm 9 Nm"))
    figure = made.parts[key].joints["bolt"].torque
    same = held.restate_joint(made, key, "bolt", understand("3 hex bolts 10 mm 9 Nm deep"))
    assert (same.parts[key].joints["bolt"].count, same.parts[key].joints["bolt"].torque) == (
        3,
        figure,
    )
    other = held.restate_joint(same, key, "bolt", understand("3 hex bolts 10 mm 11 Nm"))
    assert other.parts[key].joints["bolt"].torque != figure
    assert figure not in other.figures, "nothing is tightened to it any more"
    snug = held.restate_joint(other, key, "bolt", understand("3 hex bolts 10 mm"))
    assert snug.parts[key].joints["bolt"].torque is None
    with pytest.raises(EngineError, match="no longer there"):
        held.restate_joint(snug, key, "nut", understand("nut 10 mm"))


def test_a_part_taken_off_leaves_nothing_behind() -> None:
    """No hindrance names it."""
    made, key = ducted()
    for question in proposals(made):
        made = answer(made, question.part, question.targets, question.answers[0])
    gone = edits.remove_part(made, key)
    assert check(gone) == []
    assert gone.model_copy(update={"figures": {}}) == four()


def test_what_lacks_names_its_place() -> None:
    """So that one click goes there."""
    made, key = ducted()
    found = missing(made)
    assert [m for m in found if m.place == key and "nothing holds it" in m.words]
    assert [m for m in found if m.place == key and m.bars and "does it hinder" in m.words]
    assert [m for m in found if m.place == "figures" and "the plug: no source" in m.words]


def test_one_joint_alone_is_hindered_until_it_or_its_part_has_gone() -> None:
    """Said by target; what cannot be is refused in words; nothing points at what has gone."""
    made, under = edits.add_part(four(), PartKind.PLENUM, (200, 150))
    made = held.add_joint(made, under, understand("4 hex bolts 10 mm"))
    made, over = edits.add_part(made, PartKind.HOSE, (240, 160))
    made = hindrances.hinder(made, over, f"joint/{under}/bolt", HindranceKind.HIDES)
    assert made.hindrances[-1].of == (f"joint/{under}/bolt",)
    with pytest.raises(EngineError, match="joint"):
        hindrances.hinder(made, over, f"joint/{under}/nut", HindranceKind.HIDES)
    for gone in (held.remove_joint(made, under, "bolt"), edits.remove_part(made, under)):
        assert gone.hindrances == made.hindrances[:-1]


def test_what_never_moves_has_no_way_and_what_moves_again_has_one() -> None:
    """And what a part is pushed onto is forgotten with it."""
    made, first = edits.add_part(four(), PartKind.DUCT, (200, 150))
    made, second = edits.add_part(made, PartKind.DUCT, (240, 160), "Second")
    made = edits.describe(made, second, pushes_onto=[first])
    assert made.parts[second].pushes_onto == (first,)
    assert edits.remove_part(made, first).parts[second].pushes_onto == ()
    still = edits.describe(made, first, fixed=True)
    assert not still.parts[first].ways
    assert edits.describe(still, first, fixed=False).parts[first].ways


def test_a_part_longer_than_the_plan_is_high_is_fitted_to_it_when_turned() -> None:
    """It would lie off the plan otherwise."""
    made, key = edits.add_part(four(), PartKind.COVER, (400, 200))
    long = edits.turn(edits.resize(made, key, 400, 0), key)
    ys = [y for _, y in long.parts[key].outline]
    assert 0 <= min(ys) <= max(ys) <= long.layout.plan[1]
    assert not check(long)


def test_a_torque_drawn_on_a_sourced_sheet_waits_for_its_source() -> None:
    """The sheet knows that it is to be stated, however it came."""
    [sheet] = [one for one in demo_engines() if one.id == "ostler-16-flat-four"]
    made = held.add_joint(sheet, "fan-shroud", understand("2 hex bolts 8 mm 4 N·m"))
    assert check(made) == []
    assert missing(made)
