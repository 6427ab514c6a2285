"""A table of fasteners and other joints, a row each, as it is kept in spreadsheets.

A row names its part and says the joint: in one column ``held by``, in the shorthand of the board,
or in columns of their own. A unit may stand in the head of a column, as ``torque (N·m)``.
"""

import re
from dataclasses import dataclass
from difflib import get_close_matches

from pydantic import ValidationError

from eldrim.core.base.errors import EngineError, Problem, ProblemsError
from eldrim.core.capture.held import add_joint, printed_torque
from eldrim.core.capture.part_access import part_called
from eldrim.core.capture.shorthand import Said, numbered, shorthand, understand
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.exchange.model_faults import fault_words
from eldrim.exchange.table_text import table_rows

MAX_BYTES = 200_000
MAX_ROWS = 300
PART, LINE = "part", "held by"
# Columns in the order in which the shorthand is written, and how a cell stands in it.
CELLS = {
    "count": "{}",
    "head": "{}",
    "kind": "{}",
    "size": "{}",
    "torque": "{}",
    "socket": "{}",
    "drive": "drive {}",
    "carries": "{}",
    "at": "at {}",
    "name": '"{}"',
    "part number": "{}",
    "note": "({})",
}
FLAGS = ("one-time", "plastic", "isolate", "mirror", "pressurised")
COLUMNS = (PART, LINE, *list(CELLS)[:8], *FLAGS, *list(CELLS)[8:])
_YES = ("yes", "x", "1", "true", "ja")
_NUMBER = re.compile(r"\d+(?:[.,]\d+)?(?:\s*(?:to|-|–)\s*\d+(?:[.,]\d+)?)?")
_HEAD = re.compile(r"(.+?)\s*[(\[,]\s*([^)\]]+)[)\]]?")


@dataclass(frozen=True)
class FastenerRow:
    """One row read: the part it is of, the joint, or why it cannot be taken in.

    ``known`` says that the part is held so already: such a row adds nothing.
    """

    number: int
    part: str
    line: str
    said: Said | None = None
    known: bool = False
    problem: str = ""


def read_fasteners(engine: Engine, text: str) -> tuple[FastenerRow, ...]:
    """Every row of a table, each with what it says or what is wrong with it.

    Raises :class:`ProblemsError` where the table itself cannot be read.
    """
    names, rows = table_rows(text)
    units = _units(names)
    if len(rows) > MAX_ROWS:
        most = gettext("at most {max_rows}", max_rows=MAX_ROWS)
        raise ProblemsError([Problem("", gettext("{rows} rows", rows=len(rows)), most)])
    stated = [
        (number, row) for number, row in enumerate(rows, 2) if any(map(str.strip, row.values()))
    ]
    found = [_row(engine, number, _plain(row, units), units) for number, row in stated]
    if not found:
        raise ProblemsError([Problem("", gettext("no row is said"), gettext("a row a joint"))])
    return tuple(found)


def _units(names: list[str]) -> dict[str, tuple[str, str]]:
    """Every column as it is named, with the column it is and the unit in its head."""
    found = {}
    for name in names:
        headed = _HEAD.fullmatch(name)
        plain, unit = (headed[1], headed[2]) if headed else (name, "")
        if plain not in COLUMNS:
            said = gettext("column '{name}' is not known", name=name[:40])
            fix = gettext("use {columns}", columns=", ".join(COLUMNS))
            raise ProblemsError([Problem("first row", said, fix)])
        found[name] = (plain, unit)
    if PART not in [plain for plain, _ in found.values()]:
        said, fix = gettext("there is no column 'part'"), gettext("name the part of each row")
        raise ProblemsError([Problem("first row", said, fix)])
    return found


def _plain(row: dict[str, str], units: dict[str, tuple[str, str]]) -> dict[str, str]:
    return {units[name][0]: cell.strip() for name, cell in row.items() if name in units}


def _row(
    engine: Engine, number: int, row: dict[str, str], units: dict[str, tuple[str, str]]
) -> FastenerRow:
    line = row.get(LINE) or _composed(row, {plain: unit for plain, unit in units.values()})
    part = part_called(engine, row.get(PART, ""))
    if part is None:
        return FastenerRow(number, row.get(PART, ""), line, problem=_no_part(engine, row))
    try:
        if _NUMBER.fullmatch(row.get("torque", "")) and not _unit_of("torque", units):
            said = gettext("'{torque}' has no unit", torque=row["torque"])
            return FastenerRow(number, part, line, problem=said)
        told = understand(line)
    except EngineError as error:
        return FastenerRow(number, part, line, problem=str(error))
    except ValidationError as error:
        return FastenerRow(number, part, line, problem=fault_words(error.errors()[0]))
    return FastenerRow(number, part, line, told, _is_known(engine, part, told))


def _unit_of(column: str, units: dict[str, tuple[str, str]]) -> str:
    return next((unit for plain, unit in units.values() if plain == column), "")


def _composed(row: dict[str, str], units: dict[str, str]) -> str:
    """The line a row means in shorthand; a bare size is in mm."""
    said = []
    for column, form in CELLS.items():
        if not (cell := row.get(column, "")):
            continue
        unit = units.get(column, "") or ("mm" if column == "size" else "")
        cell = f"{cell} {unit}" if unit and _NUMBER.fullmatch(cell) else cell
        said.append(form.format(numbered(cell) if column == "part number" else cell))
    flags = [flag for flag in FLAGS if row.get(flag, "").lower() in _YES]
    last = said[-1:] if row.get("note") else []
    return " ".join([*said[: len(said) - len(last)], *flags, *last])


def _no_part(engine: Engine, row: dict[str, str]) -> str:
    said, names = row.get(PART, ""), [part.name for part in engine.parts.values()]
    near = get_close_matches(said, names, n=2, cutoff=0.5) or names
    told = gettext("'{said}' is no part", said=said)
    return f"{told} ({gettext('did you mean {near}?', near=', '.join(near[:6]))})"


def _is_known(engine: Engine, part: str, told: Said) -> bool:
    """Whether the part is held so already: the table may be taken in twice."""
    meant, at = shorthand(told.joint, str(told.torque or "")), {"at": told.joint.at}
    return meant in [
        shorthand(joint.model_copy(update=at), printed_torque(engine, joint))
        for joint in engine.parts[part].joints.values()
    ]


def with_fasteners(engine: Engine, rows: tuple[FastenerRow, ...]) -> Engine:
    """The sheet with every row that says something new.

    Raises :class:`EngineError` where a row is wrong: all are taken in, or none.
    """
    wrong = [Problem(gettext("row {row}", row=r.number), r.problem) for r in rows if r.problem]
    if wrong:
        raise EngineError(wrong)
    for row in rows:
        if row.said is not None and not row.known:
            engine = add_joint(engine, row.part, row.said)
    return engine
