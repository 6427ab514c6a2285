"""From a complaint to its cause (docs/craft.md §15): codes, beliefs, and what to do next."""

from collections.abc import Iterator
from functools import cache
from itertools import permutations
from typing import Any

import pytest
from bench.faults import any_search
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.engine.model import OwnCode
from eldrim.core.faults import strategy
from eldrim.core.faults.acts import REPAIRS, TESTS
from eldrim.core.faults.ahead import Ahead
from eldrim.core.faults.answer import as_text, told
from eldrim.core.faults.beliefs import BY_SIGN, BY_SYMPTOM, NEEDS, PRIORS, Belief, beliefs
from eldrim.core.faults.codes import CodeClass, consequences, leading, pointing, read_codes
from eldrim.core.faults.complaint import Complaint, Kind, Symptom, where_of
from eldrim.core.faults.diagnosis import Diagnosis, WhatIf, diagnose
from eldrim.core.faults.exact import State, Table, after_repair, after_test, belief
from eldrim.core.faults.guide import Guide
from eldrim.core.faults.problem import Repair, Search
from eldrim.core.faults.problem import Test as Trial
from eldrim.core.faults.shares import groups_of
from eldrim.core.faults.strategy import Node, best_order, greedy_order, order_minutes, solve
from eldrim.core.faults.ways import Ways, ways
from eldrim.core.reading.signs import SIGNS
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import say
from eldrim.core.words.language import speaking
from tests.builders import blocked, engine, part
from tests.core.demo_sheets import EIGHT, ENGINES, FLAT, FOUR, GAS, MARINE, SIX, TRIPLE, TWIN
from tests.sweeps import examples
from tests.tables import table


@cache
def ways_of(key: str) -> Ways:
    """The ways in of a demo engine, planned once."""
    sheet = ENGINES[key]
    return ways(sheet, last_variant(sheet), DEFAULT_RULES, STANDARD_CRIB)


def last_variant(sheet: Engine) -> str:
    """The newest variant of a sheet."""
    return list(sheet.variants)[-1]


def complaint(sheet: Engine, codes: str = "", symptoms: str = "", **more: Any) -> Complaint:
    """A complaint said in a few words; ``signs`` as hole=sign sign."""
    signs = {
        hole: frozenset(words.split())
        for hole, _, words in (s.partition("=") for s in more.pop("signs", "").split(";") if s)
    }
    return Complaint(
        codes=read_codes(sheet, codes),
        symptoms=frozenset(Symptom(word) for word in symptoms.split()),
        signs=signs,
        **more,
    )


def believed(sheet: Engine, said: Complaint) -> list[Belief]:
    """What a complaint most likely comes from."""
    return beliefs(sheet, last_variant(sheet), said, where_of(sheet, said))


def diagnosed(sheet: Engine, said: Complaint, asked: WhatIf = WhatIf()) -> Diagnosis:
    """A complaint weighed on a demo engine."""
    return diagnose(sheet, last_variant(sheet), said, ways_of(sheet.id), asked)


# Engine, codes, symptoms, signs, plugs worn; the kind, the likeliest cause, and where.
COMPLAINTS: tuple[tuple[Engine, str, str, str, bool | None, Kind, str, int], ...] = (
    (SIX, "P0305,P0355", "", "", None, Kind.COIL_CIRCUIT, "coil", 5),
    (SIX, "P0355", "", "", None, Kind.COIL_CIRCUIT, "coil", 5),
    (EIGHT, "P0307,P0357", "", "", None, Kind.COIL_CIRCUIT, "coil", 7),
    (SIX, "P0355", "after-job", "", None, Kind.COIL_CIRCUIT, "connector", 5),
    (SIX, "P0355", "", "5=pins-bent", None, Kind.COIL_CIRCUIT, "connector", 5),
    (SIX, "P0355", "", "5=coil-burnt", None, Kind.COIL_CIRCUIT, "coil", 5),
    (SIX, "P0305", "", "", None, Kind.ONE_YOUNG, "coil", 5),
    (SIX, "P0305", "", "", False, Kind.ONE_YOUNG, "coil", 5),
    (SIX, "P0302", "", "", True, Kind.ONE_WORN, "plug", 2),
    (FOUR, "P0303", "", "", True, Kind.ONE_WORN, "plug", 3),
    (SIX, "P0305", "wet", "", None, Kind.ONE_YOUNG, "boot", 5),
    (SIX, "P0305", "hot", "", None, Kind.ONE_YOUNG, "coil", 5),
    (SIX, "P0305", "load", "", True, Kind.ONE_WORN, "plug", 5),
    (SIX, "P0305", "after-job", "", None, Kind.ONE_YOUNG, "connector", 5),
    (SIX, "P0305", "", "5=track", None, Kind.ONE_YOUNG, "boot", 5),
    (SIX, "P0305", "", "5=well-oil", None, Kind.ONE_YOUNG, "boot", 5),
    (SIX, "P0305", "", "5=well-water", None, Kind.ONE_YOUNG, "boot", 5),
    (SIX, "P0305", "", "5=coil-cracked", None, Kind.ONE_YOUNG, "coil", 5),
    (SIX, "P0305", "", "5=gap-wide", True, Kind.ONE_WORN, "plug", 5),
    (SIX, "P0305", "", "5=cracked", None, Kind.ONE_YOUNG, "plug", 5),
    (SIX, "P0305", "idle", "5=oily", None, Kind.ONE_YOUNG, "compression", 5),
    (SIX, "", "wet", "5=track", None, Kind.ONE_YOUNG, "boot", 5),
    (MARINE, "", "", "4=wet", None, Kind.ONE_LEAD, "lead", 4),
    (MARINE, "", "wet", "4=track", None, Kind.ONE_LEAD, "lead", 4),
    (FLAT, "", "", "2=gap-wide", None, Kind.ONE_LEAD, "plug", 2),
    (TRIPLE, "", "after-job", "2=soot", None, Kind.ONE_LEAD, "lead", 2),
    (TWIN, "", "", "1=cracked", None, Kind.ONE_LEAD, "plug", 1),
    (GAS, "P0301,P0306", "", "", None, Kind.PAIR, "pair-coil", 0),
    (GAS, "P0303,P0304", "hot", "", None, Kind.PAIR, "pair-coil", 0),
    (SIX, "P0202", "", "", None, Kind.INJECTOR, "injector", 2),
    (SIX, "P0302,P0202", "", "", None, Kind.INJECTOR, "injector", 2),
    (SIX, "P0202", "after-job", "", None, Kind.INJECTOR, "injector-wiring", 2),
    (SIX, "P0171", "", "", None, Kind.BANK, "air-leak", 0),
    (SIX, "P0175", "", "", None, Kind.BANK, "air-leak", 0),
    (EIGHT, "P0302,P0304,P0306", "", "", None, Kind.BANK, "air-leak", 0),
    (SIX, "P0300", "", "", None, Kind.SEVERAL, "plugs", 0),
    (SIX, "P0300,P0171", "", "", None, Kind.BANK, "air-leak", 0),
    (FOUR, "P0300,P0171", "", "", None, Kind.SEVERAL, "air-leak", 0),
    (FOUR, "P0300", "idle", "", None, Kind.SEVERAL, "air-leak", 0),
    (FLAT, "", "hot", "", None, Kind.SEVERAL, "main-coil", 0),
    (SIX, "P0562,P0300,P0351", "", "", None, Kind.SEVERAL, "supply", 0),
    (SIX, "P0335,P0300", "", "", None, Kind.SEVERAL, "crank-signal", 0),
    (SIX, "P0300", "", "1=rounded;2=rounded", True, Kind.SEVERAL, "plugs", 0),
)


@table("row", COMPLAINTS, ids=lambda row: "-".join(map(str, row[1:4])))
def test_what_a_complaint_most_likely_comes_from(row: tuple[Any, ...]) -> None:
    """At least forty complaints, each as the craft has it."""
    sheet, codes, symptoms, signs, worn, kind, cause, at = row
    said = complaint(sheet, codes, symptoms, signs=signs, plugs_worn=worn)
    first = believed(sheet, said)[0]
    assert (where_of(sheet, said).kind, first.key, first.cylinder) == (kind, cause, at)


def test_likelihoods_are_bands_times_evidence() -> None:
    """A coil-circuit code is 0.70, 0.22, 0.05, 0.03; wet makes a boot's odds four times as much."""
    plain = {b.key: b.probability for b in believed(SIX, complaint(SIX, "P0305,P0355"))}
    assert plain == pytest.approx({"coil": 0.70, "connector": 0.22, "driver": 0.05, "plug": 0.03})
    dry = {b.key: b for b in believed(SIX, complaint(SIX, "P0305"))}
    wet = {b.key: b for b in believed(SIX, complaint(SIX, "P0305", "wet"))}
    assert wet["boot"].probability / wet["coil"].probability == pytest.approx(
        4 * dry["boot"].probability / dry["coil"].probability
    )
    assert wet["boot"].speaks_for == ("symptom.wet",)
    assert wet["coil"].against == ("symptom.wet",)


def test_the_shop_s_own_proven_cases_weigh_in_as_they_grow() -> None:
    """The band is worth twenty of them."""
    said = complaint(SIX, "P0355", proven={Kind.COIL_CIRCUIT: {"connector": 20}})
    found = {b.key: b.probability for b in believed(SIX, said)}
    assert found["connector"] == pytest.approx((20 * 0.22 + 20) / 40)
    assert sum(found.values()) == pytest.approx(1)
    answer = told(SIX, diagnosed(SIX, said))
    assert {one.key: one.cases for one in answer.causes if one.cases} == {"connector": 20}
    assert answer.prior_cases == 20
    assert "proven here: 20" in as_text(answer)
    assert "proven here" not in as_text(told(SIX, diagnosed(SIX, complaint(SIX, "P0355"))))


def test_what_leads_and_what_follows_until_proven_otherwise() -> None:
    """A cam code beside a misfire of one cylinder follows it; its coil code points at the part."""
    codes = read_codes(SIX, "P0015,P0355 P0305;P0171,P1234,P0305")
    first = leading(codes)
    assert first is not None
    assert (first.text, [c.text for c in pointing(codes, first)]) == ("P0305", ["P0355"])
    assert [c.code.text for c in consequences(codes, first)] == ["P0015", "P0171"]
    assert [c.kind for c in codes if c.text == "P1234"] == [CodeClass.OWN]
    supply = read_codes(SIX, "P0300,P0562,U0100")
    assert getattr(leading(supply), "text", "") == "P0562"
    assert leading(()) is None


def test_a_coil_s_letter_is_the_cylinder_the_sheet_says() -> None:
    """A is cylinder one on most, and what the map states on this one."""
    mapped = engine(
        3,
        ignition={
            "kind": "coil_on_plug",
            "firing_order": [1, 3, 2],
            "coil_letters": {"A": 3, "B": 1, "C": 2},
        },
    )
    assert [c.cylinder for c in read_codes(mapped, "P0351,P0352")] == [3, 1]
    assert [c.cylinder for c in read_codes(engine(3), "P0351,P0352")] == [1, 2]


OWN = {
    "P1314": {"means": "fuel cut at cylinder 4", "about": "misfire", "cylinder": 4},
    "P1355": {"means": "coil current too low", "about": "coil", "cylinder": 4},
    "E-17": {"means": "oil level"},
}


def test_a_maker_s_own_code_says_what_the_sheet_explains() -> None:
    """Of whatever form; with a class it leads and points like a generic one, without it is told."""
    sheet = SIX.model_copy(update={"own_codes": {k: OwnCode(**v) for k, v in OWN.items()}})
    codes = read_codes(sheet, "e-17, P1355 p1314 P1999")
    first = leading(codes)
    assert first is not None
    assert (first.text, first.kind, first.cylinder) == ("P1314", CodeClass.MISFIRE, 4)
    assert [one.text for one in pointing(codes, first)] == ["P1355"]
    said = Complaint(codes=read_codes(sheet, "E-17, P1355 P1314 P1999"))
    found = told(sheet, diagnosed(sheet, said))
    assert found.kind == "coil-circuit"
    assert found.cylinders == (4,)
    assert found.leading is not None
    assert found.leading.words == "fuel cut at cylinder 4"
    assert [(one.code, one.words) for one in found.other_codes] == [
        ("E-17", "oil level"),
        ("P1999", "the maker's own code"),
    ]
    with pytest.raises(ProblemsError, match="did you mean P1314"):
        read_codes(sheet, "P131")
    with pytest.raises(ProblemsError, match="'E-17' is no code"):
        read_codes(SIX, "E-17")


def test_codes_are_read_as_people_write_them() -> None:
    """Small letters, a full stop, none at all; a letter that is missing is offered."""
    assert [c.text for c in read_codes(SIX, "p0305. (P0355), none")] == ["P0305", "P0355"]
    assert read_codes(SIX, "none") == ()
    with pytest.raises(ProblemsError, match="did you mean P0305"):
        read_codes(SIX, "0305")


def test_a_code_that_says_nothing_of_ignition_needs_more() -> None:
    """A maker's own code or the data line alone is no complaint to weigh."""
    for code in ("P1234", "U0100", "P0015"):
        with pytest.raises(ProblemsError, match="noticed or seen"):
            diagnosed(SIX, complaint(SIX, code))
        assert diagnosed(SIX, complaint(SIX, code, "wet")).causes


@pytest.mark.parametrize("wrong", ["P03", "X0305", "P0309", "P0362", "P030G", "305", "P0305 P9999"])
def test_a_code_that_cannot_be_is_refused_with_its_form(wrong: str) -> None:
    """Or with the cylinders there are."""
    with pytest.raises(ProblemsError):
        read_codes(SIX, wrong)


@pytest.mark.parametrize("sheet", ENGINES.values(), ids=lambda e: e.id)
def test_no_cause_names_a_part_the_engine_lacks(sheet: Engine) -> None:
    """No coil where there are leads, no injector where a carburettor is."""
    for kind in Kind:
        number = min(sheet.cylinders)
        said = Complaint(signs={sheet.holes_of(number)[0]: frozenset({"soot"})})
        where = where_of(sheet, said).model_copy(update={"kind": kind})
        names = {one.key for one in beliefs(sheet, last_variant(sheet), said, where)}
        if sheet.ignition.kind != "coil_on_plug":
            assert not names & {"coil", "connector"}
        else:
            assert not names & {"lead", "tower", "main-coil"}
        if not sheet.injects(last_variant(sheet)):
            assert not names & {"injector", "injector-wiring", "sensor"}


# Small searches, to be compared with looking at everything.


@st.composite
def searches(draw: st.DrawFn) -> Search:
    """Searches of two to four causes and up to three tests, with shared ways in."""
    count = draw(st.integers(2, 4))
    weights = draw(st.lists(st.integers(1, 20), min_size=count, max_size=count))
    things = {name: draw(st.sampled_from([0.0, 4.0, 30.0])) for name in "abc"}
    needs = st.frozensets(st.sampled_from("abc"), max_size=2)
    chance = st.sampled_from([0.03, 0.1, 0.5, 0.85, 0.95])
    minutes = st.sampled_from([1.0, 4.0, 9.0, 25.0])
    tests = tuple(
        Trial(
            f"test{n}",
            tuple(draw(chance) for _ in range(count)),
            draw(minutes),
            draw(needs),
            draw(st.sampled_from([frozenset(), frozenset(), frozenset("c")])),
        )
        for n in range(draw(st.integers(0, 3)))
    )
    single = [Repair(f"mend{n}", frozenset({n}), draw(minutes), draw(needs)) for n in range(count)]
    both = Repair("both", frozenset({0, 1}), draw(minutes) + 2, single[0].needs | single[1].needs)
    repairs = (*single, both) if draw(st.booleans()) else tuple(single)
    prior = tuple(weight / sum(weights) for weight in weights)
    return Search(prior, tests, repairs, things)


def by_looking_at_everything(search: Search) -> float:
    """The least expected minutes by trying every act in every state, with no memory of any."""

    def go(weights: tuple[float, ...], left: tuple[int, ...], opened: frozenset[str]) -> float:
        weight = sum(weights)
        if weight < 1e-12:
            return 0.0
        offers = []
        for repair in search.repairs:
            if any(weights[cause] > 0 for cause in repair.cures):
                after = tuple(0.0 if i in repair.cures else w for i, w in enumerate(weights))
                cost = search.cost(repair, opened) * weight
                offers.append(cost + go(after, left, opened | repair.needs))
        for place in left:
            test = search.tests[place]
            rest = tuple(other for other in left if other != place)
            cost = search.cost(test, opened) * weight
            for said in (test.yes, tuple(1 - yes for yes in test.yes)):
                after = tuple(w * chance for w, chance in zip(weights, said, strict=True))
                cost += go(after, rest, opened | test.needs)
            offers.append(cost)
        return min(offers)

    return go(search.prior, tuple(range(len(search.tests))), frozenset())


@given(searches())
@settings(max_examples=examples(80), deadline=None)
def test_the_strategy_is_the_best_of_all(search: Search) -> None:
    """Against a twin that tries everything."""
    found = solve(search)
    assert found.proven
    assert found.expected == pytest.approx(by_looking_at_everything(search))


@given(searches())
@settings(max_examples=examples(80), deadline=None)
def test_it_is_never_worse_than_a_fixed_order(search: Search) -> None:
    """Nor than the likeliest for its minutes first; and the best order is the best of all."""
    expected = solve(search).expected
    order, minutes = best_order(search)
    assert order_minutes(search, order) == pytest.approx(minutes)
    assert expected <= minutes + 1e-9
    assert minutes <= order_minutes(search, greedy_order(search)) + 1e-9
    singles = [search.single(n) for n in range(len(search.prior))]
    every = min(order_minutes(search, some) for some in permutations(singles))
    assert minutes <= every + 1e-9


@given(searches(), st.data())
@settings(max_examples=examples(60), deadline=None)
def test_more_evidence_never_lengthens_it_on_average(search: Search, data: st.DataObject) -> None:
    """Whatever is learned for nothing, it is as good to know it."""
    chances = st.sampled_from([0.05, 0.3, 0.9])
    yes = tuple(data.draw(chances) for _ in search.prior)
    after = 0.0
    for said in (yes, tuple(1 - chance for chance in yes)):
        weights = tuple(w * chance for w, chance in zip(search.prior, said, strict=True))
        whole = sum(weights)
        known = Search(
            tuple(w / whole for w in weights), search.tests, search.repairs, search.opening
        )
        after += whole * solve(known).expected
    assert after <= solve(search).expected + 1e-6


@given(searches())
@settings(max_examples=examples(60), deadline=None)
def test_the_tree_says_what_its_minutes_say(search: Search) -> None:
    """Chances of what it ends in add up, and acts times chances are the expected minutes."""
    found = solve(search)
    assume(all(node.chance > 0.01 for node in nodes(found.tree)))
    minutes = sum((n.minutes_own + n.minutes_access) * n.chance for n in nodes(found.tree))
    assert minutes == pytest.approx(found.expected, abs=0.5)
    for node in nodes(found.tree):
        assert sum(b.chance for b in node.outcomes) == pytest.approx(node.chance, abs=1e-4)


def nodes(node: Node) -> Iterator[Node]:
    """Every act of a tree."""
    yield node
    for branch in node.outcomes:
        if branch.node:
            yield from nodes(branch.node)


def test_the_way_in_is_paid_once_for_all_behind_it() -> None:
    """Two causes behind one cover: the second act pays for itself alone."""
    search = Search(
        (0.5, 0.5),
        (),
        (
            Repair("one", frozenset({0}), 10, frozenset({"cover"})),
            Repair("other", frozenset({1}), 10, frozenset({"cover"})),
        ),
        {"cover": 40.0},
    )
    found = solve(search)
    assert found.expected == pytest.approx(50 + 0.5 * 10)
    again = found.tree.outcomes[1].node
    assert again is not None
    assert (found.tree.opens, again.opens) == (("cover",), ())


def later_states(search: Search, begun: State) -> set[State]:
    """Every state that a search comes to, whatever is done."""
    found, new = {begun}, [begun]
    while new:
        state = new.pop()
        undone = (place for place, said in enumerate(state.said) if not said)
        after = [after_test(state, place, what) for place in undone for what in (1, 2)]
        after += [after_repair(state, repair) for repair in search.repairs]
        for one in set(after) - found:
            found.add(one)
            new.append(one)
    return found


@given(searches())
@settings(max_examples=examples(150), deadline=None)
def test_what_the_groups_take_is_never_more_than_the_least(search: Search) -> None:
    """However the minutes are shared out among them, from whatever state on."""
    assume(all(len(set(test.yes)) > 1 for test in search.tests))
    exactly, guide = Table(search), Guide(search)
    for state in later_states(search, State((0,) * len(search.tests))):
        assert guide.least(state) <= exactly.least(state) + 1e-9


@given(searches(), st.integers(1, 40))
@settings(max_examples=examples(100), deadline=None)
def test_looked_at_ahead_the_bound_rises_and_never_past_the_least(
    search: Search, most: int
) -> None:
    """However many states are looked at; once all are, it is the least."""
    assume(all(len(set(test.yes)) > 1 for test in search.tests))
    start = State((0,) * len(search.tests))
    guide, least = Guide(search), Table(search).least(start)
    ahead = Ahead(guide, start)
    ahead.look(most)
    some = ahead.bound
    ahead.look(100_000)
    assert guide.least(start) - 1e-9 <= some <= ahead.bound + 1e-9
    assert ahead.bound == pytest.approx(least, abs=1e-6)


@given(searches())
@settings(max_examples=examples(80), deadline=None)
def test_guided_it_is_between_the_least_and_the_best_order(search: Search) -> None:
    """As a search too large would be: its bound below what is least, its tree not below."""
    least, order = solve(search).expected, best_order(search)[1]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(strategy, "MAX_STATES", 0)
        found = solve(search)
    assert found.bound <= least + 1e-6
    assert least - 1e-6 <= found.expected <= order + 1e-6
    assume(all(node.chance > 0.01 for node in nodes(found.tree)))
    minutes = sum((n.minutes_own + n.minutes_access) * n.chance for n in nodes(found.tree))
    assert minutes == pytest.approx(found.expected, abs=0.5)


@pytest.mark.sweep(1)
@pytest.mark.parametrize("seed", [1, 3, 12, 19])
def test_past_what_is_weighed_exactly_the_gap_is_small_and_stated(seed: int) -> None:
    """Twelve causes and fourteen tests: a bound, what is found little above it."""
    search = any_search(12, 14, seed)
    found = solve(search)
    assert not found.proven
    assert 0 < found.bound < found.expected
    assert found.expected <= best_order(search)[1]
    assert found.expected / found.bound < 1.05


def test_tests_that_tell_everything_apart_leave_the_bound_looser() -> None:
    """Where even two causes have too many tests between them, they are weighed alone."""
    many = tuple(
        Trial(f"t{n}", tuple(0.1 + 0.08 * ((cause * 5 + n) % 11) for cause in range(9)), 2.0)
        for n in range(14)
    )
    mends = tuple(Repair(f"r{n}", frozenset({n}), 20.0 + n) for n in range(9))
    search = Search((1 / 9,) * 9, many, mends, {})
    assert {len(group.causes) for group in groups_of(search)} == {1}
    found = solve(search)
    assert 0 < found.bound < found.expected <= best_order(search)[1]


def test_a_cause_nothing_cures_is_an_error() -> None:
    """No strategy would end."""
    with pytest.raises(ValueError, match="cures cause 1"):
        Search((0.5, 0.5), (), (Repair("one", frozenset({0}), 1.0),), {})


def test_a_state_says_what_is_next_and_what_is_open() -> None:
    """The table answers for every state, also one the best strategy does not come to."""
    search = diagnosed(SIX, complaint(SIX, "P0355")).search
    table = Table(search)
    said = (1, *(0 for _ in search.tests[1:]))
    assert sum(belief(search, State(said))) < 1
    assert table.next(State(said)).key


@pytest.mark.parametrize("sheet", ENGINES.values(), ids=lambda e: e.id)
def test_every_demo_engine_has_a_proven_strategy_for_each_fault(sheet: Engine) -> None:
    """Never worse than its baselines, each act with its words."""
    number = max(sheet.cylinders)
    hole = sheet.holes_of(number)[0]
    for said in (
        Complaint(signs={hole: frozenset({"soot"})}),
        Complaint(symptoms=frozenset({Symptom.HOT})),
    ):
        found = diagnosed(sheet, said)
        assert found.strategy.proven
        others = found.baselines
        least = min(others.best_fixed_order, others.likeliest_per_minute, others.plugs_then_coils)
        assert found.strategy.expected <= least + 0.01
        assert as_text(told(sheet, found))


def test_the_partner_of_a_swap_is_the_cheapest_to_get_at() -> None:
    """Behind the same cover, beside it; in the open where both are."""
    covered = blocked({"cover": part(20, 20)}, [("cover", ["hole/1/coil", "hole/2/coil"])], holes=4)
    found = ways(covered, "all", DEFAULT_RULES, STANDARD_CRIB)
    assert (found.over[1], found.over[3]) == (frozenset({"cover"}), frozenset())
    assert found.partner("carrier", 3) == 4
    assert found.partner("carrier", 1) == 2
    assert found.opening["cover"] == 40.0


def test_what_if_strikes_out_a_test_or_takes_a_cause_as_known() -> None:
    """Without its best test it takes no less; known, only that repair is left."""
    said = complaint(SIX, "P0305")
    plain = diagnosed(SIX, said)
    without = diagnosed(SIX, said, WhatIf(without=frozenset({"swap-coil"})))
    assert without.strategy.expected >= plain.strategy.expected - 1e-9
    assert "swap-coil" not in {n.act for n in nodes(without.strategy.tree)}
    known = diagnosed(SIX, said, WhatIf(known="boot"))
    assert [n.act for n in nodes(known.strategy.tree)] == ["renew-boot"]
    with pytest.raises(ProblemsError, match="no cause"):
        diagnosed(SIX, said, WhatIf(known="moon"))
    with pytest.raises(ProblemsError, match="says nothing"):
        diagnosed(SIX, Complaint())


def test_the_tables_name_what_there_is_and_have_their_words() -> None:
    """Causes, acts, evidence: in both languages; every cause can be cured."""
    causes = {key for band in PRIORS.values() for key in band}
    cured = {key for row in REPAIRS if len(row.cures) == 1 for key in row.cures}
    assert causes <= cured
    assert set(NEEDS) <= causes
    for row in TESTS:
        assert set(row.yes) <= causes | {"engine"}, row.key
    assert set(BY_SIGN) <= set(SIGNS)
    assert set(BY_SYMPTOM) <= set(Symptom)
    for band in PRIORS.values():
        assert 0.9 <= sum(band.values()) <= 1.15
    for language in ("en", "de"):
        with speaking(language):
            for key in causes:
                assert say(f"fault.cause.{key}", cylinder=5)
            for row in (*TESTS, *REPAIRS):
                assert say(f"fault.act.{row.key}", cylinder=5, partner=3)
            for kind in Kind:
                assert say(f"fault.kind.{kind}")
