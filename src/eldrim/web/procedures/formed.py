"""What the forms of a step, or of an act at all its holes, are filled with."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.procedure.editions.fold import Chapter
from eldrim.core.procedure.editions.placement import movable, ordered_by
from eldrim.core.procedure.editions.wording import worded
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.topics import TOPICS
from eldrim.web.procedures.ground import Ground, ground_of


@dataclass(frozen=True)
class FormOf:
    """The fields as they stand, and what a trainer may do beside them.

    ``beside`` are the keys and words of what it may be put after; ``rules`` name the house rules
    that order it. ``ground`` is None for a step of the trainer's own.
    """

    key: str
    text: str
    detail: str
    note: str
    minutes: float | None
    hold: bool
    edit: Edit
    ground: Ground | None
    movable: bool
    beside: tuple[tuple[str, str], ...]
    rules: tuple[tuple[str, str], ...]
    step: Step

    @property
    def filled(self) -> tuple[str, ...]:
        """The wording of an act as it reads at each of its holes."""
        steps = self.ground.steps if self.ground else ()
        return tuple(worded(self.text, step) for step in steps)

    @property
    def whole(self) -> bool:
        """Whether it is of an act at all its holes."""
        return self.ground is not None and self.ground.whole


def form_of(view: dict[str, Any], key: str) -> FormOf | None:
    """The form of a step or act of a draft's page; None where the draft has it not."""
    edit = view["edits"].get(key, Edit())
    if edit.own is not None:
        return _own(view["plan"], key, edit)
    ground = ground_of(view["compiled"], view["edits"], key)
    if ground is None:
        return None
    step = next(
        (s for s in (*ground.steps, *view["plan"].steps) if ground.whole or s.key == key), None
    )
    return _form(view, ground, edit, step) if step else None


def _form(view: dict[str, Any], ground: Ground, edit: Edit, step: Step) -> FormOf:
    whole = ground.whole
    return FormOf(
        key=ground.key,
        text=edit.text or ground.text,
        detail=edit.detail or ground.detail,
        note=edit.note or ground.note,
        minutes=edit.minutes if edit.minutes is not None else ground.minutes,
        hold=edit.hold or ground.hold,
        edit=edit,
        ground=ground,
        movable=movable(step),
        beside=_acts(view["chapters"], ground.key) if whole else _steps(view["plan"], step),
        rules=_ordering(view["plan"], step),
        step=step,
    )


def _own(plan: Plan, key: str, edit: Edit) -> FormOf | None:
    step = next((one for one in plan.steps if one.key == key), None)
    if step is None:
        return None
    return FormOf(
        key=key,
        text=step.text,
        detail=step.detail,
        note=edit.note,
        minutes=step.minutes,
        hold=edit.hold,
        edit=edit,
        ground=None,
        movable=False,
        beside=(),
        rules=(),
        step=step,
    )


def _steps(plan: Plan, step: Step) -> tuple[tuple[str, str], ...]:
    """The steps of the same phase, to be put after one of them."""
    return tuple(
        (one.key, one.text)
        for one in plan.steps
        if one.phase is step.phase and one.key != step.key and not one.own
    )


def _acts(chapters: Sequence[Chapter], key: str) -> tuple[tuple[str, str], ...]:
    """The acts at holes, each once, to be put after one of them."""
    found = {
        one.act.every: one.act.text
        for chapter in chapters
        for one in chapter.acts
        if one.act.every and one.act.every != key
    }
    return tuple(found.items())


def _ordering(plan: Plan, step: Step) -> tuple[tuple[str, str], ...]:
    """The house rules that order a step, by name and school."""
    topics = {topic.key: topic for topic in TOPICS}
    return tuple(
        (topics[key].name, topics[key].school(plan.schools[key]).name)
        for key in ordered_by(step)
        if key in plan.schools
    )
