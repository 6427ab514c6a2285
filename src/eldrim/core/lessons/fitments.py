"""What a run fitted new, and what it found failed: by thing, hole and part number."""

from collections.abc import Iterator, Mapping

from eldrim.core.base.frozen import Frozen
from eldrim.core.operations import Operation, StopKind
from eldrim.core.run.entries import EntryKind
from eldrim.core.run.fitted import fitted_in
from eldrim.core.run.gaps import gaps_in
from eldrim.core.run.history import Past
from eldrim.core.run.readings import picked

# What fails with a condition; the others are signs, not failures.
FAILS_BY_CONDITION = {
    "insulator-cracked": "plug",
    "insulator-track": "plug",
    "tip-bent": "plug",
    "strap-worn": "plug",
    "centre-worn": "plug",
    "boot-torn": "boot",
    "boot-burnt": "boot",
    "coil-cracked": "coil",
    "coil-bulged": "coil",
    "coil-burnt": "coil",
    "lead-cracked": "lead",
    "lead-chafed": "lead",
    "lead-burnt": "lead",
    "end-loose": "lead",
    "cap-cracked": "cap",
    "cap-tracked": "cap",
    "posts-eroded": "cap",
    "carbon-worn": "cap",
    "rotor-burnt": "rotor",
    "rotor-cracked": "rotor",
    "rotor-tracked": "rotor",
    "points-pitted": "points",
    "points-blue": "points",
    "heel-worn": "points",
}
FAILS_BY_STOP: dict[str, str] = {
    StopKind.CRACKED_INSULATOR: "plug",
    StopKind.SHELL_BROKEN: "plug",
    StopKind.BOOT_TORN: "boot",
}
# A stop at which the trade puts a new one in before it goes on.
RENEWED_AT_STOP: dict[str, str] = {StopKind.BOOT_TORN: "boot"}
WORN = "worn"
EPSILON_MM = 1e-6


class FittedNew(Frozen):
    """A thing fitted new: ``hole`` is empty where it sits at none, ``number`` where not known."""

    thing: str
    hole: str = ""
    number: str = ""


class FoundFailed(Frozen):
    """A thing found failed, and by what: a condition, a stop, ``worn`` or ``proven``."""

    thing: str
    hole: str = ""
    why: str


def new_in(past: Past) -> Iterator[FittedNew]:
    """What a run fitted new, each once."""
    found: dict[tuple[str, str], FittedNew] = {}
    numbers = past.plan.numbers
    for thing, hole in sorted(fitted_in(past)):
        found[thing, hole] = FittedNew(thing=thing, hole=hole, number=_number(numbers, thing))
    for recorded in past.state.marks.values():
        thing = RENEWED_AT_STOP.get(recorded.entry.reason, "")
        hole = _hole(past, recorded.entry.step)
        if thing and hole and recorded.entry.kind is EntryKind.STOP:
            found[thing, hole] = FittedNew(thing=thing, hole=hole, number=_number(numbers, thing))
    yield from found.values()


def _number(numbers: Mapping[str, str], thing: str) -> str:
    """The part number of a thing; of companion work that of its first part."""
    own = (number for key, number in numbers.items() if key.startswith(f"{thing}/"))
    return numbers.get(thing) or next(own, "")


def failed_in(past: Past) -> Iterator[FoundFailed]:
    """What a run found failed, each thing of a hole once."""
    found: dict[tuple[str, str], FoundFailed] = {}
    for thing, hole, why in (*_by_gap(past), *_by_reading(past), *_by_stop(past), *_proven(past)):
        found.setdefault((thing, hole), FoundFailed(thing=thing, hole=hole, why=why))
    yield from found.values()


def _by_gap(past: Past) -> Iterator[tuple[str, str, str]]:
    """A plug has failed once its gap is found past the range it is held to."""
    for hole, found, _, span in gaps_in(past):
        if found is not None and span is not None and found > span[1] + EPSILON_MM:
            yield "plug", hole, WORN


def _by_reading(past: Past) -> Iterator[tuple[str, str, str]]:
    for step in past.plan.steps:
        for reading in step.readings:
            had = past.state.values.get((step.key, reading.key))
            if had is None:
                continue
            value, hole = had.entry.value, step.hole or ""
            if reading.key == "condition":
                for one in picked(reading, value):
                    thing = _failing(step.key.operation, one)
                    if thing:
                        yield thing, hole, one


def _failing(operation: Operation, condition: str) -> str:
    """What fails with a condition: of a pack that is read it is the pack, not a coil."""
    thing = FAILS_BY_CONDITION.get(condition, "")
    return "pack" if thing == "coil" and operation is Operation.READ_PACK else thing


def _by_stop(past: Past) -> Iterator[tuple[str, str, str]]:
    for recorded in past.state.marks.values():
        entry = recorded.entry
        thing = FAILS_BY_STOP.get(entry.reason, "")
        if thing and entry.kind is EntryKind.STOP:
            yield thing, _hole(past, entry.step), entry.reason


def _proven(past: Past) -> Iterator[tuple[str, str, str]]:
    search, path = past.plan.search, past.state.path(past.plan)
    if search is None or path is None or path.proven is None:
        return
    act = search.acts[path.proven.act]
    for thing in act.renews:
        yield from ((thing, str(number), "proven") for number in act.cylinders)


def _hole(past: Past, step: str) -> str:
    return next((one.hole or "" for one in past.plan.steps if one.key == step), "")
