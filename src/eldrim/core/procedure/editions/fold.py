"""Steps that are alike but for their hole, said once: an act with a row for each hole.

Where one cylinder is worked on after another, the acts are said once for all of them in a round.
The steps of one part that follow on one another are one act as well, with a row for each joint.
Nothing is lost: :func:`unfold` gives the same steps in the same order.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise, takewhile
from string import ascii_lowercase
from typing import Any

from eldrim.core.operations import Phase
from eldrim.core.procedure.model import LeftOut, Step
from eldrim.core.step_key import StepKey
from eldrim.core.words import sentences

# Fields that tell one step from another of its act, whatever it is about.
_ROW_FIELDS = ("key", "cylinder", "hole", "object", "because", "after", "only_after", "resets")
_FIELDS = tuple(name for name in Step.model_fields if name not in _ROW_FIELDS)
HOLE_MARK = "{hole}"
# What a row may say of its own: sentences and marks, and lists in which it may have more.
_SAID = ("text", "detail", "note", "hold", "photos")
_LISTS = ("here", "figures", "cautions", "checks", "readings")


@dataclass(frozen=True)
class ActRow:
    """One step of an act: ``own`` are the fields in which it differs from the others."""

    key: StepKey
    hole: str
    own: Mapping[str, Any]


@dataclass(frozen=True)
class Act:
    """Steps that say the same: ``shared`` are the fields they have in common.

    A sentence that differs in nothing but the hole is shared as its pattern.
    """

    shared: Mapping[str, Any]
    rows: tuple[ActRow, ...]

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The steps again, whole."""
        return tuple(_step(self.shared, row) for row in self.rows)

    @property
    def first(self) -> Step:
        """The first of its steps."""
        return self.steps[0]

    @property
    def every(self) -> str:
        """The key by which an edit of it all is kept; empty where its steps are no act at holes."""
        return self.first.key.at_every_hole if len(self.holes) == len(self.rows) else ""

    @property
    def holes(self) -> tuple[str, ...]:
        """The holes it is done at, in order."""
        return tuple(row.hole for row in self.rows if row.hole)

    @property
    def text(self) -> str:
        """What is done, said once: with all its holes, or as the step that moves the part says."""
        pattern = self.shared.get("pattern")
        if pattern and len(self.rows) > 1:
            return str(pattern).replace(HOLE_MARK, ", ".join(self.holes))
        moving = (step for step in self.steps if not step.key.joint and step.key.rule.part)
        if (moves := next(moving, None)) or len(self.rows) == 1:
            return (moves or self.first).text
        return f"{self.first.object[:1].upper()}{self.first.object[1:]}"

    @property
    def detail(self) -> str:
        """How it is done, where all say it alike but for their hole."""
        if "detail" in self.shared:
            return str(self.shared["detail"])
        said = self.shared.get("detail_shared") or self.shared.get("detail_pattern") or ""
        whole = sentences(str(said), *self.common("here"))
        return whole.replace(HOLE_MARK, ", ".join(self.holes))

    @property
    def how(self) -> str:
        """How it is done at any hole, without what is said of single holes."""
        shared = str(self.shared.get("detail_shared") or "")
        return shared.replace(HOLE_MARK, ", ".join(self.holes)) or self.detail

    @property
    def minutes(self) -> float:
        """What all its steps take."""
        return round(sum(step.minutes for step in self.steps), 1)

    def said_once(self, sentence: str) -> bool:
        """Whether its ``text`` or ``detail`` is the same at every step, but for the hole."""
        return all(sentence not in row.own for row in self.rows)

    @property
    def same_tools(self) -> bool:
        """Whether every step is done with the same in hand."""
        return "tools" in self.shared and "stacks" in self.shared

    @cached_property
    def groups(self) -> tuple[tuple[Step, ...], ...]:
        """Its steps, those together of which the same is said; minutes aside."""
        found: list[tuple[object, list[Step]]] = []
        for step, row in zip(self.steps, self.rows, strict=True):
            said = self._says(step, row)
            same = next((steps for other, steps in found if step.hole and other == said), None)
            if same is None:
                found.append((said, [step]))
            else:
                same.append(step)
        return tuple(tuple(steps) for _, steps in found)

    def silent(self, step: Step) -> bool:
        """Whether nothing is said of a step but what is said of all."""
        return not any(self._says(step, self.rows[self.steps.index(step)]))

    def _says(self, step: Step, row: ActRow) -> tuple[object, ...]:
        said = tuple(row.own.get(name) for name in _SAID)
        more = tuple(self.more(step, name) for name in _LISTS)
        tools = () if self.same_tools else (step.tools, step.stacks)
        return (*said, *more, *tools)

    def common(self, field: str) -> tuple[Any, ...]:
        """Of a field that lists things (cautions, tools, checks), what every step has."""
        rest = [getattr(step, field) for step in self.steps[1:]]
        return tuple(one for one in getattr(self.first, field) if all(one in more for more in rest))

    def more(self, step: Step, field: str) -> tuple[Any, ...]:
        """Of a field that lists things, what this step has and not every other."""
        common = self.common(field)
        return tuple(one for one in getattr(step, field) if one not in common)


@dataclass(frozen=True)
class Round:
    """Acts done at one hole after the other: all of them at the first, then at the next."""

    holes: tuple[str, ...]
    acts: tuple[Act, ...]

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The steps again, whole, in the order they are done."""
        by_hole: dict[str, list[Step]] = {hole: [] for hole in self.holes}
        for act in self.acts:
            for step in act.steps:
                by_hole[step.hole or ""].append(step)
        return tuple(step for hole in self.holes for step in by_hole[hole])

    @property
    def minutes(self) -> float:
        """What all its steps take."""
        return round(sum(act.minutes for act in self.acts), 1)


Folded = tuple[Act | Round, ...]


def fold(steps: Sequence[Step]) -> Folded:
    """Say steps once that follow on one another and are alike but for their hole or joint."""
    found: list[Act | Round] = []
    at = 0
    while at < len(steps):
        block = _round(steps, at) or _act(_alike(steps, at))
        found.append(block)
        at += len(block.steps)
    return tuple(found)


def unfold(folded: Folded) -> list[Step]:
    """The steps of what was folded: the same, in the same order."""
    return [step for block in folded for step in block.steps]


def acts_of(folded: Folded) -> list[Act]:
    """Every act, those of rounds too."""
    return [
        act for block in folded for act in (block.acts if isinstance(block, Round) else (block,))
    ]


def _alike(steps: Sequence[Step], at: int) -> list[Step]:
    """The steps from ``at`` on that are one act: of one operation at holes, or of one part."""
    first = steps[at]
    if first.own or (not first.hole and not first.part):
        return [first]

    def goes_with(step: Step) -> bool:
        if step.own or step.phase is not first.phase:
            return False
        if first.hole:
            return bool(step.hole) and step.key.at_every_hole == first.key.at_every_hole
        return not step.hole and step.part == first.part

    return list(takewhile(goes_with, steps[at:]))


def _act(steps: Sequence[Step]) -> Act:
    shared = _shared(steps)
    return Act(shared, tuple(_row(step, shared) for step in steps))


def _shared(steps: Sequence[Step]) -> dict[str, Any]:
    first = steps[0]
    return {
        name: getattr(first, name)
        for name in _FIELDS
        if all(getattr(step, name) == getattr(first, name) for step in steps[1:])
    }


def _row(step: Step, shared: Mapping[str, Any]) -> ActRow:
    own = {name: getattr(step, name) for name in _ROW_FIELDS}
    own |= {
        name: getattr(step, name)
        for name in _FIELDS
        if name not in shared and not _said_by_pattern(step, name, shared)
    }
    return ActRow(step.key, step.hole or "", own)


def _said_by_pattern(step: Step, name: str, shared: Mapping[str, Any]) -> bool:
    said = _said(shared, step.hole or "", step.here)
    return name in said and getattr(step, name) == said[name]


def _said(shared: Mapping[str, Any], hole: str, here: tuple[str, ...]) -> dict[str, str]:
    """The sentences about a hole that follow from what is shared."""
    found = {}
    if shared.get("pattern"):
        found["text"] = filled(shared["pattern"], hole)
    if shared.get("detail_shared"):
        found["detail"] = sentences(filled(shared["detail_shared"], hole), *here)
    elif shared.get("detail_pattern"):
        found["detail"] = filled(shared["detail_pattern"], hole)
    return found


def filled(pattern: str, hole: str) -> str:
    """A pattern with its hole."""
    return pattern.replace(HOLE_MARK, hole)


def _step(shared: Mapping[str, Any], row: ActRow) -> Step:
    here = row.own.get("here", shared.get("here", ()))
    return Step.model_construct(**{**_said(shared, row.hole, here), **shared, **row.own})


def _round(steps: Sequence[Step], at: int) -> Round | None:
    """The steps from ``at`` on that are the same acts at one hole after the other, or None."""
    turns = _turns(steps, at)
    order: list[str] = []
    taken: list[list[Step]] = []
    for turn in turns:
        merged = _merged(order, [step.key.at_every_hole for step in turn])
        if merged is None:
            break
        order = merged
        taken.append(turn)
    if len(taken) < 2:
        return None
    by_act: dict[str, list[Step]] = {key: [] for key in order}
    for step in (step for turn in taken for step in turn):
        by_act[step.key.at_every_hole].append(step)
    return Round(tuple(turn[0].hole or "" for turn in taken), tuple(map(_act, by_act.values())))


def _turns(steps: Sequence[Step], at: int) -> list[list[Step]]:
    """The stretches of steps at one hole each; none unless the first has more than one act."""
    turns: list[list[Step]] = []
    for step in takewhile(lambda step: step.hole and not step.own, steps[at:]):
        if not turns or turns[-1][0].hole != step.hole:
            if any(turn[0].hole == step.hole for turn in turns):
                break
            turns.append([])
        turns[-1].append(step)
    return turns if turns and len(turns[0]) > 1 else []


def _merged(order: list[str], turn: list[str]) -> list[str] | None:
    """One order of acts in which both have theirs; None where they are not mostly the same."""
    if not order:
        return turn
    both = [key for key in turn if key in order]
    if len(both) < 2 or len(both) * 2 < min(len(order), len(turn)):
        return None
    places = [order.index(key) for key in both]
    if any(later < first for first, later in pairwise(places)):
        return None
    merged, at = list(order), 0
    for key in turn:
        if key in order:
            at = merged.index(key) + 1
        else:
            merged.insert(at, key)
            at += 1
    return merged


@dataclass(frozen=True)
class LeftOutAct:
    """Steps left out for one reason that are alike but for their hole; ``key`` as of an act."""

    key: str
    text: str
    reason: str
    steps: tuple[LeftOut, ...]


def left_out_acts(found: Iterable[LeftOut]) -> list[LeftOutAct]:
    """What is left out, said once where it is left out at several holes."""
    groups: dict[tuple[str, str, str], list[LeftOut]] = {}
    for one in found:
        key = StepKey.parse(one.key).at_every_hole if one.pattern else one.key
        groups.setdefault((key, one.pattern or one.text, one.reason), []).append(one)
    return [
        LeftOutAct(key, filled(said, _listed_holes(steps)), reason, tuple(steps))
        for (key, said, reason), steps in groups.items()
    ]


def _listed_holes(steps: Iterable[LeftOut]) -> str:
    return ", ".join(StepKey.parse(one.key).hole for one in steps)


def gathered(steps: Iterable[Step], act: str) -> Act | None:
    """An act at all its holes, wherever they stand in the procedure; None where there is none."""
    found = [step for step in steps if step.key.at_every_hole == act]
    return _act(found) if found else None


@dataclass(frozen=True)
class NumberedAct:
    """An act with the numbers of its steps in the whole procedure, from 1 up."""

    act: Act
    numbers: tuple[int, ...]
    letter: str = ""

    @property
    def key(self) -> str:
        """What names it in a page, of the first of its steps."""
        return f"act/{self.act.first.key}"

    @property
    def place(self) -> str:
        """Its number, from the first to the last of its steps; its letter in a round."""
        first, last = self.numbers[0], self.numbers[-1]
        return self.letter or (str(first) if first == last else f"{first}–{last}")


@dataclass(frozen=True)
class Chapter:
    """Acts of one phase that follow on one another, or of a round: ``holes`` in their turn."""

    phase: Phase
    acts: tuple[NumberedAct, ...]
    holes: tuple[str, ...] = ()

    @property
    def minutes(self) -> float:
        """What all its steps take."""
        return round(sum(one.act.minutes for one in self.acts), 1)


def chapters(steps: Sequence[Step]) -> list[Chapter]:
    """The acts of a procedure in order, cut where the phase changes and where a round begins."""
    number = {step.key: place for place, step in enumerate(steps, 1)}
    found: list[Chapter] = []
    for block in fold(steps):
        phase = block.steps[0].phase
        if isinstance(block, Round):
            acts = tuple(map(_numbered(number), block.acts, ascii_lowercase))
            found.append(Chapter(phase, acts, block.holes))
            continue
        one = _numbered(number)(block)
        if found and found[-1].phase is phase and not found[-1].holes:
            found[-1] = replace(found[-1], acts=(*found[-1].acts, one))
        else:
            found.append(Chapter(phase, (one,)))
    return found


def _numbered(number: Mapping[StepKey, int]) -> Callable[..., NumberedAct]:
    def made(act: Act, letter: str = "") -> NumberedAct:
        return NumberedAct(act, tuple(number[step.key] for step in act.steps), letter)

    return made
