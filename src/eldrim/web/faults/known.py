"""What the log of a unit knows of a complaint, to begin with."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID

from sqlalchemy.orm import Session

from eldrim.core.faults.complaint import Symptom
from eldrim.core.reading.answer import ToldVerdict
from eldrim.core.reading.signs import amiss
from eldrim.core.run.history import Past
from eldrim.core.run.plug_set import reads_plugs, signs_at
from eldrim.store import past_runs, runs
from eldrim.store.tables import UnitRow
from eldrim.web.bay.verdict import verdict_view
from eldrim.web.faults.forms import signs_text

# A job that ended so lately may have left a connection loose.
LATELY = timedelta(days=14)
# What a meter counts in, as an age is written.
WRITTEN = {"km": "km", "hours": "h"}


@dataclass(frozen=True)
class RenewedCoils:
    """Coils that one run renewed, and what they ran since by the meter; empty where not known."""

    run: UUID
    at: datetime
    cylinders: tuple[int, ...]
    ran: str


@dataclass(frozen=True)
class LogKnows:
    """What the newest runs on a unit say of a complaint: what was done, what to begin with.

    ``signs`` are those amiss on its plugs, ``verdicts`` what they told then, ``symptoms`` that a
    job was done there lately, ``age`` what the plugs ran since they were fitted, ``coils`` those
    that were renewed, each where it was renewed last.
    """

    run: UUID
    at: datetime
    job: str
    signs: str
    symptoms: list[str]
    age: str = ""
    verdicts: tuple[ToldVerdict, ...] = ()
    coils: tuple[RenewedCoils, ...] = ()


def log_knows(db: Session, unit: UnitRow) -> LogKnows | None:
    """What the log knows of a unit; None where nothing was done on it yet."""
    past = past_runs.past(db, unit.id)
    if not past:
        return None
    last = next((run for run in past if reads_plugs(run.plan)), past[0])
    seen = {hole: amiss(signs) for hole, signs in signs_at(last.plan, last.state).items()}
    view = verdict_view(db, runs.run(db, last.run), whole=False)
    fitted = next((run for run in past if run.fitted_plugs and run.meter is not None), None)
    return LogKnows(
        run=last.run,
        at=last.at,
        job=last.plan.title,
        signs=signs_text({hole: signs for hole, signs in seen.items() if signs}),
        symptoms=[Symptom.AFTER_JOB.value] if datetime.now(UTC) - past[0].at < LATELY else [],
        age=_ran(past, fitted, unit.meter),
        verdicts=tuple(shown.told for shown in view.verdicts) if view else (),
        coils=_coils(past, unit.meter),
    )


def _coils(past: Sequence[Past], counts: str) -> tuple[RenewedCoils, ...]:
    found, known = [], set[int]()
    for run in past:
        new = tuple(sorted(run.renewed_coils - known))
        if new:
            found.append(RenewedCoils(run.run, run.at, new, _ran(past, run, counts)))
        known |= set(new)
    return tuple(found)


def _ran(past: Sequence[Past], since: Past | None, counts: str) -> str:
    """What the unit ran since a run, by the meter; empty where not known."""
    stood = [run.meter for run in past if run.meter is not None]
    if since is None or since.meter is None or counts not in WRITTEN:
        return ""
    return f"{max(stood) - since.meter:g} {WRITTEN[counts]}"
