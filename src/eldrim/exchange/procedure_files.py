"""A whole procedure in open formats: JSON without loss, steps, tools and parts as CSV, Markdown."""

import csv
import io
import json
from collections.abc import Iterable, Sequence
from hashlib import sha256
from typing import Any, Literal

from pydantic import Base64Bytes, Field, TypeAdapter, ValidationError

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.frozen import Frozen
from eldrim.core.job import Job
from eldrim.core.procedure.editions.edits import Edit, with_act
from eldrim.core.procedure.editions.standing_notes import standing_notes
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.procedure.model import Plan, Step, segments
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.rules.house import Departure
from eldrim.core.words import say
from eldrim.core.words.language import reading_in
from eldrim.core.words.messages import gettext
from eldrim.exchange.engine_file import path_text
from eldrim.exchange.model_faults import fault_words

MAX_BYTES = 12_000_000
# What makes a spreadsheet run a cell.
RISKY = ("=", "+", "-", "@", "\t", "\r", "\n")
FORMAT: Literal["eldrim.procedure/1"] = "eldrim.procedure/1"


EDITS = TypeAdapter(dict[str, Edit])


class ProcedureFile(Frozen):
    """A procedure whole: the job, what a trainer made of it, the steps it came to, its photos.

    ``plan`` is what it came to where it was written; taken in elsewhere, the steps are computed
    anew from the job, the departures and the edits, and compared with these.
    """

    format: Literal["eldrim.procedure/1"] = FORMAT
    job: Job
    departures: dict[str, Departure] = Field(default_factory=dict)
    edits: dict[str, Edit] = Field(default_factory=dict)
    plan: Plan
    photos: dict[str, Base64Bytes] = Field(default_factory=dict, description="JPEGs by digest.")


def write_json(procedure: ProcedureFile) -> str:
    """The procedure as JSON; reading it back gives an equal one."""
    return json.dumps(procedure.model_dump(mode="json"), ensure_ascii=False, indent=1)


def read_json(data: bytes) -> ProcedureFile:
    """Read a procedure from the bytes of a file. Raises :class:`ProblemsError` with every place."""
    if len(data) > MAX_BYTES:
        fix = gettext("leave photos out, or make them smaller")
        raise ProblemsError([Problem("", gettext("the file is over 12 MB"), fix)])
    try:
        found = ProcedureFile.model_validate_json(data)
    except ValidationError as error:
        raise ProblemsError(
            [
                Problem(
                    path_text(fault["loc"]), fault_words(fault), gettext("see docs/plan-json.md")
                )
                for fault in error.errors()[:50]
            ]
        ) from error
    named = {photo.image for edit in found.edits.values() for photo in edit.photos}
    wrong = [key for key, data in found.photos.items() if sha256(data).hexdigest() != key]
    wrong += sorted(named - set(found.photos))
    if wrong:
        fix = gettext("write the file out again")
        raise ProblemsError(
            [Problem(f"photos.{d}", gettext("is missing or another photo"), fix) for d in wrong]
        )
    return found


STEP_COLUMNS = (
    "number",
    "key",
    "phase",
    "hole",
    "text",
    "detail",
    "note",
    "tools",
    "figures",
    "settings",
    "cautions",
    "checks",
    "readings",
    "minutes",
    "hold",
)


def steps_csv(plan: Plan) -> str:
    """One row a step, in order."""
    return csv_text(
        STEP_COLUMNS, ([index, *_step_cells(step)] for index, step in enumerate(plan.steps, 1))
    )


def _step_cells(step: Step) -> list[object]:
    figures = "; ".join(
        f"{figure.name} {figure.printed} ({figure.source})" for figure in step.figures
    )
    settings = "; ".join(
        f"{f.setting.text} on {f.setting.wrench}" for f in step.figures if f.setting
    )
    said = ["; ".join(x.text for x in group) for group in (step.cautions, step.checks)]
    readings = "; ".join(f"{reading.label} {reading.unit}".strip() for reading in step.readings)
    return [
        step.key,
        step.phase.value,
        step.hole or "",
        step.text,
        step.detail,
        step.note,
        "; ".join(tool.name for tool in step.tools),
        figures,
        settings,
        *said,
        readings,
        f"{step.minutes:g}",
        "yes" if step.hold else "",
    ]


def read_steps_csv(
    data: bytes, computed: Plan, draft: Plan, edits: dict[str, Edit]
) -> dict[str, Edit]:
    """Return a draft's edits with wording, note and hold of each step as the table says.

    ``computed`` and ``draft`` are its plan without and with ``edits``. Other columns are computed
    and are not read. Raises :class:`ProblemsError` naming every line that cannot be taken.
    """
    rows, problems = _rows(data), []
    plain: dict[str, Step] = {step.key: with_act(step, edits) for step in computed.steps}
    shown: dict[str, Step] = {step.key: step for step in draft.steps}
    now, changed = dict(edits), {}
    for line, row in enumerate(rows, 2):
        key = row["key"]
        if key not in shown:
            fix = gettext("leave the key as it was written out")
            problems.append(
                Problem(f"line {line}", gettext("the draft has no step '{key}'", key=key), fix)
            )
            continue
        try:
            changed[key] = _edit_of(row, shown[key], plain.get(key), now.get(key, Edit()))
        except ValidationError as error:
            problems += [
                Problem(f"line {line}, {fault['loc'][-1]}", fault_words(fault))
                for fault in error.errors()
            ]
    if problems:
        raise ProblemsError(problems)
    return {key: edit for key, edit in {**now, **changed}.items() if not edit.empty}


def _edit_of(row: dict[str, str], shown: Step, plain: Step | None, had: Edit) -> Edit:
    text, note, hold = row["text"], row["note"], row["hold"].strip().lower() in ("yes", "ja")
    if (text, note, hold) == (shown.text, shown.note, shown.hold):
        return had
    if plain is None:
        own = {**dict(had.own), "text": text} if had.own else None
        return Edit.model_validate({**dict(had), "own": own, "note": note, "hold": hold})
    # Less than its act has is said by going by itself.
    less = (plain.note and not note.strip()) or (plain.hold and not hold)
    said = "" if text.strip() == plain.text and not less else text
    return Edit.model_validate(
        {
            **dict(had),
            "text": said,
            "note": "" if note == plain.note and not less else note,
            "hold": hold and (less or not plain.hold),
            "computed": plain.text if said else "",
            "apart": bool(less) or had.apart,
        }
    )


def _rows(data: bytes) -> list[dict[str, str]]:
    try:
        reader = csv.DictReader(io.StringIO(data.decode("utf-8-sig")))
        rows = [{key: as_was(value or "") for key, value in row.items() if key} for row in reader]
    except (UnicodeDecodeError, csv.Error) as error:
        raise ProblemsError(
            [Problem("", gettext("this is no table in UTF-8"), gettext("save it as CSV"))]
        ) from error
    lacking = [n for n in ("key", "text", "note", "hold") if n not in (reader.fieldnames or ())]
    if lacking:
        fix = gettext("write the steps out and change that file")
        raise ProblemsError(
            [Problem("line 1", gettext("no column {lacking}", lacking=", ".join(lacking)), fix)]
        )
    return rows


def as_was(cell: str) -> str:
    """The cell without the mark that keeps a spreadsheet from running it."""
    return cell[1:] if cell[:1] == "'" and is_risky(cell[1:]) else cell


def tools_csv(plan: Plan) -> str:
    """One row a tool, in order of use."""
    rows = (
        [index, i.name, i.kind, i.uses, i.first, i.missing, i.cure, "; ".join(i.cautions)]
        for index, i in enumerate(plan.roll, 1)
    )
    names = ("number", "tool", "kind", "steps", "first step", "missing", "cure", "cautions")
    return csv_text(names, rows)


def parts_csv(plan: Plan) -> str:
    """One row a part."""
    rows = ([part.quantity, part.name, part.part_number, part.why] for part in plan.parts)
    return csv_text(("quantity", "part", "number", "why"), rows)


def csv_text(names: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV; no cell of it is run by a spreadsheet."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(names)
    # A cell that starts like a formula is text: a spreadsheet must not run it.
    writer.writerows([plain_cell(c) for c in row] for row in rows)
    return out.getvalue()


def plain_cell(cell: object) -> object:
    """A cell as it is written: one that a spreadsheet would run is marked as text."""
    return f"'{cell}" if isinstance(cell, str) and is_risky(cell) else cell


def is_risky(cell: str) -> bool:
    """Whether a spreadsheet would run it; blanks before it do not make it a text."""
    return cell.startswith(RISKY) or cell.lstrip().startswith(RISKY)


def markdown(plan: Plan, edition: int) -> str:
    """The procedure as Markdown in its own language, cautions where they act."""
    with reading_in(plan.job.language):
        return _markdown(plan, say("doc.edition_of", number=edition))


def _markdown(plan: Plan, edition: str) -> str:
    sheet = f"{say('doc.sheet')} {say('doc.revision', number=plan.revision)}"
    planned = f"{say('doc.planned')} {_minutes(plan.minutes)}"
    lines = [
        f"# {plan.title}",
        "",
        f"{plan.engine_name}, {plan.variant_name}. {edition}. {sheet}, {planned}.",
        "",
        f"> {plan.defers_to}",
    ]
    lines += ["\n" + note for note in standing_notes(plan)]
    number = 0
    for phase, steps in segments(plan):
        lines += ["", f"## {say(f'phase.{phase.value}')}"]
        for step in steps:
            number += 1
            lines += ["", f"{number}. **{step.text}** ({_minutes(step.minutes)})", *_bullets(step)]
    lines += ["", f"## {say('doc.tools', count=len(plan.roll))}", ""]
    lines += [f"- {i.name}" for i in plan.roll]
    lines += ["", f"## {say('doc.parts')}", ""]
    lines += [f"- {part.quantity} × {part.name} {part.part_number}".rstrip() for part in plan.parts]
    return "\n".join(lines) + "\n"


def _minutes(value: float) -> str:
    """Minutes as every page and paper prints them: under ten with a tenth."""
    return say("doc.minutes", minutes=minutes_number(value))


def _bullets(step: Step) -> list[str]:
    said = [f"**{say('doc.caution')}:** {caution.text}" for caution in step.cautions]
    said += [t for t in (step.detail, step.note) if t]
    said += [say("doc.with", tools=tool_words(step))] if step.tools else []
    for f in step.figures:
        dial = say("doc.set", setting=f.setting.text, wrench=f.setting.wrench) if f.setting else ""
        said.append(f"{f.name}: **{f.printed}**{f'; **{dial}**' if dial else ''} ({f.source})")
    said += [
        say("doc.write", label=f"{reading.label} {reading.unit}".rstrip())
        for reading in step.readings
    ]
    said += [f"☐ {check.text}" for check in step.checks]
    said += [say("doc.hold")] if step.hold else []
    said += [f"{say('bay.photo')}: {photo.caption or photo.image[:8]}" for photo in step.photos]
    return [f"   - {line}" for line in said]


def schema() -> dict[str, Any]:
    """The JSON Schema of a procedure file."""
    return ProcedureFile.model_json_schema()
