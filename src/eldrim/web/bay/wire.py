"""What a tablet is sent of a run: the rules as data, the edition in outline, the state as it is."""

from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from eldrim.core.base.by_object import ByObject
from eldrim.core.base.quantity import UNITS, Dimension, convert, working_unit
from eldrim.core.figures.cooling import MIN_FALL_KELVIN
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.reading_choices import APART, IN_ORDER
from eldrim.core.run.blockers import needs, waits_for
from eldrim.core.run.carried import cannot_follow
from eldrim.core.run.effects import EFFECTS
from eldrim.core.run.entries import Recorded
from eldrim.core.run.parts_needed import parts_needed
from eldrim.core.run.path import OUTCOME
from eldrim.core.run.plausible import ALLOWED, MOST_TIMES, span
from eldrim.core.run.readings import limits_of
from eldrim.core.run.state import Place, RunState
from eldrim.core.run.stops import LEAD_CLEARS, reason_of
from eldrim.core.run.waiting import LEAST_APART_MINUTES, READ_AGAIN
from eldrim.core.words.language import reading_in
from eldrim.store import edition_store, releases, runs
from eldrim.store.tables import RunRow
from eldrim.web.procedures.touched import outdated

# What is measured in a bay; the tablet converts what is typed or sent in another unit.
MEASURED = (
    Dimension.TORQUE,
    Dimension.LENGTH,
    Dimension.VOLTAGE,
    Dimension.TEMPERATURE,
    Dimension.RESISTANCE,
    Dimension.ANGLE,
    Dimension.SPEED,
)
# Units that stand on a tool or in a manual beside each other: a figure may have been read in one.
COMMON = ("N·m", "lbf·ft", "lbf·in", "kgf·m", "mm", "thou", "in", "°C", "°F")


def rules() -> dict[str, Any]:
    """The rules a tablet goes on by without the link; static/bay/rules.js interprets them."""
    effects = {kind.value: [list(effect) for effect in found] for kind, found in EFFECTS.items()}
    minutes = READ_AGAIN.total_seconds() / 60
    cooling = {
        "least_fall": MIN_FALL_KELVIN,
        "read_again_minutes": minutes,
        "least_apart_minutes": LEAST_APART_MINUTES,
    }
    return {
        "effects": effects,
        "cooling": cooling,
        "units": units(),
        "common": COMMON,
        "lead_clears": sorted(LEAD_CLEARS),
        "alone": IN_ORDER,
        "apart": APART,
        "meter_jump": {"times": MOST_TIMES, "beside": ALLOWED},
    }


def units() -> dict[str, dict[str, Any]]:
    """Every spelling of a unit measured in a bay: how it becomes the working unit of its kind."""
    found: dict[str, dict[str, Any]] = {}
    for unit in (u for u in UNITS if u.dimension in MEASURED):
        base = working_unit(unit.dimension).symbol
        zero = convert(0.0, unit.symbol, base)
        about = {
            "measures": unit.dimension.value,
            "offset": zero,
            "scale": convert(1.0, unit.symbol, base) - zero,
            "places": max(unit.decimals, 1),
        }
        found |= dict.fromkeys(unit.spellings, about)
    return found


# The plan of an edition is read once and kept, and nothing here depends on a run.
_outlines: ByObject[list[dict[str, Any]]] = ByObject(32)


def outline(plan: Plan) -> list[dict[str, Any]]:
    """What the tablet needs to know of each step; ``waits_for`` are places in this list."""
    return _outlines.of(plan, lambda: _outline(plan))


def _outline(plan: Plan) -> list[dict[str, Any]]:
    places = {step.key: place for place, step in enumerate(plan.steps)}
    return [_outlined(plan, step, places) for step in plan.steps]


def _outlined(plan: Plan, step: Step, places: dict[Any, int]) -> dict[str, Any]:
    return {
        "key": step.key,
        "text": step.text,
        "phase": step.phase.value,
        "waits_for": [places[key] for key in waits_for(plan, step)],
        "needs": asdict(needs(step)),
        "hole": step.hole or "",
        "part": step.part or "",
        "minutes": step.minutes,
        "hold": step.hold,
        "stage": step.key.rule.stage or "",
        "readings": [_reading(reading) for reading in step.readings],
        "carries": [places[key] for key in cannot_follow(plan, step)],
        "places": step.places,
        "only_after": step.only_after,
        "resets": step.resets,
        "checks": {check.key: check.text for check in step.checks},
    }


def search_of(plan: Plan) -> dict[str, Any] | None:
    """The tree of a search as the tablet follows it, with the words of each outcome."""
    if plan.search is None:
        return None
    steps: dict[str, Step] = {step.key: step for step in plan.steps}
    found = plan.search.model_dump(mode="json")
    for act in found["acts"].values():
        said = next(r for r in steps[act["sees"]].readings if r.key == OUTCOME)
        act["said"] = dict(zip(said.choices, said.shown, strict=True))
    return found


def _reading(reading: Reading) -> dict[str, Any]:
    # What few readings have is sent with those.
    few = {name for name in ("says", "falls", "turning", "curve") if not getattr(reading, name)}
    kept = reading.model_dump(exclude={"choices", "shown", *few})
    return {**kept, **limits_of(reading).model_dump(), "plausible": span(reading)}


def state_of(db: Session, row: RunRow) -> dict[str, Any]:
    """The state of a run as a tablet is sent it, in the language of its edition."""
    plan = edition_store.plan_of(row.edition)
    with reading_in(plan.job.language):
        return {
            **wire_state(plan, runs.state(db, row.id)),
            "started": row.at.isoformat(),
            "notices": list(
                filter(None, (*releases.notices(db, row.edition), outdated(db, row.edition)))
            ),
        }


# The maps of a state that hold one entry under a plain key.
SINGLE = (
    "closings",
    "deviations",
    "accepted",
    "refused",
    "released",
    "stops",
    "marks",
    "endings",
    "notes",
)


def wire_state(plan: Plan, state: RunState) -> dict[str, Any]:
    """The maps of a state with every entry as a mark; a place is written ``step|reading``."""
    texts: dict[str, str] = {step.key: step.text for step in plan.steps}

    def mark(recorded: Recorded) -> dict[str, Any]:
        return wire_mark(recorded, texts)

    plain = {
        name: {str(key): mark(entry) for key, entry in getattr(state, name).items()}
        for name in SINGLE
    }
    placed = {
        name: {_place(place): mark(entry) for place, entry in kept.items()}
        for name, kept in (("values", state.values), ("verdicts", state.verdicts))
    }
    many = {
        name: {_place(place): list(map(mark, found)) for place, found in kept.items()}
        for name, kept in (
            ("watched", state.watched),
            ("conflicts", state.conflicts),
            ("heard", state.heard),
        )
    }
    parts = [asdict(part) for part in parts_needed(plan, state)]
    return {"seq": state.count, **plain, **placed, **many, "parts": parts}


def _place(place: Place) -> str:
    return "|".join(place)


def wire_mark(recorded: Recorded, texts: dict[str, str]) -> dict[str, Any]:
    """One entry as lists show it; static/bay/queue.js makes the same of an unsent one."""
    entry = recorded.entry
    return {
        "id": str(entry.id),
        "kind": entry.kind.value,
        "step": entry.step,
        "text": texts.get(entry.step, entry.step),
        "reading": entry.reading,
        "value": entry.value,
        "unit": entry.unit,
        "reason": entry.reason,
        "why": reason_of(entry),
        "note": entry.note,
        "photo": entry.photo,
        "how": entry.how,
        "by": recorded.by,
        "at": recorded.written.isoformat(),
    }
