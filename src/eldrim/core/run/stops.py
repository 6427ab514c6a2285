"""Stop conditions: what the trade does when a plug binds or a thread is crossed, never a dead end.

The sentences are in the tables of words under ``stop.…``; here stands where each can be met, how
many acts it asks for, whether the technician may go on once they are done, and what it puts on
the parts list (handbook §12 to §14).
"""

from dataclasses import dataclass

from eldrim.core.operations import Phase
from eldrim.core.procedure.model import Step
from eldrim.core.run.entries import Entry, EntryKind
from eldrim.core.words import say


@dataclass(frozen=True)
class Stop:
    """One stop condition. ``at`` are the beginnings of the step keys it can be met at."""

    key: str
    at: tuple[str, ...]
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
    Stop("cross_thread", ("start/plug/",), 4),
    Stop("plug_binds", ("remove/plug/",), 3),
    Stop("cracked_insulator", ("remove/plug/", "read/plug/", "gap/plug/", "torque/plug/"), 3,
         part="part.plug"),
    Stop("dropped_plug", ("gap/plug/", "start/plug/"), 2, part="part.plug"),
    Stop("oil_in_well", ("clean/", "remove/coil/", "remove/lead/", "clean/well/"), 3,
         part="part.cover_gasket"),
    Stop("water_in_well", ("clean/", "remove/coil/", "remove/lead/", "clean/well/"), 3,
         part="part.well_seal"),
    Stop("boot_torn", ("remove/coil/", "remove/lead/", "fit/coil/", "fit/lead/"), 2,
         part="part.boot"),
    Stop("dropped_in", ("remove/", "clean/", "start/plug/", "unplug-opening/"), 3),
    Stop("fuel_smell", ("prove/start", "prove/fuel", "prove/blower", "release/"), 3),
    Stop("runs_rough", ("prove/start", "start-between/", "prove/load", "prove/air-leak"), 3),
)  # fmt: skip
BY_KEY = {s.key: s for s in STOPS}
CANNOT = ("tool", "part", "stuck", "absent", "told")
ENDS = ("repair", "called_back", "no_part", "other_sheet")
DIFFERS = ("other_part", "already_off", "other_size", "other_order", "longer", "damaged")


def stops_at(step: Step) -> tuple[Stop, ...]:
    """The stop conditions that can be met at a step."""
    if step.phase is Phase.READY:
        return ()
    return tuple(s for s in STOPS if any(step.key.startswith(p) for p in s.at))


LISTS = {"cannot": CANNOT, "differs": DIFFERS, "end": ENDS}


def reasons(kind: str) -> tuple[tuple[str, str], ...]:
    """A short list of reasons, ``cannot``, ``differs`` or ``end``: what is kept, how it reads."""
    return tuple((key, say(f"{kind}.{key}")) for key in LISTS[kind])


def reason_words(reason: str) -> str:
    """A reason of a short list as it reads; anything else as it was typed."""
    return next(filter(None, (say(f"{kind}.{reason}") for kind in LISTS)), reason)


def reason_of(entry: Entry) -> str:
    """Why an entry was made, as it reads: the stop or the reason of a list, and the note."""
    stop = BY_KEY.get(entry.reason) if entry.kind is EntryKind.STOP else None
    words = stop.name if stop else reason_words(entry.reason)
    return ": ".join(filter(None, (words, entry.note)))
