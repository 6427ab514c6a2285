"""Minutes learnt from runs: they come to the truth, no run swings them, a pause is no work."""

import random
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import cache
from uuid import UUID

import pytest

from eldrim.core.job import Job, Work
from eldrim.core.lessons.digest import Signed, digest
from eldrim.core.lessons.ways import LearntWay, learn_ways, with_ways
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.state import fold_all
from tests.builders import tug

DUCT = ("intake-duct", "shift")
Pace = Callable[[Step], float]


@cache
def rear(**more: object) -> Plan:
    """Plug 5 of the vee six: the duct is shifted for it."""
    return compile_plan(tug(), Job(cylinders=(5,), work=(Work.PLUG,)))


def run(number: int, pace: Pace, plan: Plan | None = None) -> Signed:
    """A run in which each step took so many minutes."""
    made = plan or rear()
    at = datetime(2026, 1, 1, 8, tzinfo=UTC) + timedelta(days=number)
    entries = [_entry(EntryKind.READING, number, 0, "ready/unit", at)]
    for place, step in enumerate(made.steps, 1):
        at += timedelta(minutes=pace(step))
        entries.append(_entry(EntryKind.DONE, number, place, step.key, at))
    past = Past(UUID(int=number), at, made, entries, fold_all(entries))
    nobody = UUID(int=0)
    return Signed(past.run, at, "tug-1", made.engine, nobody, nobody, "", "t", digest(past, {}))


def _entry(kind: EntryKind, run_: int, place: int, step: str, at: datetime) -> Recorded:
    entry = Entry(id=UUID(int=run_ * 1_000 + place), kind=kind, step=step, made=at)
    return Recorded(entry=entry, by="t", role=Role.TECHNICIAN, at=at)


def slow(step: Step, factor: float = 3.0) -> float:
    """The duct takes longer, all else what was planned."""
    return step.minutes * (factor if step.part == DUCT[0] else 1)


def by_way(runs: list[Signed]) -> dict[tuple[str, str, str], LearntWay]:
    """What was learnt, by part, way and direction."""
    return {(one.part, one.way, one.direction): one for one in learn_ways(tug(), runs)}


def test_what_goes_as_planned_teaches_nothing() -> None:
    """Every way comes out as it is planned, set-ups and seals left aside."""
    for one in learn_ways(tug(), [run(n, lambda step: step.minutes) for n in range(5)]):
        assert one.middle == pytest.approx(one.planned, abs=0.35), one
        assert not one.worth_a_look


def test_it_comes_to_the_truth_as_runs_add_up() -> None:
    """Drawn towards the plan while few; noisy runs settle where the truth is."""
    chance = random.Random(5)
    runs = [run(n, lambda step: slow(step) * chance.uniform(0.8, 1.25)) for n in range(40)]
    truth = by_way([run(99, slow)])[(*DUCT, "out")].middle
    off = []
    for count in (3, 10, 40):
        out = by_way(runs[:count])[(*DUCT, "out")]
        assert out.planned < out.proposed <= out.middle + 0.05
        off.append(abs(out.proposed - truth))
    assert off[2] < off[0] / 3
    assert off[2] < 0.12 * truth


def test_one_run_never_swings_it() -> None:
    """However long it took: the middle, and the plan, hold it."""
    plain = [run(n, lambda step: step.minutes) for n in range(6)]
    odd = [run(9, lambda step: slow(step, 7.0))]
    before, after = by_way(plain), by_way([*plain, *odd])
    for key, one in before.items():
        assert after[key].proposed == pytest.approx(one.proposed, abs=0.25)
    alone = by_way(odd)[(*DUCT, "out")]
    assert not alone.worth_a_look, "one run is no trend"
    assert alone.proposed < alone.middle / 2


def test_a_long_pause_is_no_work() -> None:
    """The run counts for what had none."""
    first = next(s for s in rear().steps if s.part == DUCT[0])

    def paused(step: Step) -> float:
        return step.minutes + (45 if step.key == first.key else 0)

    found = by_way([run(n, paused) for n in range(4)])
    assert (*DUCT, "out") not in found
    assert found[(*DUCT, "back")].runs == 4


def test_accepting_makes_the_sheet_s_next_revision_and_another_way_in() -> None:
    """The duct that is slow to shift is taken off instead; what was planned for the rest stays."""
    runs = [run(n, slow) for n in range(8)]
    chosen = [one for one in learn_ways(tug(), runs) if one.worth_a_look]
    assert {(one.part, one.way) for one in chosen} == {DUCT}
    sheet = with_ways(tug(), chosen)
    assert sheet.revision == tug().revision + 1
    way = sheet.parts[DUCT[0]].ways[DUCT[1]]
    assert (way.out.mid, way.back.mid) == tuple(
        by_way(runs)[(*DUCT, direction)].proposed for direction in ("out", "back")
    )
    assert sheet.parts["plenum"] == tug().parts["plenum"]
    ways = {m.part: m.way for m in compile_plan(sheet, rear().job).moves}
    assert {m.part: m.way for m in rear().moves}[DUCT[0]] == "shift"
    assert ways.get(DUCT[0]) == "remove"


def test_a_way_the_sheet_no_longer_has_is_left_out() -> None:
    """Old runs stay readable."""
    parts = {key: part for key, part in tug().parts.items() if key != "rear-stays"}
    found = learn_ways(tug().model_copy(update={"parts": parts}), [run(1, slow)])
    assert "rear-stays" not in {one.part for one in found}
