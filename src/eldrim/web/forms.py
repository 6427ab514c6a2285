"""What comes in by a form, read; what cannot be read is named with the fix. And files going out."""

from typing import Annotated

from fastapi import Depends, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from eldrim.core.errors import Problem, ProblemsError, QuantityError
from eldrim.core.quantity import read_number
from eldrim.web.context import MAX_FIELDS

MAX_TEXT = 300


async def _form_fields(request: Request) -> FormData:
    return await request.form(max_fields=MAX_FIELDS)


async def _whole_body(request: Request) -> bytes:
    return await request.body()


# Both are read on the event loop before the route runs; a route with the store in it never does.
FormFields = Annotated[FormData, Depends(_form_fields)]
WholeBody = Annotated[bytes, Depends(_whole_body)]


def text_field(form: FormData, name: str, longest: int = MAX_TEXT) -> str:
    """A text as typed, without blanks at its ends; empty where there is none."""
    return str(form.get(name) or "").strip()[:longest]


def whole_number(field: str, text: str) -> int | None:
    """A number without decimals; None where nothing was typed."""
    typed = text.strip()
    if not typed:
        return None
    if not (typed.isascii() and typed.removeprefix("-").isdecimal()):
        raise ProblemsError([Problem(field, f"'{text}' is no number", "digits only")])
    return int(typed)


def decimal_number(field: str, text: str) -> float | None:
    """A number as people type it, with a point or a comma; None where nothing was typed."""
    if not text.strip():
        return None
    try:
        return read_number(text)
    except QuantityError as error:
        fix = "write a number, as 2.5"
        raise ProblemsError([Problem(field, f"'{text}' is not a number", fix)]) from error


def year(field: str, text: str) -> int | None:
    """A year with four digits; None where nothing was typed."""
    found = whole_number(field, text) if text.strip().isdecimal() else None
    if text.strip() and not 1900 <= (found or 0) <= 2100:
        raise ProblemsError([Problem(field, f"'{text}' is no year", "write it as 2019")])
    return found


def problems_of(error: ValidationError) -> ProblemsError:
    """A model's complaints as problems: the place, and what is wrong there."""
    return ProblemsError(
        [
            Problem(".".join(map(str, fault["loc"])), fault["msg"].removeprefix("Value error, "))
            for fault in error.errors()
        ]
    )


def one_line(error: Exception) -> str:
    """What an error says, on one line."""
    if isinstance(error, ValidationError):
        error = problems_of(error)
    if isinstance(error, ProblemsError):
        return "; ".join(map(str, error.problems))
    return str(error)


def download(data: bytes | str, media_type: str, name: str) -> Response:
    """A file that the browser keeps under ``name``."""
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=media_type, headers=headers)
