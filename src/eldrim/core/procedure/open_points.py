"""What is still open on a plan, and what tools the crib lacks that would make it shorter."""

from datetime import date

from eldrim.core.access import build, solve
from eldrim.core.access.alternatives import option_facts
from eldrim.core.engine.model import TO_BE_STATED
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import OpenPoint, PartLine, Plan, RollItem, Step, StepFigure, Want
from eldrim.core.tools.crib import Crib
from eldrim.core.words import listed, say, the


def open_points(
    steps: list[Step], roll: tuple[RollItem, ...], parts: tuple[PartLine, ...]
) -> tuple[OpenPoint, ...]:
    """Everything on these steps that a release must settle or accept, once each."""
    found: dict[str, OpenPoint] = {}
    for step in steps:
        for figure in step.figures:
            for point in _figure_points(figure):
                known = found.setdefault(point.key, point)
                users = (*known.steps, step.key)
                found[point.key] = known.model_copy(update={"steps": users})
    missing = [_missing(item, steps) for item in roll if item.missing]
    unstated = [
        OpenPoint(key=f"part/{line.name}", text=say("open.part", name=line.name), bars=True)
        for line in parts
        if line.part_number == TO_BE_STATED
    ]
    return (*found.values(), *unstated, *missing)


def _figure_points(figure: StepFigure) -> list[OpenPoint]:
    named = {"name": figure.name, "printed": figure.printed}
    points = []
    if figure.unsettled:
        rivals = listed(figure.rivals)
        said = say("open.unsettled", **named, source=figure.source, rivals=rivals)
        points.append(OpenPoint(key=f"unsettled/{figure.key}", text=said, bars=True))
    if figure.unsourced:
        said = say("open.unsourced", **named)
        points.append(OpenPoint(key=f"unsourced/{figure.key}", text=said, bars=True))
    if figure.key == "plug-angle" and figure.sum:
        points.append(OpenPoint(key="no-wrench/plug-torque", text=figure.sum[0]))
    if figure.fallback:
        said = say("open.fallback", **named)
        points.append(OpenPoint(key=f"fallback/{figure.key}", text=said))
    return points


def _missing(item: RollItem, steps: list[Step]) -> OpenPoint:
    users = tuple(step.key for step in steps if item.id in {tool.id for tool in step.tools})
    text = f"{item.name}: {item.missing}; {item.cure}"
    return OpenPoint(key=f"missing/{item.id}", text=text, steps=users)


def overdue(plan: Plan, crib: Crib, on: date) -> tuple[OpenPoint, ...]:
    """The wrenches a plan sets whose calibration has run out on a day."""
    users: dict[str, list[str]] = {}
    for step in plan.steps:
        for wrench in {figure.setting.wrench_id for figure in step.figures if figure.setting}:
            users.setdefault(wrench, []).append(step.key)
    return tuple(
        OpenPoint(
            key=f"overdue/{wrench.id}",
            text=say("open.overdue", wrench=wrench.shown, due=wrench.due),
            steps=tuple(users[wrench.id]),
        )
        for wrench in crib.wrenches
        if wrench.id in users and wrench.overdue(on)
    )


def wants(facts: JobFacts) -> tuple[Want, ...]:
    """Tools that would open a cheaper way in: what they are, and the minutes they would save.

    Nothing is wanted where the present way in already had to leave the crib aside.
    """
    if facts.barred or not facts.problem.short:
        return ()
    engine = facts.engine
    best = solve(build(engine, facts.job, facts.rules))
    saved = round((facts.way_in.cost - best.cost) / 100, 1)
    lacking = dict.fromkeys(
        missing
        for option in sorted(best.chosen)
        for missing in facts.capability.lacks(
            option_facts(engine, option), engine.parts[option.part]
        )
    )
    if saved <= 0 or not lacking:
        return ()
    tools = tuple(dict.fromkeys(t for m in lacking for t in (m.buy or (m.what,))))
    moved, other = ({o.part for o in w.chosen if o.is_way} for w in (facts.way_in, best))
    names = [the(engine.parts[p].name) for p in sorted(moved - other)]
    said = say("want.stay" if names else "want.quicker", tools=listed(tools), parts=listed(names))
    price = sum(m.price for m in lacking)
    return (Want(tools=tools, words=said, minutes=saved, price=price),)
