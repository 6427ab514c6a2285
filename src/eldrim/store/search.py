"""One box for everything: engines, parts, figures, numbers, procedures, steps, units, findings."""

import re
from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import ColumnElement, case, delete, desc, func, select
from sqlalchemy.orm import Session, aliased

from eldrim.core.engine import Engine
from eldrim.core.procedure.model import Plan
from eldrim.core.run.entries import Entry
from eldrim.store.tables import EditionRow, RunRow, SearchRow, UnitRow

MAX_FOUND = 20
MAX_BODY = 4000
# What is looked for most comes first; a procedure before its many steps.
KINDS = ("engine", "unit", "procedure", "part", "part number", "figure", "finding", "step")


def index_engine(session: Session, engine: Engine) -> None:
    """Keep what a sheet says, in the place of what it said before."""
    home, figures = f"/engines/{engine.id}", f"/engines/{engine.id}/figures"
    rows = [("engine", home, engine.title, f"{engine.id} {engine.note}")]
    for key, part in engine.parts.items():
        numbers = [joint.part_number or "" for joint in part.joints.values()]
        said = f"{engine.title} {key} {part.part_number or ''} {' '.join(numbers)} {part.note}"
        rows.append(("part", home, part.name, said))
    for key, stated in engine.figures.items():
        for f in stated:
            source = engine.sources[f.source]
            said = f"{engine.title} {f.value} {source.document} {f.page} {f.note}"
            rows.append(("figure", f"{figures}#{key}", key.replace("-", " "), said))
    items = [
        ("plug", plug.part_number, f"{plug.thread} {plug.heat_range}") for plug in engine.plugs
    ]
    items += [("coil", coil.part_number, coil.boot_part or "") for coil in engine.coils]
    items += [("lead", lead.part_number, "") for lead in engine.leads]
    rows += [
        ("part number", figures, number, f"{engine.title} {kind} {more}")
        for kind, number, more in items
    ]
    _keep(session, f"engine/{engine.id}", rows)


def index_edition(session: Session, row: EditionRow, plan: Plan) -> None:
    """Keep the newest edition's steps, in the place of the one before."""
    home = f"/procedures/{row.procedure_id}"
    rows = [("procedure", home, plan.title, f"{plan.engine_name} {plan.variant_name}")]
    rows += [
        (
            "step",
            f"{home}#{step.key}",
            step.text,
            " ".join(
                (
                    plan.engine_name,
                    plan.title,
                    step.detail,
                    step.note,
                    *(tool.name for tool in step.tools),
                )
            ),
        )
        for step in plan.steps
    ]
    _keep(session, f"procedure/{row.procedure_id}", rows)


def index_unit(session: Session, unit: UnitRow) -> None:
    """Keep a unit's name and serial."""
    said = f"{unit.engine_id} {unit.serial} {unit.letters}"
    _keep(session, f"unit/{unit.id}", [("unit", f"/units/{unit.id}", unit.name, said)])


def index_finding(session: Session, row: RunRow, entry: Entry, words: str) -> None:
    """Keep what a run found or marked at a step, beside what it found before."""
    said = f"{row.unit.name} {row.unit.serial} {entry.note}"
    _add(session, f"run/{row.id}", [("finding", f"/log/{row.id}", words, said)])


def _keep(session: Session, owner: str, rows: Iterable[tuple[str, str, str, str]]) -> None:
    session.execute(delete(SearchRow).where(SearchRow.owner == owner))
    _add(session, owner, rows)


def _add(session: Session, owner: str, rows: Iterable[tuple[str, str, str, str]]) -> None:
    session.add_all(
        SearchRow(
            owner=owner, kind=kind, address=address[:300], title=title[:300], body=body[:MAX_BODY]
        )
        for kind, address, title, body in rows
    )
    session.flush()


def find(session: Session, typed: str) -> Sequence[SearchRow]:
    """What fits all words typed so far, the last of them perhaps not finished; best first."""
    words = re.findall(r"[\w/.·×-]+", typed.lower())[:8]
    if not words:
        return []
    # A word with a sign in it is several to the index; each of them is looked for as begun.
    pieces = [p for word in words for p in re.findall(r"\w+", word)]
    query = func.to_tsquery("simple", " & ".join(f"{piece}:*" for piece in pieces))
    few, many = SearchRow.kind.not_in(MANY), SearchRow.kind.in_(MANY)
    found = _best(session, query, few)
    return (
        found
        if len(found) == MAX_FOUND
        else found + _best(session, query, many, MAX_FOUND - len(found))
    )


# Steps and findings are by far the most; they come last, and are looked at only then.
MANY = ("step", "finding")
# What fits beyond so many is not ranked: nobody reads on to it.
RANKED = 1000


def _best(
    session: Session, query: ColumnElement[Any], which: ColumnElement[bool], most: int = MAX_FOUND
) -> list[SearchRow]:
    fits = select(SearchRow).where(SearchRow.words.op("@@")(query), which).limit(RANKED)
    fitting = aliased(SearchRow, fits.subquery())
    rank = func.ts_rank(fitting.words, query)
    kind = case(
        {key: index for index, key in enumerate(KINDS)}, value=fitting.kind, else_=len(KINDS)
    )
    order = (kind, desc(rank), func.length(fitting.title), fitting.id)
    return list(session.scalars(select(fitting).order_by(*order).limit(most)))
