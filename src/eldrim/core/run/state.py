"""The state of a run: the fold of its entries, effect by effect."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any
from uuid import UUID

from eldrim.core.procedure.model import SIGNING, Plan, Step
from eldrim.core.run.effects import EFFECTS, EffectKind, KeyedBy
from eldrim.core.run.entries import Entry, EntryKind, Recorded
from eldrim.core.run.path import Path, applying, walk

# Step and reading.
Place = tuple[str, str]
# What stands in ``endings`` is the only one there.
THE_RUN = "run"


@dataclass(frozen=True)
class RunState:
    """What holds after some entries.

    ``closings`` holds the entry that closed each step done, ``values`` the newest value at each
    place, ``deviations`` what a lead has still to accept, ``accepted`` the acceptance by the id of
    what it accepts, ``refused`` a lead's word against one by its id, ``released`` the hold points
    let go, ``stops`` the open ones, ``marks`` every stop and whatever differed, open or not.
    ``watched`` is what was read while waiting, in order;
    ``conflicts`` are values two tablets wrote without knowing of each other, until a person says
    which holds; ``heard`` what devices said that was not taken;
    ``verdicts`` what was said last of each verdict on the plugs;
    ``endings`` the signature, or the lead's word that the run ends unfinished;
    ``notes`` what was added after that.
    ``first`` is when the first entry was written.
    """

    count: int = 0
    first: datetime | None = None
    closings: dict[str, Recorded] = field(default_factory=dict)
    values: dict[Place, Recorded] = field(default_factory=dict)
    deviations: dict[UUID, Recorded] = field(default_factory=dict)
    accepted: dict[UUID, Recorded] = field(default_factory=dict)
    refused: dict[UUID, Recorded] = field(default_factory=dict)
    released: dict[str, Recorded] = field(default_factory=dict)
    stops: dict[UUID, Recorded] = field(default_factory=dict)
    marks: dict[UUID, Recorded] = field(default_factory=dict)
    watched: dict[Place, tuple[Recorded, ...]] = field(default_factory=dict)
    conflicts: dict[Place, tuple[Recorded, ...]] = field(default_factory=dict)
    heard: dict[Place, tuple[Recorded, ...]] = field(default_factory=dict)
    verdicts: dict[Place, Recorded] = field(default_factory=dict)
    endings: dict[str, Recorded] = field(default_factory=dict)
    notes: dict[UUID, Recorded] = field(default_factory=dict)

    @property
    def signed(self) -> Recorded | None:
        """The signature, or the lead's word that the run ends unfinished."""
        return self.endings.get(THE_RUN)

    @property
    def unfinished(self) -> bool:
        """Whether a lead ended it with something open."""
        return self.signed is not None and self.signed.entry.kind is EntryKind.END

    @property
    def done(self) -> frozenset[str]:
        """The steps that were done; one left out is none."""
        kept = self.closings.items()
        return frozenset(step for step, closed in kept if closed.entry.kind is not EntryKind.SKIP)

    @property
    def differs(self) -> tuple[Recorded, ...]:
        """Whatever was not as the edition says."""
        return tuple(mark for mark in self.marks.values() if mark.entry.kind is EntryKind.DIFFERS)

    def value_of(self, reading: str) -> float | str | None:
        """The value of a reading by its key alone, whichever step it is at; None where it is not
        written.
        """
        found = (kept.entry.value for place, kept in self.values.items() if place[1] == reading)
        return next(found, None)

    def ahead(self, plan: Plan) -> list[Step]:
        """The steps not done that belong to the branch taken, in order."""
        applies = applying(plan, self.closings, self.values)
        return [step for step in plan.steps if step.key not in self.closings and applies(step)]

    def current(self, plan: Plan) -> Step | None:
        """The first step not done; None when all are."""
        return next(iter(self.ahead(plan)), None)

    def open_steps(self, plan: Plan) -> list[Step]:
        """The steps still open, the signing step aside."""
        return [step for step in self.ahead(plan) if step.key != SIGNING]

    def minutes_left(self, plan: Plan) -> float:
        """Planned minutes of the steps not yet done."""
        return round(sum(step.minutes for step in self.ahead(plan)), 1)

    def path(self, plan: Plan) -> Path | None:
        """The branches a search has taken; None for a plan that searches for nothing."""
        return walk(plan.search, self.closings, self.values) if plan.search else None


def fold(entries: Iterable[Recorded]) -> RunState:
    """Return the state after ``entries`` in their order of acceptance."""
    state = RunState()
    for recorded in entries:
        state = with_entry(state, recorded)
    return state


def fold_all(entries: Iterable[Recorded]) -> RunState:
    """What was done last at each step, even where it was to be done anew after it."""
    kept = (
        r.model_copy(update={"entry": r.entry.model_copy(update={"resets": ()})}) for r in entries
    )
    return fold(kept)


def with_entry(state: RunState, recorded: Recorded) -> RunState:
    """Return the state with one more accepted entry."""
    written = min(filter(None, (state.first, recorded.written)))
    changed: dict[str, Any] = {"count": state.count + 1, "first": written}
    for effect in EFFECTS[recorded.entry.kind]:
        for key in filter(None, KEYS[effect.key](state, recorded.entry)):
            kept = changed.setdefault(effect.map, dict(getattr(state, effect.map)))
            CHANGES[effect.kind](kept, key, recorded, state)
    return replace(state, **changed)


def _closing(state: RunState, entry: Entry) -> UUID | None:
    closing = state.closings.get(entry.step)
    return closing.entry.id if closing else None


def _replaced(state: RunState, entry: Entry) -> UUID | None:
    value = state.values.get((entry.step, entry.reading))
    # What went over its window stays to be accepted, whatever is read after it.
    return value.entry.id if value and value.entry.kind is not EntryKind.OVER else None


# The keys an effect takes; one that is None changes nothing.
KEYS: dict[KeyedBy, Callable[[RunState, Entry], tuple[Any, ...]]] = {
    KeyedBy.STEP: lambda _, entry: (entry.step,),
    KeyedBy.PLACE: lambda _, entry: ((entry.step, entry.reading),),
    KeyedBy.ID: lambda _, entry: (entry.id,),
    KeyedBy.REFERS_TO: lambda _, entry: (entry.refers_to,),
    KeyedBy.CLOSING: lambda state, entry: (_closing(state, entry),),
    KeyedBy.REPLACED: lambda state, entry: (_replaced(state, entry),),
    KeyedBy.CARRIED: lambda _, entry: entry.carries,
    KeyedBy.RESET: lambda _, entry: entry.resets,
    KeyedBy.RESET_PLACE: lambda state, entry: tuple(
        place for place in state.values if place[0] in entry.resets
    ),
    KeyedBy.RUN: lambda _, __: (THE_RUN,),
}


def _put(kept: dict[Any, Any], key: Any, recorded: Recorded, _: RunState) -> None:
    kept[key] = recorded


def _drop(kept: dict[Any, Any], key: Any, _: Recorded, __: RunState) -> None:
    kept.pop(key, None)


def _drop_same(kept: dict[Any, Any], key: Any, _: Recorded, __: RunState) -> None:
    for place in [place for place, recorded in kept.items() if recorded.entry.id == key]:
        del kept[place]


def _append(kept: dict[Any, Any], key: Any, recorded: Recorded, _: RunState) -> None:
    kept[key] = (*kept.get(key, ()), recorded)


def _clash(kept: dict[Any, Any], key: Any, recorded: Recorded, state: RunState) -> None:
    """Keep a value beside those it does not know of, where they are not all alike."""
    replaced, entry = state.values.get(key), recorded.entry
    before = kept.pop(key, (replaced,) if replaced else ())
    knew = replaced is None or entry.refers_to in (None, replaced.entry.id)
    if not knew and any(r.entry.value != entry.value for r in before):
        kept[key] = (*before, recorded)


CHANGES: dict[EffectKind, Callable[[dict[Any, Any], Any, Recorded, RunState], None]] = {
    EffectKind.PUT: _put,
    EffectKind.DROP: _drop,
    EffectKind.DROP_SAME: _drop_same,
    EffectKind.APPEND: _append,
    EffectKind.CLASH: _clash,
}
