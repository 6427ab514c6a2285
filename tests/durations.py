"""How long tests take, kept in a file, so that a run begins with the longest.

The file is written anew by `bin/test --measure`. It holds only those that take a while; an unknown
test counts as short. Which come first changes no result, only when the last worker is done.
"""

import json
from pathlib import Path

import pytest
from xdist.scheduler import LoadScopeScheduling

FILE = Path(__file__).with_name("durations.json")
# Shorter ones make no difference to the end of a run, and would fill the file.
WORTH_KEEPING_SECONDS = 0.4
# What a quick run has no time for.
QUICK_SECONDS = 0.5
PHASES = ("setup", "call", "teardown")
TOGETHER = ("tests/browser/test_lessons.py", "tests/server/test_several.py")


def longest_first(items: list[pytest.Item]) -> None:
    """Order tests by what they last took; those not kept follow as they were collected.

    A file that shares what is dear to start stays together, and counts as one.
    """
    kept: dict[str, float] = json.loads(FILE.read_text())
    of_unit: dict[str, float] = {}
    for item in items:
        unit = unit_of(item.nodeid)
        of_unit[unit] = of_unit.get(unit, 0.0) + kept.get(item.nodeid, 0.0)

    def place(item: pytest.Item) -> tuple[float, str]:
        unit = unit_of(item.nodeid)
        return -of_unit[unit], unit if of_unit[unit] else ""

    items.sort(key=place)


def long_ones(items: list[pytest.Item]) -> list[pytest.Item]:
    """The tests that a quick run leaves out: those of the browser, and what takes its time."""
    kept: dict[str, float] = json.loads(FILE.read_text())
    return [
        item
        for item in items
        if "browser" in item.path.parts or kept.get(item.nodeid, 0.0) > QUICK_SECONDS
    ]


def unit_of(nodeid: str) -> str:
    """What is handed to one worker as a whole: a test, or a file that starts servers of its own."""
    file = nodeid.partition("::")[0]
    return file if file in TOGETHER else nodeid


class LongestFirst(LoadScopeScheduling):
    """Hands out tests in their order, one unit at a time."""

    def _split_scope(self, nodeid: str) -> str:
        return unit_of(nodeid)


class Measured:
    """A plugin that writes down what each test took, in the process that gathers the reports."""

    def __init__(self) -> None:
        """Nothing yet."""
        self.seconds: dict[str, float] = {}

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        """Add a phase of a test."""
        if report.when in PHASES:
            self.seconds[report.nodeid] = self.seconds.get(report.nodeid, 0.0) + report.duration

    def pytest_sessionfinish(self) -> None:
        """Keep the long ones, the longest first."""
        long = {k: v for k, v in self.seconds.items() if v >= WORTH_KEEPING_SECONDS}
        ordered = sorted(long.items(), key=lambda pair: (-pair[1], pair[0]))
        lines = [f"  {json.dumps(key)}: {value:.1f}" for key, value in ordered]
        FILE.write_text("{\n" + ",\n".join(lines) + "\n}\n")
