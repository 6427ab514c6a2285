"""Clean, Pull, Read and Fit: the work at each hole, stage by stage over all wells."""

from eldrim.core.engine import Target
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.model import Coil
from eldrim.core.engine.parts import Joint
from eldrim.core.figures.gap import GAUGE_STEP_MM
from eldrim.core.procedure.cautions import Act, cautions
from eldrim.core.procedure.context import Context, name_of
from eldrim.core.procedure.model import Caution, Phase, Reading, Step, StepFigure
from eldrim.core.procedure.proofs import proof
from eldrim.core.procedure.times import ACTS
from eldrim.core.quantity import convert
from eldrim.core.tools.demand import Act as ToolAct
from eldrim.core.words import listed, lore, say

CONDITIONS = (
    "light tan to grey, dry", "chalk white, clean", "white blisters, melted edge",
    "dry, sooty black", "wet, black, oily", "wet, smells of fuel", "white or green crust",
    "yellow-brown glaze", "rust-red coating", "track down the insulator", "edges rounded",
    "tip bent", "cracked insulator", "badly seated",
)  # fmt: skip
COIL_CONDITIONS = ("sound", "cracked", "bulged", "burnt", "rusty foot", "oily boot", "bent pins")
CLEANERS: dict[str, tuple[str, ...]] = {
    "air": ("air gun",),
    "vacuum": ("vacuum with thin nozzle",),
    "both": ("vacuum with thin nozzle", "air gun"),
}
LIFTERS = {"socket": "", "hose": "old boot or hose", "magnet": "pick-up magnet"}


ITEMS = ("plug", "coil", "lead")


def shown(values: tuple[str, ...]) -> tuple[str, ...]:
    """The values of a choice as they are read; what is kept is the value itself."""
    return tuple(say(f"seen.{v}") for v in values)


def clean(ctx: Context) -> list[Step]:
    """Return the cleaning that comes before anything is opened."""
    return [_clean_coils(ctx)]


def pull(ctx: Context, holes: list[str]) -> list[Step]:
    """Return the steps that empty each well; the well is cleaned before its plug moves."""
    steps: list[Step] = []
    for hole in holes:
        releases = _releases(ctx, hole)
        steps += [*releases, _pull_carrier(ctx, hole, tuple(s.key for s in releases))]
        if hole in ctx.plug_holes:
            steps += [_clean_well(ctx, hole), _pull_plug(ctx, hole)]
    return steps


def read(ctx: Context, holes: list[str]) -> list[Step]:
    """Return one reading step for each thing that came out."""
    steps = [_read_plug(ctx, h) for h in holes if h in ctx.plug_holes]
    coils = isinstance(ctx.carrier, Coil) and ctx.item in ctx.job.work
    return steps + ([_read_coil(ctx, h) for h in holes] if coils else [])


def fit(ctx: Context, holes: list[str]) -> list[Step]:
    """Return the steps that put plugs in: all started by hand before any is tightened."""
    holes = [h for h in holes if h in ctx.plug_holes]
    compound = ctx.figures.compound()
    chased = ctx.rules.school("thread_cleaning") == "every_hole"
    steps = [_gap(ctx, h) for h in holes]
    steps += [_chase(ctx, h) for h in holes] if chased else []
    steps += [_prepare(ctx, h) for h in holes] if compound else []
    starts = [_start(ctx, h, compound, chased) for h in holes]
    all_started = tuple(s.key for s in starts)
    return [*steps, *starts, *(_tighten(ctx, h, all_started) for h in holes)]


def hole_step(ctx: Context, key: str, hole: str, phase: Phase, minutes: float) -> Step:
    """A step at one hole with nothing said yet but where it is and what it takes."""
    cylinder = ctx.engine.holes[hole][0]
    verb, item = key.split("/")[:2]
    return Step(
        key=key,
        phase=phase,
        verb=verb,
        cylinder=cylinder,
        hole=hole,
        object=say(f"item.{item}" if item in ITEMS else "item.plug", hole=hole),
        text="",
        minutes=round(minutes * ctx.well_factor(hole), 1),
        because=(say("because.hole", hole=hole),),
    )


def _clean_coils(ctx: Context) -> Step:
    what = say(f"noun.{ctx.item}{'s' if len(ctx.holes) > 1 else ''}")
    return Step(
        key=f"clean/{ctx.item}s",
        phase=Phase.CLEAN,
        verb="clean",
        object=what,
        text=say("clean_coils", what=what, holes=listed(sorted(ctx.holes, key=_natural))),
        detail=say("clean_coils.detail"),
        tools=_cleaners(ctx),
        setup=_cleaners(ctx)[-1],
        cautions=_cleaning_cautions(ctx),
        minutes=round(ACTS["clean coils"] * len(ctx.holes), 1),
        because=(say("because.coils"),),
    )


def _cleaners(ctx: Context) -> tuple[str, ...]:
    return CLEANERS[ctx.rules.school("well_cleaning")]


def _cleaning_cautions(ctx: Context) -> tuple[Caution, ...]:
    return cautions({Act.AIR} if "air gun" in _cleaners(ctx) else set())


def _natural(hole: str) -> tuple[int, str]:
    return int(hole.rstrip("ab")), hole


def _releases(ctx: Context, hole: str) -> list[Step]:
    """Fasteners before connectors, unless the loom is so short that the coil must move first."""
    joints = {k: j for k, j in ctx.carrier.joints.items() if _lets_go_first(j)}
    short = isinstance(ctx.carrier, Coil) and ctx.carrier.short_loom
    connector_first = short or ctx.rules.school("coil_joint_first") == "connector"
    steps = {j.kind in FASTENERS: [] for j in joints.values()}  # type: dict[bool, list[Step]]
    for key, joint in joints.items():
        steps[joint.kind in FASTENERS].append(_release(ctx, hole, key, joint))
    first, second = steps.get(not connector_first, []), steps.get(connector_first, [])
    waits = tuple(s.key for s in first)
    return [*first, *(s.model_copy(update={"after": waits}) for s in second)]


def _lets_go_first(joint: Joint) -> bool:
    return joint.kind in FASTENERS or joint.kind.value.startswith("connector")


def _release(ctx: Context, hole: str, key: str, joint: Joint) -> Step:
    known, use = lore(joint.kind), ctx.tools.release(joint)
    base = hole_step(
        ctx,
        f"release/{ctx.item}/{hole}/{key}",
        hole,
        Phase.PULL,
        ACTS["fastener" if joint.kind in FASTENERS else "connector"],
    )
    text = say(
        "hole_release",
        verb=known.release_verb,
        joints=name_of(joint),
        what=say(f"noun.{ctx.item}"),
        hole=hole,
    )
    return base.model_copy(
        update={
            "text": text,
            "detail": " ".join(d for d in (known.release, joint.note) if d),
            "tools": use.tools,
            "setup": use.setup,
            "stacks": use.stacks,
        }
    )


def _pull_carrier(ctx: Context, hole: str, after: tuple[str, ...]) -> Step:
    base = hole_step(
        ctx,
        f"remove/{ctx.item}/{hole}",
        hole,
        Phase.PULL,
        with_rounds(ctx, hole, ctx.item, ACTS["pull coil"], "out"),
    )
    target = Target(hole=hole, item=ctx.item)
    detail = (say(f"remove_{ctx.item}.detail", hole=hole), ctx.round_notes(target))
    return base.model_copy(
        update={
            "text": say(f"remove_{ctx.item}", hole=hole),
            "detail": " ".join(d for d in detail if d),
            "tools": _round_tools(ctx, target),
            "after": after,
        }
    )


def with_rounds(ctx: Context, hole: str, item: str, minutes: float, way: str) -> float:
    """Add the extra minutes of the work-rounds used here, out or back."""
    return minutes + ctx.round_minutes(Target(hole=hole, item=item), way)


def _round_tools(ctx: Context, target: Target) -> tuple[str, ...]:
    return tuple(t for _, work in ctx.rounds(target) for t in work.tools)


def _clean_well(ctx: Context, hole: str) -> Step:
    base = hole_step(ctx, f"clean/well/{hole}", hole, Phase.PULL, ACTS["clean well"])
    return base.model_copy(
        update={
            "text": say("clean_well", hole=hole),
            "detail": say("clean_well.detail"),
            "tools": _cleaners(ctx),
            "setup": _cleaners(ctx)[-1],
            "cautions": _cleaning_cautions(ctx),
            "because": (say("because.well"),),
            "after": (f"remove/{ctx.item}/{hole}",),
        }
    )


def _pull_plug(ctx: Context, hole: str) -> Step:
    use = ctx.tools.use(*ctx.plug_questions(hole)[:2])
    target = Target(hole=hole, item="plug")
    minutes = with_rounds(ctx, hole, "plug", ACTS["plug out"], "out")
    base = hole_step(ctx, f"remove/plug/{hole}", hole, Phase.PULL, minutes)
    acts = {Act.HOT, Act.CHEMICAL}
    acts |= {Act.ALUMINIUM} if ctx.engine.layout.head == "aluminium" else set()
    return base.model_copy(
        update={
            "text": say("remove_plug", hole=hole),
            "detail": " ".join(d for d in (_pull_words(ctx), ctx.round_notes(target)) if d),
            "tools": (*use.tools, *_lifter(ctx), *_round_tools(ctx, target)),
            "setup": use.setup,
            "stacks": use.stacks,
            "cautions": cautions(acts),
            "checks": (proof("ring"),) if ctx.plug.seat == "gasket" else (),
            "after": (f"clean/well/{hole}",),
        }
    )


def _pull_words(ctx: Context) -> str:
    school = ctx.rules.school
    run = "run_out" if school("power_tools") == "run_out" else "hand"
    return say(
        "remove_plug.detail",
        pull=say(f"pull.{school('breaking_loose')}"),
        run=say(f"run.{run}"),
        lift=say(f"lift.{school('retrieval')}"),
    )


def _lifter(ctx: Context) -> tuple[str, ...]:
    tool = LIFTERS[ctx.rules.school("retrieval")]
    return (tool,) if tool else ()


def _read_plug(ctx: Context, hole: str) -> Step:
    gap = ctx.figures.plain("plug-gap", say("figure.gap"))
    unit = gap.unit if gap else "mm"
    base = hole_step(ctx, f"read/plug/{hole}", hole, Phase.READ, ACTS["read plug"])
    return base.model_copy(
        update={
            "text": say("read_plug", hole=hole),
            "detail": say("read_plug.detail", hole=hole),
            "tools": ("wire gauge", "plug tray"),
            "figures": (gap,) if gap else (),
            "readings": (
                _condition(CONDITIONS),
                Reading(key="gap_found", label=say("label.gap_found"), kind="number", unit=unit),
            ),
            "after": (f"remove/plug/{hole}",),
        }
    )


def _condition(choices: tuple[str, ...]) -> Reading:
    """What is seen of a part, picked from its list."""
    return Reading(
        key="condition",
        label=say("label.condition"),
        kind="choice",
        choices=choices,
        shown=shown(choices),
    )


def _read_coil(ctx: Context, hole: str) -> Step:
    base = hole_step(ctx, f"read/coil/{hole}", hole, Phase.READ, ACTS["read plug"] / 2)
    return base.model_copy(
        update={
            "text": say("read_coil", hole=hole),
            "detail": say("read_coil.detail"),
            "readings": (_condition(COIL_CONDITIONS),),
            "after": (f"remove/coil/{hole}",),
        }
    )


def _gap(ctx: Context, hole: str) -> Step:
    gap = ctx.figures.plain("plug-gap", say("figure.gap"))
    assert gap is not None, "a consistent sheet states plug-gap for every variant"
    base = hole_step(ctx, f"gap/plug/{hole}", hole, Phase.FIT, ACTS["check gap"])
    used = ctx.rules.school("inspect_or_replace") == "refit_in_limits"
    if ctx.rules.school("new_gap") == "as_supplied" and not used:
        look = {
            "text": say("look_plug", hole=hole),
            "detail": say("gap_plug.as_supplied"),
            "checks": (proof("whole"),),
        }
        return base.model_copy(update={**look, "figures": (gap,)})
    return base.model_copy(
        update={
            "text": say("gap_plug.used" if used else "gap_plug", hole=hole),
            "detail": say("gap_plug.used.detail" if used else f"gap_plug.{ctx.plug.construction}"),
            "tools": ("wire gauge",),
            "figures": (gap,),
            "readings": (
                Reading(
                    key="gap_left",
                    label=say("label.gap_left"),
                    kind="number",
                    unit=gap.unit,
                    low=gap.min,
                    high=gap.max,
                    resolution=float(f"{convert(GAUGE_STEP_MM, 'mm', gap.unit):.4g}"),
                    why_limit=say("limit.gap_left"),
                ),
            ),
        }
    )


def _chase(ctx: Context, hole: str) -> Step:
    base = hole_step(ctx, f"chase/plug/{hole}", hole, Phase.FIT, ACTS["chase"])
    return base.model_copy(
        update={
            "text": say("chase_plug", hole=hole),
            "detail": say("chase_plug.detail"),
            "tools": (f"thread chaser {ctx.plug.thread}",),
            "setup": f"thread chaser {ctx.plug.thread}",
            "checks": (proof("clean"),),
            "cautions": cautions({Act.OPENING}),
            "because": (say("because.threads"),),
        }
    )


def _prepare(ctx: Context, hole: str) -> Step:
    oil = ctx.rules.school("thread_compound") == "oil"
    base = hole_step(ctx, f"prepare/plug/{hole}", hole, Phase.FIT, ACTS["prepare thread"])
    return base.model_copy(
        update={
            "text": say("prepare_plug.oil" if oil else "prepare_plug", hole=hole),
            "detail": say("prepare_plug.detail"),
            "tools": ("thin oil" if oil else "thread compound",),
            "cautions": cautions({Act.CHEMICAL}),
            "because": (say("because.compound"),),
            "after": (f"gap/plug/{hole}",),
        }
    )


def _start(ctx: Context, hole: str, compound: bool, chased: bool) -> Step:
    use = ctx.tools.use(ctx.plug_questions(hole)[-1])
    before = f"{'prepare' if compound else 'gap'}/plug/{hole}"
    base = hole_step(ctx, f"start/plug/{hole}", hole, Phase.FIT, ACTS["start plug"])
    return base.model_copy(
        update={
            "text": say("start_plug", hole=hole),
            "detail": say(
                "start_plug.detail",
                ring=say("start_plug.ring") if ctx.plug.seat == "gasket" else "",
                dry="" if compound else say("start_plug.dry"),
            ),
            "tools": tuple(p.name for s in use.stacks for p in s.pieces),
            "readings": (
                Reading(
                    key="free_turns",
                    label=say("label.free_turns"),
                    kind="number",
                    unit=say("unit.turns"),
                    low=2,
                    why_limit=say("limit.free_turns"),
                ),
            ),
            "checks": (proof("by_hand"),),
            "cautions": cautions({Act.ALUMINIUM}) if ctx.engine.layout.head == "aluminium" else (),
            "after": (before, f"chase/plug/{hole}") if chased else (before,),
        }
    )


def _tighten(ctx: Context, hole: str, all_started: tuple[str, ...]) -> Step:
    return (_turn if _turned(ctx, hole) else _torque)(ctx, hole, all_started)


def _turned(ctx: Context, hole: str) -> bool:
    """Whether a plug is tightened by angle: by house rule, or because no wrench does it here."""
    return ctx.plug_questions(hole)[-1][1] is ToolAct.SNUG


def _turn(ctx: Context, hole: str, all_started: tuple[str, ...]) -> Step:
    figure = ctx.figures.plug_angle(ctx.plug)
    lacking = ctx.no_wrench(hole)
    if lacking:
        said = say("turn_plug.no_wrench", why=lacking)
        figure = figure.model_copy(update={"sum": (said,)})
    use = ctx.tools.use(ctx.plug_questions(hole)[-1])
    base = hole_step(ctx, f"torque/plug/{hole}", hole, Phase.FIT, ACTS["torque plug"])
    angle = figure.converted or figure.printed
    return base.model_copy(
        update={
            "text": say("turn_plug", hole=hole, angle=figure.printed),
            "detail": " ".join(d for d in (say("turn_plug.detail"), _index(ctx)) if d),
            "tools": use.tools,
            "setup": use.setup,
            "stacks": use.stacks,
            "because": (*base.because, *figure.sum),
            "figures": (figure,),
            "checks": (proof("turned", angle=angle),),
            "cautions": cautions({Act.HOT, Act.ALUMINIUM}),
            "after": all_started,
        }
    )


def _index(ctx: Context) -> str:
    asked = ctx.rules.school("electrode_index") == "maker" and ctx.plug.index
    return say("index", index=ctx.plug.index) if asked else ""


def _torque(ctx: Context, hole: str, all_started: tuple[str, ...]) -> Step:
    asked = ctx.plug_questions(hole)[-1]
    assert ctx.plug_torque is not None, "a torque step needs its window"
    use = ctx.tools.use(asked)
    figure = ctx.figures.torque(
        "plug-torque", say("figure.plug_torque"), ctx.plug_torque, ctx.tools.of(asked)
    )
    target = Target(hole=hole, item="plug")
    minutes = with_rounds(ctx, hole, "plug", ACTS["torque plug"], "back")
    base = hole_step(ctx, f"torque/plug/{hole}", hole, Phase.FIT, minutes)
    acts = {Act.HOT} | ({Act.ALUMINIUM} if ctx.engine.layout.head == "aluminium" else set())
    return base.model_copy(
        update={
            "text": say("torque_plug", hole=hole),
            "detail": " ".join(
                d
                for d in (
                    say("torque_plug.detail"),
                    further(figure),
                    _index(ctx),
                    ctx.round_notes(target),
                )
                if d
            ),
            "tools": (*use.tools, *_round_tools(ctx, target)),
            "setup": use.setup,
            "stacks": use.stacks,
            "figures": (figure,),
            "readings": (torque_reading(figure),),
            "cautions": cautions(acts),
            "after": all_started,
        }
    )


def further(figure: StepFigure) -> str:
    """The turn after the torque, where the source states one."""
    return say("further", angle=figure.plus) if figure.plus else ""


def torque_reading(figure: StepFigure) -> Reading:
    """A torque to enter as the wrench shows it, with the maker's limits.

    With an adapter the wrench shows another torque than the plug gets; the limits follow it.
    """
    dial = figure.setting
    unit, factor = (dial.unit, dial.factor) if dial else (figure.unit, 1.0)
    low, high = (round(convert(v, figure.unit, unit) * factor, 2) for v in (figure.min, figure.max))
    label = say("label.torque" if factor == 1 else "label.torque_shown")
    return Reading(
        key="torque",
        label=label,
        kind="number",
        unit=unit,
        low=low,
        high=high,
        why_limit=say("limit.torque"),
    )
