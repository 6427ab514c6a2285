"""Cap, rotor, points, pack, timing, battery and charging: from the sheet to the steps."""

from itertools import pairwise
from math import asin, cos, degrees, pi, radians, sin, sqrt

import pytest

from eldrim.core.base.errors import JobError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.figures.arc import arc_length
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.leads.ways import tower_of
from eldrim.core.operations import HoleStage
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.run.holes import closed_again, stage_words
from eldrim.core.run.told import told
from eldrim.demo.load import demo_engines

ENGINES = {one.id: one for one in demo_engines()}
WITH_CAP = [key for key, one in ENGINES.items() if one.ignition.distributor]
EIGHT, FOUR, SIX, PACK = (
    "fendrake-50-marine-v8",
    "ostler-16-flat-four",
    "tarrel-28-six",
    "dunmarl-42-six",
)


def planned(key: str, *work: Work, cylinders: tuple[int, ...] = ()) -> Plan:
    """A job on a demo engine, on its last variant."""
    one = ENGINES[key]
    return compile_plan(one, Job(cylinders=cylinders, work=work, variant=list(one.variants)[-1]))


def keys(plan: Plan) -> list[str]:
    """The keys of its steps in order."""
    return [str(step.key) for step in plan.steps]


def step(plan: Plan, key: str) -> Step:
    """The one step of this key."""
    [found] = [one for one in plan.steps if one.key == key]
    return found


def reading(plan: Plan, key: str, name: str) -> Reading:
    """The one reading of this name at a step."""
    [found] = [one for one in step(plan, key).readings if one.key == name]
    return found


@pytest.mark.parametrize("key", WITH_CAP)
def test_under_the_cap_everything_has_its_place(key: str) -> None:
    """Cap off and looked at, advance, rotor, points, rotor on its key, timing, cap on its key."""
    found = keys(planned(key, Work.CAP, Work.ROTOR, Work.POINTS))
    set_by = "points/air-gap" if ENGINES[key].contactless else "points/set"
    wanted = ["cap/off", "cap/look", "rotor/advance", "rotor/off", "rotor/look", set_by]
    wanted += ["rotor/on", "time/mark", "time/static", "time/again", "cap/on", "cap/leads"]
    wanted += ["prove/order", "prove/start", "time/lamp", "time/idle", "time/total", "time/end"]
    places = [found.index(one) for one in wanted]
    assert places == sorted(places)
    assert found.index("time/end") < found.index("prove/sign")


@pytest.mark.parametrize("key", WITH_CAP)
def test_whoever_sets_points_times_after(key: str) -> None:
    """The timing moves with the gap; a cap or a rotor alone leaves it."""
    assert "time/static" in keys(planned(key, Work.POINTS))
    assert "time/static" not in keys(planned(key, Work.CAP, Work.ROTOR))


@pytest.mark.parametrize("key", [key for key, one in ENGINES.items() if tower_of(one)])
def test_the_order_is_proven_wherever_leads_can_be_changed_over(key: str) -> None:
    """All towers after the cap or the pack was off, though no plug was touched; never left out."""
    one = ENGINES[key]
    work = Work.PACK if one.ignition.pack else Work.CAP
    plan = planned(key, work)
    proof = step(plan, "prove/order")
    assert len(proof.checks) == len(tower_of(one))
    assert proof.key.rule.required
    assert keys(plan).index("prove/order") < keys(plan).index("prove/start")


def test_leads_move_over_one_by_one_but_those_that_are_new() -> None:
    """Old cap beside new: every lead that stays, in the order of the towers; new ones go on as they
    are fitted, at both ends.
    """
    alone = step(planned(SIX, Work.CAP), "cap/leads")
    assert [one.key for one in alone.checks] == [f"moved-{n}" for n in range(1, 7)]
    some = planned(SIX, Work.CAP, Work.LEAD, cylinders=(1, 5))
    assert [one.key for one in step(some, "cap/leads").checks] == [
        f"moved-{n}" for n in (3, 4, 5, 6)
    ]
    assert "tower is number 2" in step(some, "fit/lead/5").detail
    everything = planned(SIX, Work.CAP, Work.LEAD, cylinders=(1, 2, 3, 4, 5, 6))
    assert "cap/leads" not in keys(everything)


def test_a_lead_that_is_renewed_is_held_against_its_way() -> None:
    """By house rule not shorter than its way and 30 mm, not longer by more than 120 mm."""
    plan = planned(EIGHT, Work.LEAD, cylinders=(7,))
    length = reading(plan, "read/lead/7", "length")
    assert length.low is not None
    assert length.high == length.low + 120
    plain = planned(EIGHT, Work.PLUG, cylinders=(7,))
    assert not any(key.startswith("read/lead") for key in keys(plain))


def test_what_hinders_the_cap_moves_for_it_and_goes_back_after_it() -> None:
    """A sender before it, a shield over it, a bonnet over that; not for plugs far away."""
    plan = planned(SIX, Work.CAP)
    assert {move.part for move in plan.moves} == {"bonnet-side", "splash-shield", "oil-sender"}
    found = keys(plan)
    assert found.index("unclip/oil-sender") < found.index("cap/off")
    assert found.index("cap/leads") < found.index("back/oil-sender")
    assert found.index("prove/start") < found.index("fit/splash-shield")
    sender = next(move for move in plan.moves if move.part == "oil-sender")
    assert "distributor cap" in sender.why
    assert {m.part for m in planned(SIX, Work.PLUG, cylinders=(3,)).moves} == {"bonnet-side"}


def test_what_lies_over_the_cap_moves_for_the_points_under_it() -> None:
    """Also what hinders the timing that follows from them."""
    plain = ENGINES[SIX].model_dump(mode="json", exclude_defaults=True)
    apart = {"oil-sender": ["work/cap"], "air-pipe": ["work/timing"]}
    kept = [h for h in plain["hindrances"] if h["part"] not in apart]
    more = [{"part": part, "of": of, "kind": "blocks_tool"} for part, of in apart.items()]
    sheet = _changed(SIX, hindrances=[*kept, *more])
    for work, moved in (
        (Work.ROTOR, {"oil-sender"}),
        (Work.TIMING, {"air-pipe"}),
        (Work.POINTS, {"oil-sender", "air-pipe"}),
        (Work.BATTERY, set()),
    ):
        plan = compile_plan(sheet, Job(work=(work,)))
        assert {m.part for m in plan.moves} & set(apart) == moved, work


def test_a_bracket_over_the_pack_moves_for_it() -> None:
    """And shares its way in with the plug behind it."""
    alone = planned(PACK, Work.PACK)
    assert {move.part for move in alone.moves} == {"heat-shield"}
    both = planned(PACK, Work.PACK, Work.PLUG, cylinders=(5,))
    assert "heat-shield" in {move.part for move in both.moves}
    assert "moved-6" in {one.key for one in step(both, "pack/on").checks}
    assert {r.key for r in step(both, "pack/look").readings} == {
        "condition",
        "primary",
        "secondary",
    }


def test_work_the_sheet_says_too_little_of_is_refused_in_words() -> None:
    """With what it would have to state."""
    for key, work, lacks in (
        (PACK, Work.CAP, "needs a distributor"),
        (FOUR, Work.PACK, "needs a coil pack"),
        (EIGHT, Work.COIL, "has no coil"),
    ):
        with pytest.raises(JobError, match=lacks):
            planned(key, work)
    with pytest.raises(JobError, match="names no cylinder"):
        planned(FOUR, Work.PLUG, Work.CAP)
    with pytest.raises(JobError, match="nothing is done at the cylinders"):
        planned(FOUR, Work.CAP, cylinders=(1,))


def test_a_mark_that_is_there_is_turned_to_and_one_that_is_not_is_chalked() -> None:
    """Its distance along the rim in both systems, from the nearest mark and to which side."""
    there = step(planned(SIX, Work.TIMING), "time/mark").detail
    assert "To the mark of 6°" in there
    chalked = step(planned(FOUR, Work.TIMING), "time/mark").detail
    far = pi * 172 * 7.5 / 360
    assert f"{far:.1f} mm" in chalked
    assert f"{far / 25.4:.2f} in" in chalked
    assert "before it" in chalked


@pytest.mark.parametrize("diameter", [90.0, 150.0, 172.0, 240.0])
@pytest.mark.parametrize("angle", [0.5, 4.0, 7.5, 30.0, 60.0])
def test_an_arc_is_that_of_the_circle(diameter: float, angle: float) -> None:
    """By the chords of a thousand small triangles."""
    parts, radius = 1000, diameter / 2
    points = [
        (radius * cos(radians(angle * n / parts)), radius * sin(radians(angle * n / parts)))
        for n in range(parts + 1)
    ]
    walked = sum(sqrt((a - c) ** 2 + (b - d) ** 2) for (a, b), (c, d) in pairwise(points))
    assert arc_length(diameter, angle) == pytest.approx(walked, rel=1e-5)


@pytest.mark.parametrize("key", WITH_CAP)
@pytest.mark.parametrize("error", [-6.0, -2.4, 1.7, 5.0])
def test_the_body_is_turned_by_half_and_against_the_rotor_for_more(key: str, error: float) -> None:
    """The edge by the chord of the angle, small enough to be the arc."""
    one, plan = ENGINES[key], planned(key, Work.TIMING)
    asked = reading(plan, "time/idle", "advance_idle")
    assert asked.turning is not None
    words = told(asked, asked.turning.under_to + error)
    cap = one.ignition.distributor
    assert cap is not None
    assert cap.body is not None
    early = "left" if cap.turns == "right" else "right"
    assert f"to the {cap.turns if error > 0 else early}" in words
    assert ("with the rotor" in words) == (error > 0)
    turned, edge = (float(word) for word in _numbers(words))
    assert turned == pytest.approx(abs(error) / 2, abs=0.051)
    chord = 2 * degrees(asin(edge / cap.body.mid))
    assert chord == pytest.approx(abs(error) / 2, abs=0.08)


def _numbers(words: str) -> list[str]:
    return [word.strip("°:.,") for word in words.split() if word[0].isdigit()]


def test_a_total_under_its_range_goes_forward_only_while_the_idle_allows() -> None:
    """Else the advance is tired; over its range it is backed off, whatever the idle."""
    asked = reading(planned(FOUR, Work.TIMING), "time/total", "advance_total")
    assert (asked.low, asked.high) == (28.0, 32.0)
    assert "against the rotor" in told(asked, 27.5, {"advance_idle": 7.5}.get)
    assert "tired" in told(asked, 25.0, {"advance_idle": 7.5}.get)
    assert "with the rotor" in told(asked, 34.0, {"advance_idle": 7.5}.get)
    assert told(asked, 30.0) == "Inside its range: leave it."
    assert told(asked, "much") == ""


@pytest.mark.parametrize(("key", "volts"), [(FOUR, 24), (SIX, 12)])
def test_windows_of_volts_follow_system_and_sheet(key: str, volts: int) -> None:
    """What the sheet states wins; the rest is of the craft, by the system."""
    plan = planned(key, Work.BATTERY, Work.CHARGING)
    share = volts / 12
    cranking = reading(plan, "battery/crank", "volts_cranking")
    assert cranking.low == pytest.approx(9.8 if key == SIX else 9.6 * share)
    idle = reading(plan, "charge/idle", "volts_idle")
    assert (idle.low, idle.high) == ((13.6, 14.4) if key == SIX else (27.2, 28.6))
    loaded = reading(plan, "charge/loaded", "volts_loaded")
    assert loaded.low == pytest.approx((idle.low or 0) - 0.5 * share)
    assert "overcharges" in told(idle, 15.0 * share)
    assert "does not charge" in told(idle, 12.3 * share)
    assert "range of the meter" in told(idle, 25.0 * share)
    assert "rest voltage" in told(loaded, 12.2 * share)
    kept_up = {"volts_idle": (idle.high or 0)}.get
    assert "keeps up" in told(loaded, (idle.high or 0) - 0.4 * share, kept_up)
    assert "falls too far" in told(loaded, (idle.high or 0) - 0.7 * share, kept_up)
    assert "keeps up" in told(loaded, (idle.high or 0) - 0.7 * share), "the idle is not known"
    rest = reading(plan, "ready/battery", "volts")
    said = [told(rest, v * share) for v in (5.0, 11.0, 12.0, 12.35, 12.7, 13.4, 25.0)]
    assert len(set(said)) >= 5
    assert said[0] == said[-1]
    found = keys(plan)
    assert found.index("ready/battery") < found.index("battery/crank") < found.index("battery/drop")


def test_a_lamp_is_fed_from_elsewhere_where_the_unit_has_other_volts() -> None:
    """24 V: a battery of its own; 12 V: not a word of it."""
    assert "24 V" in step(planned(FOUR, Work.TIMING), "time/lamp").detail
    assert "battery of its own" not in step(planned(SIX, Work.TIMING), "time/lamp").detail


def test_what_is_measured_while_it_runs_is_counted_again() -> None:
    """The lamp comes out after the first count."""
    found = keys(planned(FOUR, Work.TIMING))
    assert found.index("time/end") < found.index("prove/tools-again")


@pytest.mark.parametrize("key", list(ENGINES))
def test_every_work_a_sheet_can_answer_is_answered(key: str) -> None:
    """Alone, and the pieces it renews stand on the parts list with their numbers."""
    one = ENGINES[key]
    for work in possible_work(one):
        if work.at_holes:
            continue
        plan = planned(key, work)
        assert plan.title
        assert plan.proven_optimal
        numbers = {line.part_number for line in plan.parts}
        piece = one.pieces.get(work.value)  # type: ignore[call-overload]
        if piece and piece.part_number:
            assert piece.part_number in numbers


def _changed(key: str, **changes: object) -> Engine:
    plain = ENGINES[key].model_dump(mode="json", exclude_defaults=True)
    return Engine.model_validate({"format": ENGINES[key].format, **plain, **changes})


def test_a_sheet_that_contradicts_itself_is_told_where() -> None:
    """Points and a pick-up, a total without its speed, pieces it has not, a curve under static."""
    plain = ENGINES[FOUR].model_dump(mode="json", exclude_defaults=True)
    figures = dict(plain["figures"])
    both = {**figures, "air-gap": [{"value": "0.3 mm", "source": "wm", "page": "1"}]}
    assert any("not both" in p.message for p in check(_changed(FOUR, figures=both)))
    speedless = {k: v for k, v in figures.items() if k != "timing-speed"}
    assert any("not stated" in p.message for p in check(_changed(FOUR, figures=speedless)))
    packed = _changed(FOUR, pieces={"pack": {}})
    assert [p.path for p in check(packed)] == ["pieces.pack"]
    low = {**plain["timing"], "curve": [{"speed": "900 rpm", "advance": "0° to 1°"}]}
    assert any("under the static" in p.message for p in check(_changed(FOUR, timing=low)))
    target = _changed(FOUR, hindrances=[{"part": "fan-shroud", "of": ["work/x"], "kind": "hides"}])
    assert any("work 'x' does not exist" in p.message for p in check(target))


CAP_PART = {
    "name": "Cap with its leads",
    "kind": "distributor",
    "level": 3,
    "outline": [[90, 150], [170, 150], [170, 230], [90, 230]],
    "joints": {"clips": {"kind": "over_center_clip", "name": "cap clips", "count": 2}},
    "ways": {"off": {"kind": "remove", "out": "1 min", "back": "1 min"}},
}


def _cap_that_hinders() -> Engine:
    """The straight six with its cap drawn as a part, in the way of plug 1."""
    plain = ENGINES[SIX].model_dump(mode="json", exclude_defaults=True)
    hindrances = [
        *plain["hindrances"],
        {"part": "cap-itself", "of": ["hole/1/plug"], "kind": "blocks_tool"},
        {"part": "splash-shield", "of": ["cap-itself"], "kind": "hides"},
    ]
    pieces = {**plain["pieces"], "cap": {"part_number": "TR-C-6", "part": "cap-itself"}}
    parts = {**plain["parts"], "cap-itself": CAP_PART}
    return _changed(SIX, pieces=pieces, parts=parts, hindrances=hindrances)


def test_a_cap_that_hinders_is_moved_once_and_goes_back_after_what_is_done_under_it() -> None:
    """For the plug behind it alone; for the rotor alone; for both, and as a new one."""
    sheet = _cap_that_hinders()
    assert check(sheet) == []

    def ask(*work: Work, cylinders: tuple[int, ...] = (), forbid: tuple[str, ...] = ()) -> Plan:
        return compile_plan(sheet, Job(cylinders=cylinders, work=work, forbid=forbid))

    plug = keys(ask(Work.PLUG, cylinders=(1,)))
    assert "remove/cap-itself" in plug
    assert "cap/look" not in plug
    far = keys(ask(Work.PLUG, cylinders=(3,)))
    assert "remove/cap-itself" not in far
    both = keys(ask(Work.PLUG, Work.ROTOR, Work.CAP, cylinders=(1,)))
    assert "cap/off" not in both
    assert "cap/on" not in both
    wanted = ["remove/cap-itself", "cap/look", "rotor/off", "rotor/on", "fit/cap-itself"]
    wanted += ["cap/leads", "prove/order", "prove/start"]
    places = [both.index(one) for one in wanted]
    assert places == sorted(places)
    assert both.count("remove/cap-itself") == 1
    stays = keys(ask(Work.ROTOR, forbid=("cap-itself",)))
    assert "cap/off" in stays
    rotor = keys(ask(Work.ROTOR))
    assert "remove/cap-itself" in rotor
    assert rotor.index("rotor/on") < rotor.index("fit/cap-itself")


def test_a_cap_that_is_said_to_be_no_part_is_refused() -> None:
    """None there, one that does not come off, another piece than a cap."""
    plain = ENGINES[SIX].model_dump(mode="json", exclude_defaults=True)["pieces"]
    for pieces, why in (
        ({**plain, "cap": {"part": "lid"}}, "does not exist"),
        ({**plain, "cap": {"part": "oil-sender"}}, "does not come off"),
        ({**plain, "rotor": {"part": "bonnet-side"}}, "only a cap"),
    ):
        assert any(why in p.message for p in check(_changed(SIX, pieces=pieces))), why


def test_work_that_one_variant_cannot_answer_is_refused_for_that_variant_alone() -> None:
    """Timing stated for one of two; the other is told what it lacks."""
    plain = ENGINES[FOUR].model_dump(mode="json", exclude_defaults=True)
    figures = {key: list(rows) for key, rows in plain["figures"].items()}
    figures["timing-static"] = [{**figures["timing-static"][0], "variants": ["all"]}]
    variants = {**plain["variants"], "late": {"name": "late sets"}}
    sheet = _changed(FOUR, figures=figures, variants=variants)
    assert check(sheet) == []
    compile_plan(sheet, Job(work=(Work.TIMING,), variant="all"))
    with pytest.raises(JobError, match="timing needs"):
        compile_plan(sheet, Job(work=(Work.TIMING,), variant="late"))
    late = keys(compile_plan(sheet, Job(work=(Work.POINTS,), variant="late")))
    assert "points/set" in late
    assert "time/static" not in late


def test_a_hole_with_a_lead_is_closed_again_once_its_lead_is_on() -> None:
    """It has no connector to be made up; and what is pulled there is called a lead."""
    with_leads = planned(EIGHT, Work.PLUG, cylinders=(1,))
    with_coils = planned("marlet-34-v6", Work.PLUG, cylinders=(1,))
    assert closed_again(with_leads) is HoleStage.COIL_ON
    assert closed_again(with_coils) is HoleStage.CONNECTED
    assert stage_words(with_leads, HoleStage.OPEN_COIL) == "lead off"
    assert stage_words(with_coils, HoleStage.OPEN_COIL) == "coil off"
    assert stage_words(with_leads, HoleStage.TORQUED) == "torqued"


def test_a_torque_stated_for_a_piece_is_shown_and_proven_where_it_is_made_up() -> None:
    """The pack's bolts, the clamp of the body; where none is stated, snug."""
    pack = step(planned(PACK, Work.PACK), "pack/on")
    assert "pack-bolt" in {figure.key for figure in pack.figures}
    assert "torque" in {one.key for one in pack.checks}
    clamp = step(planned(EIGHT, Work.TIMING), "time/static")
    assert "body-clamp" in {figure.key for figure in clamp.figures}
    assert "opposite" in step(planned(EIGHT, Work.TIMING), "time/again").detail
    assert len(step(planned(SIX, Work.TIMING), "time/static").figures) == 1
