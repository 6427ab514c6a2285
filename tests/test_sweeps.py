"""What a run draws of a sweep: the same for the same number, and every case in turn."""

import pytest

from tests import sweeps


def test_every_case_has_its_turn(monkeypatch: pytest.MonkeyPatch) -> None:
    """In as many days as it takes; the same number draws the same."""
    monkeypatch.delenv(sweeps.DEEP, raising=False)
    cases, seen = list(range(10)), set[int]()
    for day in range(4):
        monkeypatch.setenv(sweeps.NUMBER, str(day))
        drawn = sweeps.drawn(cases, 3)
        assert len(set(drawn)) == 3
        assert drawn == sweeps.drawn(cases, 3)
        seen.update(drawn)
    assert seen == set(cases)


def test_in_depth_every_case_is_taken(monkeypatch: pytest.MonkeyPatch) -> None:
    """And a law gets more examples, never fewer than a few."""
    monkeypatch.setenv(sweeps.NUMBER, "1")
    monkeypatch.setenv(sweeps.DEEP, "yes")
    assert sweeps.drawn(range(10), 3) == list(range(10))
    assert sweeps.examples(60) == 120
    monkeypatch.delenv(sweeps.DEEP)
    assert sweeps.examples(60) == 15
    assert sweeps.examples(12) == 8
    assert sweeps.examples(4) == 4
