"""Parts: where they are, how long they lasted, and which units a number is in now."""

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field

from eldrim.core.lessons.parts import Lasting, PartLife, bad_batches, lasting, wears_fast
from eldrim.drawing import survival
from eldrim.exchange.procedure_files import csv_text
from eldrim.store import gathered, lives, unit_store
from eldrim.store.lesson_tables import FittedPartRow
from eldrim.web.context import Db, SignedIn, render
from eldrim.web.forms import download

router = APIRouter(include_in_schema=False)
KINDS, PAGE, IN_A_FILE = 120, 100, 20_000
COUNTS = ("h", "km")
Number = Annotated[str, Query(max_length=120)]


@router.get("/parts")
def index(
    request: Request, db: Db, _: SignedIn, said: Annotated[str, Query(max_length=80)] = ""
) -> Response:
    """What was ever fitted, by number; what fails most often first."""
    gathered.settle(db, 20)
    found = lives.kinds(db, said.strip(), KINDS + 1)
    return render(
        request, "lessons/parts.html.jinja", kinds=found[:KINDS], more=len(found) > KINDS, said=said
    )


class AskedPart(BaseModel):
    """A number, or all of a kind where none is asked for; and where its list of units goes on."""

    number: Annotated[str, Field(max_length=120)] | None = None
    unit: Annotated[str, Field(max_length=48)] = ""
    row: Annotated[int, Field(ge=0, le=2**62)] = 0


@router.get("/parts/{thing}")
def show(
    request: Request, db: Db, _: SignedIn, thing: str, asked: Annotated[AskedPart, Query()]
) -> Response:
    """One number, or all of a kind: how long it lasts, batches that fail, holes that wear, where it
    is now.
    """
    if asked.number is None:
        known = lives.newest(db, thing, lives.LIVES)
        rows: Sequence[FittedPartRow] = ()
    else:
        known = lives.of_number(db, thing, asked.number)
        rows = lives.in_place(db, thing, asked.number, (asked.unit, asked.row), PAGE + 1)
    return render(
        request,
        "lessons/part.html.jinja",
        thing=thing,
        number=asked.number,
        lives=known,
        lasting=[(one, survival.draw(one)) for one in _lasting(known)],
        batches=bad_batches(known),
        fast=[one for counts in COUNTS for one in wears_fast(known, counts)],
        failed=[one for one in known if one.failed][:40],
        units=unit_store.called(db, {one.unit for one in known}),
        rows=rows[:PAGE],
        more=rows[PAGE - 1] if len(rows) > PAGE else None,
        most=lives.LIVES,
    )


def _lasting(known: Sequence[PartLife]) -> list[Lasting]:
    found = (lasting(known, counts) for counts in COUNTS)
    return [one for one in found if one is not None]


@router.get("/parts/{thing}/recall.csv")
def recall(db: Db, _: SignedIn, thing: str, number: Number) -> Response:
    """Every unit a number is in now, and where."""
    rows = lives.in_place(db, thing, number, ("", 0), IN_A_FILE)
    table = [_row(row) for row in rows]
    names = ("unit", "name", "serial", "place", "thing", "hole", "fitted", "run")
    return download(csv_text(names, table), "text/csv; charset=utf-8", "recall.csv")


def _row(row: FittedPartRow) -> list[object]:
    unit = row.unit
    where = (row.thing, row.hole, row.at.date().isoformat(), str(row.run_id))
    return [unit.id, unit.name, unit.serial, unit.place, *where]
