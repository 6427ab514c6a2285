"""Which cases of an exhaustive sweep run: a sample that rotates, or with ``--deep`` every one.

A law held over many engines, seeds or choices is a sweep. `bin/test` tries a sample of each, drawn
by a number that changes with the day and is printed at the head of a run; `bin/test --deep` tries
all. ``ELDRIM_SWEEP`` sets the number, to see the same sample again.
"""

import os
from collections import defaultdict
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from random import Random
from typing import TypeVar

import pytest

NUMBER, DEEP = "ELDRIM_SWEEP", "ELDRIM_DEEP"
# A law over drawn examples takes this part of them in a sample, and so many times them in depth.
SHARE, TIMES, FEWEST = 4, 2, 8
Case = TypeVar("Case")


def begin(deep: bool) -> None:
    """Fix what is drawn for this process and the workers it starts."""
    if deep:
        os.environ[DEEP] = "yes"
    os.environ.setdefault(NUMBER, str(datetime.now(UTC).toordinal()))


def deep() -> bool:
    """Whether every case is wanted."""
    return DEEP in os.environ


def head() -> str:
    """What a run says of its sample."""
    if deep():
        return "sweeps: every case"
    return f"sweeps: sample {os.environ[NUMBER]} ({NUMBER} sets it; --deep takes every case)"


def examples(count: int) -> int:
    """How many examples a law of ``count`` is tried on in this run."""
    return count * TIMES if deep() else max(count // SHARE, min(count, FEWEST))


def drawn(cases: Sequence[Case], how_many: int) -> list[Case]:
    """So many of the cases, by turns; all of them in depth.

    In as many runs as it takes, every case has had its turn.
    """
    if deep() or not cases:
        return list(cases)
    order = Random(len(cases)).sample(cases, len(cases))
    start = int(os.environ[NUMBER]) * how_many % len(cases)
    return (order[start:] + order[:start])[:how_many]


def left_out(items: list[pytest.Item]) -> list[pytest.Item]:
    """The cases of sweeps that this run does not take: ``@pytest.mark.sweep(how_many)``."""
    return [] if deep() else list(_undrawn(items))


def _undrawn(items: list[pytest.Item]) -> Iterator[pytest.Item]:
    sweeps: dict[str, list[pytest.Item]] = defaultdict(list)
    wanted: dict[str, int] = {}
    for item in items:
        marker = item.get_closest_marker("sweep")
        if marker is not None:
            name = item.nodeid.partition("[")[0]
            sweeps[name].append(item)
            wanted[name] = marker.args[0]
    for name, cases in sweeps.items():
        taken = set(drawn(cases, wanted[name]))
        yield from (case for case in cases if case not in taken)
