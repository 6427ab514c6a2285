"""What other engines already have: offered by kind and name, taken without their facts."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.capture import edits, offers
from eldrim.core.capture.offers import Offer
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.model import TO_BE_STATED, TO_STATE
from eldrim.core.engine.parts import PartKind
from eldrim.demo.load import demo_engines
from tests.core.capture.test_drawing import four

SIX = next(engine for engine in demo_engines() if engine.id == "marlet-34-v6")


def known(*engines: Engine) -> list[Offer]:
    """Every part of these, as offers."""
    return [
        Offer(engine.id, engine.title, key, part)
        for engine in engines
        for key, part in engine.parts.items()
    ]


def plenumed(make: str = "Tarn") -> tuple[Engine, str]:
    """An inline four of a make with a plenum that nothing holds yet."""
    made, key = edits.add_part(four(), PartKind.PLENUM, (400, 150))
    return made.model_copy(update={"make": make}), key


def test_the_same_kind_is_offered_with_the_nearest_name_first() -> None:
    """Another kind is not; what two engines have alike stands once."""
    twin = SIX.model_copy(update={"id": "marlet-twin"})
    found = offers.offers(PartKind.PLENUM, "Intake plenum", known(SIX, twin, *demo_engines()))
    assert {one.part.kind for one in found} == {PartKind.PLENUM}
    assert found[0].part.name == "Intake plenum"
    assert sum(one.part == SIX.parts["plenum"] for one in found) == 1
    assert len(offers.offers(None, "", known(*demo_engines()), most=5)) == 5


@pytest.mark.parametrize(("make", "number"), [("Tarn", TO_BE_STATED), (SIX.make, "MG-340-11")])
def test_what_is_taken_is_held_so_but_its_figures_are_to_be_sourced(make: str, number: str) -> None:
    """A torque comes as a hint; a part number holds under its own maker only."""
    made, key = plenumed(make)
    made = offers.take_all(made, key, SIX, "plenum")
    part, theirs = made.parts[key], SIX.parts["plenum"]
    assert list(part.joints) == list(theirs.joints)
    assert part.ways.keys() == theirs.ways.keys()
    assert part.joints["gasket"].part_number == number
    figure = made.figures[part.joints["bolts"].torque or ""][0]
    stated = SIX.figures[theirs.joints["bolts"].torque or ""][0]
    assert (figure.value, figure.source) == (stated.value, TO_STATE)
    assert SIX.name in figure.page
    assert not any(joint.at for joint in part.joints.values()), "their places are not ours"
    assert check(made) == []


def test_one_joint_or_one_way_comes_alone() -> None:
    """A way lets go only what is held here."""
    made, key = plenumed()
    one = offers.take_joint(made, key, SIX, "plenum", "bolts")
    assert list(one.parts[key].joints) == ["bolts"]
    twice = offers.take_joint(one, key, SIX, "plenum", "bolts")
    assert list(twice.parts[key].joints) == ["bolts", "bolts-2"]
    way = offers.take_way(one, key, SIX, "plenum", "remove").parts[key].ways["remove"]
    assert (way.out, way.estimated) == (SIX.parts["plenum"].ways["remove"].out, False)
    with pytest.raises(EngineError, match="no longer there"):
        offers.take_joint(made, key, SIX, "piano", "bolts")


@pytest.mark.parametrize("theirs", SIX.parts)
def test_every_part_can_be_put_on(theirs: str) -> None:
    """In the middle of the plan, whole, and the sheet still holds."""
    made, key = offers.put_on(four(), SIX, theirs)
    wide, high = made.layout.plan
    assert all(0 <= x <= wide and 0 <= y <= high for x, y in made.parts[key].outline)
    assert made.parts[key].name == SIX.parts[theirs].name
    assert check(made) == []


def test_of_a_part_that_never_moves_only_the_joints_come() -> None:
    """Ours still can be moved."""
    still = edits.describe(SIX, "plenum", fixed=True)
    made, key = plenumed()
    taken = offers.take_all(made, key, still, "plenum").parts[key]
    assert taken.joints.keys() == SIX.parts["plenum"].joints.keys()
    assert taken.ways
