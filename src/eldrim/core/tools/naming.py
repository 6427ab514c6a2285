"""Tools as steps name them: an id that rules compare, beside a name that people read."""

from functools import cache

from eldrim.core.base.frozen import Frozen
from eldrim.core.tools.crib import STANDARD_TOOLS, Crib, Handle, Tool, asked_name, standard_tool
from eldrim.core.tools.stock import catalogue
from eldrim.core.words import say


class ToolRef(Frozen):
    """A tool on a step. ``to_get`` tells that the crib lacks it; the name says so too."""

    id: str
    name: str
    to_get: bool = False


def to_be_got(ref: ToolRef) -> ToolRef:
    """A tool that the crib lacks: its name says so."""
    return ToolRef(id=ref.id, name=f"{ref.name}{say('to_get')}", to_get=True)


def ref_of(tool: Tool) -> ToolRef:
    """A tool of a crib, named in the language in use."""
    return ToolRef(id=tool.id, name=tool.shown)


def asked_ref(crib: Crib, asked: str) -> ToolRef:
    """A tool asked for by name or standard id: the crib's own where it has it."""
    owned = crib.find(asked)
    key = owned.id if owned else standard_tool(asked) or asked_name(asked).replace(" ", "-")
    return ToolRef(id=key, name=shown_name(asked))


def shown_name(asked: str) -> str:
    """The name, in the language in use, of a tool asked for by name or standard id.

    What is neither the trade's own nor usually sold keeps the name the shop calls it by.
    """
    key = asked if asked in STANDARD_TOOLS else standard_tool(asked)
    if key:
        return say(f"tool.{key}")
    sold = _sold().get(asked_name(asked))
    return sold.shown if sold else asked


def turns_a_head(asked: str) -> bool:
    """Whether a tool asked for by name is a piece of a stack: no use for pulling something off."""
    return asked_name(asked) in _sold()


def is_handle(asked: str) -> bool:
    """Whether a tool asked for by name is what a stack is turned by."""
    return isinstance(_sold().get(asked_name(asked)), Handle)


def price_of(asked: str) -> float:
    """The guide price in euro of a tool asked for by name or standard id; 0 where unknown."""
    sold = _sold().get(asked_name(asked))
    return sold.price if sold else 0.0


@cache
def _sold() -> dict[str, Tool]:
    return {asked_name(t.name): t for t in catalogue()}
