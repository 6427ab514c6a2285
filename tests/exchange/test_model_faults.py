"""What is wrong with a value reads the same wherever it was typed, in the shop's words."""

from typing import Annotated, Literal

import pytest
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from eldrim.core.base.errors import ProblemsError
from eldrim.exchange.engine_file import validate_engine
from eldrim.exchange.model_faults import FAULTS, fault_words
from eldrim.exchange.procedure_files import read_json
from eldrim.server.settings import read_settings

LIBRARY = ("Input should", "Field required", "Extra inputs", "valid", "validation")


class Sample(BaseModel):
    """One field of each kind our models have."""

    model_config = ConfigDict(extra="forbid")
    text: Annotated[str, Field(max_length=5)] = ""
    whole: Annotated[int, Field(ge=1, le=9)] = 1
    number: Annotated[float, Field(gt=0, allow_inf_nan=False)] = 1.0
    word: Literal["one", "two"] = "one"
    yes: bool = True
    many: tuple[int, ...] = ()
    named: dict[str, int] = {}


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"text": "too long"}, "'too long' is longer than 5 characters"),
        ({"text": ["a"]}, "is not a text"),
        ({"whole": "three"}, "'three' is not a whole number"),
        ({"whole": 12}, "'12' cannot be more than 9"),
        ({"whole": 2.5}, "'2.5' is not a whole number"),
        ({"number": 0}, "'0' must be more than 0"),
        ({"number": float("nan")}, "is not a number"),
        ({"word": "three"}, "'three' is none of 'one' or 'two'"),
        ({"yes": "perhaps"}, "'perhaps' is neither yes nor no"),
        ({"many": 3}, "'3' is not a list"),
        ({"named": [1]}, "is not a mapping of keys"),
        ({"more": 1}, "there is no field of this name"),
    ],
)
def test_a_fault_in_the_shop_s_words(given: dict[str, object], said: str) -> None:
    """With what was given, where that is short."""
    with pytest.raises(ValidationError) as caught:
        Sample.model_validate(given)
    fault = caught.value.errors()[0]
    assert said in fault_words(fault)
    assert fault["type"] in FAULTS


def test_what_may_be_a_secret_is_not_repeated() -> None:
    """A setting's value stands in no message."""
    with pytest.raises(ProblemsError) as caught:
        read_settings(port="hidden-word")  # type: ignore[arg-type]
    assert "hidden-word" not in str(caught.value)
    assert "is not a whole number" in str(caught.value)


def test_files_say_it_without_a_library_s_words() -> None:
    """An engine file and a procedure file, each with faults of many kinds."""
    engine = {"format": 1, "key": 3, "name": [], "cylinders": "six", "parts": [1], "surplus": True}
    for read in (lambda: validate_engine(engine), lambda: read_json(b'{"format": "x"}')):
        with pytest.raises(ProblemsError) as caught:
            read()
        for problem in caught.value.problems:
            assert not any(word in problem.message for word in LIBRARY), problem
