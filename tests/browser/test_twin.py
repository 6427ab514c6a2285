"""The tablet's rules and the core's say the same of any run: rules.js beside fold and admit."""

import random
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import pytest
from playwright.sync_api import Page

from eldrim.core.errors import RunError
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.edits import Edit, apply_edits
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.entries import NOTHING, Entry, EntryKind, Recorded, Role
from eldrim.core.run.holes import stages, waits_on
from eldrim.core.run.state import (
    SIGNING,
    RunState,
    admit,
    after,
    at_limit,
    fold,
    judge,
    same_serial,
)
from eldrim.core.run.stops import CANNOT, DIFFERS, STOPS
from eldrim.core.run.waiting import waiting
from eldrim.web import files
from eldrim.web.bay.page import outline, told
from tests.browser.conftest import People
from tests.builders import job, tug

pytestmark = pytest.mark.browser
K = EntryKind
PLAN = apply_edits(compiled(tug(), job(2, 4)), {"remove/plug/2": Edit(hold=True)})
# Nothing can be added after these.
LAST = {K.SIGN, K.END}
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)

TWIN = """async ([steps, entries, judged, plates, files]) => {
  const rules = await import(files + "/bay/rules.js");
  const now = rules.opened({ done: [], released: [], values: {}, watched: {}, stops: [],
                             deviations: [], differs: [], conflicts: {}, closings: {},
                             signed: false });
  for (const entry of entries) rules.lay(now, entry);
  const hot = rules.waiting(steps.find((s) => s.key === "ready/temperature"), now);
  return { state: rules.closed(now), current: rules.current(steps, now).key,
    first: Object.fromEntries(steps.map((s) => [s.key, rules.first(steps, s, now)?.text ?? ""])),
    stages: Object.fromEntries(steps.filter((s) => s.hole).map((s) =>
      [s.hole, rules.stage(steps, s.hole, now)])),
    plates: plates.map(([read, serial]) => rules.sameSerial(read, serial)),
    judged: judged.map(([reading, value]) => rules.judge(reading, value)),
    limits: judged.map(([reading, value]) => rules.atLimit(reading, value)),
    waiting: hot && { lacks: hot.lacks, cold: hot.cold, ready: hot.ready ?? null,
                      again: hot.again ?? null, until: hot.until ?? null } };
}"""


class Wanderer:
    """Writes whatever the core admits, now and then out of order, until it tires."""

    def __init__(self, seed: int) -> None:
        """A run with nothing in it."""
        self.dice = random.Random(seed)
        self.state, self.entries, self.minute = RunState(), [], 0.0

    def wander(self, tries: int) -> None:
        """Try so many entries; keep those the core takes."""
        for _ in range(tries):
            entry, role = self._any()
            try:
                admit(PLAN, self.state, entry, role)
            except RunError:
                continue
            recorded = Recorded(entry=entry, by="x", role=role, at=START)
            self.state = after(self.state, recorded)
            self.entries.append(recorded)

    def _any(self) -> tuple[Entry, Role]:
        now = self.state.current(PLAN) or PLAN.steps[-1]
        step = now if self.dice.random() < 0.8 else self.dice.choice(PLAN.steps)
        lead = self.dice.random() < 0.3
        kinds = [K.READING] * 6 + [K.DONE] * 5 + [k for k in K if k not in LAST]
        made = {"kind": self.dice.choice(kinds), "step": step.key, **self._about(step)}
        if step.key == SIGNING and not self.state.open_checks(PLAN):
            made["kind"] = K.SIGN
        if made["kind"] is K.WATCH or (made.get("reading") == "temperature" and lead):
            made |= self._hot()
        if made["kind"] in (K.READING, K.DEVIATION):
            had = self.state.values.get((step.key, made.get("reading", "")))
            made["names"] = self.dice.choice([None, NOTHING, had.entry.id if had else NOTHING])
        if made["kind"] is K.REOPEN:
            made["names"] = self.state.closings.get(step.key, NOTHING)
        if made["kind"] in (K.ACCEPT, K.RESUME):
            among = self.state.open_deviations if made["kind"] is K.ACCEPT else self.state.stops
            made["names"] = self.dice.choice([*among, self._id()])
        self.minute += self.dice.choice((0.5, 3, 12))
        return Entry.model_validate(
            {"id": self._id(), "made": START + timedelta(minutes=self.minute), **made}
        ), Role.LEAD if lead else Role.TECHNICIAN

    def _about(self, step: Step) -> dict[str, Any]:
        said: dict[str, Any] = {"checks": tuple(c.key for c in step.checks)}
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


PLATES = [
    ["ELDRIM UNIT tug-14 22-31", "2231"],
    ["br57 0871", "BR57-0871"],
    ["2248", "2231"],
    ["--", "2231"],
    ["", ""],
    ["größe 7", "GRÖßE-7"],
]


def core_says(plan: Plan, state: RunState) -> dict[str, Any]:
    """The same answers as the script above, from the core."""
    found = waiting(next(s for s in plan.steps if s.key == "ready/temperature"), state)
    now = state.current(plan) or plan.steps[-1]
    return {
        "state": told(plan, state),
        "current": now.key,
        "first": {s.key: waits_on(plan, state, s).removeprefix("first: ") for s in plan.steps},
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


def essence(state: dict[str, Any]) -> dict[str, Any]:
    """What both tell of a state, without names and texts for lists."""
    return {
        **{k: sorted(state[k]) for k in ("done", "released")},
        **{k: [m["id"] for m in state[k]] for k in ("stops", "deviations", "differs")},
        "values": {
            k: [v[x] for x in ("id", "value", "deviation", "accepted")]
            for k, v in state["values"].items()
        },
        "watched": {
            k: [(s["value"], datetime.fromisoformat(s["at"])) for s in seen]
            for k, seen in state["watched"].items()
        },
        "conflicts": {
            k: [(v["id"], v["value"], v["kind"], v["why"]) for v in both]
            for k, both in state["conflicts"].items()
        },
        "closings": state["closings"],
        "signed": state["signed"],
    }


def judgements() -> list[tuple[Reading, float]]:
    """Every limit of the plan, on it, a hair and half a gauge's step under and over it."""
    readings = {r for s in PLAN.steps for r in s.readings}
    gap = next(r for r in readings if r.resolution)
    # A window narrower than the gauge's step, and one that is a single value.
    readings |= {gap.model_copy(update={"low": 1.0, "high": high}) for high in (1.0, 1.04)}
    limits = {(r, edge) for r in readings for edge in (r.low, r.high) if edge is not None}
    steps = (-0.03, -0.025, -0.02, -0.001, 0, 0.001, 0.02, 0.025, 0.03)
    return [(r, edge + by) for r, edge in sorted(limits, key=str) for by in steps]


def ask(page: Page, entries: list[Recorded]) -> dict[str, Any]:
    """What the tablet makes of these entries."""
    judged = [(r.model_dump(mode="json"), value) for r, value in judgements()]
    sent = [e.entry.model_dump(mode="json") for e in entries]
    return page.evaluate(TWIN, [outline(PLAN), sent, judged, PLATES, files.address()])


@pytest.fixture
def page(person: People) -> Page:
    """Any page of ours: the rules need none of it."""
    found = person("technician")
    found.goto("/bay")
    return found


def test_tablet_and_core_fold_every_run_alike(page: Page) -> None:
    """Thirty-two wandering runs: state, order, stages and waiting are the same on both sides."""
    met: set[EntryKind] = set()
    lacks: set[object] = set()
    conflicts = 0
    for seed in range(32):
        wanderer = Wanderer(seed)
        wanderer.wander(40 + 12 * seed)
        met |= {e.entry.kind for e in wanderer.entries}
        for entries in (wanderer.entries[: 8 + seed], wanderer.entries):
            says, core = ask(page, entries), core_says(PLAN, fold(entries))
            assert essence(says["state"]) == essence(core["state"]), seed
            for what in ("current", "first", "stages"):
                assert says[what] == core[what], (seed, what)
            same_waiting(says["waiting"], core["waiting"])
            conflicts += bool(core["state"]["conflicts"])
            lacks.add(core["waiting"] and core["waiting"]["lacks"])
    assert met >= set(K) - LAST, "the wandering met every kind of entry"
    assert {None, "", "second", "air"} <= lacks, "and every way of waiting"
    assert conflicts, "and values that two tablets wrote"


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


def test_a_limit_and_a_plate_are_judged_alike(page: Page) -> None:
    """On it, a hair under and over; plates as they are typed and scanned."""
    verdicts = [judge(r, value) for r, value in judgements()]
    words = {" is under ": "under", " is over ": "over"}
    expected = [next((w for part, w in words.items() if part in v), "") for v in verdicts]
    says = ask(page, [])
    assert says["judged"] == expected
    at_limits = [at_limit(r, value) for r, value in judgements()]
    assert says["limits"] == at_limits
    assert {True, False} == set(at_limits)
    assert says["plates"] == [same_serial(read, serial) for read, serial in PLATES]
    assert {"under", "over", ""} == set(expected)
