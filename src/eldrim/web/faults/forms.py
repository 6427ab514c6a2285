"""A complaint as the form of its page sends it, and the address that asks the same again."""

from collections.abc import Mapping
from typing import Annotated
from urllib.parse import urlencode

from pydantic import BaseModel, Field

from eldrim.core.reading.signs import in_order
from eldrim.exchange.diagnoses import ComplaintQuestion

Short = Annotated[str, Field(max_length=400)]
Few = Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=24)]


class FaultForm(BaseModel):
    """A complaint as the form sends it, with what is asked otherwise."""

    unit: Annotated[str, Field(max_length=48)] = ""
    codes: Short = ""
    symptoms: Few = []
    signs: Short = ""
    age: Annotated[str, Field(max_length=80)] = ""
    variant: Annotated[str, Field(max_length=80)] = ""
    without: Few = []
    lacking: Few = []
    prices: Short = ""
    known: Annotated[str, Field(max_length=40)] = ""

    @property
    def says_something(self) -> bool:
        """Whether there is a complaint at all."""
        return any((self.codes.strip(), self.signs.strip(), self.symptoms))

    def question(self) -> ComplaintQuestion:
        """The same as it is asked."""
        age = self.age.strip()
        return ComplaintQuestion(
            codes=self.codes,
            signs=self.signs,
            symptoms=self.symptoms,
            age=f"plugs={age}" if age else "",
            without=self.without,
            lacking=self.lacking,
            prices=self.prices,
            known=self.known,
            variant=self.variant,
        )

    def address(self, **other: object) -> str:
        """The query that asks the same but for this."""
        fields = {**self.model_dump(exclude_defaults=True), **other}
        return urlencode({key: value for key, value in fields.items() if value}, doseq=True)


def signs_text(signs: Mapping[str, frozenset[str]]) -> str:
    """Signs by hole as they are typed: ``4=black,wet; 5=track``."""
    return "; ".join(f"{hole}={','.join(in_order(found))}" for hole, found in signs.items())


def query_of(said: dict[str, object], unit: str) -> str:
    """The query of the page that weighs a complaint that was kept on a unit."""
    fields = FaultForm.model_validate(said).model_dump(exclude_defaults=True)
    return urlencode({**fields, "unit": unit}, doseq=True)
