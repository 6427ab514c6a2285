"""What comes in by a form, read; what cannot be read is named with the fix. And files going out."""

import re
from typing import Annotated

from fastapi import Depends, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import read_number
from eldrim.core.words.messages import gettext, gettext_lazy, ngettext
from eldrim.exchange.model_faults import fault_words
from eldrim.web.context import MAX_FIELDS

MAX_TEXT = 300
# So many refusals are read at once; the rest is counted.
MOST_TOLD = 6


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
        raise ProblemsError(
            [Problem(field, gettext("'{text}' is no number", text=text), gettext("digits only"))]
        )
    return int(typed)


def decimal_number(field: str, text: str) -> float | None:
    """A number as people type it, with a point or a comma; None where nothing was typed."""
    if not text.strip():
        return None
    try:
        return read_number(text)
    except QuantityError as error:
        fix = gettext("write a number, as 2.5")
        raise ProblemsError(
            [Problem(field, gettext("'{text}' is not a number", text=text), fix)]
        ) from error


def year(field: str, text: str) -> int | None:
    """A year with four digits; None where nothing was typed."""
    found = whole_number(field, text) if text.strip().isdecimal() else None
    if text.strip() and not 1900 <= (found or 0) <= 2100:
        raise ProblemsError(
            [Problem(field, gettext("'{text}' is no year", text=text), gettext("write it as 2019"))]
        )
    return found


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
    "c": gettext_lazy("cylinder"),
    "room_above": gettext_lazy("room over"),
    "room_open": gettext_lazy("room once it is open"),
    "wells": "",
    "name": gettext_lazy("name"),
    "firing_order": gettext_lazy("firing order"),
    "pushes_onto": gettext_lazy("pushed onto"),
    "part_number": gettext_lazy("part number"),
    "hex": gettext_lazy("hex"),
}
CHOSEN = {"cylinders": "cylinder {}", "parts": "{}", "joints": "{}", "ways": "{}"}


def in_shop_words(error: Exception) -> str:
    """What an error says on one line, its places as the pages call them."""
    if isinstance(error, ValidationError):
        error = problems_of(error)
    if not isinstance(error, ProblemsError):
        return str(error)
    told = [
        (place_words(p.path), p.message, f" ({p.fix})" if p.fix else "") for p in error.problems
    ]
    found = (f"{place}: {said}{fix}" if place else f"{said}{fix}" for place, said, fix in told)
    each = list(dict.fromkeys(found))
    more = len(each) - MOST_TOLD
    rest = [ngettext("and one more", "and {count} more", more)] if more > 0 else []
    return "; ".join([*each[:MOST_TOLD], *rest])


def place_words(path: str) -> str:
    """Where something is wrong: ``cylinders.1.wells.0.room_above`` is cylinder 1, room over."""
    words, parts = [], re.sub(r"\[(\d+)\]", r".\1", path).split(".")
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
        fix = gettext("write 2.5, or half a minute")
        problem = Problem(field, gettext("'{text}' is not a time in minutes", text=text), fix)
        raise ProblemsError([problem]) from error


def download(data: bytes | str, media_type: str, name: str) -> Response:
    """A file that the browser keeps under ``name``."""
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type=media_type, headers=headers)
