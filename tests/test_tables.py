"""A table of cases fails with every case that fails, and leaves the fixtures it wants."""

import pytest

from tests.tables import table


def test_every_failing_case_is_told() -> None:
    """Not only the first one."""

    @table(("one", "other"), [(1, 1), (1, 2), (3, 4)])
    def alike(one: int, other: int) -> None:
        assert one == other

    with pytest.raises(AssertionError, match=r"2 of 3 cases fail") as caught:
        alike()
    assert "(1, 2)" in str(caught.value)
    assert "(3, 4)" in str(caught.value)


def test_a_table_over_a_table_tries_each_pair() -> None:
    """As parameters would."""
    tried = []

    @table("one", [1, 2])
    @table("other", "ab")
    def pairs(one: int, other: str) -> None:
        tried.append((one, other))

    pairs()
    assert tried == [(1, "a"), (1, "b"), (2, "a"), (2, "b")]


def test_a_table_without_a_case_is_refused() -> None:
    """It could not fail."""
    with pytest.raises(AssertionError, match="proves nothing"):
        table("one", [])(lambda one: None)
