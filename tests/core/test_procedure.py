"""The compiled procedure states the craft: order, proofs, cautions, figures, sources."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eldrim.core.base.errors import JobError
from eldrim.core.engine import Engine
from eldrim.core.engine.joints import CONNECTORS, FASTENERS, JointKind
from eldrim.core.engine.parts import HindranceKind, PartKind, WayKind
from eldrim.core.job import Job, Work, carrier, settle_job
from eldrim.core.operations import Operation
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.edits import Edit, apply_edits, orphans
from eldrim.core.procedure.model import Phase, Plan, Step
from eldrim.core.procedure.scrubber_frames import scrubber_frames
from eldrim.core.procedure.whole_job.tool_roll import CONSUMABLES
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.demo.load import demo_engines
from tests.builders import document, engine, job, tug
from tests.core.shape_engines import gas_six
from tests.sweeps import examples

EVERYTHING = compile_plan(tug(), job(1, 2, 3, 4, 5, 6))


def place(made: Plan, key: str) -> int:
    """Where a step stands."""
    return [s.key for s in made.steps].index(key)


def away(made: Plan, part: str) -> int:
    """Where a part comes away, in whichever manner."""
    return next(i for i, f in enumerate(scrubber_frames(made)) if f.away == part)


def back(made: Plan, part: str) -> int:
    """Where it comes back."""
    return next(i for i, f in enumerate(scrubber_frames(made)) if f.back == part)


def step(made: Plan, key: str) -> Step:
    """One step."""
    return made.steps[place(made, key)]


def test_the_phases_come_in_their_order() -> None:
    """Ready to Prove, never back."""
    order = list(Phase)
    places = [order.index(s.phase) for s in EVERYTHING.steps]
    assert places == sorted(places)
    assert {s.phase for s in EVERYTHING.steps} == set(Phase)


def test_step_keys_are_unique_and_waits_are_respected() -> None:
    """Every step comes after all it waits for."""
    keys = [s.key for s in EVERYTHING.steps]
    assert len(keys) == len(set(keys))
    for s in EVERYTHING.steps:
        for before in s.after:
            assert place(EVERYTHING, before) < place(EVERYTHING, s.key)


def test_every_hindrance_is_respected_both_ways() -> None:
    """What hinders is off before and back after what it hinders."""
    for hindrance in tug().hindrances:
        for target in hindrance.of:
            if not target.startswith(("hole", "work")):
                assert away(EVERYTHING, hindrance.part) < away(EVERYTHING, target)
                assert back(EVERYTHING, hindrance.part) > back(EVERYTHING, target)
    assert {h.kind for h in tug().hindrances} >= {HindranceKind.HIDES, HindranceKind.HOLDS_SHORT}


def test_codes_are_read_before_anything_is_unplugged_and_cleared_last() -> None:
    """Code cleared before it was written down is impossible."""
    unplugged = min(i for i, s in enumerate(EVERYTHING.steps) if "connector" in s.key)
    assert place(EVERYTHING, "ready/codes") < unplugged
    assert place(EVERYTHING, "prove/clear-codes") > place(EVERYTHING, "prove/start")


def test_wells_are_cleaned_before_their_plug_moves() -> None:
    """Round the coil before it comes out, the well before the plug comes out."""
    for hole in "123456":
        coils = place(EVERYTHING, "clean/coils")
        assert coils < place(EVERYTHING, f"release/coil/{hole}/connector")
        well = place(EVERYTHING, f"clean/well/{hole}")
        assert place(EVERYTHING, f"remove/coil/{hole}") < well
        assert well < place(EVERYTHING, f"remove/plug/{hole}")


def test_all_plugs_are_started_by_hand_before_any_is_tightened() -> None:
    """No plug is tightened while another is not in its thread."""
    last = max(place(EVERYTHING, f"start/plug/{h}") for h in "123456")
    assert last < min(place(EVERYTHING, f"torque/plug/{h}") for h in "123456")


def test_openings_are_plugged_at_once_and_unplugged_just_before_they_close() -> None:
    """Right after the plenum lifts; before it goes back only its seals are laid."""
    assert place(EVERYTHING, "plug-opening/plenum") == place(EVERYTHING, "remove/plenum") + 1
    keys = [s.key for s in EVERYTHING.steps]
    between = keys[keys.index("unplug-opening/plenum") + 1 : keys.index("fit/plenum")]
    assert between == ["renew/plenum/gasket"]


def test_every_touched_connector_is_proven_by_click_and_tug() -> None:
    """Refit is planned from what was touched."""
    for key, part in tug().parts.items():
        for name, joint in part.joints.items():
            if joint.kind in CONNECTORS:
                proofs = {c.key for c in step(EVERYTHING, f"connect/{key}/{name}").checks}
                assert {"click", "tug"} <= proofs
    two_lock = step(EVERYTHING, "connect/throttle-body/connector")
    assert "lock" in {c.key for c in two_lock.checks}


def test_the_plenum_is_tightened_in_pattern_with_its_figure_and_source() -> None:
    """Centre outwards, half then full, at the maker's torque on a wrench that exists."""
    tightening = step(EVERYTHING, "tighten/plenum/bolts")
    assert "first half, then full" in tightening.detail
    assert "5-" in tightening.detail or "2-" in tightening.detail
    figure = tightening.figures[0]
    assert (figure.min, figure.max, figure.unit) == (16, 20, "N·m")
    assert "p. 5-31" in figure.source
    assert figure.setting is not None
    assert figure.setting.value == 18


def test_seals_are_renewed_and_on_the_parts_list() -> None:
    """One-time parts never go back."""
    assert step(EVERYTHING, "renew/plenum/gasket")
    numbers = {p.part_number: p.quantity for p in EVERYTHING.parts}
    assert numbers["MG-340-11"] == 2
    assert numbers["MP-12L-IR6"] == 6


def test_every_figure_has_unit_source_and_variant() -> None:
    """A number without them is a defect."""
    figures = [f for s in EVERYTHING.steps for f in s.figures]
    assert len(figures) > 10
    for figure in figures:
        assert figure.unit
        assert ", p. " in figure.source or "label" in figure.source
        assert figure.variant == "serial 2200 on"
        assert figure.min <= figure.aim <= figure.max


def test_cautions_follow_from_what_a_step_does() -> None:
    """Air, lifting, running engine, coolant: each brings its own."""

    def has(key: str, caution: str) -> bool:
        return caution in {c.key for c in step(EVERYTHING, key).cautions}

    assert has("clean/well/3", "compressed_air")
    assert has("remove/plenum", "heavy_lift")
    assert has("prove/start", "running_engine")
    assert has("ready/isolate", "battery")
    assert not has("gap/plug/3", "running_engine")
    assert "maker's manual" in EVERYTHING.defers_to


def test_the_battery_is_isolated_only_where_the_job_calls_for_it() -> None:
    """The front bank touches nothing that needs it."""
    front = compile_plan(tug(), job(2))
    assert "ready/isolate" not in [s.key for s in front.steps]
    assert place(EVERYTHING, "prove/reconnect") < place(EVERYTHING, "prove/start")


def test_the_cover_goes_on_after_the_first_start_unless_the_house_says_otherwise() -> None:
    """The school changes the order, it is not a note."""
    assert place(EVERYTHING, "fit/sound-cover") > place(EVERYTHING, "prove/start")
    rules = DEFAULT_RULES.using(first_start="after_refit")
    full = compile_plan(tug(), job(1, 2), rules)
    assert place(full, "fit/sound-cover") < place(full, "prove/start")


def test_the_first_hole_follows_the_school() -> None:
    """Worst access first, or easiest first."""
    easy = DEFAULT_RULES.using(first_cylinder="easiest_first")
    worst, easiest = compile_plan(tug(), job(2, 5)), compile_plan(tug(), job(2, 5), easy)
    assert place(worst, "remove/plug/5") < place(worst, "remove/plug/2")
    assert place(easiest, "remove/plug/2") < place(easiest, "remove/plug/5")
    for stage in ("remove/coil", "start/plug", "torque/plug", "fit/coil"):
        assert place(worst, f"{stage}/5") < place(worst, f"{stage}/2")


def test_compound_on_a_bare_shell_reduces_the_aim_and_says_so() -> None:
    """Lubricated thread at dry torque is impossible; plated shells stay dry."""
    plugs = [{**document()["plugs"][0], "plating": "bare"}]
    bare = compile_plan(engine(plugs=plugs), job(1))
    dry = compile_plan(engine(), job(1))
    assert "prepare/plug/1" in [s.key for s in bare.steps]
    assert "prepare/plug/1" not in [s.key for s in dry.steps]
    less, full = (step(p, "torque/plug/1").figures[0] for p in (bare, dry))
    assert less.aim == pytest.approx(full.aim * 0.7)
    assert "30 %" in less.sum[-1]


def test_a_coil_job_leaves_the_plugs_in() -> None:
    """Nothing is done that was not asked for."""
    made = compile_plan(tug(), job(2, work=(Work.COIL,)))
    assert not [s for s in made.steps if s.key.startswith(("remove/plug", "torque/plug"))]
    assert [s for s in made.steps if s.key == "remove/coil/2"]


def test_minutes_add_up_and_the_same_input_gives_the_same_bytes() -> None:
    """The ribbon's phases are the whole, and compiling again changes nothing."""
    assert sum(p.minutes for p in EVERYTHING.phases) == pytest.approx(EVERYTHING.minutes)
    assert sum(s.changes_setup for s in EVERYTHING.steps) == EVERYTHING.tool_changes
    again = compile_plan(tug(), job(6, 5, 4, 3, 2, 1))
    assert json.dumps(again.model_dump(mode="json")) == json.dumps(
        EVERYTHING.model_dump(mode="json")
    )


def test_every_tool_a_step_uses_is_on_the_list() -> None:
    """Everything the steps need and no more."""
    used = {t.id for s in EVERYTHING.steps for t in s.tools}
    assert {t.id for t in EVERYTHING.tools} == used - CONSUMABLES
    assert {i.id for i in EVERYTHING.roll} == used - CONSUMABLES
    assert "dielectric grease" in {p.name for p in EVERYTHING.parts}


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        (job(9), "cylinder 9 does not exist"),
        (job(1, variant="early"), "variant 'early' does not exist"),
        (job(1, force=("plenum",)), "not a way"),
        (job(1, forbid=("wing",)), "not a way"),
    ],
)
def test_a_job_for_something_the_sheet_has_not_is_refused(asked, says) -> None:  # type: ignore[no-untyped-def]
    """The message names it and what there is."""
    with pytest.raises(JobError, match=says):
        compile_plan(tug(), asked)


def test_an_ambiguous_variant_is_asked_for_never_guessed() -> None:
    """Spec of another variant is the first mistake to make impossible."""
    two = engine(variants={"early": {"name": "early"}, "late": {"name": "late"}})
    with pytest.raises(JobError, match="several variants"):
        compile_plan(two, job(1))


def test_edits_survive_a_recompile_and_lost_ones_are_shown() -> None:
    """Wording hangs on step keys; cautions and checks are out of reach."""
    edits = {"remove/plenum": Edit(text="Lift it off, two of you", note="Mind the hose")}
    both = apply_edits(compile_plan(tug(), job(2, 5)), edits)
    rear = apply_edits(compile_plan(tug(), job(5)), edits)
    for made in (both, rear):
        lifted = step(made, "remove/plenum")
        assert (lifted.text, lifted.note) == ("Lift it off, two of you", "Mind the hose")
        assert lifted.cautions == step(EVERYTHING, "remove/plenum").cautions
    assert orphans(compile_plan(tug(), job(2)), edits) == edits


def test_every_step_says_why() -> None:
    """A trainer can always ask."""
    for made in (EVERYTHING, compile_plan(engine(), job(1))):
        assert [s.key for s in made.steps if not s.because] == []


JOBS = st.sets(st.integers(1, 6), min_size=1).map(lambda numbers: job(*numbers))


@settings(max_examples=examples(25), deadline=None)
@given(
    JOBS,
    st.dictionaries(
        st.sampled_from([s.key for s in EVERYTHING.steps]),
        st.builds(Edit, text=st.text(max_size=20), note=st.text(max_size=20)),
        max_size=6,
    ),
)
def test_any_edit_survives_any_recompile_or_is_shown_as_lost(asked: Job, edits: dict) -> None:  # type: ignore[type-arg]
    """Nothing a trainer wrote disappears."""
    computed = compile_plan(tug(), asked)
    made, lost = apply_edits(computed, edits), orphans(computed, edits)
    for key, edit in edits.items():
        if edit.empty:
            continue
        if key in lost:
            assert key not in {s.key for s in made.steps}
        else:
            assert step(made, key).note == edit.note
            assert step(made, key).text == (edit.text or step(computed, key).text)
    assert [s.cautions for s in made.steps] == [s.cautions for s in computed.steps]
    assert [s.checks for s in made.steps] == [s.checks for s in computed.steps]


def test_a_plenum_hangs_on_its_fasteners_until_all_else_is_off() -> None:
    """Hoses and connectors first."""
    late = {
        PartKind.PLENUM: lambda joint: joint.kind in FASTENERS,
        PartKind.TANK: lambda joint: joint.kind is JointKind.FUEL_LINE,
    }
    met = set()
    for sheet in demo_engines():
        work = (Work.COIL if sheet.ignition.kind == "coil_on_plug" else Work.LEAD, Work.PLUG)
        asked = Job(cylinders=tuple(sheet.cylinders), work=work, variant=next(iter(sheet.variants)))
        releases = [
            s
            for s in compile_plan(sheet, asked).steps
            if s.key.operation is Operation.RELEASE_JOINT
        ]
        for part in {s.part or "" for s in releases}:
            kind, joints = sheet.parts[part].kind, sheet.parts[part].joints
            if kind in late:
                order = [late[kind](joints[s.key.joint]) for s in releases if s.part == part]
                assert order == sorted(order), f"{sheet.id}: {part}"
                met.add(kind)
        for one in compile_plan(sheet, asked).steps:
            if one.key.operation is Operation.REMOVE_PART:
                tank = sheet.parts[one.part or ""].kind is PartKind.TANK
                assert ("Set the tank down" in one.detail) is tank
    assert met == set(late)


def test_coils_alone_behind_a_dear_way_in_say_what_plugs_would_add() -> None:
    """Not where the way is short, nor where plugs are asked for."""
    dear = compile_plan(tug(), Job(cylinders=(1, 3, 5), work=(Work.COIL,), variant="late"))
    assert any("would add about" in note for note in dear.notes)
    assert not any("would add" in note for note in EVERYTHING.notes)


def test_where_the_battery_is_and_that_a_well_is_only_felt_is_said() -> None:
    """In the steps it matters to, and nowhere else."""
    plain = document(2)
    plain["layout"]["battery"] = "under the left panel"
    plain["layout"]["isolate"] = True
    felt = Engine.model_validate(plain).model_dump(mode="json")
    felt["cylinders"]["2"]["wells"][0]["sight"] = "felt"
    made = compile_plan(Engine.model_validate(felt), job(1, 2))
    for key in ("ready/battery", "ready/isolate"):
        assert "under the left panel" in step(made, key).detail
    assert "By feel" in step(made, "remove/plug/2").detail
    assert "By feel" not in step(made, "remove/plug/1").detail
    assert place(made, "ready/key") < place(made, "ready/battery")


def test_a_tank_lifts_once_its_fuel_line_is_off_last_relieved_and_plugged() -> None:
    """Of a tank that comes off whole; back on, it is primed and looked at before the start."""
    [twin] = [sheet for sheet in demo_engines() if sheet.id == "kestwick-900-twin"]
    tank = twin.parts["tank"]
    swung = next(iter(tank.ways.values()))
    off = swung.model_copy(update={"kind": WayKind.REMOVE, "releases": None})
    whole = tank.model_copy(update={"ways": {"remove": off}})
    sheet = twin.model_copy(update={"parts": {**twin.parts, "tank": whole}})
    variant = next(iter(sheet.variants))
    made = compile_plan(sheet, Job(cylinders=(1, 2), work=(Work.PLUG,), variant=variant))
    keys = [str(s.key) for s in made.steps]
    released = [key for key in keys if key.startswith("release/tank/")]
    assert released[-1] == "release/tank/fuel"
    assert len(released) > 1
    line = step(made, "release/tank/fuel")
    assert {"relieved", "line_plugged"} <= {check.key for check in line.checks}
    assert "opening-plugs" in {tool.id for tool in line.tools}
    assert "fuel" in {caution.key for caution in line.cautions}
    assert keys.index("release/tank/fuel") < keys.index("remove/tank")
    assert "Set the tank down" in step(made, "remove/tank").detail
    assert keys.index("prove/fuel") < keys.index("prove/start")


def coil_five_plugs_one_three_five() -> Plan:
    """Not the same at each hole: on the V6, all by number."""
    sheet = {engine.id: engine for engine in demo_engines()}["marlet-34-v6"]
    asked = Job(cylinders=(1, 3, 5), work=(Work.COIL, Work.PLUG), carriers_at=(5,), variant="late")
    return compile_plan(sheet, asked)


def test_a_coil_at_one_hole_and_plugs_at_three_is_one_job() -> None:
    """One coil is new and read, the other two go back; every plug comes out."""
    made = coil_five_plugs_one_three_five()
    assert made.title == "Plug, holes 1, 3 and 5; coil, hole 5"
    keys = {str(step.key) for step in made.steps}
    assert {"remove/plug/1", "remove/plug/3", "remove/plug/5"} <= keys
    assert {key for key in keys if key.startswith("read/coil")} == {"read/coil/5"}
    fitted = {hole: step(made, f"fit/coil/{hole}").detail for hole in "135"}
    assert [hole for hole in fitted if fitted[hole].startswith("The new one.")] == ["5"]
    quantities = {line.name: line.quantity for line in made.parts}
    assert (quantities["spark plug"], quantities["ignition coil"]) == (3, 1)


def test_a_job_apart_is_settled_or_refused() -> None:
    """What is stated for all is stated for none; nothing strange, nothing idle."""
    sheet = {engine.id: engine for engine in demo_engines()}["marlet-34-v6"]
    asked = Job(cylinders=(3, 1), work=(Work.COIL, Work.PLUG), plugs_at=(3, 1), variant="late")
    assert settle_job(asked, sheet).plugs_at == ()
    with pytest.raises(JobError, match="cylinder 5 is not in the job"):
        settle_job(asked.model_copy(update={"carriers_at": (5,)}), sheet)
    idle = {"plugs_at": (1,), "carriers_at": (1,)}
    with pytest.raises(JobError, match="nothing is done at cylinder 3"):
        settle_job(asked.model_copy(update=idle), sheet)


def test_gas_is_looked_for_with_spray_where_it_was_off() -> None:
    """And only at the supply where no gas joint let go; the spray is on the step."""
    sheet = {engine.id: engine for engine in demo_engines()}["dunmarl-42-six"]
    made = compile_plan(sheet, Job(cylinders=(4,), work=(Work.PLUG,), variant="gas"))
    back_on = step(made, "prove/fuel")
    assert [tool.id for tool in back_on.tools] == ["leak-spray"]
    assert "No gas joint was off" in back_on.detail
    assert back_on.because == ("The gas was shut off for this job",)
    moved = gas_six()
    opened = compile_plan(moved, Job(cylinders=(6,), work=(carrier(moved), Work.PLUG)))
    assert any(s.key.startswith("release/gas/") for s in opened.steps)
    assert "every joint that was off" in step(opened, "prove/fuel").detail
    assert step(opened, "prove/fuel").because == ("A fuel joint was opened on this job",)


def test_pieces_that_only_turn_heads_are_used_at_the_bolts_of_a_coil_not_at_its_pull() -> None:
    """What is worked round so is said, timed and named where a tool is in hand."""
    sheet = {engine.id: engine for engine in demo_engines()}["brannoch-57-v8"]
    both = compile_plan(sheet, Job(cylinders=(8,), work=(Work.COIL, Work.PLUG)))
    coil = compile_plan(sheet, Job(cylinders=(8,), work=(Work.COIL,)))
    for plan in (both, coil):
        for key in ("release/coil/8/bolts", "tighten/coil/8/bolts"):
            assert "Cowl panel stays" in step(plan, key).detail
        for key in ("remove/coil/8", "fit/coil/8"):
            assert "Cowl panel" not in step(plan, key).detail
            assert step(plan, key).minutes < 1
    # Its plug takes the pieces; for the coil alone they are named at its bolts, and the torque
    # wrench is the only handle of what is torqued.
    pieces = {"x-38-100-locking", "h-38-flex-ratchet-200"}
    assert not pieces & {tool.id for tool in step(both, "release/coil/8/bolts").tools}
    assert pieces <= {tool.id for tool in step(both, "remove/plug/8").tools}
    assert pieces <= {tool.id for tool in step(coil, "release/coil/8/bolts").tools}
    assert not any(t.id.startswith("h-") for t in step(coil, "tighten/coil/8/bolts").tools)


def test_one_bolt_is_spoken_of_as_one() -> None:
    """Several are each started and counted; one is not "every one"."""
    sheet = {engine.id: engine for engine in demo_engines()}["corvane-20-turbo-four"]
    made = compile_plan(sheet, Job(cylinders=(1,), work=(Work.COIL,), variant="late"))
    one = step(made, "tighten/coil/1/bolt")
    assert one.detail.startswith("Start it by hand first.")
    assert [check.text for check in one.checks] == ["Wrench clicked", "Counted back in"]
    several = {engine.id: engine for engine in demo_engines()}["brannoch-57-v8"]
    made = compile_plan(several, Job(cylinders=(1,), work=(Work.COIL,)))
    two = step(made, "tighten/coil/1/bolts")
    assert two.detail.startswith("Start every one by hand first.")
    assert [c.text for c in two.checks] == ["Wrench clicked on each", "All counted back in"]


def test_a_duct_that_is_only_shifted_has_its_clamps_slackened() -> None:
    """Its ends stay on their stubs; taken off, they are pulled off and pushed on."""
    sheet = {engine.id: engine for engine in demo_engines()}["corvane-20-turbo-four"]
    asked = Job(cylinders=(4,), work=(Work.COIL, Work.PLUG), variant="late")
    shifted = compile_plan(sheet, asked)
    assert step(shifted, "release/intake-duct/clamps").text.startswith("Slacken 2 duct ends")
    assert step(shifted, "shift/intake-duct").detail.endswith("Slackened, not off.")
    assert step(shifted, "connect/intake-duct/clamps").text.startswith("Tighten 2 duct ends")
    assert step(shifted, "back/intake-duct").because == ("It was moved on the way in",)
    off = compile_plan(sheet, asked.model_copy(update={"force": ("intake-duct/remove",)}))
    assert step(off, "release/intake-duct/clamps").text.startswith("Pull off 2 duct ends")
    assert step(off, "connect/intake-duct/clamps").text.startswith("Push on 2 duct ends")
    assert step(off, "fit/intake-duct").because == ("It came off on the way in",)


@pytest.mark.parametrize(("system", "own"), [("6 V", True), ("12 V", False), ("24 V", True)])
def test_a_timing_lamp_has_a_supply_of_its_own_where_the_unit_s_voltage_is_another(
    system: str, own: bool
) -> None:
    """docs/craft.md §16: a 12 V lamp on another unit's battery is destroyed, or shows nothing."""
    sheet = next(one for one in demo_engines() if one.id == "ostler-16-flat-four")
    layout = {**sheet.model_dump(mode="json")["layout"], "system": system}
    made = Engine.model_validate({**sheet.model_dump(mode="json"), "layout": layout})
    plan = compile_plan(made, Job(work=(Work.TIMING,), variant=next(iter(made.variants))))
    [lamp] = [step for step in plan.steps if step.key == "time/lamp"]
    assert ("from a 12 V battery of its own" in lamp.detail) is own
