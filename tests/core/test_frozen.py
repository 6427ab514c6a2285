"""What every core model promises: it never changes, and a copy is a value of its own."""

import pickle

import pytest

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import parse
from eldrim.core.tools.stock import STANDARD_CRIB
from tests.builders import tug


def test_a_copy_works_out_anew_what_follows_from_its_fields() -> None:
    """Holes of a sheet whose cylinder was moved lie where it lies now."""
    sheet = tug()
    _, old = sheet.holes["1"]
    cylinder = sheet.cylinders[1]
    wells = (cylinder.wells[0].model_copy(update={"at": (11.0, 12.0)}), *cylinder.wells[1:])
    cylinders = {**sheet.cylinders, 1: cylinder.model_copy(update={"wells": wells})}
    moved = sheet.model_copy(update={"cylinders": cylinders})
    assert moved.holes["1"][1].at == (11.0, 12.0)
    assert sheet.holes["1"][1].at == old.at


def test_a_copied_tool_has_the_name_of_what_it_is_now() -> None:
    """A mark that tells it from its like is part of its name."""
    wrench = STANDARD_CRIB.wrenches[0]
    assert wrench.name
    assert wrench.model_copy(update={"mark": "(red)"}).name == f"{wrench.name} (red)"


def test_a_misspelt_field_is_refused() -> None:
    """A copy changes fields that there are."""

    class One(Frozen):
        number: int

    with pytest.raises(TypeError, match="numbr"):
        One(number=1).model_copy(update={"numbr": 2})


def test_what_is_kept_of_a_value_stays_in_its_process() -> None:
    """Hashes of text differ from process to process: none is pickled."""
    length = parse("19 mm")
    assert hash(length) == hash(parse("19 mm"))
    sent = pickle.loads(pickle.dumps(length))
    assert sent == length
    assert "_hash" not in vars(sent)
