"""What is still open on a plan, and what tools the crib lacks that would make it shorter."""

from datetime import date

from eldrim.core.access import build, solve
from eldrim.core.access.alternatives import facts
from eldrim.core.engine.model import UNSTATED
from eldrim.core.procedure.context import Context
from eldrim.core.procedure.model import OpenPoint, Plan, RollItem, Step, Want
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.shortage import bare
from eldrim.core.words import listed, say, the, tool


def open_points(steps: list[Step], laid_out: tuple[RollItem, ...]) -> tuple[OpenPoint, ...]:
    """Everything on these steps that a release must settle or accept, once each."""
    found: dict[str, OpenPoint] = {}
    for step in steps:
        for figure in step.figures:
            if figure.unsettled:
                rivals = listed(figure.rivals)
                said = say(
                    "open.unsettled",
                    name=figure.name,
                    printed=figure.printed,
                    source=figure.source,
                    rivals=rivals,
                )
                _add(found, f"unsettled/{figure.key}", said, step, bars=True)
            if figure.source.startswith(UNSTATED):
                said = say("open.unsourced", name=figure.name, printed=figure.printed)
                _add(found, f"unsourced/{figure.key}", said, step, bars=True)
            if figure.key == "plug-angle" and figure.sum:
                _add(found, "no-wrench/plug-torque", figure.sum[0], step)
            if figure.fallback:
                said = say("open.fallback", name=figure.name, printed=figure.printed)
                _add(found, f"fallback/{figure.key}", said, step)
    for item in laid_out:
        if item.missing:
            users = tuple(s.key for s in steps if item.name in {bare(t) for t in s.tools})
            found[f"missing/{item.name}"] = OpenPoint(
                key=f"missing/{item.name}",
                text=f"{item.name}: {item.missing}; {item.cure}",
                steps=users,
            )
    return tuple(found.values())


def _add(
    found: dict[str, OpenPoint], key: str, text: str, step: Step, *, bars: bool = False
) -> None:
    known = found.get(key) or OpenPoint(key=key, text=text, bars=bars)
    found[key] = known.model_copy(update={"steps": (*known.steps, step.key)})


def overdue(plan: Plan, crib: Crib, on: date) -> tuple[OpenPoint, ...]:
    """The wrenches a plan sets whose calibration has run out on a day."""
    used = {f.setting.wrench for s in plan.steps for f in s.figures if f.setting}
    late = [w for w in crib.wrenches if w.name in used and w.overdue(on)]
    return tuple(
        OpenPoint(
            key=f"overdue/{w.id}",
            text=say("open.overdue", wrench=tool(w.name), due=w.due),
            steps=tuple(
                s.key
                for s in plan.steps
                if any(f.setting and f.setting.wrench == w.name for f in s.figures)
            ),
        )
        for w in late
    )


def wants(ctx: Context, barred: bool) -> tuple[Want, ...]:
    """Tools that would open a cheaper way in: what they are, and the minutes they would save.

    ``barred`` tells that the present way in already had to leave the crib aside.
    """
    if barred or not ctx.problem.short:
        return ()
    best = solve(build(ctx.engine, ctx.job, ctx.rules))
    saved = round((ctx.way_in.cost - best.cost) / 100, 1)
    lacking = tuple(
        dict.fromkeys(
            s
            for n in sorted(best.chosen)
            for s in ctx.kit.lacks(facts(ctx.engine, n), ctx.engine.parts[n.part])
        )
    )
    if saved <= 0 or not lacking:
        return ()
    tools = tuple(dict.fromkeys(t for s in lacking for t in (s.buy or (s.what,))))
    moved, other = ({n.part for n in w.chosen if n.is_way} for w in (ctx.way_in, best))
    names = [the(ctx.engine.parts[p].name) for p in sorted(moved - other)]
    gain = "want.stay" if names else "want.quicker"
    said = say(gain, tools=listed([tool(t) for t in tools]), parts=listed(names))
    return (
        Want(
            tools=tuple(map(tool, tools)),
            words=said,
            minutes=saved,
            price=sum(s.price for s in lacking),
        ),
    )
