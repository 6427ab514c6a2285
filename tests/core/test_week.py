"""A week's plan: nothing twice at once, the least late, as trying everything finds."""

import itertools
import random
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta

import pytest

from eldrim.core.interval.week import (
    STEP,
    Person,
    Placed,
    Shop,
    WeekJob,
    clashes,
    late_days,
    lay_out,
)

MONDAY = date(2026, 11, 30)
DAYS = tuple(MONDAY + timedelta(days=n) for n in range(5))


def places(job: WeekJob, shop: Shop) -> Iterator[Placed | None]:
    """Everywhere a job could be put, and nowhere."""
    yield None
    for day in shop.days:
        for bay, person in itertools.product(shop.bays, shop.people):
            for start in range(shop.opens, shop.closes - job.steps * STEP + 1, STEP):
                yield Placed(job.key, bay, person.name, day, start)


def least_late(jobs: list[WeekJob], shop: Shop) -> int:
    """The fewest days late of all plans without a clash, by trying every one."""
    whole = {job.key: replace(job, minutes=job.steps * STEP) for job in jobs}
    best = sum(late_days(job, shop, None) for job in jobs)
    for chosen in itertools.product(*(list(places(job, shop)) for job in jobs)):
        pairs = zip(jobs, chosen, strict=True)
        late = sum(late_days(job, shop, one.day if one else None) for job, one in pairs)
        if late < best and not clashes(filter(None, chosen), whole, shop):
            best = late
    return best


@pytest.mark.sweep(10)
@pytest.mark.parametrize("seed", range(30))
def test_small_weeks_are_laid_out_as_trying_everything_does(seed: int) -> None:
    """Three jobs in half an hour a day: units, a scarce wrench and a skill in common."""
    chance = random.Random(seed)
    skilled = Person("y", frozenset({"gas"}))
    shop = Shop(
        ("A", "B")[: chance.choice([1, 2])],
        (Person("x"), skilled)[: chance.choice([1, 2])],
        DAYS[: chance.choice([1, 2])],
        480,
        510,
        {"wrench": 1},
    )
    jobs = [
        WeekJob(
            str(number),
            chance.choice("uv"),
            "job",
            chance.choice([10, 15, 25, 30]),
            chance.choice([None, DAYS[0], DAYS[1], DAYS[0] - timedelta(days=3)]),
            frozenset(chance.choice([[], ["wrench"]])),
            frozenset(chance.choice([[], [], ["gas"]])),
        )
        for number in range(3)
    ]
    made = lay_out(jobs, shop)
    assert made.late == least_late(jobs, shop)
    assert made.proven
    assert set(made.left) | {one.key for one in made.placed} == {job.key for job in jobs}


def many(count: int, seed: int = 3) -> list[WeekJob]:
    """A busy week: units that come twice, one wrench, two readers."""
    chance = random.Random(seed)
    return [
        WeekJob(
            str(number),
            f"unit {number % 9}",
            "plugs",
            chance.uniform(20, 150),
            chance.choice([None, *DAYS, DAYS[0] - timedelta(days=2)]),
            frozenset(chance.choice([[], ["wrench"], ["reader"], ["wrench", "reader"]])),
        )
        for number in range(count)
    ]


@pytest.mark.sweep(1)
@pytest.mark.parametrize("count", [6, 18, 30])
def test_nothing_is_booked_twice(count: int) -> None:
    """Looked at by what judges a week that was moved by hand; the gap is stated."""
    shop = Shop(("1", "2", "3"), (Person("x"), Person("y")), DAYS, tools={"wrench": 1, "reader": 2})
    jobs = many(count)
    made = lay_out(jobs, shop)
    assert clashes(made.placed, {job.key: job for job in jobs}, shop) == ()
    assert made.least <= made.late
    assert lay_out(jobs, shop) == made, "the same week is laid out alike"


def test_what_finds_no_place_says_why() -> None:
    """Too long for a day, nobody with the skill, no such tool, no room; nobody there at all."""
    shop = Shop(("1",), (Person("x"),), DAYS[:1], 480, 600, {"wrench": 0})
    jobs = [
        WeekJob("long", "a", "job", 200),
        WeekJob("skilled", "b", "job", 20, skills=frozenset({"gas"})),
        WeekJob("tool", "c", "job", 20, needs=frozenset({"wrench"})),
        *(WeekJob(f"fits {n}", f"d{n}", "job", 60) for n in range(3)),
    ]
    made = lay_out(jobs, shop)
    assert {key: made.left[key] for key in ("long", "skilled", "tool")} == {
        "long": "too_long",
        "skilled": "no_skill",
        "tool": "no_tool",
    }
    assert sorted(made.left.values()).count("no_room") == 1
    assert len(made.placed) == 2
    empty = lay_out(jobs, replace(shop, people=()))
    assert set(empty.left.values()) == {"nobody"}
    assert lay_out([], shop).placed == ()


def test_what_is_due_sooner_is_done_sooner() -> None:
    """Without lateness the order follows what is due."""
    shop = Shop(("1",), (Person("x"),), DAYS)
    jobs = [WeekJob("later", "a", "job", 60, DAYS[4]), WeekJob("sooner", "b", "job", 60, DAYS[0])]
    found = {one.key: (one.day, one.start) for one in lay_out(jobs, shop).placed}
    assert found["sooner"] < found["later"]
    assert found["sooner"] == (DAYS[0], 480)


def placed(key: str, start: int, bay: str = "1", person: str = "x") -> Placed:
    """A job on Monday."""
    return Placed(key, bay, person, DAYS[0], start)


def test_what_clashes_is_named() -> None:
    """A bay, a person, a unit, a tool; hours, a skill, what is not there."""
    shop = Shop(("1", "2"), (Person("x"), Person("y")), DAYS, tools={"wrench": 1})
    wrench = frozenset({"wrench"})
    jobs = {
        "a": WeekJob("a", "tug", "job", 60, needs=wrench),
        "b": WeekJob("b", "tug", "job", 60, needs=wrench),
        "c": WeekJob("c", "bowser", "job", 60, skills=frozenset({"gas"})),
    }

    def kinds(*laid: Placed) -> set[str]:
        return {clash.kind for clash in clashes(laid, jobs, shop)}

    assert kinds(placed("a", 480), placed("b", 540)) == set()
    assert kinds(placed("a", 480), placed("b", 539)) == {"bay", "person", "unit", "tool"}
    assert kinds(placed("a", 480), placed("b", 500, "2", "y")) == {"unit", "tool"}
    assert kinds(placed("a", 930)) == {"hours"}
    assert kinds(placed("c", 480)) == {"skill"}
    assert kinds(placed("a", 480, "9")) == {"gone"}
    assert kinds(replace(placed("a", 480), day=DAYS[0] - timedelta(days=1))) == {"day"}
