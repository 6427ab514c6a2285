"""What an edit is made on: a step as it is computed and as its act words it, or a whole act."""

from dataclasses import dataclass

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.editions.edits import Edit, act_edit, may_be_left_out, with_act
from eldrim.core.procedure.editions.fold import Act, gathered
from eldrim.core.procedure.editions.wording import refuse_unknown, slots_of
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.step_key import EVERY, StepKey
from eldrim.core.words.messages import gettext


@dataclass(frozen=True)
class Ground:
    """What stands without the edit: an empty field of a form stands for it.

    ``minutes`` is None where the holes of an act take different ones. ``of_act`` is what a step has
    of its act, ``alone`` the step without it. ``slots`` are what the wording of an act may name.
    """

    key: str
    title: str
    text: str
    detail: str
    minutes: float | None
    note: str = ""
    hold: bool = False
    required: bool = False
    holes: tuple[str, ...] = ()
    slots: tuple[str, ...] = ()
    of_act: Edit = Edit()  # noqa: RUF009 - an edit is frozen
    alone: "Ground | None" = None
    steps: tuple[Step, ...] = ()

    @property
    def whole(self) -> bool:
        """Whether it is an act at all its holes."""
        return bool(self.holes)

    def refuse_wording(self, field: str, text: str) -> None:
        """Raise :class:`ProblemsError` where an act's wording names what it cannot fill."""
        if self.whole:
            refuse_unknown(field, text, self.steps[0])


def ground_of(plan: Plan, edits: dict[str, Edit], key: str) -> Ground | None:
    """What an edit of a step or an act is made on; None where the plan has it not.

    ``plan`` is as computed, without its edits.
    """
    if _is_act(key):
        act = gathered(plan.steps, key)
        return _of_act(key, act) if act else None
    step = next((one for one in plan.steps if one.key == key), None)
    return _of_step(step, edits) if step else None


def refuse_lost(key: str) -> ProblemsError:
    """The refusal of an edit whose step or act the draft no longer has."""
    return ProblemsError(
        [Problem(key, gettext("the draft has no such step"), gettext("load the page again"))]
    )


def _is_act(key: str) -> bool:
    try:
        return StepKey.parse(key).hole == EVERY
    except ValueError:
        return False


def _of_act(key: str, act: Act) -> Ground:
    first = act.first
    return Ground(
        key=key,
        title=act.text,
        text=first.pattern or first.text,
        detail=first.detail_shared,
        minutes=act.shared.get("minutes"),
        required=not may_be_left_out(first),
        holes=act.holes,
        slots=slots_of(first),
        steps=act.steps,
    )


def _of_step(step: Step, edits: dict[str, Edit]) -> Ground:
    found, of_act = with_act(step, edits), act_edit(step, edits)
    return Ground(
        key=step.key,
        title=step.text,
        text=found.text,
        detail=found.detail,
        minutes=found.minutes,
        note=found.note,
        hold=found.hold,
        required=not may_be_left_out(step),
        of_act=of_act,
        alone=None if of_act.empty else _of_step(step, {}),
    )
