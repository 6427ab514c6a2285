"""A sheet that contradicts itself is told so, place by place."""

from typing import Any

import pytest

from eldrim.core.consistency import check
from tests.builders import document, engine, part, tug

TORQUE = {"value": "20 to 28 N·m", "source": "wm", "page": "3"}
WELL = document()["cylinders"][1]["wells"]


def test_the_demo_sheets_are_consistent() -> None:
    """What ships has no problem."""
    assert check(tug()) == []
    assert check(engine()) == []


CASES: list[tuple[dict[str, Any], str, str]] = [
    (
        {
            "cylinders": {1: document()["cylinders"][1], 3: document()["cylinders"][3]},
            "ignition": {"kind": "coil_on_plug", "firing_order": [1, 3]},
        },
        "cylinders",
        "2 is missing",
    ),
    (
        {"ignition": {"kind": "coil_on_plug", "firing_order": [1, 2]}},
        "ignition.firing_order",
        "every cylinder once",
    ),
    (
        {"ignition": {"kind": "coil_on_plug", "firing_order": [1, 2, 3], "coil_letters": {"A": 7}}},
        "ignition.coil_letters.A",
        "7 does not exist",
    ),
    (
        {"own_codes": {"P1300": {"means": "cut", "about": "misfire"}}},
        "own_codes.P1300.cylinder",
        "of which",
    ),
    (
        {"own_codes": {"P1300": {"means": "cut", "about": "misfire", "cylinder": 9}}},
        "own_codes.P1300.cylinder",
        "9 does not exist",
    ),
    (
        {"own_codes": {"P1300": {"means": "lean", "about": "lean", "bank": "port"}}},
        "own_codes.P1300.bank",
        "not in banks",
    ),
    (
        {"own_codes": {"P0301": {"means": "cut", "about": "misfire", "cylinder": 1}}},
        "own_codes.P0301",
        "generic code",
    ),
    ({"ignition": {"kind": "coil_pack", "firing_order": [1, 2, 3]}}, "leads", "none is described"),
    ({"coils": []}, "coils", "no coil is described"),
    ({"banks": {"left": {"name": "Left"}}}, "cylinders.1.bank", "not in banks"),
    (
        {"figures": {**document()["figures"], "plug-torque": [{**TORQUE, "value": "20 lbf·in"}]}},
        "figures.plug-torque[0].value",
        "below what is plausible",
    ),
    (
        {"plugs": [{**document()["plugs"][0], "gap_supplied": "0.75 in"}]},
        "plugs[0].gap_supplied",
        "above what is plausible",
    ),
    (
        {"figures": {**document()["figures"], "plug-torque": [{**TORQUE, "source": "web"}]}},
        "figures.plug-torque[0].source",
        "source 'web'",
    ),
    (
        {"figures": {**document()["figures"], "plug-torque": [{**TORQUE, "value": "1 mm"}]}},
        "figures.plug-torque[0].value",
        "not torque",
    ),
    (
        {
            "figures": {
                **document()["figures"],
                "plug-torque": [
                    {**TORQUE, "settled": "newer"},
                    {**TORQUE, "value": "30 N·m", "settled": "mine"},
                ],
            }
        },
        "figures.plug-torque",
        "both settled",
    ),
    ({"parts": {"a": {**part(), "ways": {}}}}, "parts.a.ways", "no way moves"),
    (
        {"parts": {"a": {**part(), "joints": {"b": {"kind": "bolt"}}}}},
        "parts.a.joints.b",
        "head and size",
    ),
    (
        {"parts": {"a": {**part(), "joints": {"b": {"kind": "clip", "torque": "plug-torque"}}}}},
        "parts.a.joints.b.torque",
        "has no torque",
    ),
    (
        {
            "parts": {
                "a": {
                    **part(),
                    "joints": {
                        "b": {"kind": "bolt", "head": "hex", "size": "10 mm", "torque": "nowhere"}
                    },
                }
            }
        },
        "parts.a.joints.b.torque",
        "not in figures",
    ),
    (
        {"parts": {"a": {**part(), "joints": {"b": {"kind": "clip", "count": 2, "at": [[1, 1]]}}}}},
        "parts.a.joints.b.at",
        "1 places for a count of 2",
    ),
    (
        {"parts": {"a": part()}, "hindrances": [{"part": "b", "of": ["hole/1"], "kind": "hides"}]},
        "hindrances[0].part",
        "part 'b'",
    ),
    (
        {"parts": {"a": part()}, "hindrances": [{"part": "a", "of": ["hole/8"], "kind": "hides"}]},
        "hindrances[0].of",
        "hole '8'",
    ),
    (
        {"parts": {"a": part()}, "hindrances": [{"part": "a", "of": ["a"], "kind": "hides"}]},
        "hindrances[0].of",
        "its own way",
    ),
    (
        {"parts": {"a": part()}, "hindrances": [{"part": "a", "of": ["x/y/z"], "kind": "hides"}]},
        "hindrances[0].of",
        "not a target",
    ),
    ({"plugs": document()["plugs"] * 2}, "plugs", "exactly one"),
]


@pytest.mark.parametrize(("changes", "path", "says"), CASES)
def test_a_contradiction_is_named_with_its_place(
    changes: dict[str, Any], path: str, says: str
) -> None:
    """Path and message point at it, and the fix is not empty."""
    found = check(engine(**changes))
    assert [p for p in found if p.path == path and says in p.message and p.fix], found


def test_two_cylinders_cannot_share_a_place() -> None:
    """Wrong numbering is the commonest cause of work on the wrong hole."""
    cylinders = document()["cylinders"]
    cylinders[2]["place"] = 1
    cylinders[3]["wells"] = [{**WELL[0], "at": [9000, 0]}]
    paths = {p.path for p in check(engine(cylinders=cylinders))}
    assert {"cylinders.2.place", "cylinders.3.wells[0].at"} <= paths
