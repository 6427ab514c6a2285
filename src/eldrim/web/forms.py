"""What comes in by a form, read; what cannot be read is named with the fix. And files going out."""

import re
from collections.abc import Mapping
from math import isfinite
from typing import Annotated, Any

from fastapi import Depends, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from eldrim.core.errors import Problem, ProblemsError, QuantityError
from eldrim.core.quantity import format_number, read_number
from eldrim.web.context import MAX_FIELDS

MAX_TEXT = 300


async def _form_fields(request: Request) -> FormData:
    return await request.form(max_fields=MAX_FIELDS)


# Read on the event loop before the route runs; a route with the store in it never does.
FormFields = Annotated[FormData, Depends(_form_fields)]


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


# What a model says of a value, in the shop's words; the limits it names are filled in.
FAULTS = {
    "missing": "is missing",
    "greater_than_equal": "cannot be less than {ge}",
    "greater_than": "must be more than {gt}",
    "less_than_equal": "cannot be more than {le}",
    "less_than": "must be less than {lt}",
    "string_too_long": "is longer than {max_length} characters",
    "too_long": "are more than {max_length}",
    "too_short": "are fewer than {min_length}",
    "float_parsing": "is not a number",
    "float_type": "is not a number",
    "finite_number": "is not a number",
    "int_parsing": "is not a whole number",
    "int_type": "is not a whole number",
    "int_from_float": "is not a whole number",
    "string_type": "is not a text",
    "enum": "is none of {expected}",
    "literal_error": "is none of {expected}",
    "bool_parsing": "is neither yes nor no",
    "uuid_parsing": "is not known here",
    "date_from_datetime_parsing": "is not a day, as 2026-05-20",
    "string_pattern_mismatch": "is written with other letters than may stand there",
}


def fault_words(fault: Mapping[str, Any]) -> str:
    """One complaint of a model in the shop's words, with what was given where it is short."""
    kind, given = str(fault["type"]), fault.get("input")
    if isinstance(given, float) and isfinite(given):
        given = format_number(given, 3)
    if kind == "string_too_short":
        least = fault["ctx"]["min_length"]
        return f"is shorter than {least} letters" if given else "is missing"
    words = FAULTS.get(kind)
    if words is None:
        return str(fault["msg"]).removeprefix("Value error, ")
    limits = fault.get("ctx", {}).items()
    plain = {k: format_number(v, 3) if isinstance(v, int | float) else v for k, v in limits}
    said = words.format(**plain)
    short = isinstance(given, str | int | float) and len(str(given)) <= 40 and str(given).strip()
    return f"'{given}' {said}" if short and kind != "missing" else said


def problems_of(error: ValidationError) -> ProblemsError:
    """A model's complaints as problems: the place, and what is wrong there.

    Where a value may be of several kinds, what our own rules say of it is told, and no more.
    """
    faults = error.errors()
    own = [fault for fault in faults if fault["type"] == "value_error"] or faults
    return ProblemsError(
        [
            Problem(
                ".".join(word for word in map(str, fault["loc"]) if "[" not in word),
                fault_words(fault),
            )
            for fault in own
        ]
    )


# What the fields of a sheet are called on the pages.
CALLED = {
    "room_above": "room over",
    "room_open": "room once it is open",
    "wells": "",
    "name": "name",
    "firing_order": "firing order",
    "pushes_onto": "pushed onto",
    "part_number": "part number",
    "hex": "hex",
}
CHOSEN = {"cylinders": "cylinder {}", "parts": "{}", "joints": "{}", "ways": "{}"}


def in_shop_words(error: Exception) -> str:
    """What an error says on one line, its places as the pages call them."""
    if isinstance(error, ValidationError):
        error = problems_of(error)
    if not isinstance(error, ProblemsError):
        return str(error)
    told = [(_place(p.path), p.message, f" ({p.fix})" if p.fix else "") for p in error.problems]
    found = (f"{place}: {said}{fix}" if place else f"{said}{fix}" for place, said, fix in told)
    return "; ".join(dict.fromkeys(found))


def _place(path: str) -> str:
    """Where something is wrong: ``cylinders.1.wells.0.room_above`` is cylinder 1, room over."""
    words, parts = [], path.split(".")
    while parts:
        part = parts.pop(0)
        if part in CHOSEN and parts:
            words.append(CHOSEN[part].format(parts.pop(0).replace("-", " ")))
        elif not part.isdecimal():
            words.append(CALLED.get(part, part.replace("_", " ").replace("-", " ")))
    return ", ".join(filter(None, words))


_BARE = re.compile(r"[-−]?\d+(?:[.,]\d+)?")


def with_unit(text: str, unit: str) -> str:
    """A figure with its unit, where only one can be meant: ``35`` over a plug is 35 mm."""
    return f"{text.strip()} {unit}" if _BARE.fullmatch(text.strip()) else text


_MINUTE_WORDS = {"half a minute": 0.5, "half": 0.5, "a minute": 1.0, "one minute": 1.0}
_SECONDS = re.compile(r"(\d+)\s*(?:s|sec|seconds)")


def minutes_number(field: str, text: str) -> float | None:
    """Minutes as people say them: ``0,5``, ``half a minute``, ``30 s``, ``1:30``."""
    said = " ".join(text.lower().split())
    if said in _MINUTE_WORDS:
        return _MINUTE_WORDS[said]
    if seconds := _SECONDS.fullmatch(said):
        return int(seconds[1]) / 60
    if clock := re.fullmatch(r"(\d{1,3}):([0-5]\d)", said):
        return int(clock[1]) + int(clock[2]) / 60
    plain = re.sub(r"\s*(?:min|mins|minutes|minute)\.?$", "", said)
    try:
        return decimal_number(field, plain)
    except ProblemsError as error:
        fix = "write 2.5, or half a minute"
        problem = Problem(field, f"'{text}' is not a time in minutes", fix)
        raise ProblemsError([problem]) from error


def download(data: bytes | str, media_type: str, name: str) -> Response:
    """A file that the browser keeps under ``name``."""
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=media_type, headers=headers)
