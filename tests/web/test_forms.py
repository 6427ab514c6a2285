"""What a form refuses is said in the shop's words."""

import pytest
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from eldrim.core.base.errors import EngineError, Problem
from eldrim.web.forms import in_shop_words


class Asked(BaseModel):
    """One field of each kind a form has."""

    model_config = ConfigDict(extra="ignore")
    minutes: float = Field(1, ge=0, le=600, allow_inf_nan=False)
    count: int = Field(1, gt=0)
    wording: str = Field("x", min_length=1, max_length=12)
    holes: list[int] = Field([1], min_length=1, max_length=2)


@pytest.mark.parametrize(
    ("field", "given", "said"),
    [
        ("minutes", -3, "minutes: '-3' cannot be less than 0"),
        ("minutes", 601, "minutes: '601' cannot be more than 600"),
        ("minutes", "soon", "minutes: 'soon' is not a number"),
        ("minutes", float("inf"), "minutes: 'inf' is not a number"),
        ("count", 0, "count: '0' must be more than 0"),
        ("count", "1.5", "count: '1.5' is not a whole number"),
        ("count", 1.5, "count: '1.5' is not a whole number"),
        ("wording", "", "wording: is missing"),
        ("wording", "x" * 99, "wording: is longer than 12 characters"),
        ("holes", [], "holes: are fewer than 1"),
        ("holes", [1, 2, 3], "holes: are more than 2"),
    ],
)
def test_no_word_of_a_library_reaches_a_page(field: str, given: object, said: str) -> None:
    """The place, what was given where it is short, and what it cannot be."""
    with pytest.raises(ValidationError) as caught:
        Asked.model_validate({field: given})
    assert in_shop_words(caught.value) == said


def test_of_many_refusals_the_first_are_told_and_the_rest_counted() -> None:
    """Each with its place as the page calls it, without the counting of lists."""
    wrong = [Problem(f"cylinders.{n}.wells[0].at", "lies off the plan") for n in range(1, 10)]
    said = in_shop_words(EngineError(wrong))
    assert said.startswith("cylinder 1, at: lies off the plan; cylinder 2, at:")
    assert said.endswith("cylinder 6, at: lies off the plan; and 3 more")
    assert in_shop_words(EngineError(wrong[:7])).endswith("; and one more")
