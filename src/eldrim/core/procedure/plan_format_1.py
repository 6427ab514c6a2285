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
    return {
        **document,
        "format": plan_format,
        "tools": _refs(document["tools"]),
        "steps": [_step(step) for step in document["steps"]],
        "roll": [{"id": _tool_id(item["name"]), **item} for item in document.get("roll", ())],
    }


def _tool_id(name: str) -> str:
    return fold(name).replace(" ", "-")


def _refs(names: Iterable[str]) -> list[dict[str, str]]:
    return [{"id": _tool_id(name), "name": name} for name in names]


def _step(step: dict[str, Any]) -> dict[str, Any]:
    found = {**step, "tools": _refs(step["tools"]), "setup": _setup(step.get("setup", ""))}
    found["computed_before"] = found.pop("ground_was", "")
    found["stacks"] = [_stack(stack) for stack in step.get("stacks", ())]
    found["figures"] = [_figure(figure) for figure in step.get("figures", ())]
    found["readings"] = [_reading(reading) for reading in step.get("readings", ())]
    hole = step.get("hole")
    if hole:
        found["pattern"] = _pattern(step["text"], hole)
        found["detail_pattern"] = _pattern(step.get("detail", ""), hole)
    return found


def _setup(text: str) -> list[str]:
    places = (re.sub(r"^standing ", "stand/", part) for part in text.split(" + ") if part)
    return [part if part.startswith("stand/") else _tool_id(part) for part in places]


def _stack(stack: dict[str, Any]) -> dict[str, Any]:
    action = stack["act"]
    kept = {key: value for key, value in stack.items() if key != "act"}
    pieces = [{**piece, "locking": "locking" in piece["name"]} for piece in stack["pieces"]]
    return {**kept, "action": ACTIONS.get(action, action), "pieces": pieces}


def _figure(figure: dict[str, Any]) -> dict[str, Any]:
    dial = figure.get("setting")
    if not dial:
        return figure
    return {**figure, "setting": {"wrench_id": _tool_id(dial["wrench"]), **dial}}


def _reading(reading: dict[str, Any]) -> dict[str, Any]:
    choices = list(reading.get("choices", ()))
    shown = list(reading.get("shown", ())) or choices
    ids = [CONDITIONS_BEFORE.get(choice, choice) for choice in choices]
    return {**reading, "choices": ids, "shown": shown}


def _pattern(text: str, hole: str) -> str:
    """The sentence with ``{hole}`` where it follows the word for what is in it."""
    named = re.sub(rf"\b({BEFORE_HOLE}) {hole}\b", r"\1 {hole}", text)
    return named if named != text else ""
