"""The log in open formats: one line a run."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, fields

from eldrim.exchange.procedure_files import csv_text


@dataclass(frozen=True)
class LogLine:
    """One signed run: minutes and money are empty where they are not known; times in UTC."""

    run: str
    signed: str
    unit: str
    unit_name: str
    serial: str
    engine: str
    job: str
    edition: int
    by: str
    meter: float | None
    meter_unit: str
    unfinished: bool
    marks: Mapping[str, int]
    found: tuple[str, ...]
    parts: tuple[str, ...]
    planned_minutes: float
    took_minutes: float | None
    planned_cost: float | None
    real_cost: float | None


COLUMNS = tuple(field.name for field in fields(LogLine))


def log_csv(lines: Sequence[LogLine]) -> str:
    """One row a run; what there is several of is parted by semicolons."""
    return csv_text(COLUMNS, [[_cell(getattr(line, name)) for name in COLUMNS] for line in lines])


def _cell(value: object) -> object:
    if isinstance(value, Mapping):
        return "; ".join(f"{key} {count}" for key, count in value.items())
    if isinstance(value, tuple):
        return "; ".join(value)
    if isinstance(value, bool):
        return "yes" if value else ""
    return "" if value is None else value


def log_json(lines: Sequence[LogLine], asked: Mapping[str, str], *, more: bool) -> str:
    """All lines, what they were asked by, and whether there are more than these."""
    body = {
        "format": "eldrim.log/1",
        "asked": dict(asked),
        "more": more,
        "runs": [asdict(line) for line in lines],
    }
    return json.dumps(body, ensure_ascii=False, indent=1)
