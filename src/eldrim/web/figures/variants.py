"""The variants of an engine: how each is told, and what it states otherwise."""

from typing import Annotated

from fastapi import APIRouter, Form
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field, ValidationError

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.engine.keys import free_key
from eldrim.core.engine.model import Variant
from eldrim.core.engine.variants import drop_variant, put_variant
from eldrim.core.words.messages import gettext
from eldrim.store import sheet_store, unit_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, Trainer
from eldrim.web.forms import problems_of, whole_number, year

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=120)]
Typed = Annotated[str, Field(max_length=120)]


class VariantForm(BaseModel):
    """A variant as it is typed; ``like`` is the one that a new variant starts as."""

    revision: int
    name: Typed
    key: Typed = ""
    like: Typed = ""
    serial_from: Typed = ""
    serial_to: Typed = ""
    letters: Typed = ""
    year_from: Typed = ""
    year_to: Typed = ""

    def variant(self) -> Variant:
        """The variant meant. Raises :class:`ProblemsError` naming what cannot be read."""
        years = (year("years", self.year_from), year("years", self.year_to))
        if (years[0] is None) != (years[1] is None):
            raise ProblemsError(
                [
                    Problem(
                        "years", gettext("one end is missing"), gettext("say first and last year")
                    )
                ]
            )
        stated = {
            "name": self.name,
            "serial_from": whole_number("serial", self.serial_from),
            "serial_to": whole_number("serial", self.serial_to),
            "letters": tuple(w.strip() for w in self.letters.split(",") if w.strip()),
            "years": None if years[0] is None else years,
        }
        try:
            return Variant.model_validate(stated)
        except ValidationError as error:
            raise problems_of(error) from error


@router.post("/engines/{engine_id}/variants")
def state(
    db: Db, signed_in: Trainer, engine_id: str, form: Annotated[VariantForm, Form()]
) -> Response:
    """State a variant, or a new one that starts as another is."""
    sheet = _current(db, engine_id, form.revision, form.key)
    key = form.key or free_key(form.name, tuple(sheet.variants))
    changed = put_variant(sheet, key, form.variant(), form.like)
    sheet_store.save_sheet(db, changed, signed_in.name)
    return RedirectResponse(f"/engines/{engine_id}/figures?variant={key}#variants", 303)


@router.post("/engines/{engine_id}/variants/away")
def away(
    db: Db, signed_in: Trainer, engine_id: str, revision: Annotated[int, Form()], key: Short
) -> Response:
    """Take a variant off the sheet with what is stated for it alone; the revision before keeps it.

    Refused while a unit has it.
    """
    sheet = _current(db, engine_id, revision, key)
    using = unit_store.names_with(db, engine_id, key)
    if using:
        fix = gettext("give them another variant first")
        raise ProblemsError(
            [Problem("variant", gettext("{using} has it", using=", ".join(using)), fix)]
        )
    sheet_store.save_sheet(db, drop_variant(sheet, key), signed_in.name)
    return RedirectResponse(f"/engines/{engine_id}/figures#variants", 303)


def _current(db: Db, engine_id: str, revision: int, key: str) -> Engine:
    """The sheet, if this variant is still what the form was made from."""
    sheet, was = sheet_store.sheet(db, engine_id), sheet_store.sheet(db, engine_id, revision)
    if sheet.variants.get(key) != was.variants.get(key):
        raise ConflictError(
            gettext("Somebody else changed this variant meanwhile. Load the page again.")
        )
    return sheet
