"""What a technician says of a verdict, and what follows: parts, a follow-up, a stop."""

from dataclasses import dataclass

from eldrim.core.operations import Operation, StopKind
from eldrim.core.procedure.model import Plan
from eldrim.core.reading.causes import CAUSES
from eldrim.core.reading.verdict import HEALTHY, WAITS, Verdict
from eldrim.core.run.entries import Entry
from eldrim.core.run.state import Place, RunState
from eldrim.core.step_key import StepKey
from eldrim.core.words import listed, say

TAKEN, DOUBTED = "taken", "doubted"
AT, AND = "@", "+"
# The parts an act asks for.
PARTS: dict[str, tuple[str, ...]] = {
    "renew-coil": ("part.coil",),
    "renew-lead": ("part.lead",),
    "renew-boot-plug": ("part.boot", "part.plug"),
    "renew-plug": ("part.plug",),
    "renew-plugs": ("part.plug",),
    "right-plug": ("part.plug",),
    "fit-new": ("part.plug",),
    "mend-connector": ("part.connector",),
    "renew-seal": ("part.well_seal",),
    "renew-gasket": ("part.cover_gasket", "part.boot"),
}
# Acts that forbid a start.
STOPS = {"no-start": StopKind.NO_START}


@dataclass(frozen=True)
class Said:
    """A verdict as a run names it: which cause, at which holes."""

    cause: str
    holes: tuple[str, ...]

    @property
    def title(self) -> str:
        """The cause and its holes."""
        scope = "several" if len(self.holes) > 1 else "one"
        at = say(f"reading.at.{scope}", holes=listed(self.holes))
        return f"{say(f'reading.cause.{self.cause}')} ({at})"

    @property
    def act(self) -> str:
        """What to do now, by its id."""
        return WAITS.get(self.cause) or CAUSES[self.cause].act


def place_of(plan: Plan, verdict: Verdict) -> Place | None:
    """Where what is said of a verdict is written; None where no hole of it is read here."""
    reads = [StepKey(Operation.READ_PLUG, hole=hole) for hole in verdict.holes]
    here = {step.key for step in plan.steps}
    step = next((key for key in reads if key in here), None)
    name = f"{verdict.cause}{AT}{AND.join(verdict.holes)}"
    return (step, name) if step and verdict.cause != HEALTHY else None


def said_of(entry: Entry) -> Said | None:
    """The verdict an entry is about; None where it names none that is known."""
    cause, at, holes = entry.reading.partition(AT)
    if not at or not (cause in CAUSES or cause in WAITS):
        return None
    return Said(cause, tuple(holes.split(AND)))


def taken_up(state: RunState) -> list[tuple[Entry, Said]]:
    """The verdicts that a technician took up, in the order they were."""
    found = []
    for recorded in state.verdicts.values():
        said = said_of(recorded.entry)
        if said and recorded.entry.value == TAKEN:
            found.append((recorded.entry, said))
    return found


def verdict_words(entry: Entry) -> str:
    """What was said of a verdict, for the log; empty where it names none that is known."""
    said = said_of(entry)
    if said is None:
        return ""
    if entry.value == TAKEN:
        act = say(f"reading.now.{said.act}")
        return say("bay.verdict_taken", verdict=said.title, act=act)
    return say("bay.verdict_doubted", verdict=said.title, why=entry.note)
