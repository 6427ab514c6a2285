"""What a model says of a value, in the shop's words: one table for forms, files and settings."""

from collections.abc import Mapping
from math import isfinite
from typing import Any

from eldrim.core.base.quantity import format_number

# By Pydantic's kind of error; the limits it names are filled in.
FAULTS = {
    "missing": "is missing",
    "extra_forbidden": "there is no field of this name",
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
    "bool_type": "is neither yes nor no",
    "bool_parsing": "is neither yes nor no",
    "uuid_parsing": "is not known here",
    "date_from_datetime_parsing": "is not a day, as 2026-05-20",
    "string_pattern_mismatch": "is written with other letters than may stand there",
    "tuple_type": "is not a list",
    "list_type": "is not a list",
    "dict_type": "is not a mapping of keys",
    "model_type": "is not a mapping of fields",
    "model_attributes_type": "is not a mapping of fields",
    "json_invalid": "is not JSON",
    "frozen_field": "cannot be changed",
}
# Said without what was given: there is nothing, or it is named by its place.
WITHOUT_VALUE = ("missing", "extra_forbidden")
SHORT = 40


def fault_words(fault: Mapping[str, Any], *, quoting: bool = True) -> str:
    """One complaint of a model, with what was given where it is short and may be repeated."""
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
    said = words.format(**{k: format_number(v, 3) if _number(v) else v for k, v in limits})
    plain = isinstance(given, str | int | float) and 0 < len(str(given).strip()) <= SHORT
    return f"'{given}' {said}" if quoting and plain and kind not in WITHOUT_VALUE else said


def _number(value: object) -> bool:
    return isinstance(value, int | float)
