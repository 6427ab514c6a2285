"""What the bay shows of a run: the edition once, and the state as it is now."""

from collections import OrderedDict
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy.orm import Session

from eldrim.core.engine import Engine
from eldrim.core.figures.gap import GapRange, advise
from eldrim.core.figures.sheet import plug_of
from eldrim.core.language import speaking
from eldrim.core.procedure.model import Plan, Reading, Step, segments
from eldrim.core.quantity import UNITS, Dimension, convert, format_number, working_unit
from eldrim.core.run.entries import EntryKind, Recorded
from eldrim.core.run.history import Past, compared, grown
from eldrim.core.run.holes import stage_after
from eldrim.core.run.state import SIGNING, RunState
from eldrim.core.run.stops import BY_KEY, Stop, reason_of, stops_at
from eldrim.core.run.waiting import waiting
from eldrim.core.words import say, tool
from eldrim.drawing import cooling_curve, engine_plan, figure, photo, well_section
from eldrim.store import library, releases, runs
from eldrim.store.tables import EditionRow, RunRow


@dataclass(frozen=True)
class Card:
    """One step as the bay shows it, with its drawings; nothing here depends on the run."""

    index: int
    step: Step
    rule: str
    sections: tuple[tuple[str, str], ...]
    photos: tuple[str, ...]
    stops: tuple[Stop, ...]
    then: str
    others: tuple[tuple[str, str], ...]

    @property
    def signing(self) -> bool:
        """Whether it is closed by signing."""
        return self.step.key == SIGNING


_kept: OrderedDict[UUID, tuple[str, tuple[Card, ...]]] = OrderedDict()
KEPT = 32
SAME_LINE_MM = 25.0


def cards(row: EditionRow, engine: Engine) -> tuple[str, tuple[Card, ...]]:
    """The plan to point at, and the steps of an edition: drawn once, as it never changes."""
    if row.id not in _kept:
        plan = library.plan_of(row)
        with speaking(plan.job.language):
            view = engine_plan.PlanView(
                chosen=frozenset(h for c in plan.job.cylinders for h in engine.holes_of(c)),
                compact=True,
                here=engine_plan.ANY,
            )
            _kept[row.id] = (engine_plan.draw(engine, view), _cards(plan))
        if len(_kept) > KEPT:
            _kept.popitem(last=False)
    return _kept[row.id]


def _cards(plan: Plan) -> tuple[Card, ...]:
    found = []
    for index, step in enumerate(plan.steps):
        drawn = next((d for f in step.figures if (d := figure.draw(f))), "")
        sections = tuple(
            (say(f"act.{s.act.name}"), well_section.draw(s)) for s in step.stacks if s.below > 0
        )
        photos = tuple(photo.draw(p, f"/images/{p.image}.jpg") for p in step.photos)
        found.append(
            Card(
                index,
                step,
                drawn,
                sections,
                photos,
                stops_at(step),
                _then(step, plan.steps[index + 1 : index + 2]),
                _others(plan, step),
            )
        )
    return tuple(found)


def _then(step: Step, after: tuple[Step, ...]) -> str:
    """What the hand changes to for the next step; empty where it needs nothing."""
    wanted = after[0].tools if after else ()
    if not wanted:
        return ""
    same = wanted == step.tools
    return say("bay.same_tool") if same else f"{say('bay.then')} {' + '.join(map(tool, wanted))}"


def _others(plan: Plan, step: Step) -> tuple[tuple[str, str], ...]:
    """Hole and step of the same act at the other holes, where a number is written down."""
    if step.hole is None or not any(r.kind == "number" for r in step.readings):
        return ()
    kind = step.key.rsplit("/", 1)[0]
    same = [s for s in plan.steps if s.hole and s.key.rsplit("/", 1)[0] == kind]
    same.sort(key=lambda s: (s.cylinder or 0, s.hole or ""))
    return tuple((s.hole or "", s.key) for s in same)


def tray_of(engine: Engine) -> dict[str, tuple[int, int]]:
    """Column and row of each hole in a tray laid out as the engine is, seen on its plan."""
    places = {hole: well.at for hole, (_, well) in engine.holes.items()}
    columns, rows = (_lines([p[axis] for p in places.values()]) for axis in (0, 1))
    return {h: (_nearest(columns, p[0]), _nearest(rows, p[1])) for h, p in places.items()}


def _lines(values: list[float]) -> list[float]:
    """The values with those that stand closer than a plug's width taken together."""
    found: list[float] = []
    for value in sorted(values):
        if not found or value - found[-1] > SAME_LINE_MM:
            found.append(value)
    return found


def _nearest(lines: list[float], value: float) -> int:
    return min(range(len(lines)), key=lambda i: abs(lines[i] - value)) + 1


# What is measured in a bay; the tablet converts what is typed or sent in another unit.
MEASURED = (Dimension.TORQUE, Dimension.LENGTH, Dimension.VOLTAGE, Dimension.TEMPERATURE)


def units() -> dict[str, dict[str, Any]]:
    """Every spelling of a unit measured in a bay: how it becomes the working unit of its kind."""
    found = {}
    for u in (u for u in UNITS if u.dimension in MEASURED):
        base = working_unit(u.dimension).symbol
        zero = convert(0.0, u.symbol, base)
        about = {
            "measures": u.dimension.value,
            "offset": zero,
            "scale": convert(1.0, u.symbol, base) - zero,
            "places": max(u.decimals, 1),
        }
        found |= dict.fromkeys(u.spellings, about)
    return found


def outline(plan: Plan) -> list[dict[str, Any]]:
    """What the tablet needs to know of each step to go on without the link."""
    places = {s.key: n for n, (_, steps) in enumerate(segments(plan)) for s in steps}
    return [
        {
            "key": s.key,
            "text": s.text,
            "phase": s.phase.value,
            "place": places[s.key],
            "after": list(s.after),
            "checks": [c.key for c in s.checks],
            "hole": s.hole or "",
            "part": s.part or "",
            "minutes": s.minutes,
            "hold": s.hold,
            "stage": stage_after(s),
            "readings": [r.model_dump(exclude={"choices", "shown"}) for r in s.readings],
        }
        for s in plan.steps
    ]


def state_of(db: Session, row: RunRow) -> dict[str, Any]:
    """The state of a run as a tablet is told it, in the language of its edition."""
    plan = library.plan_of(row.edition)
    with speaking(plan.job.language):
        return {
            **told(plan, runs.state(db, row.id)),
            "started": row.at.isoformat(),
            "notices": releases.notices(db, row.edition),
        }


def told(plan: Plan, state: RunState) -> dict[str, Any]:
    """What static/bay/rules.js goes on from: the fold, with keys ``step|reading``."""
    return {
        "seq": state.count,
        "done": sorted(state.done),
        "closings": {step: str(entry) for step, entry in state.closings.items()},
        "released": sorted(state.released),
        "values": {f"{step}|{key}": _value(state, (step, key)) for step, key in state.values},
        "watched": {
            f"{step}|{key}": [{"value": r.entry.value, "at": r.written.isoformat()} for r in seen]
            for (step, key), seen in state.watched.items()
        },
        "conflicts": {
            f"{step}|{key}": [
                {**_mark(plan, r), "reading": key, "kind": r.entry.kind, "why": r.entry.reason}
                for r in both
            ]
            for (step, key), both in state.conflicts.items()
        },
        "deviations": [_mark(plan, r) for r in state.open_deviations.values()],
        "stops": [_mark(plan, r) for r in state.stops.values()],
        "differs": [_mark(plan, r) for r in state.differs],
        "signed": state.signed is not None,
        "parts": damaged(plan, state),
    }


def _value(state: RunState, key: tuple[str, str]) -> dict[str, Any]:
    had = state.values[key]
    return {
        "value": had.entry.value,
        "by": had.by,
        "id": str(had.entry.id),
        "deviation": had.entry.kind is EntryKind.DEVIATION,
        "reason": had.entry.reason,
        "accepted": had.entry.id in state.accepted,
    }


def _mark(plan: Plan, recorded: Recorded) -> dict[str, Any]:
    entry = recorded.entry
    text = next((s.text for s in plan.steps if s.key == entry.step), entry.step)
    stop = BY_KEY.get(entry.reason) if entry.kind is EntryKind.STOP else None
    return {
        "id": str(entry.id),
        "step": entry.step,
        "text": text,
        "by": recorded.by,
        "value": entry.value,
        "unit": entry.unit,
        "photo": entry.photo,
        "stop": stop.key if stop else "",
        "reason": reason_of(entry),
    }


def advice_at(
    db: Session, row: RunRow, engine: Engine, step: str, reading: str, value: float
) -> str:
    """What to do with a plug whose gap reads ``value``; empty where there is nothing to say."""
    plan = library.plan_of(row.edition)
    asked = next((s for s in plan.steps if s.key == step), None)
    found = next((f for f in asked.figures if f.key == "plug-gap"), None) if asked else None
    if asked is None or found is None:
        return ""
    before = [
        e.entry.value
        for e in runs.entries(db, row.id)
        if (e.entry.step, e.entry.reading) == (step, reading)
    ]
    typed = [v for v in before if isinstance(v, int | float)]
    every = (*typed, value) if not typed or typed[-1] != value else tuple(typed)
    low, high, aim = (convert(v, found.unit, "mm") for v in (found.min, found.max, found.aim))
    plug = plug_of(engine, plan.variant)
    with speaking(plan.job.language):
        done = advise(
            plug.construction,
            GapRange(low, high, aim),
            tuple(convert(v, found.unit, "mm") for v in every),
            used=reading == "gap_found",
            maker_allows=plug.adjustable,
        )
        worn = _wear(db, row, asked, reading, value, found.max) if reading == "gap_found" else ""
    return " ".join(filter(None, (done.words, worn)))


def last_time(db: Session, row: RunRow) -> dict[tuple[str, str], str]:
    """What the last run on the unit wrote where this one asks, in words, by step and reading."""
    before = runs.past(db, row.unit_id, most=1)
    if not before:
        return {}
    last, plan = before[0], library.plan_of(row.edition)
    with speaking(plan.job.language):
        return {
            (s.key, r.key): _then_said(last, s.key, r)
            for s in plan.steps
            for r in s.readings
            if s.hole and compared(s.key, r.key) in last.state.values
        }


def _then_said(last: Past, step: str, reading: Reading) -> str:
    key = compared(step, reading.key)
    entry = last.state.values[key].entry
    value: object = entry.value
    if isinstance(value, int | float):
        value = f"{format_number(value, 3)} {entry.unit}".strip()
    elif reading.shown and value in reading.choices:
        value = reading.shown[reading.choices.index(str(value))]
    words = "bay.last" if key[1] == reading.key else "bay.last_left"
    return say(words, value=value, day=f"{last.at:%Y-%m-%d}")


def _wear(db: Session, row: RunRow, step: Step, reading: str, value: float, most: float) -> str:
    """How the gap grew since the last run on this unit; empty where that cannot be said."""
    asked = next(r for r in step.readings if r.key == reading)
    before = runs.past(db, row.unit_id, most=1)
    worn = (
        grown(before[0], runs.state(db, row.id), step.key, asked, value, most) if before else None
    )
    if worn is None or worn.leaves_at is None:
        return ""
    return say(
        "bay.wear",
        rate=format_number(worn.rate, 3),
        unit=row.unit.meter,
        limit=f"{format_number(most, 3)} {asked.unit}",
        at=format_number(worn.leaves_at, 0),
    )


def marks(plan: Plan, state: RunState) -> list[dict[str, Any]]:
    """Every stop and everything that differed in a run, cleared or not."""
    return [_mark(plan, recorded) for recorded in state.marks]


def damaged(plan: Plan, state: RunState) -> list[dict[str, str]]:
    """The parts the run needs beside those of the procedure, with why."""
    steps = {s.key: s for s in plan.steps}
    found = []
    for entry in (m.entry for m in state.marks):
        step = steps[entry.step]
        stop = BY_KEY.get(entry.reason) if entry.kind is EntryKind.STOP else None
        if stop and stop.part:
            found.append({"name": say(stop.part), "why": f"{stop.name}: {step.text}"})
        if entry.kind is EntryKind.DIFFERS and entry.reason == "damaged":
            found.append({"name": step.object, "why": f"{say('differs.damaged')}: {step.text}"})
    return found


def cooling_drawn(db: Session, row: RunRow, key: str) -> str:
    """How what is waited for at a step cools, as a drawing; empty while it cannot be said."""
    plan = library.plan_of(row.edition)
    step = next((s for s in plan.steps if s.key == key), None)
    found = waiting(step, runs.state(db, row.id)) if step else None
    if found is None or found.curve is None:
        return ""
    with speaking(plan.job.language):
        return cooling_curve.draw(found.curve, found.reading.unit)
