"""What a trainer's wording of an act may name: the hole, and the setting or figure at it."""

import re
from collections.abc import Callable

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.model import Step
from eldrim.core.tools.naming import ToolRef
from eldrim.core.words.messages import either, gettext

_SLOT = re.compile(r"\{([^{}]*)\}")


def _setting(step: Step) -> str:
    """What is dialled on the wrench, else the figure as it is printed."""
    return next((f.setting.text if f.setting else f.printed for f in step.figures), "")


def _figure(step: Step) -> str:
    return next((figure.printed for figure in step.figures), "")


def _tools(step: Step) -> str:
    return ", ".join(map(_name, step.tools))


def _name(tool: ToolRef) -> str:
    return tool.name


SLOTS: dict[str, Callable[[Step], str]] = {
    "hole": lambda step: step.hole or "",
    "setting": _setting,
    "figure": _figure,
    "tools": _tools,
}


def slots_of(step: Step) -> tuple[str, ...]:
    """What a wording of the step's act may name: what the step can fill."""
    return tuple(name for name, fill in SLOTS.items() if fill(step))


def worded(pattern: str, step: Step) -> str:
    """A wording with everything filled that it names; what nothing can fill stands as it is."""
    return _SLOT.sub(lambda found: _fill(found, step, but=""), pattern)


def but_hole(pattern: str, step: Step) -> str:
    """The same with the hole still open, so that steps alike but for it are said once."""
    return _SLOT.sub(lambda found: _fill(found, step, but="hole"), pattern)


def refuse_unknown(field: str, pattern: str, step: Step) -> None:
    """Raise :class:`ProblemsError` where a wording names what the step cannot fill."""
    known = slots_of(step)
    for name in _SLOT.findall(pattern):
        if name not in known:
            fix = gettext("write {slots}", slots=either(f"{{{one}}}" for one in known))
            raise ProblemsError(
                [Problem(field, gettext("{{{name}}} stands for nothing here", name=name), fix)]
            )


def _fill(found: re.Match[str], step: Step, but: str) -> str:
    name = found[1]
    fill = SLOTS.get(name) if name != but else None
    return (fill(step) if fill else "") or found[0]
