"""What the plugs of a run tell, beside its steps."""

from sqlalchemy.orm import Session

from eldrim.core.base.quantity import format_number
from eldrim.core.reading.observed import Known, PlugSet
from eldrim.core.reading.signs import amiss
from eldrim.core.run.entries import Entry
from eldrim.core.run.plug_set import Background, SetOfRun, reads_plugs, set_of_run, signs_at
from eldrim.core.run.verdicts import place_of, taken_up
from eldrim.core.words import say
from eldrim.store import edition_store, past_runs, rules, runs, searches, sheet_store
from eldrim.store.tables import RunRow
from eldrim.web.reading.view import ReadingView, reading_view


def verdict_view(
    db: Session, row: RunRow, known: frozenset[Known] = frozenset(), *, whole: bool = True
) -> ReadingView | None:
    """The verdict on a run's plugs, in the language in use; None while a hole is not read yet.

    Without ``whole`` it is told of those that were read, where any was.
    """
    plan = edition_store.plan_of(row.edition)
    if not reads_plugs(plan):
        return None
    state, engine = runs.state(db, row.id), sheet_store.sheet(db, plan.engine)
    before = past_runs.past_before(db, row)
    if before and searches.proven_between(db, row.unit_id, before.at, row.signed_at):
        known |= {Known.REPAIRED}
    recheck = rules.in_force(db).recheck
    read = set_of_run(engine, plan, state, Background(before, row.unit.meter, known, recheck))
    if not read.found.read or (whole and not read.whole):
        return None
    places = {}
    for verdict in read.found.verdicts:
        place = place_of(plan, verdict)
        said = state.verdicts.get(place) if place else None
        places[f"{verdict.cause} {' '.join(verdict.holes)}"] = (place, said)
    return reading_view(engine, read.found, read.plugs, places, _since(read))


def no_longer_told(db: Session, row: RunRow, view: ReadingView) -> list[tuple[Entry, str]]:
    """What was taken up and is told no more, since a reading was corrected: entry and title."""
    told = {shown.place for shown in view.verdicts}
    taken = taken_up(runs.state(db, row.id))
    return [(e, said.title) for e, said in taken if (e.step, e.reading) not in told]


def view_signs(db: Session, row: RunRow) -> dict[str, frozenset[str]]:
    """What is amiss at each hole a run read so far."""
    seen = signs_at(edition_store.plan_of(row.edition), runs.state(db, row.id))
    return {hole: found for hole, signs in seen.items() if (found := amiss(signs))}


def _since(read: SetOfRun) -> str:
    ran = _ran(read.plugs)
    return say("bay.verdict_since", since=ran) if ran else ""


def _ran(plugs: PlugSet) -> str:
    for value, unit in ((plugs.since_km, "km"), (plugs.since_h, "h")):
        if value is not None:
            return f"{format_number(value, 1)} {unit}"
    return ""
