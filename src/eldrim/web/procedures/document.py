"""What the pages of a draft show: the compiled plan with its edits, and all that hangs on it."""

from dataclasses import dataclass
from statistics import median
from typing import Any

from eldrim.core.job import Job
from eldrim.core.lessons.costs import planned_cost
from eldrim.core.procedure.editions.difference import Difference, difference
from eldrim.core.procedure.editions.edits import Edit, apply_edits, orphans, placements, put
from eldrim.core.procedure.editions.fold import Chapter, chapters, gathered, left_out_acts
from eldrim.core.procedure.editions.placement import Placement
from eldrim.core.procedure.model import Plan
from eldrim.core.procedure.open_points import overdue
from eldrim.core.procedure.photos import Photo
from eldrim.core.procedure.whole_job.tool_roll import different_stacks
from eldrim.core.rules.topics import TOPICS
from eldrim.core.words.language import LANGUAGES, reading_in
from eldrim.core.words.messages import gettext
from eldrim.drawing import engine_plan, figure, photo, tool_roll, well_section
from eldrim.drawing.svg import named, shown_again
from eldrim.store import answers, edition_store, procedure_store, releases, runs, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.lesson_tables import StepAnswerRow
from eldrim.store.tables import ProcedureRow
from eldrim.web.context import Db, tools_today
from eldrim.web.filters import today
from eldrim.web.lessons.found import lessons_of
from eldrim.web.plans import plan_for


def compiled(db: Db, row: ProcedureRow) -> Plan:
    """The plan of a draft as it computes today, without its edits."""
    departures = procedure_store.departures_of(row)
    rules = rules_store.in_force(db).departing(departures)
    sheet, crib = sheet_store.sheet(db, row.engine_id), tools_today(db)
    made = plan_for(sheet, Job.model_validate(row.job), rules, crib)
    with reading_in(made.job.language):
        late = overdue(made, crib, today())
    made = made.model_copy(update={"open_points": (*made.open_points, *late)})
    return made.model_copy(update={"departures": departures})


def document(
    db: Db, row: ProcedureRow, moving: str = "", move: Placement | None = None
) -> dict[str, Any]:
    """Everything the page of a draft shows.

    ``moving`` names the step or act of a move that was asked for and cannot be: why stands there.
    """
    computed = compiled(db, row)
    made = apply_edits(computed, procedure_store.edits_of(row))
    with reading_in(made.job.language):
        shown = _shown(db, row, computed, made)
        return {**shown, "refused": _refusal(computed, procedure_store.edits_of(row), moving, move)}


def _view(made: Plan, holes: frozenset[str]) -> engine_plan.PlanView:
    return engine_plan.PlanView(
        chosen=holes, moves=made.moves, at_towers=made.job.at_towers, photo=True
    )


def _shown(db: Db, row: ProcedureRow, computed: Plan, made: Plan) -> dict[str, Any]:
    sheet, edits = sheet_store.sheet(db, row.engine_id), procedure_store.edits_of(row)
    holes = frozenset(sheet.holes_of_all(made.job.cylinders))
    picture = engine_plan.draw(sheet, _view(made, holes))
    return {
        "row": row,
        "next_edition": row.editions[0].number + 1 if row.editions else 1,
        "plan": made,
        "chapters": (shown := chapters(made.steps)),
        "anchors": _anchors(shown),
        "picture": picture,
        "compiled": computed,
        "edits": edits,
        "topics": TOPICS,
        "rules": rules(made),
        "lost": orphans(computed, edits),
        "computed": computed_words(computed),
        "sections": sections(made),
        "unmoved": placements(computed, edits)[1],
        "roll": tool_roll.draw(made.roll),
        "changes": _since(row, made),
        "answered": _answered(db, row),
        "cost": job_cost(db, row, made),
        "approvals": releases.approvals(db, row.id, row.version),
        "second_person": rules_store.in_force(db).second_person,
        "photos": photos(made),
        "own_photos": {key: _drawn(edit.photos) for key, edit in edits.items() if edit.photos},
        "bases": _bases(edits),
        "left_out": left_out_acts(made.left_out),
        "bays": {one.step: one for one in lessons_of(db, row.id)[0]},
        "languages": {code: facts.name for code, facts in LANGUAGES.items()},
        "also": procedure_store.languages_of(db, row),
        "departed": {t: d.model_dump_json() for t, d in procedure_store.departures_of(row).items()},
    }


def _anchors(found: list[Chapter]) -> dict[str, str]:
    """Where an act that is done at several banks stands first: that is come back to."""
    acts = [one for chapter in reversed(found) for one in reversed(chapter.acts)]
    return {one.act.every: one.key for one in acts if one.act.every}


def _bases(edits: dict[str, Edit]) -> dict[str, str]:
    """Each step's edit as its forms carry it, to be compared when they come back."""
    return {key: edit.model_dump_json(exclude_defaults=True) for key, edit in edits.items()}


def _refusal(
    plan: Plan, edits: dict[str, Edit], moving: str, move: Placement | None
) -> tuple[str, str] | None:
    steps, _ = placements(plan, edits)
    if not moving or moving not in {
        key for step in steps for key in (step.key, step.key.at_every_hole)
    }:
        return None
    placed, against = put(plan, steps, moving, move) if move else (steps, "")
    if not against and [s.key for s in placed] == [s.key for s in steps]:
        against = gettext("it stands there already, or is the first or last of its phase")
    return (moving, against) if against else None


def photos(plan: Plan) -> dict[str, list[str]]:
    """The photos of each step with their marks."""
    return {step.key: _drawn(step.photos) for step in plan.steps if step.photos}


def _drawn(found: tuple[Photo, ...]) -> list[str]:
    return [photo.draw(p, f"/images/{p.image}.jpg") for p in found]


def computed_words(plan: Plan) -> dict[str, str]:
    """What each step, and each act at all its holes, reads as computed."""
    acts = {step.key.at_every_hole for step in plan.steps} - {""}
    found = {key: act.text for key in acts if (act := gathered(plan.steps, key))}
    return {**{step.key: step.text for step in plan.steps}, **found}


@dataclass(frozen=True)
class JobCost:
    """What a job is planned to cost, and what its newest runs came to, in the middle of so many."""

    planned: float
    real: float | None
    runs: int


def job_cost(db: Db, row: ProcedureRow, made: Plan) -> JobCost:
    """The planned cost of a draft, beside what its signed runs came to."""
    sheet = sheet_store.sheet(db, row.engine_id)
    planned = planned_cost(sheet, made, rules_store.in_force(db).money_per_minute).total
    real = runs.costs_of_procedure(db, row.id)
    return JobCost(planned, median(real) if real else None, len(real))


def _answered(db: Db, row: ProcedureRow) -> list[StepAnswerRow]:
    """What was answered to the bays since the last edition; it will stand in the next one."""
    if not row.editions:
        return []
    given = answers.of_procedure(db, row.id)
    return [one for one in given if one.edition == row.editions[0].number]


def _since(row: ProcedureRow, made: Plan) -> Difference | None:
    """What the draft changes against the last edition; None before the first."""
    return difference(edition_store.plan_of(row.editions[0]), made) if row.editions else None


def rules(plan: Plan) -> dict[str, str]:
    """What is drawn on each step with a figure: torque window, turn, gap; each different drawing
    once, the steps after it show the same.
    """
    drawn = {step.key: one for step in plan.steps for f in step.figures if (one := figure.draw(f))}
    names: dict[str, str] = {}
    found: dict[str, str] = {}
    for key, one in drawn.items():
        again = one in names
        name = names.setdefault(one, f"rule-{len(names) + 1}")
        found[key] = shown_again(one, name) if again else named(one, name)
    return found


def sections(plan: Plan) -> list[tuple[str, str]]:
    """The wells in section, each different stack once, with what it is for."""
    return [(words, well_section.draw(stack)) for words, stack in different_stacks(plan.steps)]
