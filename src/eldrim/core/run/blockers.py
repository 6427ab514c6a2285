"""What keeps a step from being closed, and a run from being signed: codes, not sentences.

The tablet finds the same codes from the same data (``waits_for`` and ``needs``); the sentences of
both are ``refuse.CODE`` in the tables of words.
"""

import itertools
from dataclasses import dataclass, field
from typing import Any

from eldrim.core.procedure.model import Plan, Step, segments
from eldrim.core.run.path import applying
from eldrim.core.run.state import RunState
from eldrim.core.step_key import StepKey
from eldrim.core.words import say

# A plate that says something else stops the run until a lead decides.
PLATE = "serial"


@dataclass(frozen=True)
class Blocker:
    """One thing in the way. ``slots`` fill its sentence."""

    code: str
    slots: dict[str, Any] = field(default_factory=dict)

    @property
    def words(self) -> str:
        """The sentence, in the language in use."""
        return say(f"refuse.{self.code}", **self.slots)


@dataclass(frozen=True)
class Needs:
    """What must be there to close a step: required readings and checks, by key."""

    readings: tuple[str, ...]
    checks: tuple[str, ...]


def needs(step: Step) -> Needs:
    """What a step needs before it can be closed."""
    readings = tuple(reading.key for reading in step.readings if reading.required)
    return Needs(readings, tuple(check.key for check in step.checks))


def waits_for(plan: Plan, step: Step) -> tuple[StepKey, ...]:
    """The steps that must be done before a step: all of earlier phases, and what it comes after.

    In a search for a cause all that stand before it, of those that belong to the branch taken.
    """
    if plan.search:
        return tuple(s.key for s in itertools.takewhile(lambda s: s.key != step.key, plan.steps))
    earlier: list[StepKey] = []
    for _, steps in segments(plan):
        if step in steps:
            break
        earlier += [s.key for s in steps]
    known = set(earlier)
    after = [s.key for s in plan.steps if s.key in step.after and s.key not in known]
    return (*earlier, *after)


def first_open(plan: Plan, state: RunState, step: Step) -> Step | None:
    """The first step that has to be done before a step; None when it can be done now."""
    waiting = set(waits_for(plan, step))
    return next((s for s in state.ahead(plan) if s.key in waiting), None)


def closing_blockers(
    plan: Plan, state: RunState, step: Step, checks: tuple[str, ...]
) -> list[Blocker]:
    """What keeps a step from being closed with these checks ticked, the gravest first."""
    found = []
    if step.key in state.closings:
        found.append(Blocker("done", {"step": step.text}))
    elif not applying(plan, state.closings, state.values)(step):
        found.append(Blocker("other_branch", {"step": step.text}))
    before = first_open(plan, state, step)
    if before:
        found.append(Blocker("first", {"step": before.text}))
    if any(stop.entry.step == step.key for stop in state.stops.values()):
        found.append(Blocker("stop_open"))
    if any(open_.entry.reading == PLATE for open_ in state.deviations.values()):
        found.append(Blocker("plate_open"))
    if step.hold and step.key not in state.released:
        found.append(Blocker("held"))
    missing = _missing(state, step, checks)
    if missing:
        found.append(Blocker("open_here", {"missing": "; ".join(missing)}))
    return found


def _missing(state: RunState, step: Step, checks: tuple[str, ...]) -> list[str]:
    """What of a step's needs is not there yet, in words."""
    wanted = needs(step)
    readings = [reading for reading in wanted.readings if (step.key, reading) not in state.values]
    open_checks = [check for check in wanted.checks if check not in checks]
    labels = {r.key: r.label for r in step.readings}
    texts = {c.key: c.text for c in step.checks}
    return [*(labels[key] for key in readings), *(texts[k] for k in open_checks)]


def signing_blockers(plan: Plan, state: RunState) -> list[Blocker]:
    """What keeps a run from being signed, the gravest first."""
    found = []
    still_open = state.open_steps(plan)
    if still_open:
        found.append(Blocker("open", {"steps": "; ".join(s.text for s in still_open)}))
    counts = {
        "conflicts": len(state.conflicts),
        "stops": len(state.stops),
        "deviations": len(state.deviations),
    }
    found += [Blocker(code, {"count": count}) for code, count in counts.items() if count]
    return found
