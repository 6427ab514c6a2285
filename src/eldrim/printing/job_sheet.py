"""The job sheet: a released procedure on one side where it can be, to be taken to the engine.

What is the same at every hole is said once, with a grid for what is found at each; cautions stand
in a frame at the head, by letter where they bind. The long form has every step with its drawings.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from functools import partial
from itertools import groupby
from typing import Literal

from eldrim.core.engine import Engine
from eldrim.core.operations import Phase
from eldrim.core.procedure.editions.fold import Chapter, NumberedAct, chapters
from eldrim.core.procedure.editions.standing_notes import standing_notes
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.procedure.model import Plan, Step, StepFigure
from eldrim.core.words import listed, say
from eldrim.core.words.language import reading_in
from eldrim.drawing import engine_plan
from eldrim.printing.act_lines import (
    ActLine,
    ActLines,
    Closeness,
    Legend,
    asked,
    doubts,
    source_words,
    window,
)
from eldrim.printing.codes import Codes
from eldrim.printing.columns import (
    Columns,
    Item,
    beside,
    heading,
    height,
    in_parts,
    paragraphs,
    picture,
)
from eldrim.printing.paper import ink, sheet
from eldrim.printing.press import PRESS

Paper = Literal["A4", "Letter"]
# So many sides for as many holes; nothing has more than the last.
SIDES = ((4, 1), (8, 2), (12, 3))
MOST_SIDES = 4
# What is done in these phases is done at the holes or beside them.
AT_HOLES = (Phase.CLEAN, Phase.PULL, Phase.READ, Phase.FIT)
PICTURE_LINES = dict(zip(Closeness, (11.0, 11.0, 8.6, 8.6, 7.2, 6.0), strict=True))
# How high the numbers of holes and moves stand in the drawing, in mm of the engine.
DIGITS = dict(zip(Closeness, (44.0, 44.0, 58.0, 58.0, 64.0, 66.0), strict=True))
# Lines that a side of each closeness has, letters of a whole line, codes in a row, and what
# stands on every sheet besides.
LINES = dict(zip(Closeness, (64, 72, 78, 78, 90, 92), strict=True))
WHOLE_LETTERS, CODES_IN_A_ROW, FIXED_LINES = 118, 13, 6
# Acts that run on make a paragraph of so many lines at most.
RUN_LINES = 3.2


@dataclass(frozen=True)
class Edition:
    """What stands at the head of a sheet: which edition, who released it, and its codes."""

    words: str
    released: str
    codes: Codes | None = None


@dataclass(frozen=True)
class Column:
    """A column of the grid: what is written down at each hole, and between which limits."""

    label: str
    window: str
    unit: str
    cells: tuple[str, ...]


@dataclass(frozen=True)
class Grid:
    """What is written down and proven at each hole; ``cells`` of a column are limits of one hole
    alone, a dash where nothing is asked there. ``ticks`` are the proofs, ``boxes`` which of them
    each hole has.
    """

    holes: tuple[str, ...]
    columns: tuple[Column, ...]
    ticks: tuple[str, ...]
    boxes: tuple[tuple[int, ...], ...]


@dataclass(frozen=True)
class HoleFigure:
    """A figure used at holes: what to set, large, and where it comes from."""

    name: str
    setting: str
    range: str
    wrench: str
    source: str
    holes: str

    @property
    def letters(self) -> int:
        """How much there is to read; its cell is as wide."""
        return len(f"{self.name}{self.holes}{self.range}{self.wrench}{self.source}") + 75


class Kind(Enum):
    """What lines stand together under one heading."""

    READY = "phase.Ready"
    WAY_IN = "sheet.way_in"
    HOLES = "sheet.grid"
    REFIT = "phase.Refit"
    PROVE = "phase.Prove"


@dataclass(frozen=True)
class Block:
    """Lines under one heading; of holes in their turn it names them."""

    kind: Kind
    heading: str
    lines: tuple[ActLine, ...]
    minutes: str


@dataclass(frozen=True)
class Sheet:
    """What a job sheet shows, set as closely as ``closeness`` says."""

    closeness: Closeness
    head: Columns
    holes: tuple[Columns, ...]
    rest: tuple[Columns, ...]
    grid: Grid | None
    figures: tuple[HoleFigure, ...]
    legend: Legend
    notes: tuple[str, ...]
    codes: tuple[tuple[str, int], ...]

    @property
    def lines(self) -> float:
        """About how many lines it takes, of the height that its closeness has."""
        said = [*self.legend.cautions, *self.legend.proofs, *self.legend.sources]
        said += [*self.legend.notes, *(self.grid.ticks if self.grid else ())]
        whole = sum(len(text) + 5 for text in said) / WHOLE_LETTERS
        settings = max((figure.letters for figure in self.figures), default=0) / 45
        rows = 2 + len(self.grid.holes) * 1.6 if self.grid else 0
        codes = 3 * -(-len(self.codes) // CODES_IN_A_ROW)
        columns = sum(map(height, (self.head, *self.holes, *self.rest)))
        return FIXED_LINES + whole + len(self.notes) + settings + rows + codes + columns


def pdf(plan: Plan, engine: Engine, edition: Edition, paper: Paper = "A4") -> bytes:
    """The job sheet as PDF, as open as its sides allow; with a side more where none is so close."""
    with reading_in(plan.job.language):
        for sides in range(sides_of(plan), MOST_SIDES + 1):
            for made in _worth_trying(plan, sides):
                page = _page(plan, engine, edition, paper, made)
                found = PRESS.lay_out_within([page], sides)
                if found is not None:
                    return found
    return PRESS.lay_out(page)


def _worth_trying(plan: Plan, sides: int) -> Iterator[Sheet]:
    """The sheets, each set more closely, from the first that is not too long by reckoning:
    laying out takes longer.
    """
    fits = False
    for closeness in Closeness:
        made = laid_out(plan, closeness)
        fits = fits or made.lines <= sides * LINES[closeness] or closeness is max(Closeness)
        if fits:
            yield made


def sides_of(plan: Plan) -> int:
    """How many sides a sheet has at most, by the holes of its job."""
    holes = len({step.hole for step in plan.steps if step.hole})
    return next((sides for most, sides in SIDES if holes <= most), MOST_SIDES)


def page(plan: Plan, engine: Engine, edition: Edition, paper: Paper, closeness: Closeness) -> str:
    """The job sheet as the HTML it is printed from."""
    with reading_in(plan.job.language):
        return _page(plan, engine, edition, paper, laid_out(plan, closeness))


def _page(plan: Plan, engine: Engine, edition: Edition, paper: Paper, made: Sheet) -> str:
    holes = frozenset(engine.holes_of_all(plan.job.cylinders))
    digit = DIGITS[made.closeness]
    view = engine_plan.PlanView(
        chosen=holes,
        moves=plan.moves,
        at_towers=plan.job.at_towers,
        balloon=digit * 0.62,
        digit=digit,
    )
    codes = edition.codes
    return sheet(
        "job_sheet",
        plan=plan,
        paper=paper,
        edition=edition,
        made=made,
        style_of=made.closeness.name.lower(),
        picture=ink(engine_plan.draw(engine, view)),
        minutes=minutes_number(plan.minutes),
        codes=[(number, codes.of_act(place)) for number, place in made.codes] if codes else [],
    )


def laid_out(plan: Plan, closeness: Closeness) -> Sheet:
    """What the sheet of a plan shows. The language in use is the plan's."""
    says = ActLines(plan, closeness)
    acts = _acts(plan)
    at_holes = [one for _, one in acts if one.act.every]
    numbers = {one.key: str(number) for number, one in enumerate(at_holes, 1)}
    blocks = _blocks(says, acts, numbers)
    of_holes = [i for i, block in enumerate(blocks) if block.kind is Kind.HOLES]
    first, last = (of_holes[0], of_holes[-1]) if of_holes else (len(blocks), len(blocks))
    items = partial(_items, closeness=closeness)
    return Sheet(
        closeness=closeness,
        head=beside(
            picture(PICTURE_LINES[closeness]),
            items([block for block in blocks[:first] if block.kind is not Kind.WAY_IN]),
            items([block for block in blocks[:first] if block.kind is Kind.WAY_IN]),
        ),
        holes=tuple(in_parts(items(blocks[first : last + 1]))),
        rest=tuple(in_parts(items(blocks[last + 1 :]))),
        grid=grid(plan),
        figures=tuple(hole_figures(plan)),
        legend=says.legend,
        notes=tuple(standing_notes(plan)),
        codes=tuple((numbers[one.key], one.numbers[0]) for one in at_holes)
        if closeness is not Closeness.BARE
        else (),
    )


def _items(blocks: Sequence[Block], closeness: Closeness) -> list[Item]:
    most = RUN_LINES if closeness >= Closeness.RUN_ON else 0.0
    return [
        item
        for block in blocks
        for item in (heading(block.heading, block.minutes), *paragraphs(block.lines, most))
    ]


def _acts(plan: Plan) -> list[tuple[Kind, NumberedAct]]:
    """The acts in order, each with what it stands among."""
    return [
        (_kind(chapter, one), replace(one, letter=", ".join(chapter.holes)))
        for chapter in chapters(plan.steps)
        for one in chapter.acts
    ]


def _kind(chapter: Chapter, one: NumberedAct) -> Kind:
    phase = chapter.phase
    if chapter.holes or one.act.every or phase in AT_HOLES:
        return Kind.HOLES
    return {Phase.READY: Kind.READY, Phase.UNCOVER: Kind.WAY_IN, Phase.REFIT: Kind.REFIT}.get(
        phase, Kind.PROVE
    )


def _blocks(
    says: ActLines, acts: list[tuple[Kind, NumberedAct]], codes: dict[str, str]
) -> list[Block]:
    """The acts under as few headings as their order allows."""
    made = []
    for (kind, turn), group in groupby(acts, lambda one: (one[0], one[1].letter)):
        ones = [one for _, one in group]
        lines = tuple(
            says.hole_line(one, codes[one.key]) if one.act.every else says.line(one) for one in ones
        )
        said = say("doc.in_turn", holes=turn) if turn else say(kind.value)
        minutes = minutes_number(round(sum(one.act.minutes for one in ones), 1))
        made.append(Block(kind, said, lines, minutes))
    return made


def grid(plan: Plan) -> Grid | None:
    """What is written down and proven at the holes, hole by hole in the order they are done."""
    steps = [step for step in plan.steps if step.hole and not step.own]
    holes = tuple(dict.fromkeys(step.hole or "" for step in steps))
    if not holes:
        return None
    by_act: dict[str, dict[str, Step]] = {}
    for step in steps:
        by_act.setdefault(step.key.at_every_hole, {})[step.hole or ""] = step
    columns = tuple(
        _column(found, holes, key)
        for found in by_act.values()
        for key in dict.fromkeys(r.key for step in found.values() for r in asked(step.readings))
    )
    ticks: dict[str, None] = {}
    has: dict[str, list[str]] = {hole: [] for hole in holes}
    for step in steps:
        for check in step.checks:
            ticks.setdefault(check.text)
            has[step.hole or ""].append(check.text)
    numbers = {text: number for number, text in enumerate(ticks, 1)}
    boxes = tuple(tuple(numbers[text] for text in has[hole]) for hole in holes)
    return Grid(holes, columns, tuple(ticks), boxes)


def _column(found: dict[str, Step], holes: Sequence[str], key: str) -> Column:
    readings = {
        hole: next((r for r in step.readings if r.key == key), None) for hole, step in found.items()
    }
    there = [reading for reading in readings.values() if reading]
    windows = {window(reading) for reading in there}
    common = windows.pop() if len(windows) == 1 else ""
    item = next(iter(found.values())).key.rule.item
    label = there[0].label if key != "condition" else f"{there[0].label}: {say(f'noun.{item}')}"
    cells = tuple(
        "–" if (reading := readings.get(hole)) is None else "" if common else window(reading)
        for hole in holes
    )
    return Column(label, common, there[0].unit, cells)


def hole_figures(plan: Plan) -> list[HoleFigure]:
    """The figures used at the holes, each once, with the holes it holds for where not for all."""
    found: dict[tuple[str, ...], list[str]] = {}
    figures: dict[tuple[str, ...], StepFigure] = {}
    for step in (step for step in plan.steps if step.hole):
        for figure in step.figures:
            key = _said(figure)
            figures.setdefault(key, figure)
            found.setdefault(key, []).append(step.hole or "")
    every = {step.hole for step in plan.steps if step.hole}
    return [
        hole_figure(plan, figure, "" if set(found[key]) == every else listed(_once(found[key])))
        for key, figure in figures.items()
    ]


def _once(holes: list[str]) -> list[str]:
    return list(dict.fromkeys(holes))


def _said(figure: StepFigure) -> tuple[str, ...]:
    setting = figure.setting
    dial = (setting.text, setting.wrench) if setting else ("", "")
    return (figure.name, figure.printed, figure.source, figure.variant, figure.plus, *dial)


def hole_figure(plan: Plan, figure: StepFigure, holes: str) -> HoleFigure:
    """A figure as it is set large, with the holes it holds for where not for all."""
    setting = figure.setting
    printed = f"{figure.printed} ({figure.converted})" if figure.converted else figure.printed
    over = [printed] if setting else [figure.converted]
    then = [say("doc.then", angle=figure.plus)] if figure.plus else []
    return HoleFigure(
        name=figure.name,
        setting=setting.text if setting else figure.printed,
        range="; ".join(filter(None, (*over, *then, *doubts(figure)))),
        wrench=setting.wrench if setting else "",
        source=source_words(plan, figure),
        holes=holes,
    )
