"""A whole procedure in open formats: JSON without loss, steps, tools and parts as CSV, Markdown."""

import csv
import io
import json
from collections.abc import Iterable, Sequence
from typing import Any

from pydantic import ValidationError

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.procedure.model import Plan, Step, segments
from eldrim.exchange.engine_file import path_text

MAX_BYTES = 4_000_000


def write_json(plan: Plan) -> str:
    """The procedure as JSON; reading it back gives an equal one."""
    return json.dumps(plan.model_dump(mode="json"), ensure_ascii=False, indent=1)


def read_json(data: bytes) -> Plan:
    """Read a procedure from the bytes of a file. Raises :class:`ProblemsError` with every place."""
    if len(data) > MAX_BYTES:
        raise ProblemsError([Problem("", "the file is over 4 MB", "a procedure is far smaller")])
    try:
        return Plan.model_validate_json(data)
    except ValidationError as error:
        raise ProblemsError(
            [Problem(path_text(e["loc"]), e["msg"], "see docs/plan-json.md")
             for e in error.errors()[:50]]
        ) from error  # fmt: skip


STEP_COLUMNS = ("number", "key", "phase", "hole", "text", "detail", "note", "tools", "figures",
                "settings", "cautions", "checks", "readings", "minutes", "hold")  # fmt: skip


def steps_csv(plan: Plan) -> str:
    """One row a step, in order."""
    return _csv(STEP_COLUMNS, ([n, *_step_cells(s)] for n, s in enumerate(plan.steps, 1)))


def _step_cells(step: Step) -> list[object]:
    figures = "; ".join(f"{f.name} {f.printed} ({f.source})" for f in step.figures)
    settings = "; ".join(f"{f.setting.text} on {f.setting.wrench}" for f in step.figures
                         if f.setting)  # fmt: skip
    said = ["; ".join(x.text for x in group) for group in (step.cautions, step.checks)]
    readings = "; ".join(f"{r.label} {r.unit}".strip() for r in step.readings)
    return [step.key, step.phase.value, step.hole or "", step.text, step.detail, step.note,
            "; ".join(step.tools), figures, settings, *said, readings, f"{step.minutes:g}",
            "yes" if step.hold else ""]  # fmt: skip


def tools_csv(plan: Plan) -> str:
    """One row a tool, in order of use."""
    rows = ([n, i.name, i.kind, i.uses, i.first, i.missing, i.cure, "; ".join(i.cautions)]
            for n, i in enumerate(plan.roll, 1))  # fmt: skip
    names = ("number", "tool", "kind", "steps", "first step", "missing", "cure", "cautions")
    return _csv(names, rows)


def parts_csv(plan: Plan) -> str:
    """One row a part."""
    rows = ([p.quantity, p.name, p.part_number, p.why] for p in plan.parts)
    return _csv(("quantity", "part", "number", "why"), rows)


def _csv(names: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(names)
    # A cell that starts like a formula is text: a spreadsheet must not run it.
    writer.writerows([_plain(c) for c in row] for row in rows)
    return out.getvalue()


def _plain(cell: object) -> object:
    risky = isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@")
    return f"'{cell}" if risky else cell


def markdown(plan: Plan, edition: str) -> str:
    """The procedure as Markdown, cautions where they act."""
    lines = [f"# {plan.title}", "", f"{plan.engine_name}, {plan.variant_name}. {edition}. Sheet "
             f"revision {plan.revision}, {plan.minutes:g} min planned.", "",
             f"> {plan.defers_to}"]  # fmt: skip
    lines += [f"\nLeft out: {o.text}. {o.reason}" for o in plan.left_out]
    number = 0
    for phase, steps in segments(plan):
        lines += ["", f"## {phase.value}"]
        for step in steps:
            number += 1
            lines += ["", f"{number}. **{step.text}** ({step.minutes:g} min)", *_bullets(step)]
    lines += ["", "## Tools", "", *(f"- {i.name}" for i in plan.roll)]
    lines += ["", "## Parts", "", *(f"- {p.quantity} × {p.name} {p.part_number}".rstrip()
                                    for p in plan.parts)]  # fmt: skip
    return "\n".join(lines) + "\n"


def _bullets(step: Step) -> list[str]:
    said = [f"**Caution:** {c.text}" for c in step.cautions]
    said += [t for t in (step.detail, step.note) if t]
    said += [f"With {' + '.join(step.tools)}"] if step.tools else []
    for figure in step.figures:
        dial = f"; set **{figure.setting.text}** on the {figure.setting.wrench}" \
            if figure.setting else ""  # fmt: skip
        said.append(f"{figure.name}: **{figure.printed}**{dial} ({figure.source})")
    said += [f"write down: {r.label.lower()} {r.unit}".rstrip() for r in step.readings]
    said += [f"☐ {c.text}" for c in step.checks]
    said += ["Hold point: a lead releases it"] if step.hold else []
    return [f"   - {line}" for line in said]


def schema() -> dict[str, Any]:
    """The JSON Schema of a procedure file."""
    return Plan.model_json_schema()
