"""The craft as tables, written out: what each cause, joint, school and stop must bring about.

Nothing expected here is taken from the code under test. Sources: docs/craft.md §5, §8 to §14, §17
and §19.
"""

from functools import cache
from typing import Any

import pytest

from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, possible_companions, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.rules.topics import TOPICS
from eldrim.core.run.stops import stops_at
from eldrim.demo.load import demo_engines
from tests.builders import document, engine, job, part, tug
from tests.tables import table

HEX = {"head": "hex", "size": "10 mm"}
LEADS_JOINED = {"grip": {"kind": "bolt", **HEX}, "plug": {"kind": "connector_press"}}


def rich(**layout: Any) -> Engine:
    """An engine on which every operation can be called for: fuel, coolant, air, weight, wells."""
    plain = document(4)
    rail = {
        **part(6, 6),
        "kind": "fuel_rail",
        "joints": {
            "line": {"kind": "fuel_line", "carries": "fuel"},
            "hose": {"kind": "coolant_line", "carries": "coolant"},
            "clamp": {"kind": "hose_spring_clamp"},
            "air": {"kind": "hose_finger_ring", "carries": "air", "pressurised": True},
            "seal": {"kind": "gasket", "part_number": "G-1"},
            "bolts": {"kind": "bolt", "count": 4, **HEX},
        },
        "opens": ["intake port"],
    }
    rail["ways"]["remove"]["persons"] = 2
    sides = {
        name: {
            "name": name.title(),
            "kind": "cover",
            "outline": [[0, 0], [9, 0], [9, 9]],
            "ways": {"it": {"kind": kind, "out": "1 min", "back": "1 min"}},
        }
        for name, kind in (("flap", "swing_aside"), ("wire", "unclip"), ("box", "loosen_and_shift"))
    }
    cylinders = {
        n: {**c, "bank": "left" if n < 3 else "right", "place": n - 2 * (n > 2)}
        for n, c in plain["cylinders"].items()
    }
    return engine(
        4,
        layout={**plain["layout"], **layout},
        banks={"left": {"name": "Left"}, "right": {"name": "Right"}},
        cylinders=cylinders,
        figures={
            **plain["figures"],
            "warm-window": [{"value": "35 to 45 °C", "source": "wm", "page": "9"}],
        },
        plugs=[{**plain["plugs"][0], "plating": "bare"}],
        coils=[{"part_number": "C-1", "joints": LEADS_JOINED}],
        parts={"rail": rail, **sides},
        hindrances=[{"part": name, "of": ["hole/1"], "kind": "hides"} for name in ("rail", *sides)],
    )


def with_leads(made: Engine) -> Engine:
    """The same engine with leads in place of its coils."""
    plain = made.model_dump(mode="json", exclude_defaults=True)
    plain["ignition"] = {**plain["ignition"], "kind": "distributor"}
    plain["leads"] = [{"part_number": "L-1", "joints": LEADS_JOINED}]
    del plain["coils"]
    return Engine.model_validate({"format": made.format, **plain})


ALL_SCHOOLS = HouseRules(
    schools={
        "temperature": "maker_warm",
        "thread_cleaning": "every_hole",
        "first_start": "each_bank",
    }
)


def two_banks() -> Engine:
    """Two banks of two; a duct over one hole may stay where the hand feels its way."""
    plain = document(4)
    cover = {
        **part(),
        "kind": "cover",
        "needed_to_run": False,
        "joints": {"screws": {"kind": "screw", "head": "cross", "size": "6 mm", "count": 2}},
    }
    feel = {"r": {"kind": "by_feel", "out": "0 min", "back": "0 min"}}
    cylinders = {
        n: {**c, "bank": "left" if n < 3 else "right", "place": n - 2 * (n > 2)}
        for n, c in plain["cylinders"].items()
    }
    cylinders[2]["wells"] = [{**cylinders[2]["wells"][0], "sight": "felt"}]
    return engine(
        4,
        plugs=[{**plain["plugs"][0], "plating": "bare", "index": "strap towards the exhaust"}],
        coils=[{"part_number": "C-1", "joints": LEADS_JOINED}],
        banks={"left": {"name": "Left"}, "right": {"name": "Right"}},
        cylinders=cylinders,
        figures={
            **plain["figures"],
            "warm-window": [{"value": "35 to 45 °C", "source": "wm", "page": "9"}],
        },
        parts={"cover": cover, "duct": part(4, 4)},
        hindrances=[
            {"part": "cover", "of": ["hole/1"], "kind": "hides"},
            {"part": "duct", "of": ["hole/2"], "kind": "blocks_tool", "rounds": feel},
        ],
    )


def everything(one: Engine, variant: str) -> Job:
    """All the work that a sheet can answer, at all its cylinders."""
    work = possible_work(one)
    along = possible_companions(one, variant)
    return Job(cylinders=tuple(one.cylinders), work=work, companions=along, variant=variant)


@cache
def corpus() -> list[Plan]:
    """Plans in which every operation comes up at least once."""
    marine = rich(service="marine", fuel="gas", cycle="two_stroke")
    made = [compile_plan(marine, job(1, 2, 3, 4), ALL_SCHOOLS)]
    lead_job = Job(cylinders=(1, 2, 3, 4), work=(Work.LEAD, Work.PLUG))
    made.append(compile_plan(with_leads(rich()), lead_job, ALL_SCHOOLS))
    made.append(compile_plan(engine(3), job(1, 2, 3)))
    made.append(compile_plan(two_banks(), job(1, 3), DEFAULT_RULES.using(first_start="each_bank")))
    for one in demo_engines():
        carrier = Work.COIL if one.ignition.kind == "coil_on_plug" else Work.LEAD
        for variant in one.variants:
            asked = Job(cylinders=tuple(one.cylinders), work=(carrier, Work.PLUG), variant=variant)
            made.append(compile_plan(one, asked))
            made.append(compile_plan(one, everything(one, variant)))
            if places := tuple(work for work in possible_work(one) if not work.at_holes):
                made.append(compile_plan(one, Job(work=places, variant=variant)))
    return made


def steps_of(operation: str) -> list[Step]:
    """Every step of the corpus that is of this operation."""
    return [s for made in corpus() for s in made.steps if s.key.operation.value == operation]


ALWAYS_CAUTIONED: dict[str, set[str]] = {
    "ready/unit": set(),
    "ready/codes": set(),
    "ready/battery": {"battery"},
    "ready/warm": {"hot_parts", "running_engine", "ignition_high_voltage"},
    "ready/temperature": {"hot_parts"},
    "ready/key": set(),
    "ready/gas": {"gas_fuel"},
    "ready/isolate": {"battery", "battery_off"},
    "ready/tools": set(),
    "ready/parts": set(),
    "release": set(),
    "remove": {"sharp_edges"},
    "swing": {"sharp_edges"},
    "unclip": {"sharp_edges"},
    "shift": {"sharp_edges"},
    "plug-opening": {"open_engine"},
    "clean/coils": {"compressed_air"},
    "clean/leads": {"compressed_air"},
    "along": set(),
    "release/coil": set(),
    "release/lead": set(),
    "remove/coil": set(),
    "remove/lead": set(),
    "clean/well": {"compressed_air"},
    "remove/plug": {"hot_parts", "chemical"},
    "read/plug": set(),
    "read/coil": set(),
    "gap/plug": set(),
    "chase/plug": {"open_engine"},
    "prepare/plug": {"chemical"},
    "start/plug": set(),
    "torque/plug": set(),
    "fit/coil": set(),
    "fit/lead": set(),
    "tighten/coil": set(),
    "tighten/lead": set(),
    "connect/coil": set(),
    "connect/lead": set(),
    "faces": {"gasket_dust"},
    "renew": set(),
    "unplug-opening": {"open_engine"},
    "fit": set(),
    "back": set(),
    "tighten": set(),
    "connect": set(),
    "start-between": {"running_engine", "may_roll", "ignition_high_voltage"},
    "prove/tools": set(),
    "prove/tools-again": set(),
    "prove/order": set(),
    "prove/openings": set(),
    "prove/reconnect": {"battery", "battery_off"},
    "prove/fuel": {"fuel"},
    "prove/coolant": {"coolant"},
    "prove/blower": {"marine_vapour"},
    "prove/lubrication": set(),
    "prove/start": {"running_engine", "ignition_high_voltage"},
    "prove/air-leak": {"running_engine", "ignition_high_voltage"},
    "prove/clear-codes": set(),
    "prove/load": {"running_engine"},
    "prove/codes-again": set(),
    "prove/sign": set(),
    "battery/crank": {"battery", "cranking"},
    "battery/drop": {"battery", "cranking"},
    "cap/off": set(),
    "cap/look": set(),
    "rotor/advance": set(),
    "rotor/off": set(),
    "rotor/look": set(),
    "points/look": set(),
    "points/set": {"turned_by_hand"},
    "points/air-gap": {"turned_by_hand"},
    "rotor/on": set(),
    "time/mark": {"turned_by_hand"},
    "time/static": {"turned_by_hand"},
    "time/again": {"turned_by_hand"},
    "cap/on": set(),
    "cap/leads": set(),
    "coil-lead/look": set(),
    "coil-lead/on": set(),
    "pack/off": set(),
    "pack/look": set(),
    "pack/on": set(),
    "read/lead": set(),
    "time/dwell": {"running_engine", "ignition_high_voltage"},
    "time/lamp": {"running_engine", "ignition_high_voltage"},
    "time/idle": {"running_engine", "ignition_high_voltage"},
    "time/total": {"running_engine", "ignition_high_voltage"},
    "time/curve": {"running_engine", "ignition_high_voltage"},
    "time/end": {"running_engine", "ignition_high_voltage"},
    "charge/idle": {"running_engine", "ignition_high_voltage", "battery"},
    "charge/loaded": {"running_engine", "ignition_high_voltage", "battery"},
}


@table("operation", ALWAYS_CAUTIONED)
def test_what_an_operation_always_warns_of(operation: str) -> None:
    """What all steps of an operation have in common, on engines that differ in everything else."""
    steps = steps_of(operation)
    assert steps, "no plan has such a step"
    common = set.intersection(*({c.key for c in s.cautions} for s in steps))
    assert common == ALWAYS_CAUTIONED[operation]


def test_every_operation_of_every_plan_is_in_the_table() -> None:
    """A new operation is a new row here too."""
    assert {s.key.operation.value for p in corpus() for s in p.steps} == set(ALWAYS_CAUTIONED)


AT_THIS_ENGINE: list[tuple[str, set[str]]] = [
    ("release/rail/line", {"fuel"}),
    ("release/rail/hose", {"coolant", "spring_clamp"}),
    ("release/rail/clamp", {"spring_clamp"}),
    ("release/rail/air", {"under_pressure"}),
    ("release/rail/bolts", set()),
    ("remove/rail", {"sharp_edges", "heavy_lift", "open_engine"}),
    ("swing/flap", {"sharp_edges"}),
    ("faces/rail", {"gasket_dust"}),
    ("renew/rail/seal", set()),
    ("fit/rail", {"heavy_lift"}),
    ("connect/rail/line", {"fuel"}),
    ("connect/rail/hose", {"coolant", "spring_clamp"}),
    ("connect/rail/clamp", {"spring_clamp"}),
    ("connect/rail/air", set()),
    ("tighten/rail/bolts", set()),
    ("remove/plug/1", {"hot_parts", "chemical", "aluminium_thread"}),
    ("start/plug/1", {"aluminium_thread"}),
    ("torque/plug/1", {"aluminium_thread"}),
    ("prove/start", {"running_engine", "may_roll", "ignition_high_voltage"}),
    ("prove/load", {"running_engine"}),
]


@pytest.mark.parametrize(("key", "expected"), AT_THIS_ENGINE)
def test_what_a_step_warns_of_at_this_engine(key: str, expected: set[str]) -> None:
    """Fuel, coolant, pressure, weight, openings and the head add theirs where they are."""
    made = compile_plan(rich(), job(1))
    [step] = [s for s in made.steps if s.key == key]
    assert {c.key for c in step.cautions} == expected


@pytest.mark.parametrize(
    ("layout", "key", "caution"),
    [
        ({"fuel": "gas"}, "prove/start", "gas_fuel"),
        ({"service": "marine"}, "prove/blower", "marine_vapour"),
    ],
)
def test_what_the_engine_is_adds_a_caution(layout: dict[str, str], key: str, caution: str) -> None:
    """Only on such an engine."""
    [step] = [s for s in compile_plan(rich(**layout), job(1)).steps if s.key == key]
    assert caution in {c.key for c in step.cautions}
    usual = [s for s in compile_plan(rich(), job(1)).steps if s.key == key]
    assert all(caution not in {c.key for c in s.cautions} for s in usual)


def test_an_iron_head_needs_no_caution_for_its_thread() -> None:
    """Out and in; an aluminium one does."""
    keys = ("remove/plug/1", "start/plug/1", "torque/plug/1")
    for head, warned in (("iron", False), ("aluminium", True)):
        made = compile_plan(rich(head=head), job(1))
        steps = [s for s in made.steps if s.key in keys]
        assert len(steps) == 3
        for step in steps:
            assert ("aluminium_thread" in {c.key for c in step.cautions}) is warned


# Kind of joint: (tools to let go, operation of the way back, what proves it, goes on the list).
JOINTS: dict[str, tuple[bool, str, set[str], bool]] = {
    "bolt": (True, "tighten", {"count"}, False),
    "nut": (True, "tighten", {"count"}, False),
    "screw": (True, "tighten", {"count"}, False),
    "quarter_turn": (True, "connect", {"flush"}, False),
    "hidden_cap_bolt": (True, "tighten", {"count", "flush"}, False),
    "posts": (False, "connect", {"posts"}, False),
    "connector_press": (False, "connect", {"click", "tug"}, False),
    "connector_two_lock": (False, "connect", {"click", "tug", "lock"}, False),
    "connector_lever": (False, "connect", {"lever"}, False),
    "clip": (False, "connect", {"pressed"}, False),
    "latch": (False, "connect", {"flush"}, False),
    "over_center_clip": (False, "connect", {"flush"}, False),
    "union_nut": (True, "tighten", {"count", "drip"}, False),
    "flare_nut": (True, "tighten", {"count", "drip"}, False),
    "hose_screw_clamp": (True, "connect", {"aligned", "clamp"}, False),
    "hose_spring_clamp": (True, "connect", {"aligned", "clamp"}, False),
    "hose_finger_ring": (False, "connect", {"ring", "tug"}, False),
    "fuel_line": (True, "connect", {"fuel"}, False),
    "coolant_line": (True, "connect", {"clamp", "drip"}, False),
    "cable": (False, "connect", {"travel"}, False),
    "twist_coil": (False, "connect", {"flap"}, False),
    "push_coil": (False, "connect", {"flush"}, False),
    "lead_boot": (False, "connect", {"click", "holder"}, False),
    "gasket": (False, "renew", {"renewed"}, True),
}
WAYS: dict[str, tuple[str, str, bool]] = {
    "remove": ("remove", "fit", True),
    "swing_aside": ("swing", "back", False),
    "unclip": ("unclip", "back", False),
    "loosen_and_shift": ("shift", "back", False),
}
FASTENED = ("bolt", "nut", "screw", "hidden_cap_bolt", "union_nut", "flare_nut")


@table("way", WAYS)
@table("kind", JOINTS)
def test_each_joint_on_each_way(kind: str, way: str) -> None:
    """Let go with its tool, made up again, proven as the trade does, renewed where it must be."""
    toolled, back, proofs, renewed = JOINTS[kind]
    off, on, labelled = WAYS[way]
    joint = {"kind": kind, "part_number": "P-7", **(HEX if kind in FASTENED else {})}
    cover = {
        "name": "Cover",
        "kind": "cover",
        "outline": [[0, 0], [9, 0], [9, 9]],
        "joints": {"it": joint},
        "ways": {"w": {"kind": way, "out": "4 min", "back": "4 min", "releases": ["it"]}},
    }
    hides = [{"part": "cover", "of": ["hole/1"], "kind": "hides"}]
    made = compile_plan(engine(parts={"cover": cover}, hindrances=hides), job(1))
    by_key = {str(s.key): s for s in made.steps}
    release, refit = by_key.get("release/cover/it"), by_key[f"{back}/cover/it"]
    assert (release is None) == (kind == "gasket")
    if release:
        assert bool(release.tools) == toolled
        assert ("count" in {c.key for c in release.checks}) == (kind in FASTENED)
    assert proofs <= {c.key for c in refit.checks}
    assert {f"{off}/cover", f"{on}/cover"} <= set(by_key)
    assert ("labelled" in {c.key for c in by_key[f"{off}/cover"].checks}) == labelled
    assert ("P-7" in {p.part_number for p in made.parts}) == renewed


@pytest.mark.parametrize(
    ("count", "pattern"), [(1, False), (2, False), (3, False), (4, True), (5, True), (8, True)]
)
def test_four_fasteners_or_more_are_tightened_in_two_rounds(count: int, pattern: bool) -> None:
    """In two rounds, so that what lies between is pressed evenly."""
    cover = {**part(4, 4), "joints": {"it": {"kind": "bolt", "count": count, **HEX}}}
    hides = [{"part": "cover", "of": ["hole/1"], "kind": "hides"}]
    made = compile_plan(engine(parts={"cover": cover}, hindrances=hides), job(1))
    [step] = [s for s in made.steps if s.key == "tighten/cover/it"]
    assert ("Half, then full." in step.detail) is pattern


AIR = ("plenum", "duct", "throttle_body", "air_box", "charge_pipe")
# What was let go, and whether false air may come in: (joints, openings, of an air part, of others).
OPENED: list[tuple[str, dict[str, Any], list[str], bool, bool]] = [
    ("bolts only", {"it": {"kind": "bolt", **HEX}}, [], False, False),
    ("clips only", {"it": {"kind": "clip"}}, [], False, False),
    ("a gasket", {"it": {"kind": "gasket"}}, [], True, False),
    ("a hose", {"it": {"kind": "hose_screw_clamp"}}, [], True, False),
    ("an opening", {}, ["port"], True, False),
    ("a vacuum hose", {"it": {"kind": "hose_finger_ring", "carries": "vacuum"}}, [], True, True),
    ("a breather", {"it": {"kind": "hose_spring_clamp", "carries": "breather"}}, [], True, True),
    (
        "a coolant hose",
        {"it": {"kind": "hose_spring_clamp", "carries": "coolant"}},
        [],
        True,
        False,
    ),
]


@table("kind", [*AIR, "cover", "panel", "bracket"])
@table(("what", "joints", "opens", "air", "other"), OPENED)
def test_only_what_was_really_opened_is_checked_for_leaks(
    what: str, joints: dict[str, Any], opens: list[str], air: bool, other: bool, kind: str
) -> None:
    """A seal, hose or opening of an air part; a hose of air or vacuum on any."""
    moved = {**part(4, 4), "kind": kind, "joints": joints, "opens": opens}
    hides = [{"part": "it", "of": ["hole/1"], "kind": "hides"}]
    made = compile_plan(engine(parts={"it": moved}, hindrances=hides), job(1))
    expected = air if kind in AIR else other
    assert ("prove/air-leak" in {s.key for s in made.steps}) is expected, what


WHEELS = [("road", True), ("track", True), ("stationary", False), ("marine", False)]


@pytest.mark.parametrize(("service", "rolls"), WHEELS)
def test_brake_and_chocks_only_where_there_are_wheels(service: str, rolls: bool) -> None:
    """On every step with the engine running where it stands; a drive has none set."""
    made = compile_plan(rich(service=service), job(1), ALL_SCHOOLS)
    running = [
        step
        for step in made.steps
        if "running_engine" in {c.key for c in step.cautions} and step.key != "prove/load"
    ]
    assert len(running) >= 2
    assert {"may_roll" in {c.key for c in s.cautions} for s in running} == {rolls}


# (ignition, cycle, years, stated on the sheet): whether fault codes are read.
DIAGNOSED = [
    ("coil_on_plug", "four_stroke", None, None, True),
    ("coil_pack", "four_stroke", None, None, True),
    ("distributor", "four_stroke", None, None, False),
    ("coil_pack", "two_stroke", None, None, False),
    ("distributor", "four_stroke", [1996, 1999], None, True),
    ("coil_on_plug", "four_stroke", [1985, 1990], None, False),
    ("coil_on_plug", "four_stroke", None, "none", False),
    ("distributor", "four_stroke", [1960, 1970], "yes", True),
]


@pytest.mark.parametrize(("ignition", "cycle", "years", "stated", "codes"), DIAGNOSED)
def test_engines_without_self_diagnosis_get_no_code_steps(
    ignition: str, cycle: str, years: list[int] | None, stated: str | None, codes: bool
) -> None:
    """As the sheet says, else by year, else by kind."""
    layout = {"cycle": cycle, **({"diagnosis": stated} if stated else {})}
    made = rich(**layout) if ignition == "coil_on_plug" else with_leads(rich(**layout))
    plain = made.model_dump(mode="json", exclude_defaults=True)
    plain["ignition"]["kind"] = ignition
    plain["variants"] = {"all": {"name": "all", **({"years": years} if years else {})}}
    made = Engine.model_validate({"format": made.format, **plain})
    work = (Work.PLUG,)
    keys = {str(s.key) for s in compile_plan(made, Job(cylinders=(2,), work=work)).steps}
    of_codes = {"ready/codes", "prove/clear-codes", "prove/codes-again"}
    assert (of_codes <= keys) is codes
    assert bool(of_codes & keys) is codes


@pytest.mark.parametrize(
    ("seat", "school", "ring", "felt"),
    [
        ("gasket", "replace", True, True),
        ("gasket", "refit_in_limits", False, False),
        ("conical", "replace", False, False),
        ("conical", "refit_in_limits", False, False),
    ],
)
def test_a_ring_is_looked_for_and_felt_only_where_there_is_a_new_one(
    seat: str, school: str, ring: bool, felt: bool
) -> None:
    """A conical seat has none; a ring already used is not felt twice."""
    plain = document()["plugs"][0]
    rules = DEFAULT_RULES.using(tightening="seat_plus_angle", inspect_or_replace=school)
    made = compile_plan(engine(plugs=[{**plain, "seat": seat}]), job(1), rules)
    step = {str(s.key): s for s in made.steps}
    assert ("ring" in {c.key for c in step["remove/plug/1"].checks}) is (seat == "gasket")
    assert ("ring" in step["read/plug/1"].detail) is (seat == "gasket")
    assert ("Old ring gone" in step["start/plug/1"].detail) is ring
    assert ("felt twice" in step["torque/plug/1"].detail) is felt
    turn = {"conical": 22.5, "gasket": 210.0 if felt else 30.0}[seat]
    assert step["torque/plug/1"].figures[0].aim == turn


# The order in which a part with a seal and openings goes back; what is cleaned is still plugged.
BACK = ["faces/rail", "unplug-opening/rail", "renew/rail/seal", "fit/rail", "tighten/rail/bolts"]


def test_faces_are_wiped_plugged_then_ports_unplugged_then_seals_laid() -> None:
    """And only then the part goes on."""
    keys = [str(s.key) for s in compile_plan(rich(), job(1)).steps]
    assert [key for key in keys if key in BACK] == BACK


@pytest.mark.parametrize(
    ("way", "opens", "seal", "plugged"),
    [
        ("remove", None, False, ["port"]),
        ("remove", [], False, []),
        ("swing_aside", None, False, []),
        ("swing_aside", None, True, ["port"]),
        ("loosen_and_shift", ["throat"], False, ["throat"]),
        ("unclip", None, False, []),
    ],
)
def test_an_opening_is_plugged_whenever_it_comes_open(
    way: str, opens: list[str] | None, seal: bool, plugged: list[str]
) -> None:
    """Also by tilting or sliding; a way says what it opens, or a seal that is let go does."""
    stated = {} if opens is None else {"opens": opens}
    moved = {
        **part(2, 2),
        "opens": ["port"],
        "joints": {"s": {"kind": "gasket"}} if seal else {},
        "ways": {"w": {"kind": way, "out": "2 min", "back": "2 min", **stated}},
    }
    hides = [{"part": "it", "of": ["hole/1"], "kind": "hides"}]
    made = compile_plan(engine(parts={"it": moved}, hindrances=hides), job(1))
    step = {str(s.key): s for s in made.steps}
    assert ("plug-opening/it" in step) is bool(plugged)
    assert ("unplug-opening/it" in step) is bool(plugged)
    if plugged:
        assert plugged[0] in step["plug-opening/it"].text
        assert "prove/openings" in step


def test_nothing_is_used_before_it_is_counted_out_or_after_its_last_count() -> None:
    """Every plan of the corpus: laid out first; covers after the start are counted again."""
    for made in corpus():
        keys = [str(s.key) for s in made.steps]
        first = next(i for i, s in enumerate(made.steps) if s.tools)
        assert keys.index("ready/tools") < first
        start, count = keys.index("prove/start"), keys.index("prove/tools")
        assert count == start - 1
        again = keys.index("prove/tools-again") if "prove/tools-again" in keys else count
        for step in made.steps[again + 1 :]:
            assert {t.id for t in step.tools} <= {"code-reader", "reader"}
        after = made.steps[start : again if again > start else start]
        between = [s for s in after if s.part or s.tools]
        assert bool(between) == ("prove/tools-again" in keys)


def test_the_clamp_of_the_battery_is_counted_before_it_is_used() -> None:
    """Also where only the coil's own joint, or the sheet for every job, calls for it."""
    asks = {"connector": {"kind": "connector_press", "isolate": True}}
    for made in (
        engine(coils=[{"part_number": "C", "joints": asks}]),
        engine(layout={**document()["layout"], "isolate": True}),
        with_leads(rich(isolate=True)),
    ):
        work = (Work.PLUG,)
        plan = compile_plan(made, Job(cylinders=(2,), work=work))
        keys = [str(s.key) for s in plan.steps]
        assert keys.index("ready/tools") < keys.index("ready/isolate")
        assert keys.index("ready/isolate") < next(i for i, k in enumerate(keys) if "release" in k)
        assert keys.index("prove/reconnect") < keys.index("prove/tools")
        [tools] = [s for s in plan.steps if s.key == "ready/tools"]
        assert "ratchet ¼ in" in tools.detail


# Minutes at a hole that is felt: (operation, on the bench).
FELT = [
    ("read/plug/2", 0.8, True),
    ("gap/plug/2", 0.6, True),
    ("remove/coil/2", 0.4, False),
    ("clean/well/2", 0.5, False),
    ("start/plug/2", 0.6, False),
]


@pytest.mark.parametrize(("key", "open_minutes", "bench"), FELT)
def test_bench_work_takes_as_long_whatever_the_hole(
    key: str, open_minutes: float, bench: bool
) -> None:
    """By feel takes 1.6 times as long at the hole, and no longer on the bench."""
    [step] = [s for s in compile_plan(two_banks(), job(2)).steps if s.key == key]
    factor = 1.0 if bench else 1.6
    change = 0.0 if not step.changes_setup else step.minutes - open_minutes * factor
    assert step.minutes - change == pytest.approx(open_minutes * factor, abs=0.06)


def test_no_step_takes_no_time() -> None:
    """Every step of every plan of the corpus."""
    for made in corpus():
        assert not [s.key for s in made.steps if s.minutes <= 0]


@pytest.mark.parametrize(
    ("work", "plugs"), [((Work.PLUG,), True), ((Work.COIL,), False), ((Work.COIL, Work.PLUG), True)]
)
def test_plug_data_stand_only_where_plugs_are_fitted(work: tuple[Work, ...], plugs: bool) -> None:
    """A coil job says nothing of thread and reach."""
    made = compile_plan(engine(), Job(cylinders=(1,), work=work))
    step = next(s for s in made.steps if s.key == "ready/parts")
    assert ("M14×1.25" in step.detail) is plugs
    assert ("ignition coil" in step.detail) is (Work.COIL in work)


def test_leads_are_not_called_coils() -> None:
    """In any sentence of a plan of an engine with leads."""
    made = compile_plan(with_leads(rich()), Job(cylinders=(1, 2), work=(Work.LEAD, Work.PLUG)))
    for step in made.steps:
        checks = (check.text for check in step.checks)
        said_here = " ".join((step.text, step.detail, *step.because, *checks))
        assert "coil" not in said_here.lower(), step.key
    assert not any("coil" in p.name for p in made.parts)


def said(made: Plan, key: str, what: str) -> Any:
    """One thing about one step of a plan, as it can be written down."""
    step = next((s for s in made.steps if s.key == key), None)
    if step is None:
        return None
    match what:
        case "there":
            return True
        case "tools":
            return [t.id for t in step.tools]
        case "figure":
            [figure] = step.figures
            return (round(figure.min, 1), round(figure.max, 1), round(figure.aim, 1))
        case "readings":
            return [r.key for r in step.readings]
        case "checks":
            return [c.key for c in step.checks]
        case "cautions":
            return [c.key for c in step.cautions]
        case "place":
            return [str(s.key) for s in made.steps].index(key)
        case _:
            return getattr(step, what)


TORQUE = "torque/plug/1"
SOCKET = ["p-16", "x-38-75-locking"]
# (topic, school, step, what, by the default, by this school)
SCHOOLS: list[tuple[str, str, str, str, Any, Any]] = [
    # 20 to 28 N·m dry; a bare shell in aluminium is oiled, 30 % less, not under 65 % of 20.
    ("thread_compound", "always", TORQUE, "figure", (14, 19.6, 16.8), (14, 19.6, 16.8)),
    ("thread_compound", "never", TORQUE, "figure", (14, 19.6, 16.8), (20, 28, 24)),
    ("thread_compound", "never", "prepare/plug/1", "there", True, None),
    ("thread_compound", "oil", "prepare/plug/1", "tools", ["thread-compound"], ["thin-oil"]),
    # A third of the way up the window: 14 + 5.6 / 3.
    ("tightening", "low_third", TORQUE, "figure", (14, 19.6, 16.8), (14, 19.6, 15.9)),
    # Half a turn to two thirds on a new ring: 180° to 240°.
    ("tightening", "seat_plus_angle", TORQUE, "figure", (14, 19.6, 16.8), (180, 240, 210)),
    ("tightening", "seat_plus_angle", TORQUE, "readings", ["torque"], []),
    ("tightening", "seat_plus_angle", TORQUE, "checks", [], ["turned"]),
    ("temperature", "maker_warm", "ready/warm", "there", None, True),
    ("temperature", "maker_warm", "ready/temperature", "figure", (0, 40, 20), (35, 45, 40)),
    ("first_cylinder", "bank_by_bank", "start-between/left", "there", None, True),
    ("new_gap", "as_supplied", "gap/plug/1", "tools", ["wire-gauge"], []),
    ("new_gap", "as_supplied", "gap/plug/1", "readings", ["gap_left", "gap_supplied"], []),
    ("new_gap", "as_supplied", "gap/plug/1", "checks", [], ["whole"]),
    ("dielectric_grease", "none", "fit/coil/1", "tools", ["dielectric-grease"], []),
    ("coils", "exposed_bank", "remove/coil/2", "there", None, True),
    ("coils", "exposed_bank", "remove/coil/3", "there", None, None),
    ("coils", "all", "remove/coil/3", "there", None, True),
    ("coils", "all", "remove/plug/3", "there", None, None),
    (
        "retrieval",
        "hose",
        "remove/plug/1",
        "tools",
        [*SOCKET, "h-38-breaker-380", "h-38-ratchet-180"],
        [*SOCKET, "h-38-breaker-380", "h-38-ratchet-180", "hose"],
    ),
    (
        "retrieval",
        "magnet",
        "remove/plug/1",
        "tools",
        [*SOCKET, "h-38-breaker-380", "h-38-ratchet-180"],
        [*SOCKET, "h-38-breaker-380", "h-38-ratchet-180", "magnet"],
    ),
    ("well_cleaning", "vacuum", "clean/well/1", "tools", ["air-gun"], ["vacuum"]),
    ("well_cleaning", "vacuum", "clean/well/1", "cautions", ["compressed_air"], []),
    ("well_cleaning", "both", "clean/well/1", "tools", ["air-gun"], ["vacuum", "air-gun"]),
    ("well_cleaning", "both", "clean/well/1", "cautions", ["compressed_air"], ["compressed_air"]),
    ("thread_cleaning", "every_hole", "chase/plug/1", "there", None, True),
]


@pytest.mark.parametrize(("topic", "school", "key", "what", "usual", "changed"), SCHOOLS)
def test_what_a_school_changes(
    topic: str, school: str, key: str, what: str, usual: Any, changed: Any
) -> None:
    """The value by the default and by the school, both written out."""
    made = two_banks()
    asked = job(1, 3) if topic == "first_cylinder" else job(1)
    assert said(compile_plan(made, asked), key, what) == usual
    other = compile_plan(made, asked, DEFAULT_RULES.with_schools({topic: school}))
    assert said(other, key, what) == changed


def keys_by(asked: Job, **schools: str) -> list[str]:
    """The keys of the steps, in order, under these schools."""
    made = compile_plan(two_banks(), asked, DEFAULT_RULES.with_schools(schools))
    return [str(s.key) for s in made.steps]


# (topic, school, a step, a step): by the default the first comes first, by the school the second.
ORDERS = [
    ("open_at_once", "one_at_a_time", "remove/plug/1", "torque/plug/2"),
    ("height_reference", "one_stays", "remove/coil/3", "fit/coil/1"),
    ("coil_joint_first", "connector", "release/coil/1/plug", "release/coil/1/grip"),
    ("coil_joint_first", "connector", "tighten/coil/1/grip", "connect/coil/1/plug"),
    ("first_start", "after_refit", "prove/start", "fit/cover"),
    ("first_cylinder", "easiest_first", "remove/plug/2", "remove/plug/3"),
]


@pytest.mark.parametrize(("topic", "school", "one", "other"), ORDERS)
def test_what_order_a_school_changes(topic: str, school: str, one: str, other: str) -> None:
    """What came first comes second."""
    usual, changed = keys_by(job(1, 2, 3)), keys_by(job(1, 2, 3), **{topic: school})
    assert usual.index(one) < usual.index(other)
    assert changed.index(other) < changed.index(one)


WORDS = [
    ("dielectric_grease", "insulator", "fit/coil/1", "on the insulator"),
    ("power_tools", "run_out", "remove/plug/1", "once it is loose"),
    ("breaking_loose", "slow_steady", "remove/plug/1", "Slow steady"),
    ("electrode_index", "maker", "torque/plug/1", "strap towards the exhaust"),
    ("inspect_or_replace", "refit_in_limits", "gap/plug/1", "Measured as found"),
]


@pytest.mark.parametrize(("topic", "school", "key", "words"), WORDS)
def test_what_words_a_school_changes(topic: str, school: str, key: str, words: str) -> None:
    """The step says how, and by the default it does not."""
    made = two_banks()
    assert words not in said(compile_plan(made, job(1)), key, "detail")
    other = compile_plan(made, job(1), DEFAULT_RULES.with_schools({topic: school}))
    assert words in said(other, key, "detail")


def test_a_school_that_shows_only_on_another_engine() -> None:
    """Numbers against hardness, leads stage by stage, a start after each bank."""
    rear_first = [s.key for s in compile_plan(tug(), job(2, 5, variant="late")).steps]
    rules = DEFAULT_RULES.using(first_cylinder="by_number")
    by_number = [s.key for s in compile_plan(tug(), job(2, 5, variant="late"), rules).steps]
    assert rear_first.index("remove/plug/5") < rear_first.index("remove/plug/2")
    assert by_number.index("remove/plug/2") < by_number.index("remove/plug/5")

    asked = Job(cylinders=(1, 2), work=(Work.LEAD, Work.PLUG))
    one = [s.key for s in compile_plan(with_leads(rich()), asked).steps]
    rules = DEFAULT_RULES.using(open_at_once="stage_by_stage")
    all_open = [s.key for s in compile_plan(with_leads(rich()), asked, rules).steps]
    first, other = sorted(("1", "2"), key=lambda hole: one.index(f"remove/plug/{hole}"))
    assert one.index(f"torque/plug/{first}") < one.index(f"remove/plug/{other}")
    assert all_open.index(f"remove/plug/{other}") < all_open.index(f"torque/plug/{first}")

    assert "start-between/left" not in keys_by(job(1, 3))
    assert "start-between/left" in keys_by(job(1, 3), first_start="each_bank")


def test_what_the_last_check_and_the_driver_say_by_school() -> None:
    """Old plugs kept or scrapped; a power driver on covers, or none."""
    made = two_banks()
    usual = compile_plan(made, job(1))
    scrapped = compile_plan(made, job(1), DEFAULT_RULES.using(old_plugs="scrap"))
    by_hand = compile_plan(made, job(1), DEFAULT_RULES.using(power_tools="none"))
    assert _last_check(usual).startswith("Old plugs labelled by cylinder and date")
    assert _last_check(scrapped) == "Old plugs scrapped"
    assert "a power driver may" in said(usual, "release/cover/screws", "detail")
    assert "power" not in said(by_hand, "release/cover/screws", "detail")


def _last_check(made: Plan) -> str:
    return made.steps[-1].checks[0].text


@pytest.mark.parametrize(
    ("school", "coils", "plugs"), [("failed", 1, 1), ("exposed_bank", 2, 1), ("all", 4, 1)]
)
def test_which_coils_are_renewed(school: str, coils: int, plugs: int) -> None:
    """One, those of its bank, all; the plugs are those of the job."""
    made = compile_plan(two_banks(), job(1), DEFAULT_RULES.using(coils=school))
    listed = {p.name: p.quantity for p in made.parts}
    assert (listed["ignition coil"], listed["spark plug"]) == (coils, plugs)


def test_plugs_that_are_in_limits_go_back_and_are_not_bought() -> None:
    """Where the house refits."""
    rules = DEFAULT_RULES.using(inspect_or_replace="refit_in_limits")
    assert "spark plug" not in {p.name for p in compile_plan(two_banks(), job(1), rules).parts}


def test_no_work_by_feel_means_the_duct_comes_off() -> None:
    """Four minutes out and four back, where the hand could have felt its way."""
    usual, changed = keys_by(job(2)), keys_by(job(2), work_by_feel="forbidden")
    assert "remove/duct" not in usual
    assert {"remove/duct", "fit/duct"} <= set(changed)


WELL = {"oil_in_well", "water_in_well"}
CARRIER = {*WELL, "boot_torn", "dropped_in"}
# What can go wrong at an operation; at all others nothing stops the work.
LEAKS = {"fuel_smell", "coolant_leak"}
JOINT = {"fastener_broken", "fastener_rounded", "tab_broken", "dropped_in", *LEAKS}
MOVE = {"dropped_in", "tab_broken", *LEAKS}
RUNNING = {"runs_rough", *LEAKS}
# A screw, clip or tab of a piece of the ignition.
PIECE = {"dropped_in", "fastener_broken", "fastener_rounded", "tab_broken"}
STOPS: dict[str, set[str]] = {
    "ready/gas": {"fuel_smell"},
    "release": JOINT,
    "remove": MOVE,
    "swing": MOVE,
    "unclip": MOVE,
    "shift": MOVE,
    "fit": MOVE,
    "back": MOVE,
    "tighten": JOINT,
    "connect": JOINT,
    "along": JOINT,
    "clean/coils": {*WELL, "dropped_in"},
    "clean/leads": {*WELL, "dropped_in"},
    "release/coil": JOINT,
    "release/lead": JOINT,
    "tighten/coil": JOINT,
    "tighten/lead": JOINT,
    "connect/coil": {"tab_broken"},
    "connect/lead": {"tab_broken"},
    "remove/coil": CARRIER,
    "remove/lead": CARRIER,
    "clean/well": {*WELL, "dropped_in"},
    "remove/plug": {
        *("plug_binds", "keeps_turning", "thread_out", "shell_broken"),
        *("ring_left", "cracked_insulator", "dropped_in"),
    },
    "read/plug": {"cracked_insulator", "ring_left", "no_start"},
    "gap/plug": {"cracked_insulator", "dropped_plug"},
    "chase/plug": {"thread_out", "dropped_in"},
    "start/plug": {"cross_thread", "dropped_plug", "dropped_in"},
    "torque/plug": {"keeps_turning", "thread_out", "shell_broken", "cracked_insulator"},
    "fit/coil": {"boot_torn"},
    "fit/lead": {"boot_torn"},
    "unplug-opening": {"dropped_in"},
    "start-between": RUNNING,
    "prove/fuel": {"fuel_smell"},
    "prove/coolant": {"coolant_leak"},
    "prove/blower": {"fuel_smell"},
    "prove/start": RUNNING,
    "prove/air-leak": RUNNING,
    "prove/load": RUNNING,
    **dict.fromkeys(("cap/off", "cap/on", "rotor/off", "pack/off", "pack/on"), PIECE),
    **dict.fromkeys(("points/set", "points/air-gap", "time/static"), PIECE),
    "cap/leads": {"boot_torn"},
    "coil-lead/on": {"boot_torn"},
    **dict.fromkeys(("time/dwell", "time/idle", "time/total", "time/curve"), RUNNING),
    **dict.fromkeys(("charge/idle", "charge/loaded"), RUNNING),
}


@table("operation", ALWAYS_CAUTIONED)
def test_which_stops_can_be_met_at_an_operation(operation: str) -> None:
    """Each where it happens in the bay, and nowhere else."""
    for step in steps_of(operation):
        assert {stop.key.value for stop in stops_at(step)} == STOPS.get(operation, set())


def test_the_demo_engine_has_its_cautions_by_way_too() -> None:
    """A plenum that two lift, over open ports."""
    made = compile_plan(tug(), job(1, 3, 5))
    [lifted] = [s for s in made.steps if s.key == "remove/plenum"]
    assert [c.key for c in lifted.cautions] == ["sharp_edges", "heavy_lift", "open_engine"]


# Schools that tests of their own show, above.
SHOWN_ALONE = {
    ("first_cylinder", "by_number"),
    ("open_at_once", "stage_by_stage"),
    ("first_start", "each_bank"),
    ("old_plugs", "scrap"),
    ("power_tools", "none"),
    ("work_by_feel", "forbidden"),
    ("single_gap", "pm_01"),
    ("single_gap", "as_source"),
}


# A gap printed as one number, the school: the range the step shows, in its own unit.
SINGLE_GAPS = [
    ("0.8 mm", "pm_005", 0.75, 0.85),
    ("0.8 mm", "pm_01", 0.7, 0.9),
    ("0.8 mm", "as_source", 0.8, 0.8),
    ("31 thou", "pm_005", 29, 33),
    ("31 thou", "pm_01", 27, 35),
    ("0.035 in", "pm_005", 0.033, 0.037),
    ("0.7 to 0.8 mm", "pm_01", 0.7, 0.8),
]


@pytest.mark.parametrize(("printed", "school", "low", "high"), SINGLE_GAPS)
def test_a_gap_printed_alone_is_a_range_by_house_rule(
    printed: str, school: str, low: float, high: float
) -> None:
    """In the step, its reading and its sentence; a printed range stays what it is."""
    gap = [{"value": printed, "source": "wm", "page": "4"}]
    made = engine(figures={**document()["figures"], "plug-gap": gap})
    plan = compile_plan(made, job(1), DEFAULT_RULES.using(single_gap=school))
    [step] = [s for s in plan.steps if s.key == "gap/plug/1"]
    [figure], [reading, _] = step.figures, step.readings
    assert (figure.min, figure.max) == pytest.approx((low, high))
    assert (reading.low, reading.high) == pytest.approx((low, high))
    assert bool(figure.sum) is (low != high and "to" not in printed)


def test_every_school_is_in_a_table() -> None:
    """A new one is a new row."""
    shown = {(row[0], row[1]) for table in (SCHOOLS, ORDERS, WORDS) for row in table}
    every = {(t.key, s.key) for t in TOPICS for s in t.schools[1:] if not s.refused}
    assert every == shown | SHOWN_ALONE
