"""The set of plugs of a run: what was written down at its holes, as signs; and what it tells."""

from dataclasses import dataclass

from eldrim.core.base.quantity import convert
from eldrim.core.engine.model import Engine
from eldrim.core.operations import Operation, StopKind
from eldrim.core.procedure.model import Plan
from eldrim.core.reading.observed import Known, PlugSet
from eldrim.core.reading.signs import signs_of
from eldrim.core.reading.verdict import SetVerdict, verdict_of
from eldrim.core.reading_choices import APART
from eldrim.core.rules.house import DEFAULT_RECHECK, Recheck
from eldrim.core.run.due import meter_now
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.history import Past
from eldrim.core.run.state import RunState

READS = (Operation.READ_PLUG, Operation.READ_COIL)
CONDITION, GAP_FOUND = "condition", "gap_found"
# What a stop at a hole says of it.
STOP_SIGNS: dict[str, str] = {
    StopKind.OIL_IN_WELL: "well-oil",
    StopKind.WATER_IN_WELL: "well-water",
    StopKind.BOOT_TORN: "boot-torn",
    StopKind.CRACKED_INSULATOR: "cracked",
    StopKind.PLUG_BINDS: "stiff",
}
# What a unit's meter counts in, by how its card calls it.
COUNTS = {"km": "since_km", "hours": "since_h"}


@dataclass(frozen=True)
class Background:
    """What is known of a run's plugs: ``before`` is the last signed run of a job on the unit, whose
    meter counts in ``meter_unit``; ``known`` and ``recheck`` are handed on to the verdict.
    """

    before: Past | None
    meter_unit: str
    known: frozenset[Known] = frozenset()
    recheck: Recheck = DEFAULT_RECHECK


@dataclass(frozen=True)
class SetOfRun:
    """What a run read, what it tells, and whether every hole it reads was read."""

    plugs: PlugSet
    found: SetVerdict
    whole: bool


def reads_plugs(plan: Plan) -> bool:
    """Whether plugs are read in a procedure at all."""
    return any(step.key.operation is Operation.READ_PLUG for step in plan.steps)


def set_of_run(engine: Engine, plan: Plan, state: RunState, about: Background) -> SetOfRun:
    """The verdict on what a run read so far."""
    before = about.before
    reading = [step for step in plan.steps if step.key.operation in READS and step.hole]
    last = signs_at(before.plan, before.state) if before else {}
    plugs = PlugSet(
        seen=signs_at(plan, state),
        gaps=_gaps(plan, state),
        last=last,
        known=about.known,
        recheck=about.recheck,
        **_since(state, before, about.meter_unit),
    )
    return SetOfRun(
        plugs=plugs,
        found=verdict_of(engine, plan.job.variant, plugs),
        whole=bool(reading) and all(step.key in state.closings for step in reading),
    )


def signs_at(plan: Plan, state: RunState) -> dict[str, frozenset[str]]:
    """The signs at each hole whose plug was read; coils, boots and wells say more of them."""
    picked: dict[str, set[str]] = {}
    for step in plan.steps:
        had = state.values.get((step.key, CONDITION))
        if step.key.operation in READS and step.hole and had:
            picked.setdefault(step.hole, set()).update(_picks(had.entry.value))
    holes: dict[str, str] = {step.key: step.hole or "" for step in plan.steps}
    for mark in state.marks.values():
        hole = holes[mark.entry.step]
        if mark.entry.kind is EntryKind.STOP and mark.entry.reason in STOP_SIGNS and hole in picked:
            picked[hole].add(STOP_SIGNS[mark.entry.reason])
    return {hole: signs_of(picks) for hole, picks in picked.items()}


def _picks(value: float | str | None) -> list[str]:
    """What was picked; a sentence kept before conditions had ids is one, whatever is in it."""
    said = str(value)
    return [said, *said.split(APART)]


def _gaps(plan: Plan, state: RunState) -> dict[str, float]:
    """The gaps as found, in mm."""
    found = {}
    for step in plan.steps:
        had = state.values.get((step.key, GAP_FOUND))
        if step.hole and had and isinstance(had.entry.value, int | float):
            found[step.hole] = convert(float(had.entry.value), had.entry.unit or "mm", "mm")
    return found


def _since(state: RunState, before: Past | None, unit: str) -> dict[str, float]:
    """What the plugs ran since the last run fitted plugs, by the meter; nothing where not known."""
    now = meter_now(state)
    if before is None or before.meter is None or now is None or unit not in COUNTS:
        return {}
    return {COUNTS[unit]: now - before.meter} if before.fitted_plugs and now >= before.meter else {}
