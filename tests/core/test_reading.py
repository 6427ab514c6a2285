"""What a set of plugs tells (docs/craft.md §13), as a competent person would say it."""

from itertools import chain, combinations
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.reading.answer import as_text, told
from eldrim.core.reading.causes import CAUSES
from eldrim.core.reading.explanation import Hypothesis, abilities, best, gain_of, hypotheses
from eldrim.core.reading.observed import Known, PlugSet, judged
from eldrim.core.reading.signs import PICKED, SIGNS, signs_of
from eldrim.core.reading.typed_signs import WORDS, read_signs, read_since
from eldrim.core.reading.verdict import SetVerdict, verdict_of
from eldrim.core.reading_choices import COIL_CONDITIONS, CONDITIONS_BEFORE, PLUG_CONDITIONS
from eldrim.core.words import say
from eldrim.core.words.language import speaking
from tests.builders import engine
from tests.core.demo_sheets import EIGHT, ENGINES, FLAT, FOUR, GAS, MARINE, SIX, TRIPLE
from tests.sweeps import examples


def judge(sheet: Engine, signs: str, **more: Any) -> SetVerdict:
    """The verdict on a set, said as people type it."""
    typed = read_signs(sheet, signs)
    last = read_signs(sheet, more.pop("last")).seen if "last" in more else {}
    known = frozenset(Known(word) for word in more.pop("known", ()))
    plugs = PlugSet(seen=typed.seen, gaps=typed.gaps, known=known, last=last, **more)
    return verdict_of(sheet, next(iter(sheet.variants)), plugs)


def causes(found: SetVerdict) -> set[tuple[str, str]]:
    """Each cause believed, with its holes."""
    return {(v.cause, " ".join(v.holes)) for v in found.verdicts}


# Engine, signs, and the one cause a competent person names, at these holes.
ONE_CAUSE: tuple[tuple[Engine, str, str, str], ...] = (
    # In order
    (SIX, "rest=tan,dry", "healthy", "1 2 3 4 5 6"),
    (FOUR, "rest=grey", "healthy", "1 2 3 4"),
    (FLAT, "rest=ok", "healthy", "1 2 3 4"),
    (GAS, "rest=white", "healthy", "1 2 3 4 5 6"),
    (TRIPLE, "rest=oily,wet", "healthy", "1 2 3"),
    (SIX, "rest=tan; 4=brown ring", "healthy", "1 2 3 4 5 6"),
    # One hole
    (SIX, "5=black,wet,oily", "oil-up", "5"),
    (EIGHT, "7=oily", "oil-up", "7"),
    (SIX, "4=blister", "hot-cylinder", "4"),
    (FOUR, "2=white blisters,melted edge", "hot-cylinder", "2"),
    (EIGHT, "3=specks,blister", "hot-cylinder", "3"),
    (SIX, "3=crust", "coolant-in", "3"),
    (FOUR, "1=steam clean,crust", "coolant-in", "1"),
    (SIX, "5=track", "flash-over", "5"),
    (SIX, "5=track,wet,fuel smell", "flash-over", "5"),
    (MARINE, "4=track,boot torn", "flash-over", "4"),
    (SIX, "2=coil cracked", "coil", "2"),
    (SIX, "2=coil burnt,sooty-black", "coil", "2"),
    (FOUR, "3=coil bulged,wet-fuel", "coil", "3"),
    (MARINE, "6=wet-fuel", "lead", "6"),
    (TRIPLE, "2=wet-fuel", "lead", "2"),
    (FOUR, "2=pins bent", "connection", "2"),
    (SIX, "6=green pins,wet", "connection", "6"),
    (SIX, "1=tip bent,gap closed", "struck", "1"),
    (SIX, "4=cracked insulator", "broken-plug", "4"),
    (SIX, "3=ring uneven", "badly-seated", "3"),
    (SIX, "3=two rings,soot past the seat", "badly-seated", "3"),
    (EIGHT, "5=loose", "badly-seated", "5"),
    (FOUR, "4=no ring,blow by", "badly-seated", "4"),
    (SIX, "2=carbon on the thread", "wrong-reach-one", "2"),
    (SIX, "6=rusty thread,hard to turn", "thread", "6"),
    (SIX, "4=water in well,shell rust", "water-in-well", "4"),
    (FOUR, "2=water in the well,rusty foot", "water-in-well", "2"),
    (SIX, "5=oil in well,boot oily", "oil-in-well", "5"),
    (SIX, "4=white,wide gap", "injector-lean", "4"),
    # Two that share something
    (SIX, "1=crust; 3=crust", "gasket-between", "1 3"),
    (FOUR, "2=wet,oily; 3=wet,oily", "gasket-between", "2 3"),
    (SIX, "1=wet-fuel; 3=wet-fuel", "gasket-between", "1 3"),
    (GAS, "1=sooty-black; 6=sooty-black", "pair-coil", "1 6"),
    (GAS, "2=wet,soot; 5=wet,soot", "pair-coil", "2 5"),
    # What the sheet says they share
    (SIX, "5=white", "shared-air", "5"),
    (FOUR, "4=oily", "oil-up", "4"),
    # One bank, the ends
    (SIX, "1=sooty-black; 3=sooty-black; 5=sooty-black", "bank-rich", "1 3 5"),
    (EIGHT, "2=soot; 4=soot; 6=soot; 8=soot", "bank-rich", "2 4 6 8"),
    (SIX, "1=sooty-black; 3=sooty-black; 5=sooty-black; 4=?", "bank-rich", "1 3 5"),
    (SIX, "2=white; 4=white; 6=white", "bank-lean", "2 4 6"),
    (EIGHT, "1=white,blister; 3=white; 5=white; 7=white", "bank-lean", "1 3 5 7"),
    (SIX, "1=well-oil; 3=well-oil; 5=well-oil", "bank-gasket", "1 3 5"),
    (FOUR, "1=white,blister; 4=white,blister", "ends-hot", "1 4"),
    (SIX, "1=white; 2=white; 5=white; 6=white", "ends-hot", "1 2 5 6"),
    # All alike
    (SIX, "rest=sooty-black", "rich", "1 2 3 4 5 6"),
    (FLAT, "rest=black,soot", "rich", "1 2 3 4"),
    (SIX, "rest=white", "lean", "1 2 3 4 5 6"),
    (SIX, "rest=white blisters", "too-hot", "1 2 3 4 5 6"),
    (EIGHT, "rest=melted,white", "too-hot", "1 3 5 7 2 4 6 8"),
    (SIX, "rest=edges rounded", "worn-out", "1 2 3 4 5 6"),
    (FOUR, "rest=worn,wide gap", "worn-out", "1 2 3 4"),
    (SIX, "rest=oily,wet,black", "breather", "1 2 3 4 5 6"),
    (SIX, "rest=varnish,wet", "stale-fuel", "1 2 3 4 5 6"),
    (SIX, "rest=wet,smells of fuel", "flooded", "1 2 3 4 5 6"),
    (SIX, "rest=rust-red", "additive", "1 2 3 4 5 6"),
    (SIX, "rest=yellow glaze", "hard-use", "1 2 3 4 5 6"),
    (SIX, "rest=carbon on the thread", "wrong-reach", "1 2 3 4 5 6"),
    (SIX, "rest=water in well,shell rust", "wells-open", "1 2 3 4 5 6"),
)


@pytest.mark.parametrize(
    ("sheet", "signs", "cause", "holes"), ONE_CAUSE, ids=lambda v: getattr(v, "id", v)
)
def test_the_smallest_cause_that_explains_a_set(
    sheet: Engine, signs: str, cause: str, holes: str
) -> None:
    """At least sixty sets, each as the craft has it."""
    assert causes(judge(sheet, signs)) == {(cause, holes)}


# Engine, signs, what else is known, the cause, and how sure a person would be.
SURE: tuple[tuple[Engine, str, dict[str, Any], str, str], ...] = (
    (SIX, "rest=tan", {}, "healthy", "clear"),
    (SIX, "5=black,wet,oily", {}, "oil-up", "clear"),
    (SIX, "5=wet-fuel", {}, "coil", "open"),
    (SIX, "5=sooty-black", {}, "coil", "open"),
    (SIX, "5=coil cracked,wet-fuel", {}, "coil", "clear"),
    (SIX, "4=blister", {}, "hot-cylinder", "likely"),
    (SIX, "5=track,wet-fuel", {}, "flash-over", "likely"),
    (SIX, "rest=sooty-black", {}, "rich", "likely"),
    (SIX, "rest=sooty-black", {"known": ["idling"]}, "idling", "open"),
    (FLAT, "rest=wet-fuel", {}, "weak-spark", "open"),
    (SIX, "rest=wet", {"known": ["stale"]}, "stale-fuel", "likely"),
    (SIX, "rest=oily", {"known": ["new"]}, "running-in", "likely"),
    (SIX, "1=crust; 3=crust", {}, "gasket-between", "likely"),
)


@pytest.mark.parametrize(
    ("sheet", "signs", "more", "cause", "sure"), SURE, ids=lambda v: getattr(v, "id", str(v))
)
def test_how_sure_a_verdict_is(
    sheet: Engine, signs: str, more: dict[str, Any], cause: str, sure: str
) -> None:
    """By the margin to the best explanation without it; what else is known shifts it."""
    [verdict] = judge(sheet, signs, **more).verdicts
    assert (verdict.cause, verdict.confidence) == (cause, sure)


def test_two_faults_are_told_apart() -> None:
    """Blisters in one hole and oil in another have nothing in common."""
    found = judge(SIX, "4=blister; 5=black,wet,oily")
    assert causes(found) == {("oil-up", "5"), ("hot-cylinder", "4")}
    assert found.proven


def test_a_verdict_names_its_reasons_and_the_check_against_its_rival() -> None:
    """The holes for and against, what else it could be, and what tells the two apart."""
    [lonely] = judge(SIX, "5=wet-fuel").verdicts
    assert {(s.hole, s.sign) for s in lonely.speaks_for} == {("5", "wet"), ("5", "fuel-smell")}
    assert (lonely.instead, lonely.tell_apart) == ("injector-rich", "swap-coil")
    [bank] = judge(EIGHT, "1=soot; 3=soot; 5=tan; 7=soot").verdicts
    assert (bank.cause, [a.hole for a in bank.against]) == ("bank-rich", ["5"])


def test_black_with_oil_in_it_is_no_rich_mixture_of_all() -> None:
    """A bank sooted, and oil in a hole of the other, a third not read."""
    found = judge(SIX, "1=sooty-black; 3=sooty-black; 5=sooty-black; 2=ok; 4=?; 6=wet-oily")
    assert causes(found) == {("bank-rich", "1 3 5"), ("oil-up", "6")}


def test_what_no_cause_explains_is_said() -> None:
    """It speaks against the verdict at its hole, and is never hidden."""
    found = judge(SIX, "5=oily,red")
    assert [(one.hole, one.sign) for one in found.unexplained] == [("5", "red")]
    assert [a.sign for a in found.verdicts[0].against] == ["red"]


def test_plugs_that_ran_too_little_cannot_tell_yet() -> None:
    """Deposits are set aside; what needs no running is judged all the same."""
    young = judge(SIX, "5=black,wet,oily; 3=track", since_km=120.0)
    assert young.status == "too-young"
    assert causes(young) == {("flash-over", "3"), ("too-young", "1 2 3 4 5 6")}
    assert set(young.aside["5"]) == {"black", "wet", "oily"}
    assert judge(SIX, "5=oily", since_km=320.0).status == "judged"
    assert judge(SIX, "5=oily", since_h=4.0).status == "too-young"
    assert judge(SIX, "5=oily", since_h=5.0).status == "judged"
    # One of both is enough.
    assert judge(SIX, "5=oily", since_km=100.0, since_h=9.0).status == "judged"


def test_plugs_fitted_before_a_repair_tell_the_old_story() -> None:
    """Fit new, read again after the re-check distance."""
    found = judge(SIX, "rest=sooty-black", known=["repaired"])
    assert found.status == "old-story"
    [verdict] = found.verdicts
    assert (verdict.cause, verdict.now, verdict.recheck) == ("old-story", "fit-new", True)


def test_a_set_is_compared_with_the_last_one() -> None:
    """Clean where it was bad, the same, worse, moved, new."""
    found = judge(
        SIX,
        "1=oily; 2=ok; 3=soot,wet; 4=blister; 5=soot; 6=crust",
        last="1=oily; 2=blister; 3=soot; 4=ok; 5=oily; 6=ok",
    )
    told_ = {change.hole: change.change for change in found.over_time}
    assert told_ == {
        "1": "same",
        "2": "cured",
        "3": "worse",
        "4": "moved",
        "5": "changed",
        "6": "new",
    }
    young = judge(SIX, "5=oily", last="5=oily", since_km=50.0)
    assert [c.change for c in young.over_time] == []


def test_waste_spark_wears_one_strap_and_one_centre_of_a_pair() -> None:
    """Both polarities: no fault of two cylinders. The same wear on both is one."""
    worn = {
        "1": "strap worn",
        "6": "centre worn",
        "2": "centre worn",
        "5": "strap worn",
        "3": "strap worn",
        "4": "centre worn",
    }
    found = judge(GAS, "; ".join(f"{hole}={sign}" for hole, sign in worn.items()))
    assert causes(found) == {("healthy", "1 2 3 4 5 6")}
    assert causes(judge(GAS, "1=strap worn; 6=strap worn")) == {
        ("worn-one", "1"),
        ("worn-one", "6"),
    }


def test_one_gap_grown_over_the_others_is_a_sign() -> None:
    """By more than two steps of a gauge: that cylinder runs hotter or leaner."""
    gaps = "1=1.10 mm; 2=1.10 mm; 3=1.10 mm; 4=1.25 mm; 5=1.10 mm; 6=1.10 mm"
    assert [v.holes for v in judge(SIX, gaps).verdicts] == [("4",)]
    assert causes(judge(SIX, gaps.replace("1.25", "1.20"))) == {("healthy", "1 2 3 4 5 6")}


def test_a_hole_not_read_says_neither_for_nor_against() -> None:
    """What is not known is no evidence that it is in order."""
    found = judge(SIX, "1=soot; 3=?; 5=soot; 2=tan; 4=tan; 6=tan")
    assert found.not_read == ("3",)
    assert causes(found) == {("bank-rich", "1 3 5")}
    assert judge(SIX, "rest=?").status == "unread"
    assert judge(SIX, "4=tan; rest=?").verdicts[0].confidence == "likely"


NEEDS = {
    "coil": ("coil", "connection"),
    "lead": ("lead",),
    "liquid": ("coolant-in", "gasket-between"),
    "injection": ("injector-rich", "injector-lean"),
    "distributor": ("weak-spark",),
}


@pytest.mark.parametrize("sheet", ENGINES.values(), ids=lambda e: e.id)
def test_no_verdict_names_a_part_the_engine_lacks(sheet: Engine) -> None:
    """No coil on an engine with leads, no coolant on one cooled by air, no pair, bank, feed."""
    able = abilities(sheet, next(iter(sheet.variants)))
    everything = {hole: frozenset(SIGNS) - {"sound"} for hole in sheet.holes}
    seen = judged(sheet, PlugSet(seen=everything))
    variant = next(iter(sheet.variants))
    named = {h.cause.id for h in hypotheses(sheet, variant, seen, frozenset(Known))}
    for ability, which in NEEDS.items():
        if ability not in able:
            assert not named & set(which), ability
    if not sheet.ignition.waste_spark_pairs:
        assert "pair-coil" not in named
    if len(sheet.banks) < 2 or sheet.id == "kestwick-900-twin":
        assert not named & {"bank-rich", "bank-lean", "bank-gasket"}
    if not sheet.shared:
        assert not {one for one in named if one.startswith("shared-")}


def _twin(among: list[Hypothesis]) -> float:
    """The best explanation by looking at every set of causes."""
    sets = chain.from_iterable(combinations(among, size) for size in range(len(among) + 1))
    return max(gain_of(some) for some in sets if _each_needed(some))


def _each_needed(some: tuple[Hypothesis, ...]) -> bool:
    for one in some:
        others = {sign for other in some if other is not one for sign in other.explains}
        if set(one.explains) <= others:
            return False
    return True


TELLING = ("soot", "wet", "oily", "fuel-smell", "white", "blister", "crust", "track", "rounded")


@given(
    st.lists(st.frozensets(st.sampled_from(TELLING), max_size=3), min_size=2, max_size=3),
    st.booleans(),
)
@settings(max_examples=examples(60), deadline=None)
def test_an_explanation_is_the_best_of_all(seen: list[frozenset[str]], pair: bool) -> None:
    """Against every set of causes on small engines."""
    holes = len(seen)
    order = list(range(1, holes + 1))
    pairs = {"waste_spark_pairs": [[1, 2]]} if pair and holes == 2 else {}
    spark = {"kind": "coil_pack", "firing_order": order, **pairs}
    leads = [{"part_number": "L-1", "joints": {"boot": {"kind": "lead_boot"}}}]
    small = engine(holes, ignition=spark, coils=[], leads=leads)
    plugs = PlugSet(seen={str(n): signs for n, signs in enumerate(seen, 1)})
    counted = judged(small, plugs)
    among = hypotheses(small, "all", counted, frozenset())
    top = sorted(among, key=lambda h: -h.alone)[:11]
    found = best(top)
    assert found.proven
    assert found.gain == pytest.approx(_twin(top))
    assert found.gain == pytest.approx(gain_of(found.believed))


@given(
    st.dictionaries(
        st.sampled_from("123456"), st.frozensets(st.sampled_from(sorted(SIGNS)), max_size=6)
    )
)
@settings(max_examples=examples(40), deadline=None)
def test_every_sign_is_explained_set_aside_or_said(seen: dict[str, frozenset[str]]) -> None:
    """Nothing that was seen is dropped, and a set reads the same every time."""
    plugs = PlugSet(seen=seen)
    found = verdict_of(SIX, next(iter(SIX.variants)), plugs)
    assert found == verdict_of(SIX, next(iter(SIX.variants)), plugs)
    told_ = {(s.hole, s.sign) for v in found.verdicts for s in v.speaks_for}
    told_ |= {(one.hole, one.sign) for one in found.unexplained}
    told_ |= {(hole, sign) for hole, signs in found.aside.items() for sign in signs}
    amiss = {(h, s) for h, signs in seen.items() for s in signs if not SIGNS[s].healthy}
    assert told_ == amiss


def test_every_cause_sign_check_and_act_has_its_words() -> None:
    """A new row without words fails here, not in the bay."""
    for language in ("en", "de"):
        with speaking(language):
            for cause in CAUSES.values():
                assert say(f"reading.cause.{cause.id}")
                assert say(f"reading.check.{cause.check}")
                assert say(f"reading.now.{cause.act}")
                assert not set(cause.signs) - set(SIGNS), cause.id
            for sign in SIGNS:
                assert say(f"reading.sign.{sign}")
            plugs = PlugSet(seen={"5": frozenset({"oily", "red"})}, since_km=900.0)
            assert as_text(told(verdict_of(SIX, next(iter(SIX.variants)), plugs), plugs))


def test_whatever_was_picked_before_still_says_its_signs() -> None:
    """Picks of every edition, and the sentences kept before conditions had ids."""
    for pick in (*PLUG_CONDITIONS, *COIL_CONDITIONS, *CONDITIONS_BEFORE, *PICKED):
        assert signs_of([pick]), pick
    assert signs_of(["wet, black, oily"]) == {"wet", "black", "oily"}
    assert signs_of(["of a later Eldrim"]) == frozenset()


def test_every_word_for_a_sign_is_understood() -> None:
    """The table of words names signs there are."""
    for word, signs in WORDS.items():
        assert set(signs.split()) <= set(SIGNS), word
        assert read_signs(SIX, f"5={word}").seen["5"] == set(signs.split()), word


@pytest.mark.parametrize(
    ("typed", "place", "fix"),
    [
        ("5=blster", "signs.5", "blister"),
        ("9=wet", "signs.9", "1, 2, 3, 4, 5, 6"),
        ("wet", "signs.wet", "hole=signs"),
        ("5=", "signs.5", "what was seen"),
        ("5=wet; 5=dry", "signs.5", "once"),
        ("=wet", "signs.hole", "use one of"),
        ("5=" + "x" * 300, "signs.5", "--help"),
        ("5=gap 5 in", "signs.5", "0.1 to 3 mm"),
        ("5=1.1 mm,1.2 mm", "signs.5", "say one"),
    ],
)
def test_signs_not_understood_are_refused_with_the_fix(typed: str, place: str, fix: str) -> None:
    """The hole is named, and the nearest words."""
    with pytest.raises(ProblemsError) as caught:
        read_signs(SIX, typed)
    [problem] = caught.value.problems
    assert (problem.path, fix in problem.fix) == (place, True)


def test_everything_wrong_with_signs_is_said_at_once() -> None:
    """One pass, as everywhere."""
    with pytest.raises(ProblemsError) as caught:
        read_signs(SIX, "4=blster; 5=weet; 9=ok")
    assert len(caught.value.problems) == 3


def test_what_plugs_ran_is_read_with_its_unit() -> None:
    """Kilometres, miles, hours; both where both are said."""
    assert read_since("320 km") == (320.0, None)
    assert read_since("5 h, 1,200 km") == (1200.0, 5.0)
    assert read_since("200 mi")[0] == pytest.approx(321.9, abs=0.1)
    assert read_since("90 min") == (None, 1.5)
    for wrong in ("5 N·m", "long", "320"):
        with pytest.raises(ProblemsError):
            read_since(wrong)
