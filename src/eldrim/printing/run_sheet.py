"""The run sheet: a run on paper, each reading against its window, who answered for what."""

from collections.abc import Mapping
from dataclasses import dataclass
from zoneinfo import ZoneInfo

from eldrim.core.language import speaking
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Recorded
from eldrim.core.run.parts_needed import PartNeeded
from eldrim.core.run.report import report
from eldrim.core.run.search_report import told
from eldrim.core.run.state import fold
from eldrim.printing.paper import paper


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


def pdf(plan: Plan, entries: list[Recorded], about: RunFacts) -> bytes:
    """Return the run sheet as PDF."""
    with speaking(plan.job.language):
        return paper(
            "run_sheet",
            plan=plan,
            facts=about.facts,
            parts=about.parts,
            zone=about.zone,
            lines=report(plan, entries, about.called),
            search=told(plan, fold(entries), about.called),
        )
