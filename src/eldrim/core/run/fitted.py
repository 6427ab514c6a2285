"""What is fitted on a unit, since when: the newest of each thing at each hole, from its runs."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from eldrim.core.job import Work
from eldrim.core.operations import Operation
from eldrim.core.run.history import Past
from eldrim.core.step_key import StepKey

# What is fitted, hole or ""; of companions their keys.
Fitting = tuple[str, str]


@dataclass(frozen=True)
class Fitted:
    """A thing fitted new: by which run, when, where the meter stood; None where not read."""

    run: UUID
    at: datetime
    meter: float | None


def fitted(runs: Iterable[Past]) -> dict[Fitting, Fitted]:
    """What was fitted last, of runs newest first."""
    found: dict[Fitting, Fitted] = {}
    for past in runs:
        new = Fitted(past.run, past.at, past.meter)
        for fitting in fitted_in(past):
            found.setdefault(fitting, new)
    return found


def fitted_in(past: Past) -> Iterator[Fitting]:
    """What one run fitted new."""
    if past.plan.search is not None:
        yield from _renewed_by_search(past)
        return
    done = past.state.done
    steps = {step.key for step in past.plan.steps if step.key in done}
    replaced = past.plan.schools.get("inspect_or_replace", "replace") == "replace"
    for key in steps:
        if key.operation is Operation.TIGHTEN_PLUG and replaced:
            yield "plug", key.hole
        elif key.operation in _CARRIERS:
            thing, looked_at = _CARRIERS[key.operation]
            if StepKey(looked_at, hole=key.hole) in steps:
                yield thing, key.hole
    yield from ((name, "") for work, name, act in _PLACES if _done_at(past, work, act))
    for companion in past.plan.job.companions:
        own = [s.key for s in past.plan.steps if _of(s.key, companion)]
        if own and all(key in done for key in own):
            yield from ((companion, hole) for hole in _renewed_at(past, companion))


# Companion work of this key renews one at each hole whose coil came off for it.
AT_EACH_HOLE = ("boot",)


def _renewed_at(past: Past, companion: str) -> tuple[str, ...]:
    if companion not in AT_EACH_HOLE:
        return ("",)
    keys = (step.key for step in past.plan.steps if step.key in past.state.done)
    return tuple(sorted(key.hole for key in keys if key.operation is Operation.REMOVE_COIL))


def seen(runs: Iterable[Past]) -> dict[Fitting, Fitted]:
    """What was looked at last, of runs newest first: fitted, read, or taken off and seen."""
    found: dict[Fitting, Fitted] = {}
    for past in runs:
        new = Fitted(past.run, past.at, past.meter)
        looked = {
            (thing, step.key.hole)
            for step in past.plan.steps
            if step.key in past.state.done and (thing := _LOOKED_AT.get(step.key.operation))
        }
        for fitting in sorted({*fitted_in(past), *looked}):
            found.setdefault(fitting, new)
    return found


_LOOKED_AT = {
    Operation.READ_PLUG: "plug",
    Operation.REMOVE_COIL: "coil",
    Operation.READ_COIL: "coil",
    Operation.REMOVE_LEAD: "lead",
    Operation.READ_LEAD: "lead",
}


def _of(key: StepKey, companion: str) -> bool:
    return key.operation is Operation.COMPANION and key.item == companion


# A coil or lead is new where the new one was looked at before it went on.
_CARRIERS = {
    Operation.FIT_COIL: ("coil", Operation.READ_COIL),
    Operation.FIT_LEAD: ("lead", Operation.READ_LEAD),
}
_PLACES = (
    (Work.CAP, "cap", Operation.FIT_CAP),
    (Work.ROTOR, "rotor", Operation.FIT_ROTOR),
    (Work.POINTS, "points", Operation.SET_POINTS),
    (Work.COIL_LEAD, "coil-lead", Operation.FIT_COIL_LEAD),
    (Work.PACK, "pack", Operation.FIT_PACK),
)


def _done_at(past: Past, work: Work, act: Operation) -> bool:
    return work in past.plan.job.places and StepKey(act) in past.state.done


def _renewed_by_search(past: Past) -> Iterator[Fitting]:
    search, done = past.plan.search, past.state.done
    assert search is not None
    for act in search.acts.values():
        if act.hands in done:
            yield from ((thing, str(number)) for thing in act.renews for number in act.cylinders)
