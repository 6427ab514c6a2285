"""A trainer's edits hang on step keys, so they survive recompiling."""

from typing import Annotated

from pydantic import StringConstraints

from eldrim.core.frozen import Frozen
from eldrim.core.procedure.model import Plan

Wording = Annotated[str, StringConstraints(strip_whitespace=True, max_length=300)]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)]


class Edit(Frozen):
    """Changed wording and an added note for one step; empty means as computed."""

    text: Wording = ""
    note: Note = ""

    @property
    def empty(self) -> bool:
        """Whether the step stands as computed."""
        return not (self.text or self.note)


def apply_edits(plan: Plan, edits: dict[str, Edit]) -> Plan:
    """Return the plan with the edits in place. Cautions, checks and figures are out of reach."""
    steps = tuple(
        step.model_copy(
            update={"text": edit.text or step.text, "note": edit.note, "edited": bool(edit.text)}
        )
        if (edit := edits.get(step.key)) and not edit.empty
        else step
        for step in plan.steps
    )
    return plan.model_copy(update={"steps": steps})


def orphans(plan: Plan, edits: dict[str, Edit]) -> dict[str, Edit]:
    """The edits whose step the plan no longer has; they are shown, never dropped."""
    keys = {s.key for s in plan.steps}
    return {k: e for k, e in edits.items() if k not in keys and not e.empty}
