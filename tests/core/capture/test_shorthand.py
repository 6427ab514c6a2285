"""Joints in one line: understood as typed, said back in full, the same when said again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import EngineError
from eldrim.core.base.quantity import parse
from eldrim.core.capture.said_back import in_full
from eldrim.core.capture.shorthand import FLAGS, completions, shorthand, understand
from eldrim.core.engine.joints import FASTENERS, JointKind
from eldrim.core.engine.parts import Carries, Head, Joint

K = JointKind
TYPED = [
    ("4 hex bolts 10 mm 9 Nm one-time", K.BOLT, 4, "9 N·m"),
    ("four bolts", None, 0, ""),
    ("6x inner hex bolts of 5 mm at 8-10 N·m, plastic", K.BOLT, 6, "8 to 10 N·m"),
    ("a screw-clamp hose carrying coolant", K.HOSE_SCREW_CLAMP, 1, ""),
    ("press-tab connector", K.CONNECTOR_PRESS, 1, ""),
    ("two-lock connector", K.CONNECTOR_TWO_LOCK, 1, ""),
    ("nut 13 mm 18 ft-lb below 140 mm", K.NUT, 1, "18 lbf·ft"),
    ("3 loom clips", K.CLIP, 3, ""),
    ("2 gaskets #MG-340-11 one-time", K.GASKET, 2, ""),
    ('2 spring-clamp hoses vacuum "brake hose"', K.HOSE_SPRING_CLAMP, 2, ""),
    ("4 rubber posts", K.POSTS, 4, ""),
    ("bolt 1/2 in 20 lbf·ft", K.BOLT, 1, "20 lbf·ft"),
    ("2 six-lobe bolts 5,5 mm 9 N.m", K.BOLT, 2, "9 N·m"),
    ("8 screws 6 mm", K.SCREW, 8, ""),
]


@pytest.mark.parametrize(("typed", "kind", "count", "torque"), TYPED)
def test_a_line_is_understood_as_it_is_said(
    typed: str, kind: JointKind | None, count: int, torque: str
) -> None:
    """Order and small words do not matter."""
    if kind is None:
        with pytest.raises(EngineError):
            understand(typed)
        return
    said = understand(typed)
    assert said.joint.kind is kind
    assert said.joint.count == count
    assert str(said.torque or "") == torque
    assert (kind in FASTENERS) is (said.joint.size is not None)


@pytest.mark.parametrize(
    ("typed", "place", "says"),
    [
        ("4 hex bolts 10 mm frobbed", "frobbed", "not understood"),
        ("4 bolts 9 Nm", "4 bolts 9 Nm", "needs its size"),
        ("something", "something", "no kind of joint"),
        ("2 clips 9 Nm", "2 clips 9 Nm", "has no torque"),
        ("1 hose coolent", "coolent", "not understood"),
    ],
)
def test_what_is_not_understood_is_named(typed: str, place: str, says: str) -> None:
    """Word by word, with what may have been meant."""
    with pytest.raises(EngineError) as caught:
        understand(typed)
    problem = caught.value.problems[0]
    assert problem.path == place
    assert says in problem.message
    assert problem.fix


def test_a_near_word_is_offered() -> None:
    """A typing slip is not a riddle."""
    with pytest.raises(EngineError, match="did you mean coolant"):
        understand("1 hose coolent")


places = st.sampled_from([0.0, 12.5, 340.0])
joints = st.builds(
    lambda kind, count, head, size, carries, name, number, below, flags, placed: (
        Joint.model_validate(
            {
                "kind": kind,
                "count": count,
                "name": name,
                "part_number": number,
                **flags,
                **({"head": head, "size": size, "below": below} if kind in FASTENERS else {}),
                **placed,
                "carries": carries,
            }
        )
    ),
    st.sampled_from([k for k in JointKind]),
    st.integers(1, 12),
    st.sampled_from(list(Head)),
    st.sampled_from([parse(f"{n} mm") for n in (5, 5.5, 8, 10, 13)]),
    st.sampled_from(list(Carries)),
    st.none() | st.sampled_from(["brake hose", "duct ends (upper)"]),
    st.none() | st.sampled_from(["MG-340", "X1", "to be stated"]),
    st.none() | st.just(parse("140 mm")),
    st.fixed_dictionaries({}, optional={f: st.booleans() for f in set(FLAGS.values())}),
    st.fixed_dictionaries(
        {},
        optional={
            "at": st.lists(st.tuples(places, places), min_size=1, max_size=4),
            "drive": st.sampled_from(["1/4", "3/8", "1/2"]),
            "line": st.sampled_from(["20°", "7.5°"]),
            "swing": st.just("45°"),
            "pocket": st.just("20 mm"),
            "room": st.just("60 mm"),
            "socket": st.sampled_from(["any", "deep", "thin_wall"]),
            "stand": st.sampled_from(["left", "right", "top", "bottom"]),
            "note": st.sampled_from(["push (a little) first", 'the "short" one; then + 2 more']),
        },
    ),
)


@given(joints)
def test_the_line_of_a_joint_means_that_joint(joint: Joint) -> None:
    """Said, understood, said again: the same."""
    again = understand(shorthand(joint))
    assert again.joint == joint
    assert in_full(again.joint) == in_full(joint)


def test_completion_knows_the_words() -> None:
    """From what is begun."""
    assert "coolant" in completions("screw-clamp hose cool")
    assert completions("") == []


@pytest.mark.parametrize(
    ("typed", "kind", "head", "size"),
    [
        ("2 nuts hex 10", "nut", "hex", "10 mm"),
        ("4 allen bolts 5 mm", "bolt", "inner_hex", "5 mm"),
        ("4 hex-key bolts 5 mm", "bolt", "inner_hex", "5 mm"),
        ("bolt hex key 6", "bolt", "inner_hex", "6 mm"),
        ("jubilee clip 7 mm", "hose_screw_clamp", "hex", "7 mm"),
        ("clamp 7 mm, coolant", "hose_screw_clamp", "hex", "7 mm"),
        ("clamp", "hose_spring_clamp", None, None),
        ("6 manifold nuts 13 mm 22 Nm", "nut", "hex", "13 mm"),
    ],
)
def test_words_of_the_shop(typed: str, kind: str, head: str | None, size: str | None) -> None:
    """As people in a workshop say it, and said back with its size."""
    joint = understand(typed).joint
    assert joint.kind.value == kind
    assert (joint.head.value if joint.head else None) == head
    assert (str(joint.size) if joint.size else None) == size
    if size:
        assert size in in_full(joint)


def test_a_name_does_not_hide_the_kind() -> None:
    """What it is called, and what it is."""
    full = in_full(understand('2 nuts 10 mm "air box"').joint)
    assert full.startswith("air box: 2 nuts")
    assert understand("6 manifold nuts 13 mm").joint.name == "manifold"


def test_no_other_head_is_offered() -> None:
    """The wrong one rounds it off."""
    for typed in ("4 hexx bolts 10 mm", "4 crosss screws 5 mm", "4 slott screws 5 mm"):
        with pytest.raises(EngineError) as caught:
            understand(typed)
        fix = caught.value.problems[0].fix
        assert not any(head in fix.split(", ") for head in ("hex", "cross", "slot", "inner-hex"))
        assert "did you mean hex" not in fix
