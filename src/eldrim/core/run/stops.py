"""Stop conditions: what the trade does when a plug binds or a thread is crossed, never a dead end.

The sentences are in the tables of words under ``stop.…``; at which operations each can be met says
the table of operations (docs/craft.md §12 to §14).
"""

from dataclasses import dataclass
from itertools import chain

from eldrim.core.operations import StopKind
from eldrim.core.procedure.model import Step
from eldrim.core.run.entries import Entry, EntryKind
from eldrim.core.words import say


@dataclass(frozen=True)
class Stop:
    """One stop condition: how many acts it asks for, and the part it puts on the list."""

    key: StopKind
    acts: int
    part: str = ""

    @property
    def name(self) -> str:
        """What it is called on the button."""
        return say(f"stop.{self.key}")

    @property
    def pair(self) -> tuple[str, str]:
        """What is kept, and how it reads, like a reason of a list."""
        return self.key, self.name

    @property
    def steps(self) -> tuple[str, ...]:
        """What is done now, in order."""
        return tuple(say(f"stop.{self.key}.{n}") for n in range(1, self.acts + 1))

    @property
    def clear(self) -> str:
        """What must hold before the work goes on; else it is handed to the lead."""
        return say(f"stop.{self.key}.clear")


STOPS: tuple[Stop, ...] = (
    Stop(StopKind.CROSS_THREAD, 4),
    Stop(StopKind.PLUG_BINDS, 3),
    Stop(StopKind.CRACKED_INSULATOR, 3, part="part.plug"),
    Stop(StopKind.DROPPED_PLUG, 2, part="part.plug"),
    Stop(StopKind.OIL_IN_WELL, 3, part="part.cover_gasket"),
    Stop(StopKind.WATER_IN_WELL, 3, part="part.well_seal"),
    Stop(StopKind.BOOT_TORN, 2, part="part.boot"),
    Stop(StopKind.THREAD_OUT, 3),
    Stop(StopKind.KEEPS_TURNING, 3),
    Stop(StopKind.SHELL_BROKEN, 3, part="part.plug"),
    Stop(StopKind.RING_LEFT, 2),
    Stop(StopKind.FASTENER_BROKEN, 3, part="part.fastener"),
    Stop(StopKind.FASTENER_ROUNDED, 3, part="part.fastener"),
    Stop(StopKind.TAB_BROKEN, 2, part="part.connector"),
    Stop(StopKind.COOLANT_LEAK, 3),
    Stop(StopKind.DROPPED_IN, 3),
    Stop(StopKind.FUEL_SMELL, 3),
    Stop(StopKind.RUNS_ROUGH, 3),
    Stop(StopKind.NO_START, 3),
)
BY_KEY: dict[str, Stop] = {stop.key: stop for stop in STOPS}
# What only a lead says is over.
LEAD_CLEARS = frozenset(
    {StopKind.DROPPED_IN, StopKind.THREAD_OUT, StopKind.SHELL_BROKEN, StopKind.NO_START}
)
CANNOT = ("tool", "part", "stuck", "absent", "told")
ENDS = ("repair", "called_back", "no_part", "other_sheet")
# What is noted on a run after it was signed.
PASSED, CAME_BACK, OTHER_NOTE = "passed", "came_back", "other"
NOTES = (PASSED, CAME_BACK, OTHER_NOTE)
DIFFERS = ("other_part", "already_off", "other_size", "other_order", "longer", "damaged")


def stops_at(step: Step) -> tuple[Stop, ...]:
    """The stop conditions that can be met at a step."""
    return tuple(stop for stop in STOPS if stop.key in step.key.rule.stops)


DEVIATES = ("twice", "late", "other", "told")
# Where a tool has not clicked: what is read off a plate or a meter.
DEVIATES_AT = {
    "serial": ("card_wrong", "plate_worn", "other_unit", "told"),
    "meter": ("meter_new", "meter_wrong", "told"),
    "torque": ("twice", "late", "other", "told"),
}
# What the tablet says by itself of a wrench that went over its window.
PEAK = "peak"
DEVIATES_ELSE = ("twice", "other", "told")
EVERY_DEVIATION = tuple(dict.fromkeys(chain(DEVIATES, *DEVIATES_AT.values(), (PEAK,))))
# The list a reason is picked from, by the kind of the entry it stands in.
LISTS: dict[EntryKind, tuple[str, tuple[str, ...]]] = {
    EntryKind.SKIP: ("cannot", CANNOT),
    EntryKind.DIFFERS: ("differs", DIFFERS),
    EntryKind.END: ("end", ENDS),
    EntryKind.NOTE: ("note", NOTES),
    EntryKind.DEVIATION: ("deviate", EVERY_DEVIATION),
    EntryKind.OVER: ("deviate", EVERY_DEVIATION),
}


def reasons(kind: EntryKind) -> tuple[tuple[str, str], ...]:
    """The short list of reasons for a kind of entry: what is kept, how it reads."""
    name, keys = LISTS[kind]
    return tuple((key, say(f"{name}.{key}")) for key in keys)


def deviation_reasons(reading: str) -> tuple[tuple[str, str], ...]:
    """The reasons that fit what is read: no tool clicks late on a plate."""
    keys = DEVIATES_AT.get(reading, DEVIATES_ELSE)
    return tuple((key, say(f"deviate.{key}")) for key in keys)


def reason_of(entry: Entry) -> str:
    """Why an entry was made, as it reads: the stop or the reason of a list, and the note.

    A reason that is in no list is shown as it was typed.
    """
    words = entry.reason
    name, keys = LISTS.get(entry.kind, ("", ()))
    if entry.kind is EntryKind.STOP and entry.reason in BY_KEY:
        words = BY_KEY[entry.reason].name
    elif entry.reason in keys:
        words = say(f"{name}.{entry.reason}")
    return ": ".join(filter(None, (words, entry.note)))
