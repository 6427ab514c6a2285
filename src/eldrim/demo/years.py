"""Two years of made-up history for the demo workshop, by a generator with a seed.

What is planted in it, so that what looks for such things has something to find: the intake duct of
the tugs takes far longer than planned; one torque wrench drifts upwards through the second year;
boots fitted to the belt loaders in one summer tear soon; a hole of one tug wears its plug far
faster; technicians work at paces of their own; batteries grow old.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from random import Random
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from eldrim.core.base.quantity import convert
from eldrim.core.job import Job, Work
from eldrim.core.operations import Operation, StopKind
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import SIGNING, Plan, Reading, Step
from eldrim.core.run.entries import EntryKind, Role
from eldrim.demo.load import BAYS, Went, typical_value
from eldrim.store import (
    accounts,
    crib,
    dues,
    edition_store,
    gathered,
    procedure_store,
    sheet_store,
    unit_store,
)
from eldrim.store.tables import EditionRow, EntryRow, ProcedureRow, RunRow

SEED = 2026
DAYS = 730
# How long before today the last of it lies, so that the demo's own runs come after.
BEFORE_TODAY = 6
_SPACE = UUID("0d0c5a4e-77a1-4f0e-9d2b-5f7f6a0c4a11")
# Who worked there, and at what pace beside the plan.
HANDS = (("technician", 1.0), ("mira", 0.88), ("jonas", 1.22))
MORE_PEOPLE = (("mira", "Mira Sand", "technician"), ("jonas", "Jonas Fell", "technician"))
# What takes longer than the sheet says, and how much.
SLOW_PART, SLOW_BY = "intake-duct", 2.8
# The wrench that drifts: share of its setting by the end.
DRIFTS, DRIFT = "t-38-50", 0.07
# Whose boots are renewed with their plugs; those fitted between these days tear by the next time.
BOOTS, BAD_DAYS, TEARS = "corvane-20-turbo-four", (300, 420), 0.75
# What a plug looks like now and then, whatever the unit.
SEEN, SEEN_SHARE = ("sooty-black", "white-clean", "crust", "wet-oily"), 0.05
# The hole that wears fast, and how much faster; what others wear in mm a thousand h or km.
FAST = ("tug-14", "5", 5.0)
GAP_PER_THOUSAND = {"h": 0.02, "km": 0.0008}


@dataclass(frozen=True)
class Kept:
    """How a unit is run: per day of its meter, what it reads today, days from plugs to plugs."""

    unit: str
    per_day: float
    stands: float
    plugs_every: int
    checked_every: int = 30


UNITS = (
    Kept("tug-14", 3.1, 3_640, 175),
    Kept("tug-15", 1.6, 1_790, 240),
    Kept("tug-21", 2.4, 2_390, 200),
    Kept("loader-6", 1.1, 1_380, 105),
    Kept("loader-9", 1.9, 2_260, 95),
    Kept("sweeper-2", 42, 61_200, 190),
    Kept("power-4", 1.3, 4_120, 230),
    Kept("lantern-1", 35, 38_400, 220),
    Kept("bowser-3", 2.0, 2_980, 215),
    Kept("tractor-3", 1.5, 5_310, 205),
    Kept("launch-1", 0.6, 890, 300),
)


@dataclass
class _Plug:
    """A plug in its hole: its gap when it was fitted, and where the meter stood."""

    gap: float
    meter: float


@dataclass
class _Unit:
    """A unit as its history goes on."""

    kept: Kept
    serial: str
    counts: str
    plugs: dict[str, _Plug] = field(default_factory=dict)
    # By hole the day its boot was fitted.
    boots: dict[str, int] = field(default_factory=dict)

    def meter(self, day: int) -> float:
        """What its meter reads on a day: busier in summer."""
        season = 1 + 0.25 * (0.5 - abs((day % 365) / 365 - 0.5))
        return round(self.kept.stands - self.kept.per_day * (DAYS - day) * season, 1)


def load_years(session: Session, units: Sequence[Kept] = UNITS) -> int:
    """Add the two years of these units to a demo workshop; how many runs they are."""
    for name, display, role in MORE_PEOPLE:
        accounts.add_user(session, name, display, role, "eldrim-demo")
    session.flush()
    chance, count = Random(SEED), 0
    known: dict[tuple[str, str], list[_Edition]] = {}
    for kept in units:
        row = unit_store.unit(session, kept.unit)
        unit = _Unit(kept, row.serial, "km" if row.meter == "km" else "h")
        kind = (row.engine_id, row.variant)
        editions = known.get(kind) or _editions(session, *kind)
        known[kind] = editions
        rows, entries = [], []
        for day, edition in _days(kept, editions, chance):
            made = _run(unit, edition, day, chance)
            rows.append(made[0])
            entries += made[1]
        session.execute(insert(RunRow), rows)
        session.execute(insert(EntryRow), entries)
        session.flush()
        count += len(rows)
    # They are older than what the demo did today.
    gathered.forget(session)
    gathered.settle(session, count + 100)
    for kept in units:
        dues.work_out(session, kept.unit)
    return count


@dataclass(frozen=True)
class _Edition:
    id: UUID
    plan: Plan
    plugs: bool


def _editions(session: Session, engine: str, variant: str) -> list[_Edition]:
    """What is done on a kind of unit: its battery and charging, and its plugs."""
    sheet = sheet_store.sheet(session, engine)
    every = tuple(sheet.cylinders)
    banks = {c.bank for c in sheet.cylinders.values()}
    rear = tuple(n for n, c in sheet.cylinders.items() if c.bank == "rear")
    boots = ("boot",) if engine == BOOTS else ()
    holes = rear if rear and len(banks) > 1 else every
    plugs = [Job(cylinders=holes, work=(Work.PLUG,), companions=boots)]
    supply = Job(work=(Work.BATTERY, Work.CHARGING))
    jobs = [(supply, False), *((job, True) for job in plugs)]
    return [
        _released(session, engine, job.model_copy(update={"variant": variant}), plugs=of_plugs)
        for job, of_plugs in jobs
    ]


def _released(session: Session, engine: str, job: Job, *, plugs: bool) -> _Edition:
    sheet = sheet_store.sheet(session, engine)
    standing = select(ProcedureRow).where(
        ProcedureRow.engine_id == engine, ProcedureRow.standing_id.is_not(None)
    )
    for row in session.scalars(standing):
        newest = session.get(EditionRow, row.standing_id)
        if newest is not None and row.job == job.model_dump(mode="json"):
            return _Edition(newest.id, edition_store.plan_of(newest), plugs)
    key = procedure_store.add_procedure(session, sheet, job, "trainer")
    made = compile_plan(sheet, job, crib=crib.in_force(session))
    edition = edition_store.release(session, key, made, "trainer", "First edition")
    return _Edition(edition.id, made, plugs)


def _days(
    kept: Kept, editions: Sequence[_Edition], chance: Random
) -> Iterator[tuple[int, _Edition]]:
    """On which days what is done, in order."""
    checks = next(e for e in editions if not e.plugs)
    plugs = [e for e in editions if e.plugs]
    planned: list[tuple[int, _Edition]] = []
    for edition, every in ((checks, kept.checked_every), *((e, kept.plugs_every) for e in plugs)):
        day = chance.randint(3, every)
        while day < DAYS - 2:
            planned.append((day, edition))
            day += max(5, round(chance.gauss(every, every * 0.08)))
    yield from sorted(planned, key=lambda one: (one[0], str(one[1].id)))


def _run(
    unit: _Unit, edition: _Edition, day: int, chance: Random
) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """One run as it is kept: its row and its entries."""
    hand, pace = chance.choice(HANDS)
    begun = datetime.now(UTC).replace(hour=7, minute=0, second=0, microsecond=0)
    begun += timedelta(days=day - DAYS - BEFORE_TODAY, minutes=chance.randint(0, 300))
    key = uuid5(_SPACE, f"{unit.kept.unit} {edition.id} {day}")
    write = _Writer(unit, day, key, hand, chance, begun)
    write.boots = "boot" in edition.plan.job.companions
    for step in edition.plan.steps:
        write.step(step, pace)
    row = {
        "id": key,
        "edition_id": edition.id,
        "unit_id": unit.kept.unit,
        "by": hand,
        "at": begun,
        "signed_at": write.at,
        "bay": chance.choice(BAYS),
        "serial": unit.serial,
        "hands": [hand],
        "marks": {"stop": write.stopped} if write.stopped else {},
        "meter": unit.meter(day),
    }
    return row, write.entries


class _Writer:
    """Writes a run down, step by step, as the clock goes on."""

    def __init__(
        self, unit: _Unit, day: int, run: UUID, hand: str, chance: Random, begun: datetime
    ) -> None:
        self.unit, self.day, self.run, self.hand = unit, day, run, hand
        self.chance, self.at = chance, begun
        self.entries: list[dict[str, Any]] = []
        self.stopped = 0
        self.went = Went(0.0, unit.meter(day), unit.serial, {})
        self.boots = False

    def step(self, step: Step, pace: float) -> None:
        """What is written at one step, and how long it took."""
        minutes = step.minutes * pace * self.chance.uniform(0.85, 1.2)
        if step.part == SLOW_PART:
            minutes *= SLOW_BY
        if self.chance.random() < 0.004:
            minutes += 35
        self.at += timedelta(minutes=minutes)
        for reading in (r for r in step.readings if r.required):
            value = self._value(step, reading)
            said = {"reading": reading.key, "unit": reading.unit, "how": "typed"}
            self._write(EntryKind.READING, step, {**said, "value": value})
        if self._torn(step):
            self._stop(step, StopKind.BOOT_TORN, "new boot on, seated")
        if step.hold:
            self._write(EntryKind.RELEASE, step, {}, Role.LEAD, "lead")
        kind = EntryKind.SIGN if step.key == SIGNING else EntryKind.DONE
        self._write(kind, step, {"checks": [check.key for check in step.checks]})

    def _write(
        self,
        kind: EntryKind,
        step: Step,
        more: dict[str, Any],
        role: Role = Role.TECHNICIAN,
        by: str = "",
    ) -> UUID:
        key = uuid5(self.run, f"{len(self.entries)}")
        made = self.at.isoformat()
        body = {"id": str(key), "kind": kind.value, "step": str(step.key), "made": made, **more}
        self.entries.append(
            {
                "id": key,
                "run_id": self.run,
                "body": body,
                "by": by or self.hand,
                "role": role.value,
                "at": self.at,
            }
        )
        return key

    def _stop(self, step: Step, why: StopKind, cleared: str) -> None:
        """The work stops, and goes on once the trade's answer is given."""
        self.stopped += 1
        stop = self._write(EntryKind.STOP, step, {"reason": why.value})
        self.at += timedelta(minutes=4)
        self._write(EntryKind.RESUME, step, {"refers_to": str(stop), "note": cleared})

    def _torn(self, step: Step) -> bool:
        """Whether a boot fitted in the bad time is found torn as its coil comes off."""
        hole, (first, last) = step.hole or "", BAD_DAYS
        if step.key.operation is not Operation.REMOVE_COIL:
            return False
        fitted = self.unit.boots.get(hole)
        if self.boots:
            self.unit.boots[hole] = self.day
        bad = fitted is not None and first <= fitted <= last
        return bad and self.chance.random() < TEARS

    def _value(self, step: Step, reading: Reading) -> float | str:
        meter = self.unit.meter(self.day)
        hole = step.hole or ""
        if reading.key == "gap_found":
            worn = self._worn(hole, meter) if hole in self.unit.plugs else None
            return _gauged(_first_found(step) if worn is None else worn, reading)
        if reading.key == "gap_left" and reading.low is not None and reading.high is not None:
            low, high = (convert(end, reading.unit, "mm") for end in (reading.low, reading.high))
            gap = min(high, max(low, (low + high) / 2 + self.chance.gauss(0, 0.012)))
            self.unit.plugs[hole] = _Plug(gap, meter)
            return _gauged(gap, reading)
        if reading.key == "torque" and DRIFTS in step.setup:
            return self._drifted(step, reading)
        if reading.key == "condition" and step.key.operation is Operation.READ_PLUG:
            seen = self.chance.random() < SEEN_SHARE
            return self.chance.choice(SEEN) if seen else reading.choices[0]
        if reading.key == "volts":
            # Of two batteries in a row, twice as much.
            batteries = round((reading.low or 12.3) / 12.3)
            old = 0.35 * self.day / DAYS
            return round(batteries * (12.75 - old + self.chance.gauss(0, 0.03)), 2)
        if reading.kind == "number" and reading.low is not None and reading.high is None:
            return round(reading.low * 1.05 + self.chance.gauss(0, 0.04), 2)
        return typical_value(step, reading, self.went)

    def _worn(self, hole: str, meter: float) -> float:
        """The gap a plug has come to, in mm."""
        plug, (fast, at, factor) = self.unit.plugs[hole], FAST
        rate = GAP_PER_THOUSAND[self.unit.counts] / 1_000
        if (self.unit.kept.unit, hole) == (fast, at):
            rate *= factor
        worn = plug.gap + rate * (meter - plug.meter) + self.chance.gauss(0, 0.008)
        return max(plug.gap - 0.01, worn)

    def _drifted(self, step: Step, reading: Reading) -> float:
        """What the wrench that drifts shows: right in the first year, ever more after."""
        aim = next((f.setting.value for f in step.figures if f.setting), _middle(reading, 17.5))
        drift = DRIFT * max(0.0, self.day / DAYS - 0.5) * 2
        value = aim * (1 + drift) + self.chance.gauss(0, 0.15)
        low, high = reading.low or value, reading.high or value
        return round(min(high, max(low, value)), 1)


def _gauged(gap: float, reading: Reading) -> float:
    """A gap in mm as a gauge shows it in the unit that is asked for."""
    return round(convert(gap, "mm", reading.unit), 2 if reading.unit == "mm" else 4)


def _first_found(step: Step) -> float:
    """The gap in mm of a plug nobody is known to have fitted: a little over its range's middle."""
    stated = next((f for f in step.figures if f.key == "plug-gap"), None)
    return convert((stated.min + stated.max) / 2, stated.unit, "mm") + 0.03 if stated else 1.0


def _middle(reading: Reading, otherwise: float) -> float:
    if reading.low is None or reading.high is None:
        return otherwise
    return round((reading.low + reading.high) / 2, 4)
