"""A card for the wing: what to set, in which order, and nothing else."""

from eldrim.core.procedure.editions.fold import Chapter, chapters
from eldrim.core.procedure.model import Plan
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.printing.act_lines import source_words
from eldrim.printing.job_sheet import Edition, HoleFigure, hole_figure, hole_figures
from eldrim.printing.paper import sheet
from eldrim.printing.press import PRESS


def pdf(plan: Plan, edition: Edition) -> bytes:
    """The card as PDF, on one side of A5 where that is enough."""
    with reading_in(plan.job.language):
        pages = [_page(plan, edition, close) for close in (False, True)]
    return PRESS.lay_out_within(pages, sides=1) or PRESS.lay_out(pages[-1])


def _page(plan: Plan, edition: Edition, close: bool) -> str:
    order = [line for chapter in chapters(plan.steps) for line in _lines(chapter)]
    half = -(-len(order) // 2)
    return sheet(
        "wing_card",
        plan=plan,
        edition=edition,
        close=close,
        figures=[*hole_figures(plan), *part_figures(plan)],
        order=(order[:half], order[half:]),
    )


def _lines(chapter: Chapter) -> list[tuple[bool, str]]:
    """The acts of a chapter; over a round which holes it goes through, marked as a heading."""
    turn = say("doc.in_turn", holes=", ".join(chapter.holes)) if chapter.holes else ""
    acts = [(False, one.act.text) for one in chapter.acts]
    return [(True, turn), *acts] if turn else acts


def part_figures(plan: Plan) -> list[HoleFigure]:
    """The figures that are set on a wrench away from the holes, each with what it is for."""
    found = {
        (figure.name, figure.printed, source_words(plan, figure)): figure
        for step in plan.steps
        if not step.hole
        for figure in step.figures
        if figure.setting
    }
    return [hole_figure(plan, figure, "") for figure in found.values()]
