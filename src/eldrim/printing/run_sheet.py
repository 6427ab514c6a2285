"""The run sheet: a run on one side where it can be, each reading against its window, who answered.

What was done alike at every hole is said once; what was read at the holes stands in a grid. What is
out of the ordinary (a value outside its window, a mark, another person, something not done) is
always said in words.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from eldrim.core.procedure.editions.fold import Act, acts_of, fold
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Recorded
from eldrim.core.run.parts_needed import PartNeeded
from eldrim.core.run.report import Line, Value, report
from eldrim.core.run.search_report import told
from eldrim.core.run.state import fold as fold_entries
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.printing.columns import balanced
from eldrim.printing.paper import paper

# Letters in a line of half a page.
LINE_LETTERS = 62


@dataclass(frozen=True)
class RunFacts:
    """What stands round the steps on a run sheet.

    ``facts`` stand at its head, by what they are called; ``called`` is how people are called by the
    name they sign in with; times are in ``zone``.
    """

    facts: dict[str, str]
    parts: list[PartNeeded]
    called: Mapping[str, str]
    zone: ZoneInfo


@dataclass(frozen=True)
class RunAct:
    """What was done, when, by whom where by somebody else than most; with what was read and seen.

    ``marks`` are all that is out of the ordinary; ``photos`` how those taken begin.
    """

    text: str
    at: str
    by: str
    values: tuple[Value, ...]
    proofs: tuple[str, ...]
    used: tuple[str, ...]
    marks: tuple[str, ...]
    photos: tuple[str, ...]
    left_out: bool

    @property
    def letters(self) -> int:
        """About how much there is to read."""
        words = [self.text, self.at, self.by, *self.proofs, *self.used, *self.marks, *self.photos]
        words += [f"{v.label} {v.value} {v.unit} ({v.window}) {v.says}" for v in self.values]
        return sum(len(word) + 3 for word in words if word)


@dataclass(frozen=True)
class RunGrid:
    """What was read at each hole: a head for each reading, a cell for each hole and reading."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, tuple[Value | None, ...]], ...]


def pdf(plan: Plan, entries: list[Recorded], about: RunFacts) -> bytes:
    """Return the run sheet as PDF."""
    with reading_in(plan.job.language):
        return paper("run_sheet", **facts(plan, entries, about))


def facts(plan: Plan, entries: list[Recorded], about: RunFacts) -> dict[str, object]:
    """Everything that stands on the run sheet."""
    lines = {line.key: line for line in report(plan, entries, about.called)}
    most = Counter(line.by for line in lines.values() if line.by).most_common(1)
    says = _Says(lines, most[0][0] if most else "", about.zone)
    acts = acts_of(fold([step for step in plan.steps if step.key in lines]))
    made = [says.act(act) for act in acts]
    return {
        "plan": plan,
        "facts": about.facts,
        "parts": about.parts,
        "zone": about.zone,
        "columns": balanced(made, lambda act: -(-act.letters // LINE_LETTERS) + 0.2),
        "grid": says.grid(acts),
        "done_by": most[0][0] if most else "",
        "between": says.between(list(lines.values())),
        "tools": "; ".join(item.name for item in plan.roll),
        "search": told(plan, fold_entries(entries), about.called),
    }


class _Says:
    """Says the acts of one run."""

    def __init__(self, lines: Mapping[str, Line], most: str, zone: ZoneInfo) -> None:
        self.lines, self.most, self.zone = lines, most, zone

    def act(self, act: Act) -> RunAct:
        """One act of the run, with what was read away from the holes."""
        lines = [self.lines[step.key] for step in act.steps]
        others = sorted({line.by for line in lines if line.by} - {self.most})
        return RunAct(
            text=act.text,
            at=self.between(lines),
            by=", ".join(others),
            values=() if act.every else tuple(v for line in lines for v in line.values),
            proofs=_alike(act, lines, "proofs"),
            used=_alike(act, lines, "settings"),
            marks=tuple(_marks(act, lines)),
            photos=tuple(photo[:8] for line in lines for photo in line.photos),
            left_out=all(line.left_out for line in lines),
        )

    def between(self, lines: Sequence[Line]) -> str:
        """From when to when; that it is open where it is."""
        times = [self._time(line.at) for line in lines if line.at]
        if not times:
            return say("bay.open")
        open_ = f" · {say('bay.open')}" if len(times) < len(lines) else ""
        return (times[0] if times[0] == times[-1] else f"{times[0]}–{times[-1]}") + open_

    def _time(self, at: datetime) -> str:
        return at.astimezone(self.zone).strftime("%H:%M")

    def grid(self, acts: Sequence[Act]) -> RunGrid | None:
        """What was read at the holes, hole by hole in the order they were done."""
        at_holes = [act for act in acts if act.every]
        holes = list(dict.fromkeys(hole for act in at_holes for hole in act.holes))
        cells: dict[str, dict[str, Value]] = {}
        for step in (step for act in at_holes for step in act.steps):
            for value in self.lines[step.key].values:
                head = _head(step.key.rule.item, value)
                cells.setdefault(head, {})[step.hole or ""] = value
        if not cells:
            return None
        rows = tuple((hole, tuple(column.get(hole) for column in cells.values())) for hole in holes)
        return RunGrid(tuple(cells), rows)


def _head(item: str, value: Value) -> str:
    what = f"{value.label}: {say(f'noun.{item}')}" if not value.unit else value.label
    return " ".join(filter(None, (what, value.window or value.unit)))


def _alike(act: Act, lines: Sequence[Line], field: str) -> tuple[str, ...]:
    """What the lines say, once where all say it, else with the holes that do."""
    found: dict[str, list[str]] = {}
    for step, line in zip(act.steps, lines, strict=True):
        for said in getattr(line, field):
            found.setdefault(said, []).append(step.hole or "")
    every = len(lines)
    return tuple(
        said if len(holes) == every or not holes[0] else f"{', '.join(holes)}: {said}"
        for said, holes in found.items()
    )


def _marks(act: Act, lines: Sequence[Line]) -> list[str]:
    """What is out of the ordinary, with its hole; values in the grid tell it here."""
    found = []
    for step, line in zip(act.steps, lines, strict=True):
        place = f"{step.hole}: " if step.hole else "" if len(lines) == 1 else f"{line.text}: "
        found += [f"{place}{mark}" for mark in line.marks]
        if act.every:
            found += [f"{place}{said}" for v in line.values if (said := _remark(v))]
    return found


def _remark(value: Value) -> str:
    """What is to be said of a value beside its number; empty where nothing is."""
    said = [value.reason, value.judged] if value.outside else []
    said += [say("bay.at_limit")] if value.at_limit else []
    said += [value.says, value.how, f"({value.typed})" if value.typed else ""]
    words = "; ".join(filter(None, said))
    return f"{value.label} {value.value} {value.unit}: {words}" if words else ""
