"""Fit, reach, the fewest tools, and what the crib lacks."""

import math
from dataclasses import replace
from datetime import date
from itertools import combinations_with_replacement
from typing import Any

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from eldrim.core.base.quantity import parse
from eldrim.core.engine.parts import Head
from eldrim.core.figures.torque import Window
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.crib import Crib, Extension, Handle, Wrench
from eldrim.core.tools.demand import Demand, TurnAction
from eldrim.core.tools.fit import fit
from eldrim.core.tools.missing_tools import missing_for
from eldrim.core.tools.shop_capability import ShopCapability
from eldrim.core.tools.stack import HANDLE_CLEARANCE, WALL_CLEARANCE
from eldrim.core.tools.stack_finder import NoStack, StackChoice, StackFinder
from eldrim.core.tools.stock import STANDARD_CRIB, crowfoot, plug_socket, socket
from eldrim.core.tools.tool_selection import ToolSelection
from eldrim.demo.load import demo_crib
from tests.builders import blocked, deep_plug, job, part, tug

PLUG = deep_plug()
BOLT = Demand("hex-10-mm", "bolt", Head.HEX, parse("10 mm"), "1/4")
STRAIGHT = STANDARD_CRIB.without(tuple(r.name for r in STANDARD_CRIB.reducers))
EIGHT = Window(7, 9, 8)
TWENTY = Window(18, 24, 21)


def best(
    demand: Demand, action: TurnAction, wanted: Window | None = None, crib: Crib = STANDARD_CRIB
) -> StackChoice:
    """The best stack, where there is one."""
    answer = StackFinder(crib).answer(demand, action, wanted)
    assert not isinstance(answer, NoStack), answer.why
    return answer[0]


def short(
    demand: Demand, action: TurnAction, wanted: Window | None = None, crib: Crib = STANDARD_CRIB
) -> str:
    """Why nothing reaches."""
    answer = StackFinder(crib).answer(demand, action, wanted)
    assert isinstance(answer, NoStack)
    return answer.why


@pytest.mark.parametrize(
    ("head", "across", "plug", "fits"),
    [
        ("16 mm", "16 mm", True, True),
        ("16 mm", "5/8 in", True, True),
        ("5/8 in", "16 mm", True, True),
        ("14 mm", "9/16 in", True, True),
        ("20.8 mm", "13/16 in", True, True),
        ("13/16 in", "20.8 mm", True, True),
        ("10 mm", "3/8 in", False, False),
        ("3/8 in", "10 mm", False, False),
        ("16 mm", "5/8 in", False, False),
        ("13 mm", "1/2 in", False, False),
        ("11 mm", "7/16 in", False, True),
        ("10 mm", "11 mm", False, False),
    ],
)
def test_mm_and_inch_interchange_as_the_trade_knows(
    head: str, across: str, plug: bool, fits: bool
) -> None:
    """By play across flats; plug hexes are made a little under size (docs/craft.md §7)."""
    tool = socket("3/8", 10, 60, 16, 0).model_copy(update={"size": parse(across)})
    found = fit(parse(head), Head.HEX, tool, plug=plug)
    assert found.fits is fits
    assert "mm" in found.words


def test_a_twelve_point_head_needs_its_socket() -> None:
    """Six points do not go on twelve."""
    tool = socket("3/8", 14, 60, 20, 0)
    assert not fit(parse("14 mm"), Head.HEX, tool, points=12).fits
    thin = plug_socket("t", "14 mm", 72, 18.6, 54, 0, points=12)
    assert fit(parse("14 mm"), Head.HEX, thin, points=12).fits


wells = st.builds(
    lambda depth, bore, room, around: replace(
        PLUG, below=depth, bore=bore, room=room, surround=around
    ),
    st.integers(10, 260).map(float),
    st.integers(20, 34).map(float),
    st.none() | st.integers(20, 300).map(float),
    st.integers(0, 40).map(float),
)


@given(wells, st.sampled_from([TurnAction.BREAK_LOOSE, TurnAction.RUN_OUT, TurnAction.TORQUE]))
def test_a_stack_reaches_clears_and_is_the_sum_of_its_pieces(
    demand: Demand, action: TurnAction
) -> None:
    """Whatever is offered goes down the well, ends where a handle clears, and adds up."""
    answer = StackFinder(STANDARD_CRIB).answer(
        demand, action, TWENTY if action is TurnAction.TORQUE else None
    )
    if isinstance(answer, NoStack):
        assert answer.why
        return
    for found in answer:
        stack = found.stack
        assert stack.length == pytest.approx(sum(p.length for p in stack.pieces))
        assert stack.rises == pytest.approx(stack.length - demand.below)
        assert stack.rises >= demand.surround + HANDLE_CLEARANCE - 1e-6
        assert demand.room is None or stack.rises + stack.handle_head <= demand.room + 1e-6
        at = -demand.below
        for piece in stack.pieces:
            assert at >= 0 or piece.outside + 2 * WALL_CLEARANCE <= (demand.bore or 0) + 1e-6
            at += piece.length


@example(replace(PLUG, below=216.0, bore=23.0, room=116.0, surround=0.0))
@given(wells)
def test_no_stack_with_fewer_pieces_would_do(demand: Demand) -> None:
    """Against trying everything: the best stack has as few pieces as any that reaches."""
    answer = StackFinder(STRAIGHT).answer(demand, TurnAction.RUN_OUT)
    every = _all_lengths(demand)
    if isinstance(answer, NoStack):
        assert not every
    else:
        assert min(len(f.stack.pieces) for f in answer) == min(every)


def _all_lengths(demand: Demand) -> set[int]:
    """How many pieces each straight stack takes that reaches, tried one by one.

    A plug is run out with a long handle only where none of the short ones reaches.
    """
    grips = [h for h in STANDARD_CRIB.handles if h.drive == "3/8" and h.kind != "breaker"]
    return _lengths(demand, [h for h in grips if not h.long]) or _lengths(demand, grips)


def _goes_in(lengths: list[float], demand: Demand) -> bool:
    """In one piece, or each put on the last: 8 mm of the square go into it."""
    if demand.room is None or not demand.below or sum(lengths) <= demand.room:
        return True
    top = -demand.below
    for length in lengths:
        if max(0.0, top - 8) + length > demand.room:
            return False
        top += length
    return True


def _lengths(demand: Demand, grips: list[Handle]) -> set[int]:
    fits = [
        s
        for s in STANDARD_CRIB.sockets
        if s.drive == "3/8"
        and s.head is Head.HEX
        and not s.offset
        and s.points == 6
        and fit(demand.size, Head.HEX, s, plug=True).fits
        and s.depth.mid >= demand.height
        and s.outside.mid + 1 <= (demand.bore or 99)
    ]
    rods: list[Extension] = [e for e in STANDARD_CRIB.extensions if e.drive == "3/8"]
    found = set()
    for tool in fits:
        for size in range(4):
            for chosen in combinations_with_replacement(rods, size):
                if any(chosen.count(e) > e.count for e in chosen):
                    continue
                ordered = sorted(chosen, key=lambda e: -e.length.mid)
                top = tool.length.mid - demand.below
                wide = False
                for rod in ordered:
                    wide = wide or (top < 0 and rod.outside.mid + 1 > (demand.bore or 99))
                    top += rod.length.mid
                room = demand.room is None or any(top + h.head.mid <= demand.room for h in grips)
                room = room and _goes_in(
                    [tool.length.mid, *(r.length.mid for r in ordered)], demand
                )
                if not wide and top >= demand.surround + HANDLE_CLEARANCE and room:
                    found.add(1 + size)
    return found


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"below": 900.0}, "mm short of where a handle clears"),
        ({"bore": 18.0}, "too wide for the 18 mm bore"),
        ({"height": 80.0}, "28 mm too shallow"),
        ({"room": 30.0}, "too high for the room"),
        ({"swing": 3.0}, "the finest ratchet needs 5°"),
        ({"size": parse("23 mm")}, "no socket fits"),
    ],
)
def test_what_does_not_reach_says_by_how_much(changes: dict[str, Any], says: str) -> None:
    """A number, not a shrug."""
    assert says in short(replace(PLUG, **changes), TurnAction.RUN_OUT)


def test_break_loose_run_out_and_torque_have_answers_of_their_own() -> None:
    """A long handle, a short one, a wrench (docs/craft.md §12)."""
    loose, run = best(PLUG, TurnAction.BREAK_LOOSE), best(PLUG, TurnAction.RUN_OUT)
    torque = best(PLUG, TurnAction.TORQUE, TWENTY)
    assert loose.stack.handle_length >= 200 > run.stack.handle_length
    assert torque.setting is not None
    assert torque.stack.handle == torque.setting.wrench


def test_a_swivel_only_where_the_line_is_tilted_and_never_far_at_the_torque_step() -> None:
    """Fifteen degrees is the end of it (docs/craft.md §7)."""
    shallow = replace(PLUG, below=25.0)
    assert not any(
        p.kind == "swivel" for p in best(shallow, TurnAction.TORQUE, TWENTY).stack.pieces
    )
    leaning = replace(shallow, line=12.0)
    stack = best(leaning, TurnAction.TORQUE, TWENTY).stack
    assert any(p.kind == "swivel" for p in stack.pieces)
    upright = stack.length - stack.below
    assert stack.rises <= upright
    assert "5° more than a swivel may" in short(
        replace(shallow, line=20.0), TurnAction.TORQUE, TWENTY
    )
    assert best(replace(shallow, line=20.0), TurnAction.TIGHTEN).stack.pieces


def test_height_of_what_leans_is_by_its_cosine() -> None:
    """Over a tilted joint the stack is lower than it is long."""
    crib = STANDARD_CRIB
    leaning = replace(PLUG, below=25.0, surround=90.0, line=12.0)
    stack = best(leaning, TurnAction.RUN_OUT, crib=crib).stack
    up = sum(p.length * math.cos(math.radians(p.lean)) for p in stack.pieces)
    assert stack.rises == pytest.approx(up - 25, abs=0.01)
    assert any(p.lean for p in stack.pieces)


def test_a_crow_s_foot_goes_where_no_socket_has_room_and_corrects_the_setting() -> None:
    """Set T·L/(L + E): the longer lever needs less on the scale."""
    nut = Demand("hex-13-mm", "nut", Head.HEX, parse("13 mm"), "3/8", room=20.0)
    assert "too high" in short(
        nut,
        TurnAction.TORQUE,
        TWENTY,
        STANDARD_CRIB.without(tuple(s.name for s in STANDARD_CRIB.sockets if s.offset)),
    )
    found = best(nut, TurnAction.TORQUE, TWENTY)
    assert found.stack.pieces[0].name == "crow's foot 13 mm, ⅜ in"
    assert found.setting is not None
    assert found.setting.factor == pytest.approx(320 / 350)
    low, high = found.setting.truly
    assert TWENTY.low <= low <= high <= TWENTY.high
    assert "in line with the wrench" in found.stack.cautions[0]


def test_a_substitute_carries_its_caution() -> None:
    """5/8 in for 16 mm; a deep socket that does not hold the plug."""
    named = tuple(s.name for s in STANDARD_CRIB.sockets if s.grips and s.size.text == "16 mm")
    stack = best(PLUG, TurnAction.RUN_OUT, crib=STANDARD_CRIB.without(named)).stack
    assert any("Instead of one made for it" in c or "does not hold" in c for c in stack.cautions)


def test_a_shortage_names_the_cheapest_thing_that_would_do() -> None:
    """Nothing cheaper in the catalogue does it; with it, it can be done."""
    crib = demo_crib().without(("plug socket 13/16 in, ⅜ in",))
    wide = replace(PLUG, size=parse("20.8 mm"), bore=32.0)
    lacking = missing_for(StackFinder(crib), wide, TurnAction.RUN_OUT)
    assert lacking is not None
    bought = [t for t in STANDARD_CRIB.all() if t.name in lacking.buy]
    assert StackFinder(crib.plus(*bought)).possible(wide, TurnAction.RUN_OUT)
    cheaper = [t for t in STANDARD_CRIB.all() if 0 < t.price < lacking.price]
    assert not any(StackFinder(crib.plus(t)).possible(wide, TurnAction.RUN_OUT) for t in cheaper)
    assert f"get: {lacking.buy[0]}" in lacking.words


def test_a_wrench_that_is_overdue_comes_last() -> None:
    """It may be the only one, and is then an open point; it is never preferred."""
    crib = STANDARD_CRIB.model_copy(
        update={
            "wrenches": (
                *STANDARD_CRIB.wrenches,
                Wrench.model_validate(
                    {
                        "id": "fine",
                        "drive": "1/4",
                        "full_scale": 20,
                        "graduation": 0.1,
                        "tolerance": 0.02,
                        "length": "220 mm",
                        "head": "26 mm",
                        "mark": "no. 2",
                        "due": "2026-01-31",
                    }
                ),
            )
        }
    )
    before = best(BOLT, TurnAction.TORQUE, EIGHT, crib.on(date(2026, 1, 1)))
    after = best(BOLT, TurnAction.TORQUE, EIGHT, crib.on(date(2026, 3, 1)))
    assert "no. 2" in before.stack.handle
    assert "no. 2" not in after.stack.handle


def test_two_tools_cannot_be_called_the_same() -> None:
    """A step names a tool; it must be one."""
    twin = crowfoot(13, 30, 9).model_copy(update={"id": "other"})
    with pytest.raises(ValueError, match="two tools are called"):
        Crib(sockets=(crowfoot(13, 30, 9), twin))


def test_fewest_tools_share_pieces_between_acts() -> None:
    """One socket and one extension for every plug, whatever is done with it."""
    made = tug_plan(STANDARD_CRIB)
    used = {t for s in made.steps if s.key.rule.item == "plug" for t in s.tools}
    assert len([t for t in used if "plug socket" in t.name]) == 1
    assert len([t for t in used if "extension" in t.name]) == 1


def tug_plan(crib: Crib, *cylinders: int) -> Any:
    """The tug's plan with a crib."""
    return compile_plan(tug(), job(*(cylinders or (1, 2, 3, 4, 5, 6))), crib=crib)


def test_the_fewest_tools_beat_the_best_of_each_alone() -> None:
    """Chosen together they need no more pieces than each act's own best put side by side."""
    capability = ShopCapability(tug(), "late", DEFAULT_RULES, STANDARD_CRIB)
    joints = [j for p in tug().parts.values() for j in p.joints.values() if j.size]
    asked = (
        *(q for j in joints for q in capability.questions(j)),
        (PLUG, TurnAction.BREAK_LOOSE, None),
        (PLUG, TurnAction.RUN_OUT, None),
        (PLUG, TurnAction.TORQUE, TWENTY),
    )
    box = ToolSelection(capability, asked)
    together = {i for q in asked if (f := box.stack_for(q)) for i in f.stack.ids}
    alone = {i for q in asked for i in best(q[0], q[1], q[2]).stack.ids}
    assert len(together) <= len(alone)


def test_without_its_socket_a_way_is_not_chosen_or_the_shortage_is_named() -> None:
    """The planner and the tool choice agree."""
    whole = tug_plan(STANDARD_CRIB, 5)
    assert not [i for i in whole.roll if i.missing]
    less = STANDARD_CRIB.without(tuple(s.name for s in STANDARD_CRIB.sockets if "12 mm" in s.name))
    made = tug_plan(less, 5)
    assert "rear-stays" in {m.part for m in whole.moves}
    changed = {(m.part, m.way) for m in made.moves} != {(m.part, m.way) for m in whole.moves}
    assert changed or any("12 mm" in i.name for i in made.roll if i.missing)
    gone = tuple(s.name for s in STANDARD_CRIB.sockets if s.size.mid in (15.875, 16))
    blocked = tug_plan(STANDARD_CRIB.without(gone), 2)
    missing = [i for i in blocked.roll if i.missing]
    assert missing
    assert all(i.cure.startswith("get: ") for i in missing)
    assert {p.key for p in blocked.open_points} == {f"missing/{i.id}" for i in missing}


# Depth of the well, room above it, the rods owned: how the stack goes in, and what it warns of.
ENTRIES = [
    (60, 400, ("x-38-150",), ["p-16", "x-38-150"], ()),
    (118, 150, ("x-38-150",), ["p-16", "x-38-150"], ("in one piece", "does not lock")),
    (118, 150, ("x-38-150", "x-38-150-locking"), ["p-16", "x-38-150-locking"], ("in one piece",)),
    (118, 126, ("x-38-150",), None, ("24 mm too long",)),
    (118, None, ("x-38-150",), ["p-16", "x-38-150"], ()),
]


@pytest.mark.parametrize(("below", "room", "rods", "ids", "said"), ENTRIES)
def test_a_stack_goes_in_whole_or_in_pieces_that_lock(
    below: float,
    room: float | None,
    rods: tuple[str, ...],
    ids: list[str] | None,
    said: tuple[str, ...],
) -> None:
    """Under the room there is; what stays below the rim is drawn out by what locks."""
    owned = Crib(
        sockets=tuple(s for s in STANDARD_CRIB.sockets if s.id == "p-16"),
        extensions=tuple(e for e in STANDARD_CRIB.extensions if e.id in rods),
        handles=tuple(h for h in STANDARD_CRIB.handles if h.id == "h-38-ratchet-180"),
    )
    plug = deep_plug(below=below, room=room)
    answer = StackFinder(owned).answer(plug, TurnAction.RUN_OUT)
    if isinstance(answer, NoStack):
        assert ids is None
        assert all(words in answer.why for words in said)
        return
    stack = answer[0].stack
    assert [piece.id for piece in stack.pieces] == ids
    assert len([c for c in stack.cautions if "room" in c]) == len(said)
    assert all(any(words in caution for caution in stack.cautions) for words in said)


# Head and size on the sheet, how it stands on the tool, whether the standard crib turns it.
SIZED_HEADS = [
    ("bolt", "six_lobe", "T30", "T30"),
    ("bolt", "outer_six_lobe", "E10", "E10"),
    ("bolt", "hex", "17 mm", "17 mm"),
    ("bolt", "hex", "36 mm", "36 mm"),
    ("bolt", "inner_hex", "8 mm", "8 mm"),
    ("flare_nut", "hex", "11 mm", "crow's foot 11 mm"),
    ("union_nut", "hex", "17 mm", "crow's foot 17 mm"),
    ("hose_screw_clamp", "hex", "7 mm", "7 mm"),
    ("hose_screw_clamp", "slot", "6 mm", "6 mm"),
]


@pytest.mark.parametrize(("kind", "head", "size", "named"), SIZED_HEADS)
def test_a_head_is_turned_with_what_is_made_for_it(
    kind: str, head: str, size: str, named: str
) -> None:
    """By its usual size name; a clamp whose driver is stated too; a line wants an open tool."""
    made_part = {**part(3, 3), "joints": {"it": {"kind": kind, "head": head, "size": size}}}
    made = blocked({"cover": made_part}, [("cover", ["hole/1"])])
    step = next(s for s in compile_plan(made, job(1)).steps if s.key == "release/cover/it")
    assert named in step.tools[0].name
    assert not any(tool.to_get for tool in step.tools)


# Socket, head and whether it goes on: pairs of the workshop in both directions.
PAIRS = [
    ("19 mm", "3/4 in", True),
    ("3/4 in", "19 mm", True),
    ("13 mm", "1/2 in", True),
    ("1/2 in", "13 mm", False),
    ("11 mm", "7/16 in", True),
    ("7/16 in", "11 mm", True),
    ("8 mm", "5/16 in", True),
    ("5/16 in", "8 mm", True),
    ("10 mm", "3/8 in", False),
    ("3/8 in", "10 mm", False),
    ("14 mm", "9/16 in", False),
    ("9/16 in", "14 mm", True),
    ("16 mm", "5/8 in", True),
    ("22 mm", "7/8 in", False),
    ("7/8 in", "22 mm", True),
    ("17 mm", "16 mm", False),
    ("12 mm", "13 mm", False),
]


@pytest.mark.parametrize(("owned", "head", "goes"), PAIRS)
def test_which_sizes_are_taken_for_each_other(owned: str, head: str, goes: bool) -> None:
    """By fit, with a word of care where one stands in for the other."""
    tool = STANDARD_CRIB.sockets[0].model_copy(update={"size": parse(owned)})
    found = fit(parse(head), Head.HEX, tool)
    assert found.fits is goes, found.words
    if goes and owned != head:
        assert "kept square" in found.words or "by hand" in found.words


def test_a_nut_on_a_stud_is_turned_with_a_deep_socket() -> None:
    """And a plain one is not, where a short one does."""
    nut = {"kind": "nut", "head": "hex", "size": "13 mm"}
    for sort, named in (("deep", "deep socket 13 mm"), ("any", "socket 13 mm")):
        made_part = {**part(3, 3), "joints": {"it": {**nut, "socket": sort}}}
        made = blocked({"cover": made_part}, [("cover", ["hole/1"])])
        step = next(s for s in compile_plan(made, job(1)).steps if s.key == "release/cover/it")
        assert step.tools[0].name.startswith(named)


def test_a_tool_to_get_is_named_once_and_not_counted() -> None:
    """Whatever it is for; the steps say which of their tools it is."""
    bare = Crib(
        sockets=tuple(s for s in STANDARD_CRIB.sockets if s.id == "p-16"), specials_given=True
    )
    plan = compile_plan(tug(), job(2), DEFAULT_RULES, bare)
    missing = [item for item in plan.roll if item.missing]
    assert len({item.name for item in missing}) == len(missing) >= 3
    assert not [item for item in missing if "break loose" in item.name]
    counted = len(plan.roll) - len(missing)
    [laid] = [s for s in plan.steps if s.key == "ready/tools"]
    [back] = [s for s in plan.steps if s.key == "prove/tools"]
    assert laid.detail.startswith(f"{counted} pieces")
    assert back.checks[0].text == f"{counted} pieces counted back"
    pulled = next(s for s in plan.steps if s.key == "remove/plug/2")
    assert [tool.to_get for tool in pulled.tools].count(True) >= 1
    assert all(tool.name.endswith("to get") == tool.to_get for tool in pulled.tools)


def test_two_stacks_of_one_step_are_said_as_two_acts() -> None:
    """Each piece once: what both share, then what is changed between them."""
    pulled = next(s for s in compile_plan(tug(), job(2)).steps if s.key == "remove/plug/2")
    said = tool_words(pulled)
    assert said.count("plug socket") == said.count("extension") == 1
    assert "; loosen with breaker bar" in said
    assert ", then run out with ratchet" in said
