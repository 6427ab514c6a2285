"""What one run leaves: minutes, marks, numbers, clicks, what was fitted and what had failed."""

from datetime import UTC, datetime, timedelta
from functools import cache
from uuid import UUID

import pytest

from eldrim.core.job import Job, Work
from eldrim.core.lessons.costs import planned_cost, real_cost
from eldrim.core.lessons.digest import RunDigest, digest
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import SIGNING, Plan, Reading, Step
from eldrim.core.run.entries import Entry, EntryKind, Recorded, Role
from eldrim.core.run.history import Past
from eldrim.core.run.state import fold_all
from tests.builders import tug, typical
from tests.core.demo_sheets import FOUR

K = EntryKind
AT = datetime(2026, 3, 2, 8, tzinfo=UTC)


@cache
def plan() -> Plan:
    """Plugs of the rear bank."""
    return compile_plan(tug(), Job(cylinders=(1, 3, 5), work=(Work.PLUG,)))


def usual(step: Step, reading: Reading) -> float | str:
    """A value in its window; a gap is found as it should be left."""
    gap = next((f for f in step.figures if f.key == "plug-gap"), None)
    return (gap.min + gap.max) / 2 if gap and reading.key == "gap_found" else typical(reading)


class Follow:
    """A run followed step by step, with what goes wrong at some of them."""

    def __init__(
        self, made: Plan, wrong: dict[str, list[dict[str, object]]], **values: object
    ) -> None:
        """Follow it to the signature."""
        self.made, self.entries, self.at = made, list[Recorded](), AT
        for step in made.steps:
            self.at += timedelta(minutes=step.minutes)
            for more in wrong.get(step.key, []):
                self.write(**{"step": step.key, **more})
            for reading in step.readings:
                said = values.get(f"{step.key}:{reading.key}", usual(step, reading))
                if reading.required:
                    self.write(kind=K.READING, step=step.key, reading=reading.key, value=said)
            kind = K.SIGN if step.key == SIGNING else K.DONE
            if not any(one.get("kind") is K.SKIP for one in wrong.get(step.key, [])):
                self.write(kind=kind, step=step.key)

    def write(self, **about: object) -> None:
        """One entry."""
        entry = Entry.model_validate(
            {"id": UUID(int=len(self.entries) + 1), "made": self.at, **about}
        )
        self.entries.append(Recorded(entry=entry, by="tam", role=Role.TECHNICIAN, at=self.at))

    @property
    def past(self) -> Past:
        """The run as it is looked back on."""
        return Past(UUID(int=9), self.at, self.made, self.entries, fold_all(self.entries))

    @property
    def digest(self) -> RunDigest:
        """What it leaves."""
        return digest(self.past, {})


def test_a_run_as_planned() -> None:
    """Every step took its plan, the first aside: nothing tells when it was begun."""
    found = Follow(plan(), {}).digest
    timed = [row for row in found.steps if row.took is not None]
    assert len(timed) == len(found.steps) - 1
    for row in timed:
        assert row.took == pytest.approx(row.planned, abs=0.06), row
    assert not any(row.marks for row in found.steps)
    assert not found.found
    assert not found.failed


def test_plugs_fitted_new_with_their_number() -> None:
    """At each hole, and the numbers of all that went in."""
    found = Follow(plan(), {}).digest
    assert [(one.thing, one.hole, one.number) for one in found.new] == [
        ("plug", hole, plan().numbers["plug"]) for hole in ("1", "3", "5")
    ]
    assert plan().numbers["plug"] in found.numbers


def test_marks_stand_at_their_steps() -> None:
    """A stop, a thing that differed and a step left out, with who said so."""
    wrong = {
        "remove/coil/3": [{"kind": K.STOP, "reason": "boot_torn"}],
        "remove/plug/3": [{"kind": K.DIFFERS, "reason": "longer"}],
        "read/plug/5": [{"kind": K.SKIP, "reason": "stuck"}],
    }
    found = Follow(plan(), wrong).digest
    marks = {row.step: [one.kind for one in row.marks] for row in found.steps if row.marks}
    assert marks == {
        "remove/coil/3": ["stop"],
        "remove/plug/3": ["differs"],
        "read/plug/5": ["skip"],
    }
    assert {"boot_torn", "longer"} <= set(found.found)
    assert all(one.by == "tam" for row in found.steps for one in row.marks)


def test_a_torn_boot_failed_and_is_new() -> None:
    """At its hole; the plug there is none the worse."""
    found = Follow(plan(), {"remove/coil/3": [{"kind": K.STOP, "reason": "boot_torn"}]}).digest
    assert [(one.thing, one.hole, one.why) for one in found.failed] == [("boot", "3", "boot_torn")]
    assert ("boot", "3") in {(one.thing, one.hole) for one in found.new}


@pytest.mark.parametrize(
    ("said", "failed"),
    [
        ("insulator-cracked", [("plug", "5", "insulator-cracked")]),
        ("sooty-black", []),
        ("tan-dry", []),
        ("boot-torn,wet-oily", [("boot", "5", "boot-torn")]),
    ],
)
def test_conditions_that_are_failures(said: str, failed: list[tuple[str, str, str]]) -> None:
    """A crack is one, soot is a sign."""
    found = Follow(plan(), {}, **{"read/plug/5:condition": said}).digest
    assert [(one.thing, one.hole, one.why) for one in found.failed] == failed
    assert set(found.found) == set(said.split(",")) - {"tan-dry"}


def test_a_gap_out_of_its_range_is_worn() -> None:
    """And is kept in mm, found beside left."""
    step = next(s for s in plan().steps if s.key == "read/plug/1")
    high = next(f.max for f in step.figures if f.key == "plug-gap")
    found = Follow(plan(), {}, **{"read/plug/1:gap_found": high * 1.3}).digest
    assert [(one.thing, one.hole, one.why) for one in found.failed] == [("plug", "1", "worn")]
    gap = next(one for one in found.gaps if one.hole == "1")
    assert gap.found is not None
    assert gap.found > (gap.high or 9.0)


def test_what_a_wrench_showed_is_held_against_its_setting() -> None:
    """Only where both are in one unit, at each plug."""
    found = Follow(plan(), {}).digest
    assert len(found.clicks) == 3
    setting = next(
        f.setting for s in plan().steps if s.key == "torque/plug/1" for f in s.figures if f.setting
    )
    assert {(one.wrench, one.set_to) for one in found.clicks} == {
        (setting.wrench_id, setting.value)
    }


def test_boots_as_work_renew_one_at_each_hole() -> None:
    """The belt loader's: its coils come off, each gets a new boot, all under one number."""
    sheet = FOUR
    job = Job(cylinders=(1, 2, 3, 4), work=(Work.PLUG,), companions=("boot",), variant="late")
    made = compile_plan(sheet, job)
    found = Follow(made, {}).digest
    boots = [(one.hole, one.number) for one in found.new if one.thing == "boot"]
    assert boots == [(hole, "CV-BT-204") for hole in ("1", "2", "3", "4")]
    assert [line.part_number for line in made.parts].count("CV-BT-204") == 1
    planned = planned_cost(sheet, made, 1.0)
    assert planned.parts == pytest.approx(4 * 13.5 + 4 * 7.5)
    assert real_cost(sheet, made, found, 1.0).parts == planned.parts
    plain = compile_plan(sheet, job.model_copy(update={"companions": ()}))
    assert "CV-BT-204" not in Follow(plain, {}).digest.numbers, "laid out, not fitted"


def test_costs_are_minutes_and_parts() -> None:
    """Planned and real alike where all went as planned; half as long again costs that much more."""
    sheet = FOUR
    made = compile_plan(sheet, Job(cylinders=(1, 2), work=(Work.PLUG,), variant="late"))
    planned = planned_cost(sheet, made, 1.5)
    assert planned.parts == pytest.approx(2 * 13.5)
    assert planned.work == pytest.approx(made.minutes * 1.5)
    real = real_cost(sheet, made, Follow(made, {}).digest, 1.5)
    assert real.parts == planned.parts
    slow = Follow(made, {}).digest.model_copy(update={"took": made.minutes * 1.5})
    assert real_cost(sheet, made, slow, 1.5).work == pytest.approx(1.5 * planned.work, abs=0.02)
    torn = Follow(made, {"remove/coil/1": [{"kind": K.STOP, "reason": "boot_torn"}]}).digest
    assert real_cost(sheet, made, torn, 1.5).parts == pytest.approx(planned.parts + 7.5)


def test_a_gap_out_of_the_box_is_held_to_what_it_is_left_at() -> None:
    """It is asked of nobody; measured too small, it is under, and what was left is in."""
    step = next(s for s in plan().steps if s.key == "gap/plug/1")
    assert [(r.key, r.required) for r in step.readings] == [
        ("gap_left", True),
        ("gap_supplied", False),
    ]
    run = Follow(
        plan(), {"gap/plug/1": [{"kind": K.READING, "reading": "gap_supplied", "value": 0.7}]}
    )
    at = {row.reading: row.place for row in run.digest.values if row.hole == "1"}
    assert (at["gap_supplied"], at["gap_left"]) == ("under", "in")
