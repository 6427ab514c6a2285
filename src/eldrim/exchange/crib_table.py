"""The crib as rows: one table for CSV files and for the page, read all or nothing."""

import csv
import io
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from pydantic import ValidationError

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.tools.crib import KINDS, Crib, Tool, kind_of
from eldrim.core.words.messages import gettext
from eldrim.exchange.engine_file import FIXES
from eldrim.exchange.model_faults import fault_words
from eldrim.exchange.procedure_files import plain_cell
from eldrim.exchange.table_text import decoded, table_rows

MAX_BYTES = 400_000
MAX_ROWS = 1500
ALWAYS = ("id", "count", "price", "mark", "note")
# Column of the table to field of the model, kind by kind; "type" tells varieties of one kind.
FIELDS: dict[str, dict[str, str]] = {
    "sockets": {"drive": "drive", "shape": "head", "size": "size", "points": "points",
                "length": "length", "depth": "depth", "outside": "outside", "insert": "insert",
                "offset": "offset"},
    "extensions": {"drive": "drive", "type": "kind", "length": "length", "outside": "outside"},
    "swivels": {"drive": "drive", "length": "length", "outside": "outside", "limit": "limit"},
    "reducers": {"drive": "drive", "to": "to", "length": "length", "outside": "outside"},
    "handles": {"drive": "drive", "type": "kind", "length": "length", "head": "head",
                "swing": "swing"},
    "wrenches": {"drive": "drive", "type": "kind", "unit": "unit", "least": "least",
                 "full scale": "full_scale", "graduation": "graduation", "preset": "preset",
                 "tolerance": "tolerance", "length": "length", "head": "head", "due": "due"},
    "specials": {"called": "called"},
}  # fmt: skip
COLUMNS = (
    "kind",
    *ALWAYS[:1],
    *dict.fromkeys(c for field in FIELDS.values() for c in field),
    *ALWAYS[1:],
)

Row = Mapping[str, str]


def to_rows(crib: Crib) -> list[dict[str, str]]:
    """Every tool as a row of text; what a kind does not have stays empty."""
    return [_row(tool) for tool in crib.all()]


def _row(tool: Tool) -> dict[str, str]:
    kind, plain = kind_of(tool), tool.model_dump(mode="json")
    row = dict.fromkeys(COLUMNS, "")
    row["kind"] = kind
    for column in ALWAYS:
        row[column] = _text(plain[column])
    for column, field in FIELDS[kind].items():
        row[column] = _text(plain[field])
    return row


def _text(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:g}" if value else ""
    return "" if value is None else str(value)


def from_rows(rows: Iterable[Row], version: int) -> Crib:
    """Build a crib from rows.

    Raises :class:`ProblemsError` naming row and column of everything that is wrong with them.
    """
    lists: dict[str, list[Tool]] = {kind: [] for kind in KINDS}
    problems: list[Problem] = []
    for number, row in enumerate(_keyed(rows), 1):
        kind = row.get("kind", "").strip()
        place = f"row {number}"
        if kind not in KINDS:
            known = ", ".join(KINDS)
            problems.append(
                Problem(f"{place}, kind", gettext("'{kind}' is no kind of tool", kind=kind), known)
            )
            continue
        try:
            lists[kind].append(KINDS[kind].model_validate(_fields(kind, row)))
        except ValidationError as error:
            problems += _problems(error, kind, f"{place} ({kind} {row.get('id', '')})")
    if not problems:
        try:
            return Crib.model_validate({"version": version, **lists})
        except ValidationError as error:
            problems += [
                Problem("crib", fault_words(fault), gettext("change one of them"))
                for fault in error.errors()
            ]
    raise ProblemsError(problems)


def _keyed(rows: Iterable[Row]) -> Iterator[Row]:
    """The rows, each without a key given one made of what it is."""
    every = list(rows)
    taken = {r.get("id", "") for r in every}
    for row in every:
        if row.get("id", "").strip():
            yield row
            continue
        words = [row.get(c, "") for c in ("kind", "called", "drive", "size", "length", "mark")]
        base = re.sub(r"[^a-z0-9]+", "-", " ".join(words).lower().replace("⅜", "3-8")).strip("-")
        key, number = base[:40].strip("-"), 2
        while key in taken:
            key, number = f"{base[:40].strip('-')}-{number}", number + 1
        taken.add(key)
        yield {**row, "id": key}


def _fields(kind: str, row: Row) -> dict[str, Any]:
    """The fields of one row that say something; numbers with a comma are understood."""
    names = {**{c: c for c in ALWAYS}, **FIELDS[kind]}
    found = {field: row.get(column, "").strip() for column, field in names.items()}
    kept = {field: text for field, text in found.items() if text}
    for field in ("points", "count"):
        if kept.get(field, "").isdigit():
            kept[field] = int(kept[field])  # type: ignore[assignment]
    for field in ("price", "least", "full_scale", "graduation", "preset", "tolerance"):
        if field in kept:
            kept[field] = _share(kept[field].replace(",", "."))
    return kept


def _share(text: str) -> str:
    """A tolerance may be written ``4 %``."""
    bare = text.removesuffix("%").strip()
    try:
        return str(float(bare) / 100) if text.endswith("%") else bare
    except ValueError:
        return text


def _problems(error: ValidationError, kind: str, place: str) -> list[Problem]:
    columns = {field: column for column, field in FIELDS[kind].items()}
    found = []
    for e in error.errors():
        field = str(e["loc"][0]) if e["loc"] else ""
        fix = FIXES.get(e["type"], "see docs/crib.md")
        expected = e.get("ctx", {}).get("expected", "")
        path = f"{place}, {columns.get(field, field)}" if field else place
        found.append(Problem(path, fault_words(e), fix.format(expected=expected)))
    return found


def write_csv(crib: Crib) -> str:
    """The crib as CSV, one row a tool; reading it back gives an equal crib."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    writer.writeheader()
    writer.writerows({k: plain_cell(cell) for k, cell in row.items()} for row in to_rows(crib))
    return out.getvalue()


def read_csv(data: bytes, version: int = 1) -> Crib:
    """Read a crib from the bytes of a CSV file; commas, semicolons or tabs between columns.

    Raises :class:`ProblemsError`.
    """
    return from_rows(_rows(decoded(data, MAX_BYTES)), version)


def _rows(text: str) -> list[dict[str, str]]:
    names, rows = table_rows(text)
    unknown = [name for name in names if name not in COLUMNS]
    if "kind" not in names or unknown:
        what = (
            gettext("column '{unknown}' is not known", unknown=unknown[0])
            if unknown
            else gettext("there is no column 'kind'")
        )
        raise ProblemsError(
            [Problem("first row", what, gettext("use {columns}", columns=", ".join(COLUMNS)))]
        )
    if len(rows) > MAX_ROWS:
        raise ProblemsError(
            [
                Problem(
                    "",
                    gettext("{rows} rows", rows=len(rows)),
                    gettext("at most {max_rows}", max_rows=MAX_ROWS),
                )
            ]
        )
    return [r for r in rows if any(v.strip() for v in r.values())]
