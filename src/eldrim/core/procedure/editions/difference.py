"""What differs between two plans of the same job: steps, values, tools, minutes."""

from collections.abc import Sequence
from dataclasses import dataclass

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import format_number
from eldrim.core.operations import Operation
from eldrim.core.procedure.editions.fold import acts_of, fold
from eldrim.core.procedure.model import Plan, Reading, Step
from eldrim.core.procedure.photos import Photo
from eldrim.core.step_key import StepKey
from eldrim.core.tools.naming import ToolRef

# Field of a step, what the difference calls it, and the field that says it without the hole.
FIELDS = (
    ("text", "wording", "pattern"),
    ("detail", "how", "detail_pattern"),
    ("tools", "tools", ""),
    ("minutes", "minutes", ""),
    ("checks", "checks", ""),
    ("readings", "readings", ""),
    ("cautions", "cautions", ""),
    ("note", "note", ""),
    ("hold", "hold point", ""),
    ("photos", "photos", ""),
)


class Change(Frozen):
    """One thing about one step, before and after."""

    step: str
    text: str
    what: str
    before: str
    after: str
    hole: str = ""


class Difference(Frozen):
    """Everything that differs; empty when the plans say the same."""

    added: tuple[Step, ...]
    removed: tuple[Step, ...]
    changed: tuple[Change, ...]
    moved: tuple[str, ...]
    tools_added: tuple[str, ...]
    tools_removed: tuple[str, ...]
    minutes: tuple[float, float]
    tool_changes: tuple[int, int]
    moves: tuple[tuple[str, ...], tuple[str, ...]]

    @property
    def added_acts(self) -> tuple[str, ...]:
        """The steps that came, said once where they are one act."""
        return _said_once(self.added)

    @property
    def removed_acts(self) -> tuple[str, ...]:
        """The steps that went, said once where they were one act."""
        return _said_once(self.removed)

    @property
    def empty(self) -> bool:
        """Whether nothing differs."""
        return not (self.added or self.removed or self.changed or self.moved)


def difference(before: Plan, after: Plan) -> Difference:
    """Compare two plans step by step, by step key."""
    before = _with_ids_of(before, after)
    old, new = ({step.key: step for step in p.steps} for p in (before, after))
    compared = [k for k in old if k in new and not k.rule.lists]
    changed = _merged([change for k in compared for change in _changes(old[k], new[k])])
    tools = [{tool.id: tool.name for tool in p.tools} for p in (before, after)]
    return Difference(
        added=tuple(s for key, s in new.items() if key not in old),
        removed=tuple(s for k, s in old.items() if k not in new),
        changed=tuple(changed),
        moved=_moved(list(old), list(new), new),
        tools_added=tuple(n for t, n in tools[1].items() if t not in tools[0]),
        tools_removed=tuple(n for t, n in tools[0].items() if t not in tools[1]),
        minutes=(before.minutes, after.minutes),
        tool_changes=(before.tool_changes, after.tool_changes),
        moves=tuple(tuple(f"{move.part}/{move.way}" for move in p.moves) for p in (before, after)),
    )


def _with_ids_of(before: Plan, after: Plan) -> Plan:
    """``before`` with a tool's id as ``after`` has it, where only what it is called is the same.

    Plans kept in format 1 knew some tools by name only, so that their ids were made from it.
    """
    known = {tool.id for tool in after.tools}
    by_name = {tool.name: tool.id for tool in after.tools}
    ids = {t.id: by_name[t.name] for t in before.tools if t.id not in known and t.name in by_name}
    if not ids:
        return before

    def renamed(tools: tuple[ToolRef, ...]) -> tuple[ToolRef, ...]:
        return tuple(tool.model_copy(update={"id": ids.get(tool.id, tool.id)}) for tool in tools)

    steps = tuple(s.model_copy(update={"tools": renamed(s.tools)}) for s in before.steps)
    return before.model_copy(update={"tools": renamed(before.tools), "steps": steps})


@dataclass(frozen=True)
class _StepChange:
    """One thing about one step, with the same said without its hole."""

    change: Change
    act: StepKey
    pattern: tuple[str, str, str]


def _changes(old: Step, new: Step) -> list[_StepChange]:
    # The sheet's revision stands on the first step: a new one alone changes nothing to be done.
    unit = new.key.operation is Operation.CONFIRM_UNIT
    found = [
        _step_change(old, new, what, _texts(old, new, field), _texts(old, new, pattern or field))
        for field, what, pattern in FIELDS
        if getattr(old, field) != getattr(new, field) and not (unit and field == "detail")
    ]
    figures = ("; ".join(_figures(old)), "; ".join(_figures(new)))
    if figures[0] != figures[1]:
        found.append(_step_change(old, new, "figure", figures, figures))
    return found


def _texts(old: Step, new: Step, field: str) -> tuple[str, str]:
    return _as_text(getattr(old, field)), _as_text(getattr(new, field))


def _step_change(
    old: Step, new: Step, what: str, texts: tuple[str, str], patterns: tuple[str, str]
) -> _StepChange:
    hole = new.hole or ""
    change = Change(
        step=new.key, text=new.text, what=what, before=texts[0], after=texts[1], hole=hole
    )
    # A sentence without a pattern names no hole, or is the trainer's own.
    before, after = (p or t for p, t in zip(patterns, texts, strict=True))
    return _StepChange(change, new.key.at(""), (new.pattern or new.text, before, after))


def _merged(changes: list[_StepChange]) -> list[Change]:
    """Make one of changes of the same act that are alike but for the hole they are at."""
    alike: dict[tuple[object, ...], list[_StepChange]] = {}
    for found in changes:
        key = (found.change.what, found.act, found.pattern)
        alike.setdefault(key, []).append(found)
    return [_one(group) for group in alike.values()]


def _one(group: list[_StepChange]) -> Change:
    first = group[0].change
    if len(group) == 1:
        return first
    holes = ", ".join(found.change.hole for found in group)
    text, before, after = (p.replace("{hole}", holes) for p in group[0].pattern)
    return first.model_copy(update={"text": text, "before": before, "after": after, "hole": holes})


def _figures(step: Step) -> list[str]:
    return [
        f"{figure.printed}, set {figure.setting.text}" if figure.setting else figure.printed
        for figure in step.figures
    ]


def _as_text(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple) and value and isinstance(value[0], Photo):
        return "; ".join(f"{p.caption or 'photo'}, {len(p.marks)} marked" for p in value)
    if isinstance(value, tuple):
        return "; ".join(map(_item, value))
    return f"{value:g} min" if isinstance(value, float) else str(value)


def _item(value: object) -> str:
    if isinstance(value, Reading):
        return _limits(value)
    return value.name if isinstance(value, ToolRef) else str(getattr(value, "text", value))


def _limits(reading: Reading) -> str:
    ends = [format_number(value, 3) for value in (reading.low, reading.high) if value is not None]
    return f"{reading.label} {' to '.join(ends)} {reading.unit}".strip()


def _said_once(steps: Sequence[Step]) -> tuple[str, ...]:
    """What steps do, each act once: those at holes with all their holes, all others by step."""
    acts: dict[str, list[Step]] = {}
    for step in steps:
        acts.setdefault(step.key.at_every_hole or step.key, []).append(step)
    return tuple(one.text for group in acts.values() for one in acts_of(fold(group)))


def _moved(old: list[StepKey], new: list[StepKey], steps: dict[StepKey, Step]) -> tuple[str, ...]:
    """The acts that stand elsewhere: of steps outside the longest order kept by both."""
    shared = [key for key in old if key in set(new)]
    place = {k: index for index, k in enumerate(k for k in new if k in set(old))}
    kept = _longest_rising([place[k] for k in shared])
    return _said_once([steps[k] for k in shared if place[k] not in kept])


def _longest_rising(numbers: list[int]) -> set[int]:
    best: list[tuple[int, int]] = []
    for i, number in enumerate(numbers):
        longer = [(best[j][0], j) for j in range(i) if numbers[j] < number]
        length, link = max(longer, default=(0, -1))
        best.append((length + 1, link))
    index = max(range(len(best)), key=lambda i: best[i][0], default=-1)
    kept = set()
    while index >= 0:
        kept.add(numbers[index])
        index = best[index][1]
    return kept
