"""The tablet's interpreter and the core's come to the same on any run."""

import random
from contextlib import suppress
from dataclasses import fields
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import pytest

from eldrim.core.base.errors import RunError
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits
from eldrim.core.procedure.model import CONFIRMING, SIGNING, Plan, Reading, Step
from eldrim.core.run.admission import admit
from eldrim.core.run.blockers import closing_blockers, first_open, signing_blockers
from eldrim.core.run.carried import as_kept
from eldrim.core.run.entries import NO_ENTRY, Entry, EntryKind, Recorded, Role
from eldrim.core.run.holes import stages
from eldrim.core.run.state import RunState, fold, with_entry
from eldrim.core.run.stops import CANNOT, DIFFERS, STOPS
from eldrim.core.run.waiting import waiting
from eldrim.web.bay.wire import outline, rules, search_of, wire_state
from tests.builders import job, tug
from tests.core.demo_sheets import SIX
from tests.core.followed_searches import Bay, search_plan
from tests.core.test_faults import last_variant, ways_of
from tests.twin.node import ask_tablet

K = EntryKind
PLAN = apply_edits(compile_plan(tug(), job(2, 4)), {"remove/plug/2": Edit(hold=True)})
SEARCH = search_plan(
    SIX, last_variant(SIX), Complaint(codes=read_codes(SIX, "P0301")), ways_of(SIX.id)
)
# Nothing can be added after these.
LAST = {K.SIGN, K.END, K.NOTE}
# What a state holds beside its maps.
APART = {"count", "first"}
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)

EMPTY: dict[str, Any] = {field.name: {} for field in fields(RunState) if field.name not in APART}
TWIN = """given.runs.map((entries) => {
  const { steps, empty, effects, cooling } = given;
  const now = rules.copied(empty);
  for (const entry of entries) rules.addEntry(now, entry, { ...entry, at: entry.made }, effects);
  const byStep = (told) => Object.fromEntries(steps.map((step) => [step.key, told(step)]));
  for (const step of steps) step.search = given.search;
  const path = given.search && rules.walk(given.search, now);
  const head = steps.find((step) => step.key === "ready/temperature");
  const hot = head && rules.waiting(head, now, cooling);
  return {
    state: now,
    path,
    current: rules.current(steps, now).key,
    first: byStep((step) => rules.firstOpen(steps, step, now)?.key ?? ""),
    closing: byStep((step) => rules.closingBlockers(steps, step, now, []).map((one) => one.code)),
    signing: rules.signingBlockers(steps, steps.at(-1), now).map((one) => one.code),
    stages: Object.fromEntries(steps.filter((step) => step.hole)
      .map((step) => [step.hole, rules.stage(steps, step.hole, now)])),
    waiting: hot && { lacks: hot.lacks, cold: hot.cold, ready: hot.ready ?? null,
                      again: hot.again ?? null, until: hot.until ?? null },
  };
})"""


class Wanderer:
    """Writes whatever the core admits, now and then out of order, until it tires."""

    def __init__(self, seed: int) -> None:
        """A run with nothing in it."""
        self.dice = random.Random(seed)
        self.state, self.entries, self.minute = RunState(), [], 0.0

    def wander(self, tries: int) -> None:
        """Try so many entries; keep those the core takes."""
        for _ in range(tries):
            made, role = self._any()
            entry = as_kept(PLAN, self.state, made)
            try:
                admit(PLAN, self.state, entry, role)
            except RunError:
                continue
            recorded = Recorded(entry=entry, by="x", role=role, at=START)
            self.state = with_entry(self.state, recorded)
            self.entries.append(recorded)

    def _any(self) -> tuple[Entry, Role]:
        now = self.state.current(PLAN) or PLAN.steps[-1]
        step = now if self.dice.random() < 0.8 else self.dice.choice(PLAN.steps)
        lead = self.dice.random() < 0.3
        kinds = [K.READING] * 6 + [K.DONE] * 5 + [k for k in K if k not in LAST]
        made = {"kind": self.dice.choice(kinds), "step": step.key, **self._about(step)}
        if step.key == SIGNING and not self.state.open_steps(PLAN):
            made["kind"] = K.SIGN
        if made["kind"] is K.WATCH or (made.get("reading") == "temperature" and lead):
            made |= self._hot()
        if made["kind"] in (K.READING, K.DEVIATION):
            had = self.state.values.get((step.key, made.get("reading", "")))
            made["names"] = self.dice.choice([None, NO_ENTRY, had.entry.id if had else NO_ENTRY])
        if made["kind"] is K.VERDICT:
            made |= {"step": "read/plug/2", "reading": "oil-up@2"}
            made["value"] = self.dice.choice(["taken", "doubted", "nonsense"])
        if made["kind"] is K.REOPEN:
            made["names"] = (
                closing.entry.id if (closing := self.state.closings.get(step.key)) else NO_ENTRY
            )
        if made["kind"] in (K.ACCEPT, K.REFUSE, K.AGAIN, K.RESUME):
            among = self.state.stops if made["kind"] is K.RESUME else self.state.deviations
            made["names"] = self.dice.choice([*among, self._id()])
            if made["names"] in self.state.deviations:
                made["step"] = self.state.deviations[made["names"]].entry.step
        self.minute += self.dice.choice((0.5, 3, 12))
        return Entry.model_validate(
            {"id": self._id(), "made": START + timedelta(minutes=self.minute), **made}
        ), Role.LEAD if lead else Role.TECHNICIAN

    def _about(self, step: Step) -> dict[str, Any]:
        said: dict[str, Any] = {"checks": tuple(c.key for c in step.checks), "note": "seen"}
        said["reason"] = self.dice.choice([*CANNOT, *DIFFERS, *(s.key for s in STOPS)])
        if step.readings:
            reading = self.dice.choice(step.readings)
            said |= {"reading": reading.key, "value": self._value(reading), "unit": reading.unit}
        return said

    def _value(self, reading: Reading) -> float | str:
        if reading.kind == "date":
            return "2027-05-31"
        if reading.kind != "number":
            return self.dice.choice(reading.choices or ("none",))
        low = 0.0 if reading.low is None else reading.low
        high = low + 10 if reading.high is None else reading.high
        return round(self.dice.uniform(low - 0.2 * (high - low), high + 0.2 * (high - low)), 2)

    def _hot(self) -> dict[str, Any]:
        before = self.state.watched.get(("ready/temperature", "temperature"), ())
        last = float(before[-1].entry.value or 0) if before else 90.0
        value = round(last - self.dice.choice((0.4, 4, 9, -6)), 1)
        return {
            "kind": K.WATCH,
            "step": "ready/temperature",
            "reading": "temperature",
            "value": value,
            "unit": "°C",
        }

    def _id(self) -> UUID:
        return UUID(int=self.dice.getrandbits(128), version=4)


def core_says(plan: Plan, state: RunState) -> dict[str, Any]:
    """The same answers as the script above, from the core."""
    head = next((s for s in plan.steps if s.key == "ready/temperature"), None)
    found = waiting(head, state) if head else None
    now = state.current(plan) or plan.steps[-1]
    before = {s.key: first_open(plan, state, s) for s in plan.steps}
    return {
        "current": now.key,
        "first": {key: first.key if first else "" for key, first in before.items()},
        "closing": {
            s.key: [b.code for b in closing_blockers(plan, state, s, ())] for s in plan.steps
        },
        "signing": [blocker.code for blocker in signing_blockers(plan, state)],
        "stages": stages(plan, state),
        "waiting": found
        and {
            "lacks": found.lacks,
            "cold": found.cold,
            "ready": found.ready,
            "again": found.again if found.lacks else None,
            "until": found.until,
        },
    }


def ids(state: dict[str, Any]) -> dict[str, Any]:
    """Of each map of a state, by key, the ids of the entries in it."""
    return {
        name: {
            key: [one["id"] for one in kept] if isinstance(kept, list) else kept["id"]
            for key, kept in state[name].items()
        }
        for name in EMPTY
    }


def ask(runs: list[list[Recorded]], plan: Plan = PLAN) -> list[dict[str, Any]]:
    """What the tablet makes of each of these runs."""
    sent = [[e.entry.model_dump(mode="json") for e in entries] for entries in runs]
    given = {"steps": outline(plan), "search": search_of(plan), "empty": EMPTY, "runs": sent}
    given |= rules()
    found: list[dict[str, Any]] = ask_tablet(TWIN, given)
    return found


def wandered() -> list[list[Recorded]]:
    """Thirty-two wandering runs, each cut short and whole."""
    found = []
    for seed in range(32):
        wanderer = Wanderer(seed)
        wanderer.wander(40 + 12 * seed)
        found += [wanderer.entries[: 8 + seed], wanderer.entries]
    return found


def test_tablet_and_core_fold_every_run_alike() -> None:
    """State, order, blockers, stages and waiting are the same on both sides."""
    runs = wandered()
    lacks: set[object] = set()
    for entries, says in zip(runs, ask(runs), strict=True):
        state = fold(entries)
        core = core_says(PLAN, state)
        assert ids(says["state"]) == ids(wire_state(PLAN, state))
        for what in ("current", "first", "closing", "signing", "stages"):
            assert says[what] == core[what], what
        same_waiting(says["waiting"], core["waiting"])
        lacks.add(core["waiting"] and core["waiting"]["lacks"])
    met = {e.entry.kind for entries in runs for e in entries}
    assert met >= set(K) - LAST, "the wandering met every kind of entry"
    assert {None, "", "second", "air"} <= lacks, "and every way of waiting"
    assert any(fold(entries).conflicts for entries in runs), "and values that two tablets wrote"


def searched(seed: int) -> list[Recorded]:
    """A search followed by chance: now and then a step is left out, or opened again."""
    dice = random.Random(seed)
    bay = Bay(SEARCH, lambda _, reading: dice.choice(reading.choices))
    for step in bay.follow():
        if dice.random() < 0.01 and step.key not in (CONFIRMING, SIGNING):
            bay.write(K.SKIP, step.key, reason="stuck")
            return bay.entries
        if dice.random() < 0.01 and bay.done and bay.done[-1].key in bay.state.closings:
            last = bay.done[-1]
            closed = bay.state.closings[last.key].entry.id
            with suppress(RunError):
                bay.write(K.REOPEN, last.key, refers_to=closed)
                return bay.entries
    return bay.entries


def test_tablet_and_core_take_the_same_branches() -> None:
    """Where a search stands, what is likely by then, and what can be done there."""
    runs = [found for seed in range(24) for found in cuts(searched(seed))]
    places = set()
    for entries, says in zip(runs, ask(runs, SEARCH), strict=True):
        state = fold(entries)
        assert ids(says["state"]) == ids(wire_state(SEARCH, state))
        core, path = core_says(SEARCH, state), state.path(SEARCH)
        for what in ("current", "first", "closing", "signing", "stages"):
            assert says[what] == core[what], what
        assert path is not None
        assert says["path"]["place"] == path.place
        assert says["path"]["beliefs"] == pytest.approx(path.beliefs)
        assert [one["outcome"] for one in says["path"]["taken"]] == [
            one.outcome for one in path.taken
        ]
        places.add(path.place)
    assert len(places) >= 8, "and they came to many places"


def cuts(entries: list[Recorded]) -> list[list[Recorded]]:
    """A run at a third, at two thirds, and whole."""
    third = len(entries) // 3
    return [entries[:third], entries[: 2 * third], entries]


def same_waiting(tablet: dict[str, Any] | None, core: dict[str, Any] | None) -> None:
    """Equal, times to the tenth of a minute the core rounds to."""
    assert (tablet is None) == (core is None)
    if tablet is None or core is None:
        return
    assert (tablet["lacks"], tablet["cold"]) == (core["lacks"], core["cold"])
    for key in ("ready", "until", "again"):
        assert (tablet[key] is None) == (core[key] is None)
        if core[key] is not None:
            assert tablet[key] / 1000 == pytest.approx(core[key].timestamp(), abs=4)
