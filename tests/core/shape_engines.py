"""Twelve engines of shapes the demo lacks, told in a few words each; all made up."""

from typing import Any

from eldrim.core.engine import Engine
from tests.builders import document

Plain = dict[str, Any]


def bolts(count: int = 4, size: str = "10 mm", **more: Any) -> Plain:
    """Hexagon bolts."""
    return {"kind": "bolt", "head": "hex", "size": size, "count": count, **more}


def part(name: str, kind: str, out: float = 2, **more: Any) -> Plain:
    """A part that comes off, a little slower to refit."""
    ways = {"remove": {"kind": "remove", "out": f"{out} min", "back": f"{out + 0.5} min"}}
    outline = [[100, 60], [500, 60], [500, 240], [100, 240]]
    given = {"joints": {"bolts": bolts()}, "ways": ways, **more}
    return {"name": name, "kind": kind, "outline": outline, **given}


def row(bank: str, numbers: list[int], y: float = 150, **well: Any) -> dict[int, Plain]:
    """Cylinders of one bank, first at the timing end, with wells alike."""
    common = {"depth": "60 mm", "bore": "24 mm", "tilt": "0°", "room_above": "300 mm"}
    return {
        number: {
            "bank": bank,
            "place": place,
            "wells": [{**common, **well, "at": [40 + 80 * place, y]}],
        }
        for place, number in enumerate(numbers, 1)
    }


def made(shape: str, order: list[int], cylinders: dict[int, Plain], **changes: Any) -> Engine:
    """An engine on the builders' sheet with this shape and these cylinders."""
    base = document()
    banks = {c["bank"]: {"name": f"{c['bank'].title()} bank"} for c in cylinders.values()}
    lay = {**base["layout"], "shape": shape, "plan": [700, 400], **changes.pop("layout", {})}
    spark = {"kind": "coil_on_plug", "firing_order": order, **changes.pop("ignition", {})}
    held = {
        "connector": {"kind": "connector_press"},
        "bolt": bolts(1, name="coil bolt", torque="coil"),
    }
    coils = [{"part_number": "SP-C", "joints": held}] if spark["kind"] == "coil_on_plug" else []
    figures = {
        **base["figures"],
        "coil": [{"value": "8 to 10 N·m", "source": "wm", "page": "5"}],
        **changes.pop("figures", {}),
    }
    given = {"banks": banks, "cylinders": cylinders, "ignition": spark, "layout": lay}
    return Engine.model_validate({**base, "coils": coils, "figures": figures, **given, **changes})


def lead(**joints: Any) -> list[Plain]:
    """One set of leads with boots on the plugs."""
    return [{"part_number": "SP-L", "joints": {"boot": {"kind": "lead_boot"}, **joints}}]


def single() -> Engine:
    """A stationary pump: one hole in the open, one lead, no self-diagnosis."""
    return made(
        "single",
        [1],
        row("only", [1], depth="20 mm", bore="40 mm"),
        layout={"service": "stationary", "head": "iron", "diagnosis": "none"},
        ignition={"kind": "coil_pack"},
        leads=lead(),
        parts={
            "shroud": part(
                "Fan shroud",
                "panel",
                1,
                joints={"clips": {"kind": "over_center_clip", "count": 3}},
                needed_to_run=False,
            )
        },
        hindrances=[{"part": "shroud", "of": ["hole/1"], "kind": "blocks_tool"}],
    )


def loom_over_coils() -> Engine:
    """An inline four with the loom's duct clipped over the coils and marked connectors."""
    cylinders = row("only", [1, 2, 3, 4], depth="110 mm", bore="26 mm")
    marked = {number: {**c, "mark": f"{number} on the loom"} for number, c in cylinders.items()}
    return made(
        "inline",
        [1, 3, 4, 2],
        marked,
        parts={
            "cover": part(
                "Engine cover",
                "cover",
                0.5,
                joints={"studs": {"kind": "posts", "count": 4}},
                needed_to_run=False,
            ),
            "loom": part(
                "Coil loom",
                "loom",
                1.5,
                outline=[[80, 130], [420, 130]],
                joints={"clips": {"kind": "clip", "count": 4}},
                ways={"up": {"kind": "unclip", "out": "1 min", "back": "1.5 min"}},
            ),
            "rail": part("Fuel rail", "fuel_rail", fixed=True, ways={}, joints={}),
        },
        hindrances=[
            {"part": "cover", "of": [f"hole/{n}" for n in marked] + ["loom"], "kind": "hides"},
            {"part": "loom", "of": [f"hole/{n}/coil" for n in marked], "kind": "holds_short"},
            {
                "part": "rail",
                "of": ["hole/4/coil"],
                "kind": "blocks_tool",
                "rounds": {
                    "swivel": {
                        "kind": "swivel",
                        "out": "0.5 min",
                        "back": "0.5 min",
                        "tools": ["universal joint ¼ in"],
                    }
                },
            },
        ],
    )


def coolant_tank() -> Engine:
    """A vee six along the unit, its left rear holes behind the coolant tank."""
    cylinders = {**row("left", [1, 3, 5], 260), **row("right", [2, 4, 6], 120)}
    tank = part(
        "Coolant tank",
        "coolant_tank",
        3,
        joints={
            "nuts": {"kind": "nut", "head": "hex", "size": "13 mm", "count": 2},
            "hose": {
                "kind": "hose_screw_clamp",
                "head": "slot",
                "size": "7 mm",
                "carries": "coolant",
            },
            "level": {"kind": "connector_press", "name": "level sender connector"},
        },
        ways={
            "remove": {"kind": "remove", "out": "5 min", "back": "9 min"},
            "aside": {
                "kind": "loosen_and_shift",
                "out": "1.5 min",
                "back": "1.5 min",
                "releases": ["nuts", "level"],
            },
        },
    )
    return made(
        "vee",
        [1, 2, 3, 4, 5, 6],
        cylinders,
        parts={"tank": tank},
        hindrances=[{"part": "tank", "of": ["hole/3", "hole/5"], "kind": "blocks_tool"}],
    )


def air_box() -> Engine:
    """A vee six across with an air box over the front bank only; the throttle mouth opens."""
    cylinders = {**row("rear", [1, 2, 3], 120), **row("front", [4, 5, 6], 260)}
    box = part(
        "Air box",
        "air_box",
        3,
        opens=["throttle mouth"],
        joints={
            "latches": {"kind": "latch", "count": 4},
            "duct": {"kind": "hose_screw_clamp", "head": "hex", "size": "7 mm", "carries": "air"},
            "sensor": {"kind": "connector_two_lock", "name": "air mass sensor connector"},
        },
    )
    return made(
        "vee",
        [1, 4, 2, 5, 3, 6],
        cylinders,
        layout={"mounting": "across", "bulkhead": "top"},
        parts={"box": box},
        hindrances=[{"part": "box", "of": ["hole/4", "hole/5", "hole/6"], "kind": "hides"}],
    )


def twin_plug() -> Engine:
    """An inline four with two plugs a cylinder: coils inside, leads would not reach outside."""
    cylinders = row("only", [1, 2, 3, 4])
    for cylinder in cylinders.values():
        first = cylinder["wells"][0]
        outer = {**first, "at": [first["at"][0], 220], "tilt": "25°", "depth": "40 mm"}
        cylinder["wells"] = [first, {**outer, "note": "Wipe the ring groove first."}]
    return made(
        "inline",
        [1, 3, 4, 2],
        cylinders,
        parts={
            "heat-shield": part(
                "Heat shield",
                "panel",
                1.5,
                joints={"bolts": bolts(3, "E8", head="outer_six_lobe")},
                needed_to_run=False,
            )
        },
        hindrances=[
            {
                "part": "heat-shield",
                "kind": "blocks_tool",
                "of": [f"hole/{n}b/plug" for n in cylinders],
            }
        ],
    )


def vee_twelve() -> Engine:
    """A vee twelve along: a plenum a bank, the cross pipe pushed onto both."""
    left, right = [1, 3, 5, 7, 9, 11], [2, 4, 6, 8, 10, 12]
    cylinders = {**row("left", left, 260), **row("right", right, 120)}
    seal = {"kind": "gasket", "one_time": True, "part_number": "SP-G"}
    plenums = {
        side: part(
            f"{side.title()} plenum",
            "plenum",
            6,
            opens=["intake ports"],
            joints={"bolts": bolts(6, "10 mm", torque="plenum"), "seal": seal},
        )
        for side in ("left", "right")
    }
    pipe = part(
        "Cross pipe",
        "duct",
        1.5,
        pushes_onto=["left", "right"],
        joints={"clamps": {"kind": "hose_screw_clamp", "count": 2, "carries": "air"}},
    )
    return made(
        "vee",
        [1, 12, 5, 8, 3, 10, 6, 7, 2, 11, 4, 9],
        cylinders,
        figures={"plenum": [{"value": "9 to 11 N·m", "source": "wm", "page": "8"}]},
        parts={**plenums, "pipe": pipe},
        hindrances=[
            {"part": "left", "of": [f"hole/{n}" for n in left], "kind": "hides"},
            {"part": "right", "of": [f"hole/{n}" for n in right], "kind": "hides"},
            {"part": "pipe", "of": ["left", "right"], "kind": "blocks_exit"},
        ],
    )


def vee_eight_bulkhead() -> Engine:
    """A vee eight along, its rear pair close to the bulkhead under the brake servo that stays."""
    left, right = [1, 3, 5, 7], [2, 4, 6, 8]
    cylinders = {**row("left", left, 260), **row("right", right, 120)}
    servo = part("Brake servo", "other", fixed=True, ways={}, joints={})
    return made(
        "vee",
        [1, 8, 4, 3, 6, 5, 7, 2],
        cylinders,
        layout={"bulkhead": "right"},
        parts={"servo": servo},
        hindrances=[
            {
                "part": "servo",
                "of": ["hole/7/plug", "hole/8/plug"],
                "kind": "blocks_tool",
                "rounds": {"pieces": {"kind": "in_pieces", "out": "1.5 min", "back": "2 min"}},
            }
        ],
    )


def flat_six() -> Engine:
    """A flat six lying low: holes from below, well note, coils that twist out."""
    cylinders = {
        **row("left", [1, 2, 3], 320, tilt="80°", room_above="160 mm", sight="felt"),
        **row("right", [4, 5, 6], 60, tilt="80°", room_above="160 mm", sight="felt"),
    }
    cylinders[3]["wells"][0]["note"] = "Push the heater hose up with the left hand."
    flap = {
        "part_number": "SP-F",
        "joints": {"flap": {"kind": "twist_coil"}, "connector": {"kind": "connector_lever"}},
    }
    return made(
        "flat",
        [1, 6, 2, 4, 3, 5],
        cylinders,
        coils=[flap],
        layout={"service": "track"},
        parts={
            "tray": part(
                "Under tray",
                "panel",
                2,
                needed_to_run=False,
                joints={"turns": {"kind": "quarter_turn", "count": 8}},
            )
        },
        hindrances=[{"part": "tray", "of": [f"hole/{n}" for n in cylinders], "kind": "hides"}],
    )


def wheel_arch() -> Engine:
    """An inline six with a distributor: leads numbered, reached through a panel, iron head."""
    cylinders = row("only", [1, 2, 3, 4, 5, 6], depth="15 mm", bore="50 mm", tilt="30°")
    conical = {**document()["plugs"][0], "seat": "conical", "thread": "M18×1.5", "hex": "20.8 mm"}
    return made(
        "inline",
        [1, 5, 3, 6, 2, 4],
        {n: {**c, "mark": f"sleeve {n}"} for n, c in cylinders.items()},
        layout={"head": "iron", "isolate": True, "system": "24 V", "service": "stationary"},
        ignition={"kind": "distributor"},
        figures={"plug-torque": [{"value": "20 to 30 N·m", "source": "wm", "page": "3"}]},
        plugs=[conical],
        leads=lead(),
        parts={
            "panel": part(
                "Side panel",
                "panel",
                1,
                needed_to_run=False,
                joints={"catch": {"kind": "latch", "count": 2}},
            )
        },
        hindrances=[{"part": "panel", "of": [f"hole/{n}" for n in cylinders], "kind": "hides"}],
    )


def charge_pipe() -> Engine:
    """A charged inline four: the pipe over the last cylinder may be swung, which opens it."""
    pipe = part(
        "Charge pipe",
        "charge_pipe",
        2,
        opens=["throttle inlet", "cooler outlet"],
        joints={
            "clamps": {
                "kind": "hose_screw_clamp",
                "head": "hex",
                "size": "11 mm",
                "count": 2,
                "carries": "air",
                "pressurised": True,
            },
            "bolt": bolts(1),
        },
        ways={
            "swing": {
                "kind": "swing_aside",
                "out": "1.5 min",
                "back": "2 min",
                "opens": ["throttle inlet"],
            },
            "remove": {"kind": "remove", "out": "4 min", "back": "5 min"},
        },
    )
    return made(
        "inline",
        [1, 3, 4, 2],
        row("only", [1, 2, 3, 4]),
        layout={"charging": "forced", "mounting": "across"},
        parts={"pipe": pipe},
        hindrances=[{"part": "pipe", "of": ["hole/4/coil"], "kind": "blocks_exit"}],
    )


def seat_twin() -> Engine:
    """A vee twin under seat and tank, fuel hose with a union, one frame with the lead clipped."""
    cylinders = {**row("front", [1], 120), **row("rear", [2], 260)}
    tank = part(
        "Fuel tank",
        "tank",
        4,
        joints={
            "union": {"kind": "union_nut", "head": "hex", "size": "17 mm", "carries": "fuel"},
            "bolt": bolts(1, "12 mm"),
        },
    )
    return made(
        "vee",
        [1, 2],
        cylinders,
        ignition={"kind": "coil_pack"},
        leads=lead(clip={"kind": "clip"}),
        parts={
            "seat": part(
                "Seat", "seat", 1, joints={"latch": {"kind": "latch"}}, needed_to_run=False
            ),
            "tank": tank,
        },
        hindrances=[
            {"part": "seat", "of": ["joint/tank/bolt"], "kind": "hides"},
            {"part": "tank", "of": ["hole/2", "hole/1/coil"], "kind": "hides"},
        ],
    )


def gas_six() -> Engine:
    """A gas inline six, stationary, 24 V: extenders in deep wells, coils clamped, by the year."""
    return made(
        "inline",
        [1, 5, 3, 6, 2, 4],
        row("only", [1, 2, 3, 4, 5, 6], depth="220 mm", bore="30 mm", room_above="260 mm"),
        layout={"fuel": "gas", "service": "stationary", "system": "24 V"},
        parts={
            "walkway": part("Valve cover walkway", "panel", 2, needed_to_run=False),
            "gas": part(
                "Gas pipe",
                "other",
                4,
                joints={
                    "flare": {
                        "kind": "flare_nut",
                        "head": "hex",
                        "size": "24 mm",
                        "count": 2,
                        "carries": "fuel",
                    }
                },
            ),
        },
        hindrances=[
            {"part": "walkway", "of": [f"hole/{n}" for n in range(1, 7)], "kind": "hides"},
            {"part": "gas", "of": ["hole/6/coil/connector"], "kind": "hides"},
        ],
    )


SHAPES = (
    single,
    loom_over_coils,
    coolant_tank,
    air_box,
    twin_plug,
    vee_twelve,
    vee_eight_bulkhead,
    flat_six,
    wheel_arch,
    charge_pipe,
    seat_twin,
    gas_six,
)
