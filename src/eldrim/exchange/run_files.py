"""A run in open formats: every entry as JSON, the readings as CSV."""

import json
from collections.abc import Mapping
from typing import Any

from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Recorded
from eldrim.core.run.report import report
from eldrim.exchange.procedure_files import csv_text

COLUMNS = (
    "number",
    "step",
    "phase",
    "text",
    "by",
    "at",
    "reading",
    "value",
    "unit",
    "window",
    "verdict",
    "reason",
    "accepted by",
    "marks",
    "how",
    "proofs",
    "as typed",
    "said of it",
    "tools",
    "settings",
    "photos",
)


def run_json(plan: Plan, entries: list[Recorded], about: dict[str, Any]) -> str:
    """The run as JSON: what it was about, the edition it followed, and all entries in order."""
    body = {
        "format": "eldrim.run/2",
        **about,
        "plan": plan.model_dump(mode="json"),
        "entries": [entry.model_dump(mode="json", exclude_defaults=True) for entry in entries],
    }
    return json.dumps(body, ensure_ascii=False, indent=1)


def run_csv(plan: Plan, entries: list[Recorded], called: Mapping[str, str] | None = None) -> str:
    """One row a reading, and one for a step without any; people as they are ``called``."""
    rows: list[list[object]] = []
    for number, line in enumerate(report(plan, entries, called), 1):
        head = [
            number,
            line.key,
            line.phase,
            line.text,
            line.by,
            line.at.isoformat() if line.at else "",
        ]
        marks, proofs = "; ".join(line.marks), "; ".join(line.proofs)
        used = ["; ".join(found) for found in (line.tools, line.settings, line.photos)]
        for value in line.values:
            rows.append(
                [
                    *head,
                    value.label,
                    value.value,
                    value.unit,
                    value.window,
                    value.verdict,
                    value.reason,
                    value.accepted,
                    marks,
                    value.how,
                    proofs,
                    value.typed,
                    value.judged,
                    *used,
                ]
            )
        if not line.values:
            rows.append([*head, *[""] * 7, marks, "", proofs, "", "", *used])
    return csv_text(COLUMNS, rows)
