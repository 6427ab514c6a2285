"""The crib: a table of tools, saved whole as a version, with CSV in and out."""

from typing import Annotated

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session
from starlette.datastructures import FormData

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.procedure.whole_job.tool_roll import as_item
from eldrim.core.tools.crib import KINDS, Crib
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.drawing import tool_roll
from eldrim.exchange.crib_table import (
    COLUMNS,
    FIELDS,
    MAX_BYTES,
    from_rows,
    read_csv,
    to_rows,
    write_csv,
)
from eldrim.store import audit
from eldrim.store import crib as crib_store
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.filters import today
from eldrim.web.forms import FormFields, download, whole_number

SPARE_ROWS = 2
CHOICES = {
    "drive": ("1/4", "3/8", "1/2"),
    "to": ("1/4", "3/8", "1/2"),
    "points": ("6", "12"),
    "insert": ("none", "rubber", "magnet", "spring"),
    "shape": ("hex", "inner_hex", "six_lobe", "cross", "slot"),
    "unit": ("N·m", "lbf·ft", "lbf·in", "kgf·m", "kgf·cm"),
}
TYPES = {
    "extensions": ("plain", "locking", "wobble"),
    "handles": ("ratchet", "flex_ratchet", "breaker", "t_bar", "spinner"),
    "wrenches": ("click", "dial", "beam", "electronic", "preset"),
}
# How a value is read where its key is an inner word.
VALUE_WORDS = {
    "flex_ratchet": gettext_lazy("flex-head ratchet"),
    "breaker": gettext_lazy("breaker bar"),
    "t_bar": gettext_lazy("T-bar"),
    "inner_hex": gettext_lazy("inner hex"),
    "six_lobe": gettext_lazy("six-lobe"),
}
TITLES = {
    "sockets": gettext_lazy("Sockets and bits"),
    "extensions": gettext_lazy("Extensions"),
    "swivels": gettext_lazy("Universal joints"),
    "reducers": gettext_lazy("Drive reducers"),
    "handles": gettext_lazy("Handles"),
    "wrenches": gettext_lazy("Torque wrenches"),
    "specials": gettext_lazy("Everything else"),
}


router = APIRouter(include_in_schema=False)


@router.get("/crib")
def show(request: Request, db: Db, _: SignedIn) -> Response:
    """All tools, kind by kind."""
    crib = crib_store.in_force(db)
    return _page(request, db, crib.version, to_rows(crib))


def _page(
    request: Request,
    db: Session,
    version: int,
    rows: list[dict[str, str]],
    problems: tuple[Problem, ...] = (),
    reason: str = "",
) -> Response:
    crib = crib_store.in_force(db)
    names = {t.id: t.shown for t in crib.all()}
    shapes = {t.id: tool_roll.lying(as_item(t)) for t in crib.all()}
    return render(
        request,
        "crib/show.html.jinja",
        status=422 if problems else 200,
        version=version,
        next_version=version + 1,
        tables=_tables(rows),
        names=names,
        shapes=shapes,
        problems=problems,
        reason=reason,
        choices=CHOICES,
        value_words=VALUE_WORDS,
        types=TYPES,
        overdue=[wrench for wrench in crib.wrenches if wrench.overdue(today())],
        history=crib_store.history(db),
        titles=TITLES,
    )


def _tables(rows: list[dict[str, str]]) -> list[tuple[str, list[str], list[dict[str, str]]]]:
    """For each kind its columns and its rows, with a few empty ones to add in."""
    found = []
    for kind in KINDS:
        columns = [*FIELDS[kind], "count", "price", "mark", "note"]
        own = [row for row in rows if row["kind"] == kind]
        spare = [dict.fromkeys(COLUMNS, "") | {"kind": kind} for _ in range(SPARE_ROWS)]
        found.append((kind, columns, own + spare))
    return found


@router.post("/crib")
def save(request: Request, db: Db, signed_in: Trainer, form: FormFields) -> Response:
    """Keep the table as the next version, or show it again with what is wrong in it."""
    version, reason = _version(form), str(form.get("reason") or "").strip()[:400]
    rows = typed_rows(form)
    try:
        if not reason:
            raise ProblemsError(
                [Problem("reason", gettext("say why the crib changes"), gettext("one line"))]
            )
        made = from_rows(rows, version)
        crib_store.save(db, made, signed_in.name, reason)
        audit.note(db, signed_in.name, "crib changed", f"version {made.version}", why=reason)
    except ProblemsError as error:
        return _page(request, db, version, rows, tuple(error.problems), reason)
    return RedirectResponse("/crib", 303)


def typed_rows(form: FormData) -> list[dict[str, str]]:
    """The rows of the table as typed; rows left empty or marked as gone are left out."""
    cells: dict[str, dict[str, str]] = {}
    for name, value in form.multi_items():
        row, _, column = name.partition("/")
        if column and isinstance(value, str):
            cells.setdefault(row, {})[column] = value
    kept = []
    for row, typed in cells.items():
        said = any(typed.get(c, "").strip() for c in ("id", "size", "length", "called"))
        if said and not typed.get("gone"):
            kept.append({**dict.fromkeys(COLUMNS, ""), **typed, "kind": row.partition("-")[0]})
    return kept


def _version(form: FormData) -> int:
    return whole_number("version", str(form.get("version") or "")) or 0


@router.get("/crib.csv")
def as_csv(db: Db, _: SignedIn) -> Response:
    """The crib as a CSV file."""
    crib: Crib = crib_store.in_force(db)
    return download(write_csv(crib), "text/csv; charset=utf-8", "crib.csv")


@router.post("/crib/file")
def upload(
    request: Request,
    db: Db,
    signed_in: Trainer,
    file: Annotated[UploadFile, File()],
    form: FormFields,
) -> Response:
    """Take in a CSV file as the next version, whole or not at all."""
    now = crib_store.in_force(db)
    if _version(form) != now.version:
        raise ConflictError(gettext("Somebody else changed the crib meanwhile. Look at it again."))
    try:
        made = read_csv(file.file.read(MAX_BYTES + 1), now.version)
    except ProblemsError as error:
        return _page(request, db, now.version, to_rows(now), tuple(error.problems))
    why = f"From the file {(file.filename or '')[:80]}"
    crib_store.save(db, made, signed_in.name, why)
    audit.note(db, signed_in.name, "crib changed", f"version {made.version}", why=why)
    return RedirectResponse("/crib", 303)
