"""How long parts last: survival against a plain twin, batches found, and none where none is."""

import random
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.lessons.parts import bad_batches, lasting, wears_fast
from tests.core.lessons.rows import life
from tests.sweeps import examples

Seen = list[tuple[int, bool]]
SEEN: "st.SearchStrategy[Seen]" = st.lists(
    st.tuples(st.integers(1, 30), st.booleans()), min_size=1, max_size=25
)


def plain_survival(seen: Seen, age: float) -> float:
    """The product-limit estimate, written out: at each failure the part of those left that fail."""
    share = 1.0
    for when in sorted({ran for ran, failed in seen if failed}):
        if when <= age:
            left = sum(1 for ran, _ in seen if ran >= when)
            died = sum(1 for ran, failed in seen if failed and ran == when)
            share *= 1 - died / left
    return share


@given(SEEN)
@settings(max_examples=examples(80), deadline=None)
def test_survival_is_the_product_limit(seen: Seen) -> None:
    """At every age that was seen, the same as by hand."""
    found = lasting([life(float(ran), failed=failed) for ran, failed in seen], "h")
    assert found is not None
    for age in range(1, max(ran for ran, _ in seen) + 1):
        assert found.survives(age) == pytest.approx(plain_survival(seen, age))
    assert found.failed == sum(failed for _, failed in seen)


def test_survival_by_hand() -> None:
    """Six parts: failed at 100 and 300, renewed sound at 200 and 400, two still run at 500."""
    seen = [(100, True), (200, False), (300, True), (400, False), (500, False), (500, False)]
    found = lasting([life(ran, failed=failed) for ran, failed in seen], "h")
    assert found is not None
    assert [round(stair.share, 4) for stair in found.stairs] == [0.8333, 0.625]
    assert found.survives(99) == 1.0
    assert found.survives(299) == pytest.approx(5 / 6)
    assert all(stair.low <= stair.share <= stair.high for stair in found.stairs)
    assert not found.known, "two failures are no trend"


def test_beyond_what_was_seen_it_falls_on() -> None:
    """Twice the oldest age: the share squared; never back up."""
    lives = [life(100.0, failed=n < 5) for n in range(10)]
    found = lasting(lives, "h")
    assert found is not None
    assert found.survives(200) == pytest.approx(0.25)
    shares = [found.survives(age) for age in range(0, 600, 20)]
    assert all(after <= before for before, after in pairwise(shares))


def test_what_ran_by_another_meter_is_left_out() -> None:
    """Kilometres and hours are not mixed, nor what has no meter."""
    assert lasting([life(50.0, failed=True), life(None)], "km") is None


def bad(day: int, failed: int, count: int, number: str = "B-1") -> list[object]:
    """So many boots fitted on a day, of which so many failed."""
    return [
        life(90.0, failed=n < failed, day=day, number=number, thing="boot", unit=f"loader-{n % 2}")
        for n in range(count)
    ]


def test_a_bad_batch_is_found_by_when_it_was_fitted() -> None:
    """Seven of eight fitted in one month fail, none of forty others: that month, all its units."""
    good = [one for day in range(0, 300, 30) for one in bad(day, 0, 4)]
    found = bad_batches([*good, *bad(310, 4, 4), *bad(318, 3, 4)])  # type: ignore[list-item]
    assert [(one.number, one.failed, one.count, one.others_failed) for one in found] == [
        ("B-1", 7, 8, 0)
    ]
    assert found[0].units == ("loader-0", "loader-1")


def test_failures_here_and_there_are_no_batch() -> None:
    """The same share all along, in a hundred random shops: hardly ever called one."""
    chance, called = random.Random(3), 0
    for _ in range(100):
        lives = [
            life(90.0, failed=chance.random() < 0.15, day=day, thing="boot")
            for day in range(0, 400, 20)
            for _ in range(4)
        ]
        called += bool(bad_batches(lives))
    assert called <= 2


def test_two_failures_are_no_batch() -> None:
    """However clear it looks."""
    good = [one for day in range(0, 300, 30) for one in bad(day, 0, 4)]
    assert not bad_batches([*good, *bad(310, 2, 2)])  # type: ignore[list-item]


def worn(rate: float, count: int, **about: object) -> list[object]:
    """So many plugs whose gap grew so fast, in mm a thousand hours, give or take a tenth."""
    return [
        life(500.0, grown=rate * 0.5 * (0.9 + 0.02 * (n % 10)), day=n, **about)  # type: ignore[arg-type]
        for n in range(count)
    ]


def test_a_number_that_wears_twice_as_fast_is_named() -> None:
    """Against the other numbers; one that wears as they do is not."""
    lives = [*worn(0.1, 9), *worn(0.21, 6, number="P-2"), *worn(0.1, 6, number="P-3")]
    found = wears_fast(lives, "h")  # type: ignore[arg-type]
    assert [(one.what, one.number, one.cases) for one in found] == [("number", "P-2", 6)]
    assert found[0].times == pytest.approx(2.1, rel=0.1)


def test_a_hole_that_wears_fast_is_named_by_its_unit() -> None:
    """One hole against all others of its number."""
    others = [one for n in range(8) for one in worn(0.1, 3, hole=str(n))]
    found = wears_fast([*others, *worn(0.5, 4, unit="tug-14", hole="5")], "h")  # type: ignore[list-item]
    assert [(one.what, one.unit, one.hole) for one in found] == [("hole", "tug-14", "5")]


def test_two_sets_tell_nothing_of_wear() -> None:
    """Nothing under three cases."""
    assert not wears_fast([*worn(0.1, 9), *worn(0.9, 2, number="P-2")], "h")  # type: ignore[list-item]


def test_parts_that_ran_longer_are_no_bad_batch() -> None:
    """Those of one month ran to their end; those fitted since were renewed early, and sound."""
    old = [life(900.0 + n, failed=n < 6, day=0, thing="boot") for n in range(8)]
    young = [life(120.0, day=day, thing="boot") for day in range(200, 400, 20) for _ in range(3)]
    assert not bad_batches([*old, *young])
    as_old = [life(950.0, day=day, thing="boot") for day in range(200, 400, 20) for _ in range(3)]
    assert [one.failed for one in bad_batches([*old, *as_old])] == [6]
