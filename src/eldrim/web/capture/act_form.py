"""What an act on the board is read from, and what it answers."""

from collections.abc import Callable

from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture.part_access import part_called
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.web.forms import decimal_number, minutes_number, text_field, whole_number

# The sheet as the act leaves it, what undo calls the act, and the part in hand after it.
Done = tuple[Engine, str, str]
BoardAction = Callable[[Engine, str, FormData], Done]
# A line of several clauses is read this far: what is longer than it may be is refused, not cut.
LINE = 4_000


def whole(form: FormData, name: str) -> int:
    """A whole number; none is nought."""
    return whole_number(name, text_field(form, name)) or 0


def decimal(form: FormData, name: str) -> float:
    """A number; none is nought."""
    return decimal_number(name, text_field(form, name)) or 0.0


def minutes(form: FormData, name: str) -> float | None:
    """Minutes as people say them; None where nothing was typed."""
    return minutes_number(name, text_field(form, name))


def words(form: FormData, name: str) -> list[str]:
    """The entries of a field, apart by commas."""
    return [word.strip() for word in text_field(form, name).split(",") if word.strip()]


def shift(form: FormData) -> tuple[float, float]:
    """How far something was dragged, in mm."""
    return decimal(form, "dx"), decimal(form, "dy")


def part_keys(engine: Engine, form: FormData, name: str) -> list[str]:
    """The parts a field names, by key or by name."""
    return [part_key(engine, word, name) for word in words(form, name)]


def part_key(engine: Engine, said: str, field: str) -> str:
    """The key of a part said by key or name; what is no part is refused with those there are."""
    if key := part_called(engine, said):
        return key
    known = ", ".join(part.name for part in engine.parts.values())
    told, fix = gettext("'{said}' is no part", said=said), gettext("one of {known}", known=known)
    raise EngineError([Problem(field, told, fix)])


def variant_keys(engine: Engine, form: FormData, name: str = "variants") -> list[str]:
    """The variants a field names; what is none is refused with those there are."""
    said = words(form, name)
    if strange := [word for word in said if word not in engine.variants]:
        told = gettext("'{said}' is no variant", said=strange[0])
        fix = gettext("one of {known}", known=", ".join(engine.variants))
        raise EngineError([Problem(name, told, fix)])
    return said
