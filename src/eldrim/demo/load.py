"""The demo workshop: Skerry Field, which looks after airfield ground equipment. All made up."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.engine.variants import Plate
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint
from eldrim.core.faults.diagnosis import diagnose
from eldrim.core.faults.follow import Asked, follow_plan
from eldrim.core.faults.ways import ways
from eldrim.core.job import Job, Work
from eldrim.core.operations import Operation, Phase
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.model import SIGNING, Plan, Reading, Step
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.core.run.path import CURED, NO, OUTCOME
from eldrim.core.run.verdicts import TAKEN
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.exchange.crib_table import read_csv
from eldrim.exchange.diagnoses import ComplaintQuestion, complaint_of
from eldrim.exchange.engine_file import read_engine
from eldrim.store import (
    accounts,
    bays,
    complaints,
    crib,
    edition_store,
    people,
    procedure_store,
    rules,
    runs,
    searches,
    sheet_store,
    unit_store,
)
from eldrim.store.tables import UnitRow, UserRow

HERE = Path(__file__).parent
ENGINES = HERE / "engines"
PASSWORD = "eldrim-demo"
PIN = "246813"
PEOPLE = (
    ("trainer", "Ines Harrow", "trainer"),
    ("technician", "Tam Okely", "technician"),
    ("lead", "Berit Vance", "lead"),
)
UNITS = (
    ("tug-14", "Tug 14", "marlet-34-v6", "late", "2231", "hours"),
    ("tug-15", "Tug 15", "marlet-34-v6", "late", "2248", "hours"),
    ("tug-21", "Tug 21", "marlet-34-v6", "late", "2390", "hours"),
    ("loader-6", "Belt loader 6", "corvane-20-turbo-four", "early", "3914", "hours"),
    ("loader-9", "Belt loader 9", "corvane-20-turbo-four", "late", "4417", "hours"),
    ("sweeper-2", "Sweeper 2", "brannoch-57-v8", "all", "BR57-0871", "km"),
    ("power-4", "Ground power set 4", "ostler-16-flat-four", "all", "1120", "hours"),
    ("lantern-1", "Follow-me 1", "kestwick-900-twin", "all", "KW900-55", "km"),
    ("bowser-3", "Bowser 3", "dunmarl-42-six", "gas", "DM42G-310", "hours"),
    ("boat-2", "Rescue boat 2", "sulair-750-triple", "all", "SU-77", "seasons"),
    ("tractor-3", "Tow tractor 3", "tarrel-28-six", "all", "TR-6612", "hours"),
    ("launch-1", "Rescue launch 1", "fendrake-50-marine-v8", "all", "FD-208", "hours"),
)
# What some units are complained of: unit, what was read and noticed.
COMPLAINTS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("tug-14", {"codes": "P0305, P0355"}),
    ("sweeper-2", {"codes": "P0171", "symptoms": ["idle"]}),
    ("bowser-3", {"codes": "P0304", "symptoms": ["wet"]}),
)
BAYS = ("Bay 1", "Bay 2", "Bay 3", "Hangar door")
DUE = {"next_due": "2027-05-20", "next_meter": 2900.0, "recheck": "2026-12-18"}
_SPACE = UUID("6f1d6c3e-0b2c-4e55-9b51-1d6a3c1fe0aa")


@cache
def demo_engines() -> tuple[Engine, ...]:
    """The demo engine sheets, as shipped."""
    return tuple(read_engine(p.read_bytes()) for p in sorted(ENGINES.glob("*.engine.yaml")))


def demo_crib() -> Crib:
    """The demo workshop's tools, as shipped: enough for most jobs, and a few things short."""
    return read_csv((HERE / "crib.csv").read_bytes(), version=STANDARD_CRIB.version)


def load(session: Session) -> bool:
    """Load the demo workshop into an empty store; False when there is something in it already."""
    if session.scalar(select(func.count()).select_from(UserRow)):
        return False
    for name, display, role in PEOPLE:
        accounts.add_user(session, name, display, role, PASSWORD)
    session.flush()
    people.set_pin(session, "lead", PIN)
    for bay in BAYS:
        bays.add(session, bay)
    for engine in demo_engines():
        sheet_store.save_sheet(session, engine, "trainer")
    crib.save(session, demo_crib(), "trainer", "Counted at the yearly check")
    for key, name, engine_id, variant, serial, meter in UNITS:
        about = unit_store.UnitFacts(
            name=name,
            engine_id=engine_id,
            meter=meter,
            plate=Plate(serial=serial),
            variant=variant,
            told_by="plate",
        )
        unit_store.save_unit(session, key, about, new=True)
    session.flush()
    _old_story(session)
    _also_released(session)
    _history(session)
    for on, said in COMPLAINTS:
        sheet = sheet_store.sheet(session, unit_store.unit(session, on).engine_id)
        told = complaint_of(sheet, ComplaintQuestion.model_validate(said))
        kept = complaints.Told(said, told.words(), told.name)
        complaints.keep(session, uuid5(_SPACE, f"complaint {on}"), on, kept, "technician")
    return True


def _history(session: Session) -> None:
    engine = sheet_store.sheet(session, "marlet-34-v6")
    job = Job(cylinders=(2, 4, 6), work=(Work.COIL, Work.PLUG), variant="late")
    key = procedure_store.add_procedure(session, engine, job, "trainer")
    edits = {"remove/plug/2": Edit(note="Radiator hose is close here: turn the ratchet away.")}
    procedure_store.save_edit(session, key, "remove/plug/2", edits["remove/plug/2"], Edit())
    released = apply_edits(compile_plan(engine, job, crib=crib.in_force(session)), edits)
    edition = edition_store.release(session, key, released, "trainer", "First edition, front bank")
    for index, (unit, wear, seen, taken) in enumerate(PAST):
        run = runs.start(session, uuid5(_SPACE, unit), edition.id, unit, "technician", BAYS[index])
        went = Went(wear, 1840 + 610 * index, run.unit.serial, seen, taken)
        _follow(session, run.id, released, went)


def _old_story(session: Session) -> None:
    """A unit whose plugs were fitted before a coil was renewed: read now, they tell of before."""
    unit = unit_store.unit(session, "loader-6")
    engine = sheet_store.sheet(session, unit.engine_id)
    job = Job(cylinders=(1, 2), work=(Work.PLUG,), variant=unit.variant)
    key = procedure_store.add_procedure(session, engine, job, "trainer")
    plugs = compile_plan(engine, job, crib=crib.in_force(session))
    edition = edition_store.release(session, key, plugs, "trainer", "First edition")
    sound = Went(0.0, 1410, unit.serial, {})
    run = runs.start(session, uuid5(_SPACE, "fitted"), edition.id, unit.id, "technician", BAYS[2])
    _follow(session, run.id, plugs, sound)
    _coil_found(session, unit, engine)
    black = Went(0.03, 1466, unit.serial, {"2": "sooty-black"})
    run = runs.start(session, uuid5(_SPACE, "read"), edition.id, unit.id, "technician", BAYS[2])
    _follow(session, run.id, plugs, black)


def _coil_found(session: Session, unit: UnitRow, engine: Engine) -> None:
    """A search on it that found the coil of 2."""
    tools, house = crib.in_force(session), rules.in_force(session)
    said = Complaint(codes=read_codes(engine, "P0302,P0352"))
    found = diagnose(engine, unit.variant, said, ways(engine, unit.variant, house, tools))
    asked = Asked(engine, unit.variant, house, tools, complaint="P0302, P0352")
    search, run = follow_plan(asked, found), uuid5(_SPACE, "coil found")
    edition = searches.edition_for(session, run, search, "technician")
    runs.start(session, run, edition.id, unit.id, "technician", BAYS[2])
    went = Went(0.0, 1437, unit.serial, {})
    at = datetime.now(UTC) - timedelta(hours=1)
    while step := runs.state(session, run).current(search):
        at += timedelta(minutes=0.6)
        _do(session, run, step, went, at)
        if step.key == SIGNING:
            return


def _also_released(session: Session) -> None:
    """Released procedures on more engines, so that the bay has a choice: plugs, and the jobs with
    wires.
    """
    plug, lead, eight, six = (Work.PLUG,), (Work.LEAD, Work.PLUG), range(1, 9), range(1, 7)
    for key, cylinders, work, variant in (
        ("corvane-20-turbo-four", range(1, 5), plug, "late"),
        ("dunmarl-42-six", (4, 5, 6), plug, "gas"),
        ("dunmarl-42-six", six, lead, "gas"),
        ("fendrake-50-marine-v8", eight, (*lead, Work.CAP, Work.ROTOR), "all"),
        ("ostler-16-flat-four", (), (Work.TIMING,), "all"),
        ("tarrel-28-six", six, (*lead, Work.CAP, Work.ROTOR, Work.POINTS), "all"),
        ("tarrel-28-six", (), (Work.BATTERY, Work.CHARGING), "all"),
    ):
        engine = sheet_store.sheet(session, key)
        job = Job(cylinders=tuple(cylinders), work=work, variant=variant)
        row = procedure_store.add_procedure(session, engine, job, "trainer")
        made = compile_plan(engine, job, crib=crib.in_force(session))
        edition_store.release(session, row, made, "trainer", "First edition")


@dataclass(frozen=True)
class Went:
    """How a run of the past went: wear of the gaps, meter, plate, what its plugs looked like, and
    which verdict on them was taken up.
    """

    wear: float
    meter: float
    serial: str
    seen: dict[str, str]
    taken: str = ""


# Unit, wear, what was seen on its plugs, and what was taken up of what they tell: rich over a bank,
# and oil in one hole.
PAST = (
    (
        "tug-15",
        0.02,
        {"2": "sooty-black", "4": "sooty-black", "6": "sooty-black"},
        "bank-rich@2+4+6",
    ),
    ("tug-21", 0.05, {"4": "wet-oily"}, "oil-up@4"),
)


def _follow(session: Session, run: UUID, procedure: Plan, went: Went) -> None:
    paces = {step.key: _pace(step) for step in procedure.steps}
    at = datetime.now(UTC) - timedelta(minutes=sum(paces.values()))
    for step in procedure.steps:
        if step.phase is Phase.FIT:
            _take_up(session, run, went, at)
        _do(session, run, step, went, at)
        at += timedelta(minutes=paces[step.key])


def _do(session: Session, run: UUID, step: Step, went: Went, at: datetime) -> None:
    """Write a step's readings down, let a lead release it, and close it."""
    # A verdict was taken up, so it is looked at again.
    due = DUE if went.taken else {}
    known = {**due, "serial": went.serial}
    for reading in (r for r in step.readings if r.required or r.key in due):
        value = known.get(reading.key) or typical_value(step, reading, went)
        about: dict[str, Any] = {
            "reading": reading.key,
            "value": value,
            "unit": reading.unit,
            "made": at,
        }
        _add(session, run, EntryKind.READING, step.key, **about)
    if step.hold:
        _add(session, run, EntryKind.RELEASE, step.key, Role.LEAD, made=at)
    kind = EntryKind.SIGN if step.key == SIGNING else EntryKind.DONE
    _add(session, run, kind, step.key, checks=tuple(c.key for c in step.checks), made=at)


def _take_up(session: Session, run: UUID, went: Went, at: datetime) -> None:
    """Take up what the plugs told, once, when all are read."""
    if went.taken and not runs.state(session, run).verdicts:
        about: dict[str, Any] = {"reading": went.taken, "value": TAKEN, "how": "tapped"}
        hole = next(iter(went.seen))
        _add(session, run, EntryKind.VERDICT, f"read/plug/{hole}", **about, made=at)


def _pace(step: Step) -> float:
    """The minutes a step took: near the plan, and twice it where the hose is close."""
    spread = 0.85 + sum(map(ord, step.key)) % 5 / 10
    return step.minutes * (2.2 if step.key == "remove/plug/2" else spread)


def typical_value(step: Step, reading: Reading, went: Went) -> float | str:
    """A value as it would be written down, inside its window."""
    if reading.key == OUTCOME:
        return next(one for one in (NO, CURED, *reading.choices) if one in reading.choices)
    if reading.kind == "choice":
        of_plug = step.key.operation is Operation.READ_PLUG
        return went.seen.get(step.hole or "", reading.choices[0]) if of_plug else reading.choices[0]
    if reading.kind == "text":
        return "none"
    spread = (sum(map(ord, step.key)) % 5 - 2) / 100
    gap = next(((f.min + f.max) / 2 for f in step.figures if f.key == "plug-gap"), 1.05)
    typical = {
        "meter": went.meter,
        "volts": 12.6,
        "temperature": 22.0,
        "free_turns": 6.0,
        "gap_found": round(gap + 0.05 + went.wear * 2 + spread, 2),
        "gap_left": round(gap + 0.01 + spread / 2, 2),
    }
    if reading.key in typical:
        return typical[reading.key]
    assert reading.low is not None
    assert reading.high is not None
    return round((reading.low + reading.high) / 2 + spread * 10, 1)


def _add(
    session: Session,
    run: UUID,
    kind: EntryKind,
    step: str,
    role: Role = Role.TECHNICIAN,
    **more: Any,
) -> None:
    """Write an entry; a search comes to some steps again."""
    count = runs.state(session, run).count
    key = uuid5(_SPACE, f"{run} {kind} {step} {more.get('reading', '')} {count}")
    entry = Entry.model_validate({"id": key, "kind": kind, "step": step, **more})
    runs.add(session, run, entry, role.value, role)
