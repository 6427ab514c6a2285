"""The run sheet: a run on paper, each reading against its window, who answered for what."""

from collections.abc import Mapping
from zoneinfo import ZoneInfo

from eldrim.core.language import speaking
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Recorded
from eldrim.core.run.report import report
from eldrim.printing.paper import paper


def pdf(
    plan: Plan,
    entries: list[Recorded],
    facts: dict[str, str],
    parts: list[dict[str, str]],
    open_points: list[str],
    called: Mapping[str, str],
    zone: ZoneInfo,
) -> bytes:
    """Return the run sheet as PDF; ``facts`` stand at its head, by what they are called.

    ``called`` is how people are called by the name they sign in with; times are in ``zone``.
    """
    with speaking(plan.job.language):
        return paper(
            "run_sheet",
            plan=plan,
            facts=facts,
            parts=parts,
            open_points=open_points,
            zone=zone,
            lines=report(plan, entries, called),
        )
