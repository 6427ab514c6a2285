"""How the gaps of a unit's plugs grew, hole by hole, and where they leave their range."""

from collections.abc import Iterable, Sequence

from eldrim.core.base.quantity import convert
from eldrim.core.interval.wear_forecast import Crossing, Found, crossing
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Step
from eldrim.core.run.fitted import fitted_in
from eldrim.core.run.history import Past, number
from eldrim.core.step_key import StepKey

GAP_FOUND, GAP_LEFT = "gap_found", "gap_left"


class _Hole:
    """The gaps of one hole, run by run: of the set in it now, and how those before it grew."""

    def __init__(self) -> None:
        self.now: list[Found] = []
        self.grown: list[Found] = []

    def found(self, meter: float, gap: float) -> None:
        """A plug was read."""
        if self.now:
            self.now.append((meter, gap))

    def renewed(self, meter: float, gap: float | None) -> None:
        """A new one was fitted, with its gap as it was left."""
        first = self.now[:1]
        self.grown += [(m - start, g - left) for start, left in first for m, g in self.now[1:]]
        self.now = [(meter, gap)] if gap is not None else []

    def leaves(self, limit: float) -> Crossing | None:
        """Where it leaves its range: of a set that was not read yet, by the wear of those before
        it, carried on from where it began.
        """
        if len(self.now) != 1:
            return crossing(self.now, limit)
        [(start, gap)] = self.now
        carried = sorted((start + ran, gap + grew) for ran, grew in self.grown)
        return crossing([*self.now, *carried], limit, seen=False)


def gap_crossings(runs: Sequence[Past]) -> dict[str, Crossing]:
    """Where the gap of each hole leaves its range, of runs newest first."""
    holes: dict[str, _Hole] = {}
    limits: dict[str, float] = {}
    for past in reversed(runs):
        meter = past.meter
        if meter is None:
            continue
        new = {hole for thing, hole in fitted_in(past) if thing == "plug"}
        for hole, found, left, span in gaps_in(past):
            mine = holes.setdefault(hole, _Hole())
            limits[hole] = span[1] if span is not None else limits.get(hole, 0.0)
            if found is not None:
                mine.found(meter, found)
            if hole in new:
                mine.renewed(meter, left)
    forecast = {hole: one.leaves(limits[hole]) for hole, one in holes.items() if limits[hole]}
    return {hole: one for hole, one in forecast.items() if one is not None}


GapsAtHole = tuple[str, float | None, float | None, tuple[float, float] | None]


def gaps_in(past: Past) -> Iterable[GapsAtHole]:
    """By hole: the gap found, the gap left, and the range, in mm; None where not said."""
    at: dict[str, dict[Operation, Step]] = {}
    for step in past.plan.steps:
        if step.hole and step.key.operation in (Operation.READ_PLUG, Operation.CHECK_GAP):
            at.setdefault(step.hole, {})[step.key.operation] = step
    for hole, steps in at.items():
        found = _in_mm(past, steps.get(Operation.READ_PLUG), GAP_FOUND)
        left = _in_mm(past, steps.get(Operation.CHECK_GAP), GAP_LEFT)
        yield hole, found, left, _range(steps)


def _in_mm(past: Past, step: Step | None, reading: str) -> float | None:
    if step is None:
        return None
    had = past.state.values.get((StepKey.parse(step.key), reading))
    value = number(past.state, (step.key, reading))
    asked = next((one for one in step.readings if one.key == reading), None)
    if had is None or value is None or asked is None:
        return None
    return convert(value, had.entry.unit or asked.unit or "mm", "mm")


def _range(steps: dict[Operation, Step]) -> tuple[float, float] | None:
    """The range a gap is held to."""
    for step in steps.values():
        for one in step.readings:
            if one.key in (GAP_FOUND, GAP_LEFT) and one.low is not None and one.high is not None:
                unit = one.unit or "mm"
                return convert(one.low, unit, "mm"), convert(one.high, unit, "mm")
    return None
