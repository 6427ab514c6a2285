"""What holds a part on decides how it lets go, with what, and what proves it is back."""

import re
from typing import Any

import pytest

from eldrim.core.engine.joints import JOINT_RULES, JointKind
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.words import all_sentences, has, say
from tests.builders import document, engine, job, part
from tests.tables import table

FASTENER = {"head": "hex", "size": "10 mm"}


def with_joint(**joint: Any) -> Plan:
    """The plan of an engine whose one cover is held by one joint."""
    loom = {"kind": "loom"} if joint["kind"] == "clip" else {}
    return with_cover({**part(3, 3), **loom, "joints": {"it": joint}})


def with_cover(cover: dict[str, Any]) -> Plan:
    """The plan of an engine with this over its first hole."""
    hindrance = [{"part": "cover", "of": ["hole/1"], "kind": "hides"}]
    figures = {
        **document()["figures"],
        "cover-bolt": [{"value": "8 to 10 N·m", "source": "wm", "page": "7"}],
    }
    return compile_plan(
        engine(parts={"cover": cover}, hindrances=hindrance, figures=figures), job(1)
    )


def find(made: Plan, start: str) -> Step:
    """The step whose key starts so."""
    return next(s for s in made.steps if s.key.startswith(start))


def refit_of(made: Plan) -> Step:
    """The step that makes the joint up again."""
    return next(s for s in made.steps if s.key.endswith("/cover/it") and s.phase.value == "Refit")


@table("count", [1, 3])
@table("kind", [k for k in JointKind if k is not JointKind.GASKET])
def test_each_kind_lets_go_and_is_proven_as_the_trade_does(kind: JointKind, count: int) -> None:
    """Every row of the table reaches the technician, out and back; of one in the singular."""
    rule = JOINT_RULES[kind]
    made = with_joint(kind=kind, count=count, **(FASTENER if rule.fastener else {}))
    release, refit = find(made, "release/cover/it"), refit_of(made)
    assert release.text.startswith(say(f"joint.{kind}.release_verb"))
    assert _said(f"joint.{kind}.release", count) in release.detail
    assert _said(f"joint.{kind}.refit", count) in refit.detail
    for proof in rule.proofs:
        assert _said(f"joint.{kind}.proof.{proof}", count) in {c.text for c in refit.checks}
    assert refit.text.startswith(say(f"joint.{kind}.refit_verb"))
    assert set(rule.proofs) <= {c.key for c in refit.checks}
    assert bool(release.tools) == (rule.fastener or rule.tool is not None)


def _said(sentence: str, count: int) -> str:
    """A sentence of the table, in the singular of one where the table has that."""
    single = f"{sentence}.single"
    return say(single if has(single) and count == 1 else sentence)


def test_the_sentences_of_one_speak_of_no_others() -> None:
    """Nor are those of several said of one where they name each, every or all."""
    several = re.compile(r"\b(all|each|every)\b", re.IGNORECASE)
    rows = {key: text for key, text in all_sentences().items() if key.startswith("joint.")}
    for key, text in rows.items():
        said_of_one = key.endswith(".single") or f"{key}.single" not in rows
        whole = re.sub(r"on all flats", "", text)
        assert not (said_of_one and several.search(whole)), f"{key}: {text}"


def test_a_gasket_is_renewed_never_refitted() -> None:
    """It goes on the parts list and has no release step of its own."""
    made = with_joint(kind="gasket", count=2, part_number="G-7")
    keys = [s.key for s in made.steps]
    assert "renew/cover/it" in keys
    assert "release/cover/it" not in keys
    assert {(p.part_number, p.quantity) for p in made.parts} >= {("G-7", 2)}


def test_one_time_bolts_are_new_and_on_the_list() -> None:
    """Used once only."""
    made = with_joint(kind="bolt", one_time=True, count=3, part_number="B-3", **FASTENER)
    assert "used once only" in refit_of(made).detail
    assert ("B-3", 3) in {(p.part_number, p.quantity) for p in made.parts}


def test_a_plastic_ear_is_snug_and_never_crushed() -> None:
    """Said in the step and asked for as proof."""
    step = refit_of(with_joint(kind="screw", plastic=True, head="cross", size="6 mm"))
    assert "do not crush" in step.detail
    torqued = refit_of(with_joint(kind="bolt", plastic=True, torque="cover-bolt", **FASTENER))
    assert "Plastic ear: not past the click." in torqued.detail
    assert "Snug, not crushed" in {c.text for c in step.checks}


def test_a_torque_brings_its_wrench_setting_and_click() -> None:
    """The ratchet that undid it is not what tightens it."""
    made = with_joint(kind="bolt", torque="cover-bolt", **FASTENER)
    release, refit = find(made, "release/cover/it"), refit_of(made)
    assert any("ratchet" in t.name for t in release.tools)
    assert any("torque wrench ¼ in" in t.name for t in refit.tools)
    assert refit.figures[0].setting is not None
    assert refit.figures[0].setting.value == 9
    assert refit.checks[0].text == "Wrench clicked"
    several = with_joint(kind="bolt", torque="cover-bolt", count=2, **FASTENER)
    assert refit_of(several).checks[0].text == "Wrench clicked on each"


def test_a_mirror_and_an_extension_are_named() -> None:
    """What is out of sight is said to be."""
    made = with_joint(kind="bolt", mirror=True, below="140 mm", **FASTENER)
    release = find(made, "release/cover/it")
    assert "mirror and light" in {t.name for t in release.tools}
    assert "extension 150 mm, ¼ in" in {t.name for t in release.tools}
    assert "By mirror" in release.detail


@pytest.mark.parametrize(
    ("joint", "caution", "proof"),
    [
        ({"kind": "fuel_line", "carries": "fuel"}, "fuel", "prove/fuel"),
        ({"kind": "coolant_line", "carries": "coolant"}, "coolant", "prove/coolant"),
        ({"kind": "hose_spring_clamp", "carries": "coolant"}, "coolant", "prove/coolant"),
        ({"kind": "connector_press", "isolate": True}, None, "prove/reconnect"),
    ],
)
def test_what_runs_through_it_brings_caution_and_proof(
    joint: dict[str, Any], caution: str | None, proof: str
) -> None:
    """Derived, so it cannot be forgotten."""
    made = with_joint(**joint)
    if caution:
        assert caution in {c.key for c in find(made, "release/cover/it").cautions}
    assert proof in {s.key for s in made.steps}


def test_standing_elsewhere_is_a_change_of_set_up() -> None:
    """Two joints from the same far side cost one change, not two."""
    step = find(with_joint(kind="quarter_turn", stand="left"), "release/cover/it")
    assert "stand/left" in step.setup
    assert "Stand at the left" in step.detail


def test_what_seals_on_a_face_is_tight_before_its_connector() -> None:
    """A tug at the connector shifts nothing; of a part without a seal the sheet decides."""
    bolts = {"kind": "bolt", **FASTENER, "count": 4, "torque": "cover-bolt"}
    seal = {"kind": "gasket", "one_time": True, "part_number": "G-7"}
    joints = {"plug": {"kind": "connector_press", "carries": "electric"}, "bolts": bolts}
    for more, then in (({"seal": seal}, True), ({}, False)):
        made = with_cover({**part(3, 3), "kind": "throttle_body", "joints": {**joints, **more}})
        connected = find(made, "connect/cover/plug")
        assert ("tighten/cover/bolts" in connected.after) is then
