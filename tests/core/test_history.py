"""A unit's past, hole by hole: what was found, what was left, how it wore."""

from datetime import UTC, datetime
from uuid import uuid4

import pytest

from eldrim.core.procedure.compile import compile_plan
from eldrim.core.run.entries import Entry, Recorded, Role
from eldrim.core.run.history import Past, by_hole, compared_place, grown, marked
from eldrim.core.run.state import fold
from eldrim.core.step_key import StepKey
from tests.builders import job, tug

PLAN = compile_plan(tug(), job(2, 4))
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def past(meter: float | None, *written: tuple[str, str, float], **marks: str) -> Past:
    """A run in which these readings were written, and what was marked at steps."""
    said = [("ready/unit", "meter", meter)] if meter is not None else []
    made = [
        {"kind": "reading", "step": s, "reading": r, "value": v, "unit": "mm"}
        for s, r, v in [*said, *written]
    ]
    made += [{"kind": "differs", "step": "clean/coils", "reason": r} for r in marks.values()]
    entries = [
        Recorded(
            entry=Entry.model_validate({"id": uuid4(), **m}), by="x", role=Role.TECHNICIAN, at=START
        )
        for m in made
    ]
    return Past(uuid4(), START, PLAN, entries, fold(entries))


def test_values_stand_at_their_hole_run_by_run() -> None:
    """Holes in their order, each run's values under the run."""
    first = past(1000, ("gap/plug/4", "gap_left", 1.05), ("read/plug/2", "gap_found", 1.2))
    second = past(1600, ("read/plug/4", "gap_found", 1.13))
    found = by_hole([second, first])
    assert list(found) == ["2", "4"]
    assert [v.value for v in found["4"][second.run]] == ["1.13"]
    assert [v.value for v in found["4"][first.run]] == ["1.05"]
    assert second.run not in found["2"]


def test_what_was_marked_is_told_with_its_run() -> None:
    """In the order of the runs."""
    runs = [past(1600, what="longer"), past(1000, what="damaged")]
    assert [(m.run, m.words) for m in marked(runs)] == [
        (runs[0].run, "Took much longer"),
        (runs[1].run, "Part is damaged"),
    ]


def test_a_run_tells_which_coils_it_renewed() -> None:
    """Those that were asked for and went on; one that stayed off, or was only moved, is none."""
    plan = compile_plan(tug(), job(2, 4, work=("coil", "plug"), carriers_at=(4,)))

    def closed(*closed: tuple[str, str]) -> frozenset[int]:
        entries = [
            Recorded(
                entry=Entry.model_validate({"id": uuid4(), "kind": kind, "step": step}),
                by="x",
                role=Role.TECHNICIAN,
                at=START,
            )
            for kind, step in closed
        ]
        return Past(uuid4(), START, plan, entries, fold(entries)).renewed_coils

    assert closed(("done", "fit/coil/2"), ("done", "fit/coil/4")) == {4}
    assert closed(("done", "fit/coil/2")) == frozenset()
    assert closed(("skip", "fit/coil/4")) == frozenset()


def test_a_gap_is_compared_with_how_it_was_left() -> None:
    """Anything else with the same reading of the last run."""
    assert compared_place(StepKey.parse("read/plug/2"), "gap_found") == ("gap/plug/2", "gap_left")
    assert compared_place(StepKey.parse("torque/plug/2"), "torque") == ("torque/plug/2", "torque")


@pytest.mark.parametrize(
    ("before", "now", "rate"),
    [(1000, 1600, 0.2), (1000, None, None), (None, 1600, None), (1600, 1600, None)],
)
def test_wear_is_told_where_both_meters_are_known(
    before: float | None, now: float | None, rate: float | None
) -> None:
    """Grown by 0.12 mm in 600 hours: 0.2 mm in a thousand."""
    last = past(before, ("gap/plug/2", "gap_left", 1.05))
    asked = next(s for s in PLAN.steps if s.key == "read/plug/2").readings[1]
    found = grown(last, past(now).state, StepKey.parse("read/plug/2"), asked, 1.17, 1.3)
    assert (found.rate if found else None) == rate
    if found:
        assert found.leaves_at == pytest.approx(1600 + (1.3 - 1.17) / 0.2 * 1000, abs=0.1)
    assert grown(last, past(1600).state, StepKey.parse("read/plug/4"), asked, 1.17, 1.3) is None
