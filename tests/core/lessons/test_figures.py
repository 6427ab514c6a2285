"""What readings say of figures and wrenches."""

import random
from datetime import date, timedelta
from uuid import UUID

import pytest

from eldrim.core.lessons.digest import ClickRow, RunDigest
from eldrim.core.lessons.figures import WrenchWeek, at_limits, clicks_of, drifting, supplied_wrong
from tests.core.lessons.rows import signed, value


def weeks(ratios: list[float], wrench: str = "w-1") -> list[WrenchWeek]:
    """A wrench week by week."""
    first = date(2025, 1, 6)
    return [
        WrenchWeek(wrench, "click wrench", first + timedelta(weeks=n), ratio, 2, UUID(int=n))
        for n, ratio in enumerate(ratios)
    ]


def test_a_wrench_that_drifts_is_found_with_how_far() -> None:
    """Six in a hundred over forty weeks, however noisy; one that is only noisy is not."""
    chance = random.Random(1)
    drifts = weeks([1 + 0.06 * n / 39 + chance.gauss(0, 0.01) for n in range(40)])
    steady = weeks([1 + chance.gauss(0, 0.01) for _ in range(40)], "w-2")
    found = drifting([*steady, *drifts])
    assert [one.wrench for one in found] == ["w-1"]
    assert found[0].share == pytest.approx(0.06, abs=0.01)
    assert found[0].line.cases == 40


def test_steady_wrenches_are_left_alone() -> None:
    """Two hundred of them, over a year each."""
    chance = random.Random(4)
    for n in range(200):
        assert not drifting(weeks([1 + chance.gauss(0, 0.015) for _ in range(50)], f"w-{n}"))


def test_few_weeks_say_nothing() -> None:
    """However straight the line."""
    assert not drifting(weeks([1.0, 1.02, 1.04, 1.06, 1.08]))


def test_a_run_counts_once_however_often_it_clicks() -> None:
    """The middle of its clicks."""
    clicks = [
        ClickRow(wrench="w-1", name="click wrench", set_to=20, value=v, unit="N·m")
        for v in (20.0, 20.2, 26.0)
    ]
    assert clicks_of(RunDigest(planned=1, took=1, steps=(), clicks=tuple(clicks))) == {
        "w-1": ("click wrench", pytest.approx(1.01))
    }


def test_a_setting_that_often_ends_at_a_limit() -> None:
    """In five of twelve runs: told with the runs; in two of twelve: not."""
    runs = [signed(n, values=(value(15.0, "at" if n < 5 else "in"),)) for n in range(12)]
    often, _ = at_limits(runs)
    assert [(one.operation, one.runs, one.at) for one in often] == [("torque/plug", 12, 5)]
    assert often[0].where == tuple(UUID(int=n) for n in range(5))
    assert not at_limits(
        [signed(n, values=(value(15, "at" if n < 2 else "in"),)) for n in range(12)]
    )[0]


def test_two_cases_are_no_trend() -> None:
    """Even where it is every run there is."""
    assert not at_limits([signed(n, values=(value(15, "under"),)) for n in range(2)])[0]


def test_a_reading_that_never_comes_near_its_limits() -> None:
    """In the middle in each of twenty runs; one value near the edge is enough to keep it."""
    middle = [signed(n, values=(value(17.5),)) for n in range(20)]
    assert [one.reading for one in at_limits(middle)[1]] == ["torque"]
    assert not at_limits([*middle, signed(21, values=(value(15.2),))])[1]
    assert not at_limits(middle[:6])[1], "too few to say so"


def test_another_figure_is_another_reading() -> None:
    """Values held to other limits are not mixed."""
    runs = [signed(n, values=(value(15, "at", low=15.0 - n),)) for n in range(6)]
    assert not at_limits(runs)[0]


def test_a_gap_that_is_wrong_out_of_the_box() -> None:
    """Nine of twelve plugs in three runs."""

    def gaps(n: int) -> tuple[object, ...]:
        return tuple(
            value(0.7, "under" if hole < 3 else "in", "gap_supplied", low=0.8, high=0.9, unit="mm")
            for hole in range(4)
        )

    found = supplied_wrong([signed(n, values=gaps(n)) for n in range(3)])
    assert [(one.wrong, one.values, one.runs, one.middle) for one in found] == [(9, 12, 3, 0.7)]
    assert not supplied_wrong([signed(n, values=gaps(n)) for n in range(2)])
    assert not at_limits([signed(n, values=gaps(n)) for n in range(3)])[0], "told once"
