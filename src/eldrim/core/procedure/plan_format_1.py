"""Plans kept in format 1, read as format 2.

Format 1 knew tools, set-ups and conditions by their names only; editions of that time keep them.
Nothing outside this module reads a name.
"""

import re
from collections.abc import Iterable
from typing import Any

from eldrim.core.reading_choices import CONDITIONS_BEFORE
from eldrim.core.tools.crib import fold

PLAN_FORMAT_1 = "eldrim.plan/1"
# The words of format 1 that a hole's name follows, in the two languages it was written in.
BEFORE_HOLE = "plug|coil|lead|well|hole|for|under|Kerze|Spule|Leitung|Schacht|Loch|für|Unter"
ACTIONS = {"break loose": "break_loose", "run out": "run_out"}


def from_format_1(document: dict[str, Any], plan_format: str) -> dict[str, Any]:
    """Return the document of a plan in format 1 as one of ``plan_format``."""
    tools = _Tools(document)
    return {
        **document,
        "format": plan_format,
        "tools": tools.refs(document["tools"]),
        "steps": [_step(step, tools) for step in document["steps"]],
        "roll": [{"id": tools.id(item["name"]), **item} for item in document.get("roll", ())],
    }


class _Tools:
    """The tools of a plan by their names.

    Sockets, pieces and handles have their ids in the stacks; every other id is made from the name.
    """

    def __init__(self, document: dict[str, Any]) -> None:
        stacks = [s for step in document["steps"] for s in step.get("stacks", ())]
        self._ids = {piece["name"]: piece["id"] for s in stacks for piece in s["pieces"]}
        self._ids |= {s["handle"]: s["handle_id"] for s in stacks if s.get("handle_id")}
        self._to_get = {item["name"] for item in document.get("roll", ()) if item.get("missing")}

    def id(self, name: str) -> str:
        return str(self._ids.get(name) or fold(name).replace(" ", "-"))

    def refs(self, names: Iterable[str]) -> list[dict[str, Any]]:
        return [{"id": self.id(n), "name": n, "to_get": n in self._to_get} for n in names]


def _step(step: dict[str, Any], tools: _Tools) -> dict[str, Any]:
    found = {**step, "tools": tools.refs(step["tools"])}
    found["setup"] = _setup(step.get("setup", ""), tools)
    found["computed_before"] = found.pop("ground_was", "")
    found["stacks"] = [_stack(stack) for stack in step.get("stacks", ())]
    found["figures"] = [_figure(figure, tools) for figure in step.get("figures", ())]
    found["readings"] = [_reading(reading) for reading in step.get("readings", ())]
    hole = step.get("hole")
    if hole:
        found["pattern"] = _pattern(step["text"], hole)
        found["detail_pattern"] = _pattern(step.get("detail", ""), hole)
    return found


def _setup(text: str, tools: _Tools) -> list[str]:
    places = (re.sub(r"^standing ", "stand/", part) for part in text.split(" + ") if part)
    return [part if part.startswith("stand/") else tools.id(part) for part in places]


def _stack(stack: dict[str, Any]) -> dict[str, Any]:
    action = stack["act"]
    kept = {key: value for key, value in stack.items() if key != "act"}
    pieces = [{**piece, "locking": "locking" in piece["name"]} for piece in stack["pieces"]]
    return {**kept, "action": ACTIONS.get(action, action), "pieces": pieces}


def _figure(figure: dict[str, Any], tools: _Tools) -> dict[str, Any]:
    dial = figure.get("setting")
    if not dial:
        return figure
    return {**figure, "setting": {"wrench_id": tools.id(dial["wrench"]), **dial}}


def _reading(reading: dict[str, Any]) -> dict[str, Any]:
    choices = list(reading.get("choices", ()))
    shown = list(reading.get("shown", ())) or choices
    ids = [CONDITIONS_BEFORE.get(choice, choice) for choice in choices]
    return {**reading, "choices": ids, "shown": shown}


def _pattern(text: str, hole: str) -> str:
    """The sentence with ``{hole}`` where it follows the word for what is in it."""
    named = re.sub(rf"\b({BEFORE_HOLE}) {hole}\b", r"\1 {hole}", text)
    return named if named != text else ""
