"""Leads (docs/craft.md §14): ways and lengths, the order of towers, which of a heap goes where."""

from collections import deque
from functools import cache
from itertools import combinations, pairwise, permutations
from math import cos, dist, hypot, pi, sin
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work
from eldrim.core.leads.answer import heap_text, ring_text, told_heap, told_ring
from eldrim.core.leads.heap import BenchLead, assign
from eldrim.core.leads.ring import Mistake, Ring, beside, read_ring
from eldrim.core.leads.ways import lead_ways, tower_of, tower_places
from eldrim.core.operations import Operation
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.step_key import StepKey
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words.language import speaking
from eldrim.exchange.leads import read_found, read_heap
from tests.builders import engine
from tests.core.demo_sheets import FLAT, GAS, MARINE, SIX, TRIPLE
from tests.sweeps import examples

ORDERS = {4: [1, 3, 4, 2], 6: [1, 5, 3, 6, 2, 4], 8: [1, 8, 4, 3, 6, 5, 7, 2]}
BOOT = {"boot": {"kind": "lead_boot"}}


@cache
def with_cap(count: int, turns: str = "right", **more: Any) -> Engine:
    """A row of cylinders with a distributor beside them."""
    cap = {"at": [200, 40], "across": "80 mm", "turns": turns, "tower_one": "30°", **more}
    return engine(
        count,
        ignition={"kind": "distributor", "firing_order": ORDERS[count], "distributor": cap},
        coils=[],
        leads=[{"part_number": "L", "joints": BOOT}],
    )


def found_as(sheet: Engine, order: list[int]) -> Ring:
    """The ring where each tower's lead goes to the hole meant for another, by places."""
    holes = list(read_ring(sheet, {}).meant.values())
    return read_ring(sheet, {n: holes[place] for n, place in enumerate(order, start=1)})


def swapped(order: list[int], *pairs: tuple[int, int]) -> list[int]:
    """An order with the leads of these places changed over."""
    made = list(order)
    for one, other in pairs:
        made[one], made[other] = made[other], made[one]
    return made


def explained(ring: Ring) -> list[int]:
    """The order that a named mistake describes, by places."""
    count, towers = len(ring.meant), list(ring.meant)
    holes = list(ring.meant.values())
    left = list(range(count))
    for one in ring.rounds:
        for tower in one:
            left[towers.index(tower)] = holes.index(ring.found[tower])
    if ring.mistake is Mistake.AGAINST:
        back = [(-holes.index(ring.found[tower])) % count for tower in towers]
        return [(-place) % count for place in back]
    if ring.shift:
        fixed = {towers.index(tower) for one in ring.rounds for tower in one}
        return [left[n] if n in fixed else (n + ring.shift) % count for n in range(count)]
    return left


@pytest.mark.parametrize("turns", ["left", "right"])
@pytest.mark.parametrize("count", [4, 6, 8])
def test_every_single_mistake_is_named(count: int, turns: str) -> None:
    """Two leads crossed, all shifted, half a turn out: each in its words, with what mends it."""
    sheet, right = with_cap(count, turns), list(range(count))
    assert found_as(sheet, right).mistake is Mistake.RIGHT
    for one, other in combinations(range(count), 2):
        ring = found_as(sheet, swapped(right, (one, other)))
        assert (ring.mistake, len(ring.swaps)) == (Mistake.CROSSED, 1)
        assert ring.rounds == ((one + 1, other + 1),)
    for shift in range(1, count):
        ring = found_as(sheet, [(place + shift) % count for place in right])
        half = Mistake.HALF_TURN if 2 * shift == count else Mistake.SHIFTED
        assert (ring.mistake, ring.shift, ring.rounds) == (half, shift, ())
    if count > 4:
        assert found_as(sheet, [-place % count for place in right]).mistake is Mistake.AGAINST


@pytest.mark.sweep(1)
@pytest.mark.parametrize("count", [4, 6, 8])
def test_every_double_mistake_is_explained_and_mended(count: int) -> None:
    """Two crossings, three leads round, a crossing on top of a shift: what is named is what is."""
    sheet, right = with_cap(count), list(range(count))
    orders = [
        swapped(begun, first)
        for begun in (
            *(swapped(right, second) for second in combinations(range(count), 2)),
            *([(place + shift) % count for place in right] for shift in range(1, count)),
            [-place % count for place in right],
        )
        for first in combinations(range(count), 2)
    ]
    for order in orders:
        ring = found_as(sheet, order)
        assert explained(ring) == order, (order, ring)
        mended = dict(ring.found)
        for swap in ring.swaps:
            one, other = swap.towers
            assert (mended[one], mended[other]) == swap.holes
            mended[one], mended[other] = mended[other], mended[one]
        assert mended == ring.meant


def test_the_swaps_are_the_fewest() -> None:
    """Against going through all orders, swap by swap, for every order of four."""
    sheet, right = with_cap(4), (0, 1, 2, 3)
    far, ahead = {right: 0}, deque([right])
    while ahead:
        order = ahead.popleft()
        for pair in combinations(range(4), 2):
            after = tuple(swapped(list(order), pair))
            if after not in far:
                far[after] = far[order] + 1
                ahead.append(after)
    for order in permutations(range(4)):
        assert len(found_as(sheet, list(order)).swaps) == far[order], order


def test_in_a_pack_a_pair_may_be_changed_over_and_the_swaps_are_fewest() -> None:
    """Of all orders of six leads: put right when every pair has its own spark."""
    pairs = GAS.ignition.waste_spark_pairs
    tower = tower_of(GAS)
    meant = {number: hole for hole, number in tower.items()}
    of = {str(one): pair for pair in pairs for one in pair}
    for order in permutations(sorted(meant)):
        found = {n: meant[other] for n, other in zip(sorted(meant), order, strict=True)}
        ring = read_ring(GAS, found)
        assert ring.right == all(of[meant[n]] == of[found[n]] for n in meant)
        now = dict(found)
        for swap in ring.swaps:
            one, other = swap.towers
            now[one], now[other] = now[other], now[one]
        assert all(of[meant[n]] == of[now[n]] for n in meant)
        wrong = sum(of[meant[n]] != of[found[n]] for n in meant)
        assert (wrong + 1) // 2 <= len(ring.swaps) <= max(0, wrong - 1), order


def test_pairs_that_are_confused_are_named() -> None:
    """The leads of one pair on the towers of another."""
    assert (
        told_ring(read_ring(GAS, read_found("1: 2; 2: 5; 3: 1; 4: 6; 5: 3; 6: 4"))).mistake.kind
        == "pairs"
    )
    over = told_ring(read_ring(GAS, read_found("1: 6; 2: 1; 3: 2; 4: 5; 5: 3; 6: 4")))
    assert (over.mistake.kind, over.mistake.right, over.swaps) == ("same-spark", True, ())
    crossed = told_ring(read_ring(GAS, read_found("1: 1; 2: 2; 3: 6; 4: 5; 5: 3; 6: 4")))
    assert crossed.mistake.kind == "crossed"
    assert [set(swap.holes) for swap in crossed.swaps] == [{"2", "6"}]


def test_two_pairs_crossed_are_told_pair_by_pair() -> None:
    """Not as if four leads were changed round."""
    found = read_found("1: 1; 2: 8; 3: 3; 4: 4; 5: 5; 6: 6; 7: 7; 8: 2")
    told = told_ring(read_ring(MARINE, found)).mistake
    assert told.words == "Leads of 3 and 4, 5 and 6 are crossed"
    assert told.holes == (("3", "4"), ("5", "6"))


def test_an_order_half_looked_at_says_what_is_wrong_so_far() -> None:
    """Nothing is concluded of towers nobody looked at."""
    ring = told_ring(read_ring(MARINE, {1: "1", 2: "4"}))
    assert (ring.mistake.kind, ring.mistake.right) == ("unknown", False)
    assert "wrong so far: 4" in ring.mistake.words
    assert ring.swaps == ()


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ("9: 1", "there is no tower 9"),
        ("1: 9", "there is no hole 9"),
        ("1: 2; 2: 2", "towers 1 and 2 both go to hole 2"),
        ("1: 2; 1: 3", "tower 1 stands twice"),
        ("tower one: 3", "is not understood"),
    ],
)
def test_an_order_that_cannot_be_is_refused(said: str, words: str) -> None:
    """With the place and the fix."""
    with pytest.raises(ProblemsError, match=words):
        read_ring(MARINE, read_found(said))
    with pytest.raises(ProblemsError, match="states no towers"):
        read_ring(SIX, {})


def test_towers_stand_as_the_rotor_turns() -> None:
    """Tower two lies an eighth of a turn to the left of tower one; angles that are stated win."""
    places = tower_places(MARINE)
    cap = MARINE.ignition.distributor
    assert cap is not None
    for number, (x, y) in places.items():
        turn = (332 - 45 * (number - 1)) * pi / 180
        assert (x, y) == pytest.approx((cap.at[0] + 50 * sin(turn), cap.at[1] - 50 * cos(turn)))
    uneven = with_cap(4, "right", angles=("80°", "100°", "80°", "100°"))
    second = tower_places(uneven)[2]
    turn = (30 + 80) * pi / 180
    assert second == pytest.approx((200 + 40 * sin(turn), 40 - 40 * cos(turn)))


def test_a_way_is_as_long_as_it_is_drawn_unless_it_was_measured() -> None:
    """Tower, holders, plug, added up; a length that is stated wins; the main coil has its own."""
    ways = lead_ways(MARINE)
    begin, end = tower_places(MARINE)[1], MARINE.holes["1"][1].at
    points = (begin, (230, 480), (225, 260), end)
    drawn = sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(points))
    assert ways["1"].length == pytest.approx(drawn)
    assert (ways["coil"].length, ways["coil"].measured) == (130, True)
    assert set(ways) == {*MARINE.holes, "coil"}
    assert set(lead_ways(TRIPLE)) == {"1", "2", "3"}
    assert lead_ways(SIX) == {}


def test_leads_that_fire_one_after_the_other_are_kept_apart() -> None:
    """Those that run beside one another for long, and no others."""
    assert [one.holes for one in beside(MARINE)] == [("4", "8")]
    assert beside(SIX) == ()
    ways = lead_ways(MARINE)
    along = [p for p in ways["8"].points if min(dist(p, q) for q in ways["4"].points) <= 35]
    assert len(along) >= 2
    assert beside(TRIPLE) == (), "far apart"


LENGTHS = st.lists(st.sampled_from([150, 180, 210, 240, 270, 300, 360, 420]), max_size=7)


def by_trying_all(runs: list[float], heap: list[float], most: float) -> tuple[int, float]:
    """How many can be served at most, and the least they have over together, by trying all."""
    best = (0, 0.0)
    places: list[int | None] = [*range(len(heap)), *([None] * len(runs))]
    for chosen in set(permutations(places, len(runs))):
        over = [heap[n] - run for n, run in zip(chosen, runs, strict=True) if n is not None]
        if all(0 <= one <= most for one in over):
            best = min(best, (-len(over), sum(over)))
    return -best[0], best[1]


@given(LENGTHS, st.lists(st.sampled_from([130, 160, 185, 200, 250, 330]), min_size=4, max_size=4))
@settings(max_examples=examples(60), deadline=None)
def test_the_assignment_is_the_best_of_all(heap: list[int], ways: list[int]) -> None:
    """As many holes as can be served, then the least slack, against trying all."""
    runs = {str(n): {"length": f"{way} mm"} for n, way in enumerate(ways, start=1)}
    sheet = with_cap(4).model_copy()
    sheet = Engine.model_validate({**sheet.model_dump(mode="json"), "lead_runs": runs})
    bench = [BenchLead(f"b{n}", float(length)) for n, length in enumerate(heap)]
    made = assign(sheet, bench, DEFAULT_RULES)
    slack, most = DEFAULT_RULES.lead_slack, DEFAULT_RULES.lead_over
    count, over = by_trying_all([way + slack for way in ways], [float(x) for x in heap], most)
    assert len(made.placed) == count
    assert sum(one.lead.length - one.run for one in made.placed) == pytest.approx(over)
    assert {one.hole for one in (*made.placed, *made.lacking)} == set(sheet.holes)
    names = [one.lead.name for one in made.placed]
    assert sorted([*names, *(lead.name for lead in made.left_over)]) == sorted(
        x.name for x in bench
    )
    for one in made.placed:
        assert 0 <= one.lead.length - one.run <= most
    for lack in made.lacking:
        assert lack.buy >= lack.run > lack.buy - 10


def test_what_is_short_is_told_with_what_to_get() -> None:
    """The way, what it has to be, how much the longest left is short by; equal ones are alike."""
    heap = read_heap("a: 41 cm; b: 410 mm; c: 200 mm")
    runs = {"1": {"length": "370 mm"}, "2": {"length": "360 mm"}, "3": {"length": "400 mm"}}
    sheet = Engine.model_validate({**with_cap(4).model_dump(mode="json"), "lead_runs": runs})
    answer = told_heap(assign(sheet, heap, DEFAULT_RULES))
    assert [(one.hole, one.lead, one.like) for one in answer.assignment][:2] == [
        ("1", "a", ("b",)),
        ("2", "b", ("a",)),
    ]
    short = answer.short[0]
    assert (short.hole, short.run, short.buy, short.longest, short.by) == ("3", 430, 430, "c", 230)
    assert "get one of 430 mm; c is 230 mm too short" in heap_text(answer)
    wide = HouseRules(lead_slack=0, lead_over=40)
    assert {one.hole for one in assign(sheet, heap, wide).placed} >= {"3"}
    with pytest.raises(ProblemsError, match="no way of a lead"):
        assign(SIX, heap, DEFAULT_RULES)


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ("1: 410", "has no unit"),
        ("1: 4 mm", "no length of a lead"),
        ("1: 400 mm; 1: 300 mm", "stands twice"),
        ("", "says nothing"),
        ("long one", "is not understood"),
        ("; ".join(f"{n}: 400 mm" for n in range(61)), "at most 60"),
    ],
)
def test_a_heap_that_is_not_understood_is_refused(said: str, words: str) -> None:
    """Each with its name and what to write."""
    with pytest.raises(ProblemsError, match=words):
        read_heap(said)


WRONG: list[tuple[dict[str, Any], str, str]] = [
    ({"kind": "coil_pack"}, "ignition.distributor", "the ignition is coil_pack"),
    ({"distributor": {"angles": ["90°"]}}, "ignition.distributor.angles", "say 4"),
    (
        {"distributor": {"angles": ["90°", "90°", "90°", "60°"]}},
        "ignition.distributor.angles",
        "330",
    ),
    ({"distributor": {"at": [9000, 0]}}, "ignition.distributor.at", "off the plan"),
    ({"main_coil": [-5, 0]}, "ignition.main_coil", "off the plan"),
]


@pytest.mark.parametrize(("change", "path", "words"), WRONG)
def test_what_a_sheet_says_of_its_towers_has_to_fit(
    change: dict[str, Any], path: str, words: str
) -> None:
    """Kind, angles, places; each named with its fix."""
    plain = with_cap(4).model_dump(mode="json")
    cap = {**plain["ignition"]["distributor"], **change.get("distributor", {})}
    ignition = {**plain["ignition"], **change, "distributor": cap}
    problems = check(Engine.model_validate({**plain, "ignition": ignition}))
    assert any(one.path == path and words in f"{one.message} {one.fix}" for one in problems), (
        problems
    )


def test_a_pack_and_its_ways_have_to_fit_the_engine() -> None:
    """A tower to each plug; a way for a plug there is; none where coils are on the plugs."""
    plain = GAS.model_dump(mode="json")
    pack = {**plain["ignition"]["pack"], "towers": {1: 1, 2: 2}}
    wrong = {**plain, "ignition": {**plain["ignition"], "pack": pack}}
    assert any(p.path == "ignition.pack.towers" for p in check(Engine.model_validate(wrong)))
    odd = {**plain, "lead_runs": {"9": {"length": "300 mm"}, 1: {"holders": [[-5, 0]]}}}
    paths = {p.path for p in check(Engine.model_validate(odd))}
    assert {"lead_runs.9", "lead_runs.1.holders[0]"} <= paths
    on_plug = {**SIX.model_dump(mode="json"), "lead_runs": {"1": {"length": "300 mm"}}}
    assert any(p.path == "lead_runs.1" for p in check(Engine.model_validate(on_plug)))


def test_all_is_told_in_german_too() -> None:
    """The same findings; no English word is left."""
    ring = read_ring(MARINE, read_found("turm 1: 8; 2: 4; 3: 3; 4: 6; 5: 5; 6: 7; 7: 2; 8: 1"))
    heap = assign(FLAT, read_heap("a: 300 mm; b: 250 mm"), DEFAULT_RULES)
    with speaking("de"):
        told = ring_text(told_ring(ring))
        assert told.startswith("Alle Zündkabel sind um 1 Turm gegen die Drehrichtung")
        assert "Überlänge zusammen" in heap_text(told_heap(heap))
    assert told_ring(ring).mistake.shift == -1, "what belongs on tower 2 is on tower 1"
    forward = read_ring(MARINE, read_found("1: 2; 2: 1; 3: 8; 4: 4; 5: 3; 6: 6; 7: 5; 8: 7"))
    assert "shifted by 1 tower in the rotor's direction" in ring_text(told_ring(forward))


@pytest.mark.parametrize("sheet", [MARINE, FLAT, GAS, TRIPLE], ids=lambda one: one.id)
def test_the_order_is_proven_before_the_first_start(sheet: Engine) -> None:
    """After every lead is on, tower by tower; it cannot be left out. One lead cannot be crossed."""
    lead = (Work.LEAD, Work.PLUG)
    numbers = tuple(sorted(sheet.cylinders))[:3]
    plan = compile_plan(sheet, Job(cylinders=numbers, work=lead), DEFAULT_RULES, STANDARD_CRIB)
    keys = [step.key for step in plan.steps]
    step = plan.steps[keys.index(StepKey(Operation.CHECK_ORDER))]
    towers = tower_of(sheet)
    holes = sheet.holes_of_all(numbers)
    assert {check.key for check in step.checks} == {f"tower-{towers[hole]}" for hole in holes}
    on = [n for n, key in enumerate(keys) if key.operation is Operation.FIT_LEAD]
    assert max(on) < keys.index(step.key) < keys.index(StepKey(Operation.START_ENGINE))
    assert step.key.rule.required
    one = compile_plan(sheet, Job(cylinders=numbers[:1], work=lead), DEFAULT_RULES, STANDARD_CRIB)
    assert not [s for s in one.steps if s.key.operation is Operation.CHECK_ORDER]


def test_a_distributor_s_order_is_known_where_it_is_not_drawn() -> None:
    """By the firing order; only its picture and ways are lacking."""
    plain = {**MARINE.model_dump(mode="json"), "lead_runs": {}}
    plain["ignition"] = {**plain["ignition"], "distributor": None, "main_coil": None}
    bare = Engine.model_validate(plain)
    assert (tower_of(bare), tower_places(bare), lead_ways(bare)) == (tower_of(MARINE), {}, {})
    assert read_ring(bare, read_found("1: 8; 2: 1; 3: 4; 4: 3; 5: 6; 6: 5; 7: 7; 8: 2")).rounds == (
        (1, 2),
    )
    plan = compile_plan(
        bare, Job(cylinders=(1, 3), work=(Work.LEAD,)), DEFAULT_RULES, STANDARD_CRIB
    )
    step = next(s for s in plan.steps if s.key.operation is Operation.CHECK_ORDER)
    assert "it fires 1 8 4 3 6 5 7 2" in step.detail


def test_without_towers_on_the_sheet_there_is_no_order_to_prove() -> None:
    """Nor where each plug has a coil."""
    plain = {**GAS.model_dump(mode="json"), "lead_runs": {}}
    plain["ignition"] = {**plain["ignition"], "pack": None}
    bare = Engine.model_validate(plain)
    for sheet, work in ((bare, Work.LEAD), (SIX, Work.COIL)):
        plan = compile_plan(
            sheet, Job(cylinders=(1, 3), work=(work,)), DEFAULT_RULES, STANDARD_CRIB
        )
        assert not [s for s in plan.steps if s.key.operation is Operation.CHECK_ORDER]
