"""The cards of a run: each step of an edition as the bay shows it, with its drawings."""

from dataclasses import dataclass, replace
from threading import Lock

from cachetools import LRUCache, cached

from eldrim.core.engine import Engine
from eldrim.core.engine.targets import hole_order
from eldrim.core.leads.ways import tower_of
from eldrim.core.operations import Operation
from eldrim.core.procedure.model import SIGNING, Plan, Step
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.run.stops import Stop, stops_at
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.drawing import engine_plan, lead_ring, photo, step_figure, well_section
from eldrim.store import edition_store
from eldrim.store.tables import EditionRow


@dataclass(frozen=True)
class Card:
    """One step as the bay shows it; nothing here depends on the run.

    ``rule`` is the drawing of its figure, ``sections`` the wells with what reaches down, ``then``
    what the hand changes to for the next step, ``others`` hole and key of the same act elsewhere,
    ``ring`` the towers of the leads where their order is proven.
    """

    number: int
    step: Step
    rule: str
    sections: tuple[tuple[str, str], ...]
    photos: tuple[str, ...]
    stops: tuple[Stop, ...]
    then: str
    others: tuple[tuple[str, str], ...]
    ring: str = ""

    @property
    def signing(self) -> bool:
        """Whether it is closed by signing."""
        return self.step.key == SIGNING


@cached(LRUCache(32), key=lambda row, engine: row.id, lock=Lock())
def cards(row: EditionRow, engine: Engine) -> tuple[str, tuple[Card, ...]]:
    """The plan to point at, and the steps of an edition: drawn once, as it never changes."""
    plan = edition_store.plan_of(row)
    with reading_in(plan.job.language):
        view = engine_plan.PlanView(
            photo=True,
            chosen=frozenset(engine.holes_of_all(plan.job.cylinders)),
            compact=True,
            here=engine_plan.ANY,
        )
        return engine_plan.draw(engine, view), _cards(plan, engine)


def _cards(plan: Plan, engine: Engine) -> tuple[Card, ...]:
    following = [*plan.steps[1:], None]
    ring = _ring(plan, engine)
    return tuple(
        _card(plan, engine, number, step, after)
        if step.key.operation is not Operation.CHECK_ORDER
        else replace(_card(plan, engine, number, step, after), ring=ring)
        for number, (step, after) in enumerate(zip(plan.steps, following, strict=True), 1)
    )


def _card(plan: Plan, engine: Engine, number: int, step: Step, after: Step | None) -> Card:
    return Card(
        number=number,
        step=step,
        rule=step_figure.draw(step, plan, engine),
        sections=tuple(
            (say(f"action.{stack.action}"), well_section.draw(stack))
            for stack in step.stacks
            if stack.below > 0
        ),
        photos=tuple(photo.draw(p, f"/images/{p.image}.jpg") for p in step.photos),
        stops=stops_at(step),
        then="" if plan.search else change_of_tool(step, after),
        others=_same_act_elsewhere(plan, step),
    )


def _ring(plan: Plan, engine: Engine) -> str:
    """The towers with the hole each goes to; empty where the sheet says otherwise by now than the
    edition does.
    """
    step = next((s for s in plan.steps if s.key.operation is Operation.CHECK_ORDER), None)
    meant = {tower: hole for hole, tower in tower_of(engine).items()}
    said = {f"tower-{n}": say("check.tower", tower=n, hole=hole) for n, hole in meant.items()}
    if step is None or any(said.get(check.key) != check.text for check in step.checks):
        return ""
    return lead_ring.draw(engine, lead_ring.RingView(found=meant))


def change_of_tool(step: Step, after: Step | None) -> str:
    """What the hand changes to for the next step; empty where it needs nothing."""
    if after is None or not after.tools:
        return ""
    if after.tools == step.tools:
        return say("bay.same_tool")
    if set(after.tools) < set(step.tools):
        return say("bay.kept_tool", tools=tool_words(after))
    return f"{say('bay.then')} {tool_words(after)}"


def _same_act_elsewhere(plan: Plan, step: Step) -> tuple[tuple[str, str], ...]:
    """Hole and key of the same act at the other holes, where a number is written down."""
    if step.hole is None or not any(reading.kind == "number" for reading in step.readings):
        return ()
    act = step.key.at("")
    same = [s for s in plan.steps if s.hole and s.key.at("") == act]
    same.sort(key=lambda s: hole_order(s.hole or ""))
    return tuple((s.hole or "", s.key) for s in same)
