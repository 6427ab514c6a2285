"""The life of a unit drawn: lines by hole, the range, what comes, links to runs; week bars."""

from datetime import date, timedelta
from uuid import UUID

import pytest

from eldrim.core.interval.use import Use
from eldrim.core.interval.wear_forecast import Crossing
from eldrim.core.interval.week import Person, Placed, Shop, WeekJob
from eldrim.core.run.life import Gap, Moment, UnitLife, Volts, Worked
from eldrim.core.words.language import reading_in
from eldrim.drawing import unit_life, week_bars

START = date(2025, 1, 1)
TODAY = date(2026, 11, 27)


def at(number: int, meter: float) -> Moment:
    """A run."""
    return Moment(UUID(int=number), START + timedelta(days=number * 100), meter)


def life(**more: object) -> UnitLife:
    """Two holes over two sets; one leaves its range."""
    first, second, third = at(1, 1_000), at(3, 1_600), at(5, 2_200)
    sets = {
        hole: [
            [Gap(first, 1.05, new=True), Gap(second, 1.06 + fast, new=False)],
            [Gap(second, 1.04, new=True), Gap(third, 1.05 + fast, new=False)],
        ]
        for hole, fast in (("1", 0.0), ("5", 0.05))
    }
    plain: dict[str, object] = {
        "sets": sets,
        "worked": tuple(
            Worked(one, "Plug, holes 1 and 5", ("plug",)) for one in (first, second, third)
        ),
        "volts": (Volts(first, 12.7), Volts(third, 12.4)),
        "low": 1.0,
        "high": 1.1,
        "rest": 12.3,
        "crossings": {"5": Crossing(2_500, 2_420, 2_610, 4)},
    }
    return UnitLife(**{**plain, **more})  # type: ignore[arg-type]


NOW = unit_life.Now(TODAY, 2_300, TODAY - timedelta(days=10), Use(2, 1.8, 2.2, 4))


@pytest.mark.parametrize("by_date", [False, True])
def test_lines_range_forecast_and_links(by_date: bool) -> None:
    """The hole that leaves its range is heavy, dashed to there, and named with its span."""
    made = unit_life.draw(life(), NOW, "h", by_date=by_date)
    assert made.count('class="wear bold"') == 3, "both sets of hole 5, and the battery"
    assert made.count('class="wear"') == 2
    assert 'class="range"' in made
    assert made.count('class="span"') == 1
    assert "hole 5: " in made
    assert ("2\u202f420 to 2\u202f610 h" in made) is not by_date
    assert f"/log/{UUID(int=3)}" in made
    assert 'class="today"' in made
    assert "12.40" in made
    assert made.count('class="plugs"') == 3


def test_nothing_is_drawn_of_what_is_not_known() -> None:
    """No run, no picture; no gaps, no range; two measurements no forecast."""
    assert unit_life.draw(UnitLife(), NOW, "h") == ""
    plain = unit_life.draw(life(sets={}, crossings={}, volts=()), NOW, "h")
    assert 'class="range"' not in plain
    assert "Battery" not in plain
    few = life(crossings={"5": Crossing(2_500, 2_420, 2_610, 2)})
    assert 'class="span"' not in unit_life.draw(few, NOW, "h")
    never = life(crossings={"5": Crossing(2_500, 2_420, None, 4)})
    assert 'class="span"' not in unit_life.draw(never, NOW, "h")


def test_all_of_it_lies_inside_the_picture() -> None:
    """Also a forecast far ahead."""
    far = life(crossings={"5": Crossing(9_000, 6_000, 20_000, 4)})
    made = unit_life.draw(far, NOW, "h")
    xs = [float(part.split('"')[0]) for part in made.split(' x="')[1:]]
    assert max(xs) <= unit_life.WIDTH


def test_week_bars_are_numbered_and_clashes_crossed() -> None:
    """A bar a job, late underlined; what is not in the week is left out."""
    days = tuple(date(2026, 11, 30) + timedelta(days=n) for n in range(5))
    shop = Shop(("Bay 1", "Bay 2"), (Person("Tam"),), days)
    jobs = {
        key: WeekJob(key, f"Tug {key}", "Plugs", 120, due=days[0] - timedelta(days=2 * late))
        for key, late in (("a", 0), ("b", 1))
    }
    placed = [
        Placed("b", "Bay 2", "Tam", days[0], 600),
        Placed("a", "Bay 1", "Tam", days[0], 480),
        Placed("gone", "Bay 1", "Tam", days[0], 480),
    ]
    assert week_bars.numbered(placed[:2]) == {"a": 1, "b": 2}
    made = week_bars.draw(shop, jobs, placed, {"b"})
    assert made.count('class="job"') == 2
    assert made.count('class="late"') == 1
    assert made.count('class="clash"') == 1
    assert week_bars.clock(495) == "08:15"
    assert "3 jobs over 2 bays" in made


@pytest.mark.parametrize(
    ("language", "monday", "of_one"),
    [("en", "Mon 30 Nov", "1 job over 1 bay"), ("de", "Mo. 30. Nov", "1 Auftrag, 1 Arbeitsplatz")],
)
def test_the_days_and_counts_of_a_week_are_in_the_language_of_the_page(
    language: str, monday: str, of_one: str
) -> None:
    """Also where there is one of each."""
    shop = Shop(("Bay 1",), (Person("Tam"),), (date(2026, 11, 30),))
    jobs = {"a": WeekJob("a", "Tug a", "Plugs", 120)}
    with reading_in(language):
        made = week_bars.draw(shop, jobs, [Placed("a", "Bay 1", "Tam", shop.days[0], 480)], set())
    assert monday in made
    assert of_one in made
