"""Sizes of heads as they are called: across flats in mm or inch, or the number of a six-lobe.

``T30`` is a six-lobe bit, ``E10`` a socket for a six-lobe head; their width is measured over the
points, in mm (ISO 10664 and common practice for outer heads).
"""

import re
from typing import Annotated, Any

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from eldrim.core.base.errors import QuantityError
from eldrim.core.base.quantity import Dimension, Quantity, parse
from eldrim.core.words.messages import gettext

INNER_LOBES = {
    6: 1.75,
    7: 2.06,
    8: 2.38,
    9: 2.57,
    10: 2.8,
    15: 3.35,
    20: 3.95,
    25: 4.5,
    27: 5.07,
    30: 5.6,
    40: 6.75,
    45: 7.93,
    50: 8.95,
    55: 11.35,
    60: 13.45,
}
OUTER_LOBES = {
    4: 3.86,
    5: 4.73,
    6: 5.74,
    7: 6.16,
    8: 7.52,
    10: 9.42,
    11: 10.08,
    12: 11.17,
    14: 12.9,
    16: 14.76,
    18: 16.7,
    20: 18.45,
    24: 22.16,
}
_LOBES = {"T": INNER_LOBES, "E": OUTER_LOBES}
_NUMBERED = re.compile(r"([TE]) ?(\d{1,2})", re.IGNORECASE)


def read_size(text: str) -> Quantity:
    """Read a head's size: ``10 mm``, ``7/16 in``, ``T30``, ``E10``.

    Raises :class:`QuantityError` for what is none, naming the numbers there are.
    """
    numbered = _NUMBERED.fullmatch(text.strip())
    if numbered is None:
        return parse(text, Dimension.LENGTH)
    series, number = numbered[1].upper(), int(numbered[2])
    width = _LOBES[series].get(number)
    if width is None:
        known = ", ".join(f"{series}{n}" for n in _LOBES[series])
        raise QuantityError(
            gettext(
                "there is no {series}{number}; use one of {known}",
                series=series,
                number=number,
                known=known,
            )
        )
    return Quantity(width, width, Dimension.LENGTH, "mm", f"{series}{number}")


def _read(value: Any) -> Quantity:
    if isinstance(value, Quantity):
        return value
    if not isinstance(value, str):
        raise QuantityError(
            gettext("write a size with its unit, as text; found {value}", value=f"{value!r}")
        )
    return read_size(value)


_THREAD = re.compile(r"M ?(\d{1,2}(?:[.,]\d)?) ?[x×X*] ?(\d(?:[.,]\d{1,2})?)", re.IGNORECASE)


def read_thread(text: str) -> str:
    """Write a thread the one way: ``M14x1,25``, ``m14 X 1.25`` are ``M14×1.25``.

    Raises :class:`QuantityError` for anything else.
    """
    match = _THREAD.fullmatch(text.strip())
    if match is None:
        raise QuantityError(
            gettext("'{value}' is not a thread; write it as M14×1.25", value=text[:40])
        )
    return f"M{match[1]}×{match[2]}".replace(",", ".")


Thread = Annotated[
    str,
    BeforeValidator(lambda v: read_thread(v) if isinstance(v, str) else v),
    WithJsonSchema({"type": "string", "pattern": r"^M\d+(\.\d)?[x×X*]\d(\.\d+)?$"}),
]
HeadSize = Annotated[
    Quantity,
    BeforeValidator(_read),
    PlainSerializer(lambda q: q.text, return_type=str),
    WithJsonSchema(
        {"type": "string", "description": "A size across flats with its unit, or T30, E10."}
    ),
]
