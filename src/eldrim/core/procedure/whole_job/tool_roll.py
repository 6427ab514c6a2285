"""The tool roll of a plan: what to lay out, in order of use, and what is missing."""

from collections.abc import Iterable

from eldrim.core.procedure.model import RollItem, Step
from eldrim.core.tools.crib import (
    Crib,
    Extension,
    Handle,
    Reducer,
    Socket,
    Special,
    Swivel,
    Tool,
    Wrench,
)
from eldrim.core.tools.missing_tools import MissingTool
from eldrim.core.tools.naming import ToolRef
from eldrim.core.tools.stack import Stack
from eldrim.core.tools.tool_selection import ToolSelection
from eldrim.core.words import listed, say

# Used up, not counted back: they are parts, not tools.
CONSUMABLES = frozenset({"thread-compound", "thin-oil", "dielectric-grease", "leak-spray"})
ROUND = Socket | Extension | Swivel | Reducer
SIZED = Socket | Extension | Swivel | Reducer | Handle | Wrench


def tools_used(steps: Iterable[Step]) -> tuple[ToolRef, ...]:
    """Every tool of these steps, in order of first use."""
    used = {tool.id: tool for step in reversed(list(steps)) for tool in reversed(step.tools)}
    first = dict.fromkeys(tool.id for step in steps for tool in step.tools)
    return tuple(used[key] for key in first if key not in CONSUMABLES)


def counted_tools(steps: Iterable[Step]) -> tuple[ToolRef, ...]:
    """The tools that are there to be counted out and back: not those still to be got."""
    return tuple(tool for tool in tools_used(steps) if not tool.to_get)


def tool_roll(crib: Crib, selection: ToolSelection, steps: list[Step]) -> tuple[RollItem, ...]:
    """The tools as they lie in the roll: what each is, where first used, what is missing."""
    owned = {tool.id: tool for tool in crib.all()} | selection.to_get.bought
    missing = {m.id: m for m in selection.missing}
    cautions = _cautions(steps)
    users_of: dict[str, list[Step]] = {}
    for step in steps:
        for tool_id in dict.fromkeys(tool.id for tool in step.tools):
            users_of.setdefault(tool_id, []).append(step)
    items = []
    for ref in tools_used(steps):
        users = users_of[ref.id]
        lacking = missing.get(ref.id)
        item = _item(ref, owned.get(ref.id), lacking, users)
        items.append(item.model_copy(update={"cautions": cautions.get(ref.id, ())}))
    return tuple(items)


def _cautions(steps: list[Step]) -> dict[str, tuple[str, ...]]:
    """What to mind with a substitute, by the id of the piece that turns the head."""
    found: dict[str, tuple[str, ...]] = {}
    for stack in (key for step in steps for key in step.stacks):
        if stack.cautions and stack.pieces:
            first = stack.pieces[0].id
            found[first] = tuple(dict.fromkeys((*found.get(first, ()), *stack.cautions)))
    return found


def as_item(tool: Tool) -> RollItem:
    """A tool as it lies in a roll, whatever it is used for."""
    return _item(ToolRef(id=tool.id, name=tool.shown), tool, None, [])


def _item(
    ref: ToolRef, tool: Tool | None, missing: MissingTool | None, users: list[Step]
) -> RollItem:
    special = tool is None or isinstance(tool, Special)
    return RollItem(
        id=ref.id,
        name=missing.what if missing else ref.name,
        kind="special" if special else type(tool).__name__.lower(),
        uses=len(users),
        first=users[0].key if users else "",
        length=tool.length.mid if isinstance(tool, SIZED) else 0.0,
        outside=tool.outside.mid if isinstance(tool, ROUND) else 0.0,
        missing=missing.why if missing else "",
        cure=missing.cure if missing else "",
    )


def different_stacks(steps: Iterable[Step]) -> list[tuple[str, Stack]]:
    """Each different stack that goes down somewhere, with what it is for: drawn once each."""
    found: dict[tuple[object, ...], tuple[list[str], Stack]] = {}
    for step in steps:
        for stack in step.stacks:
            if stack.below > 0:
                same = (stack.action, stack.ids, stack.below, stack.bore, stack.room)
                users = found.setdefault(same, ([], stack))[0]
                users.append(step.object)
    return [
        (f"{listed(list(dict.fromkeys(users)))}: {say(f'action.{stack.action}')}", stack)
        for users, stack in found.values()
    ]
