"""The ways of leads, drawn on the board: holders put on, moved and taken off; a measured length."""

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.base.quantity import Quantity
from eldrim.core.capture.part_access import snap
from eldrim.core.engine.model import Engine, LeadRun
from eldrim.core.engine.parts import Point
from eldrim.core.leads.ways import lead_ways
from eldrim.core.words.messages import gettext

MOST_HOLDERS = 12


def move_holder(engine: Engine, hole: str, place: int, by: Point) -> Engine:
    """The sheet with one holder of a lead moved by so many mm, kept on the plan."""
    holders = list(_run(engine, hole).holders)
    _known(hole, place, len(holders))
    x, y = holders[place]
    holders[place] = _on_plan(engine, (x + by[0], y + by[1]))
    return _with(engine, hole, tuple(holders))


def add_holder(engine: Engine, hole: str, place: int, at: Point) -> Engine:
    """The sheet with a holder more, as the ``place``-th from the tower on."""
    holders = list(_run(engine, hole).holders)
    _known(hole, place, len(holders) + 1)
    if len(holders) >= MOST_HOLDERS:
        said = gettext(
            "lead {hole} has {most_holders} holders", hole=hole, most_holders=MOST_HOLDERS
        )
        raise EngineError([Problem("lead_runs", said, gettext("take one off first"))])
    holders.insert(place, _on_plan(engine, at))
    return _with(engine, hole, tuple(holders))


def drop_holder(engine: Engine, hole: str, place: int) -> Engine:
    """The sheet with one holder of a lead less."""
    holders = list(_run(engine, hole).holders)
    _known(hole, place, len(holders))
    del holders[place]
    return _with(engine, hole, tuple(holders))


def measure_lead(engine: Engine, hole: str, length: Quantity | None) -> Engine:
    """The sheet with a measured length of a lead, which wins over the drawn one; None: as drawn."""
    run = _run(engine, hole).model_copy(update={"length": length})
    return engine.model_copy(update={"lead_runs": {**engine.lead_runs, hole: run}})


def _run(engine: Engine, hole: str) -> LeadRun:
    """What is said of a lead's way. Raises :class:`EngineError` where there is no such lead."""
    if hole not in lead_ways(engine):
        fix = gettext("state first where the towers are")
        raise EngineError(
            [Problem("lead_runs", gettext("no way of a lead {hole} is drawn", hole=hole), fix)]
        )
    return engine.lead_runs.get(hole, LeadRun())


def _known(hole: str, place: int, count: int) -> None:
    if not 0 <= place < count:
        raise EngineError(
            [
                Problem(
                    "lead_runs",
                    gettext("lead {hole} has no such holder", hole=hole),
                    gettext("load the page"),
                )
            ]
        )


def _on_plan(engine: Engine, at: Point) -> Point:
    width, height = engine.layout.plan
    return (min(max(snap(at[0]), 0.0), width), min(max(snap(at[1]), 0.0), height))


def _with(engine: Engine, hole: str, holders: tuple[Point, ...]) -> Engine:
    run = _run(engine, hole).model_copy(update={"holders": holders})
    return engine.model_copy(update={"lead_runs": {**engine.lead_runs, hole: run}})
