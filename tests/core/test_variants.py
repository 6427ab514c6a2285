"""A unit's plate picks its variant, or a person is asked."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import EngineError
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.model import Variant
from eldrim.core.engine.variants import (
    Plate,
    candidates,
    differences,
    drop_variant,
    plate_verdicts,
    put_variant,
    serial_number,
)
from tests.builders import engine

SPLIT = {
    "early": {"name": "to 4199", "serial_to": 4199},
    "late": {"name": "4200 on", "serial_from": 4200, "letters": ["KB"]},
    "gas": {"name": "gas", "serial_from": 4200, "letters": ["KG"], "years": [2020, 2024]},
}


def split() -> Engine:
    """An engine with three variants."""
    figures = {
        "plug-torque": [{"value": "20 to 28 N·m", "source": "wm", "page": "3"}],
        "plug-gap": [
            {"value": "0.7 mm", "source": "wm", "page": "3", "variants": ["early", "late"]},
            {"value": "0.5 mm", "source": "wm", "page": "9", "variants": ["gas"]},
        ],
    }
    return engine(variants=SPLIT, figures=figures)


@pytest.mark.parametrize(
    ("plate", "found"),
    [
        (Plate("4199"), ("early",)),
        (Plate("KB-4200"), ("late",)),
        (Plate("4200", "kg 12", 2021), ("gas",)),
        (Plate("4200", "kg 12", 2019), ()),
        (Plate("4200"), ("late", "gas")),
        (Plate(""), ("early", "late", "gas")),
        (Plate("KG7-3000"), ("early",)),
    ],
)
def test_the_plate_says_which(plate: Plate, found: tuple[str, ...]) -> None:
    """Serial, letters and year each rule out; what is not on the plate rules nothing out."""
    assert candidates(split(), plate) == found


def test_what_speaks_against_a_variant_and_what_is_not_said_is_told() -> None:
    """So that the person who is asked knows what to look for."""
    early, late, gas = plate_verdicts(split(), Plate("5000"))
    assert early.against == ("serial 5000 is after 4199",)
    assert (late.against, late.open) == ((), ("engine letters",))
    assert gas.open == ("engine letters", "year")


@given(st.integers(0, 99999), st.sampled_from(["", "KB", "KG", "ZZ"]))
def test_split_serials_leave_no_number_without_and_none_with_two(number: int, head: str) -> None:
    """Early and late meet and do not overlap."""
    sheet = split()
    pair = {"early", "late"}
    found = pair & set(candidates(sheet, Plate(f"{head}{number}", "KB")))
    assert found == ({"early"} if number <= 4199 else {"late"})
    assert serial_number(f"{head}-{number}") == number


def test_a_variant_starts_from_another_and_goes_with_what_was_its_alone() -> None:
    """Shared facts stay shared; its own leave with it."""
    sheet = split()
    made = put_variant(sheet, "boat", Variant(name="boat"), like="gas")
    assert made.figures["plug-gap"][1].variants == ("gas", "boat")
    assert made.figures["plug-torque"][0].variants == ()
    assert not check(made)
    assert differences(made)["boat"] == ("plug gap 0.5 mm",)
    gone = drop_variant(drop_variant(made, "gas"), "boat")
    assert len(gone.figures["plug-gap"]) == 1
    assert set(gone.variants) == {"early", "late"}
    with pytest.raises(EngineError):
        put_variant(sheet, "new", Variant(name="new"))
    only = drop_variant(drop_variant(sheet, "gas"), "late")
    assert only.figures["plug-gap"][0].variants == ("early",)
    with pytest.raises(EngineError):
        drop_variant(only, "early")
