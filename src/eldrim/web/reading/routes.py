"""What a set of plugs tells, at the desk: typed hole by hole, answered while one types."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.model import Engine
from eldrim.core.reading.observed import Known, PlugSet
from eldrim.core.reading.signs import SIGNS, in_order
from eldrim.core.reading.typed_signs import MAX_TEXT, TypedSet, read_signs, read_since
from eldrim.core.reading.verdict import verdict_of
from eldrim.core.reading_choices import COIL_CONDITIONS, MORE_PLUG_CONDITIONS, PLUG_CONDITIONS
from eldrim.core.run.plug_set import signs_at
from eldrim.core.words import say
from eldrim.drawing import plug_condition
from eldrim.exchange.gathering import Gathering
from eldrim.store import past_runs, sheet_store, unit_store
from eldrim.store.tables import UnitRow
from eldrim.web.bay.tray import tray_of
from eldrim.web.context import Db, SignedIn, render, swaps
from eldrim.web.reading.view import ReadingView, reading_view

router = APIRouter(include_in_schema=False)
HOLE = "hole-"
Short = Annotated[str, Field(max_length=120)]


class PlugsForm(BaseModel):
    """What is asked besides the holes, as the form sends it."""

    unit: Annotated[str, Field(max_length=48)] = ""
    variant: Short = ""
    since: Short = ""
    known: list[Known] = []


@dataclass(frozen=True)
class HoleField:
    """One hole on the form: where it lies in the tray, what was typed, what it showed last."""

    hole: str
    place: tuple[int, int]
    typed: str
    last: str


@router.get("/engines/{engine_id}/plugs")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, form: Annotated[PlugsForm, Query()]
) -> Response:
    """A set said hole by hole, and what it tells; of a unit beside its last set."""
    sheet = sheet_store.sheet(db, engine_id)
    unit = unit_store.unit(db, form.unit) if form.unit else None
    last = _last(db, unit)
    typed = {hole: request.query_params.get(f"{HOLE}{hole}", "")[:MAX_TEXT] for hole in sheet.holes}
    view: ReadingView | None = None
    problems: Sequence[Problem] = ()
    if any(said.strip() for said in typed.values()):
        view, problems = _answered(sheet, form, typed, last)
    tray = tray_of(sheet)
    return render(
        request,
        "reading/answer.html.jinja" if swaps(request) else "reading/show.html.jinja",
        engine=sheet,
        unit=unit,
        asked=form,
        fields=[HoleField(h, tray[h], typed[h], _words(last.get(h))) for h in sheet.holes],
        view=view,
        problems=problems,
        known=[(one, say(f"reading.known.{one}")) for one in Known],
        faces=faces(),
        symbols=plug_condition.symbols(),
    )


def _answered(
    sheet: Engine, form: PlugsForm, typed: dict[str, str], last: dict[str, frozenset[str]]
) -> tuple[ReadingView | None, Sequence[Problem]]:
    """What the set tells, or everything that is not understood."""
    said = "; ".join(
        f"{hole}={signs.replace(';', ',')}" for hole, signs in typed.items() if signs.strip()
    )
    parts = Gathering()
    km, hours = parts.read((None, None), read_since, form.since)
    signs = parts.read(TypedSet({}), read_signs, sheet, f"{said}; rest=?")
    try:
        parts.require_nothing_wrong()
    except ProblemsError as error:
        return None, error.problems
    plugs = PlugSet(
        seen=signs.seen,
        gaps=signs.gaps,
        since_km=km,
        since_h=hours,
        known=frozenset(form.known),
        last=last,
    )
    variant = form.variant if form.variant in sheet.variants else next(iter(sheet.variants))
    return reading_view(sheet, verdict_of(sheet, variant, plugs), plugs), ()


def _last(db: Session, unit: UnitRow | None) -> dict[str, frozenset[str]]:
    """What the last signed run on a unit saw at its holes."""
    past = past_runs.past(db, unit.id, most=1) if unit else []
    return signs_at(past[0].plan, past[0].state) if past else {}


def _words(signs: frozenset[str] | None) -> str:
    if signs is None:
        return ""
    return ", ".join(say(f"reading.sign.{sign}") for sign in in_order(signs))


def faces() -> list[tuple[str, str, str]]:
    """What can be tapped instead of typed: the word for it, how it reads, how it looks."""
    plain = [one for one in COIL_CONDITIONS if one != "sound"]
    found = [(one, plug_condition.draw(one)) for one in (*PLUG_CONDITIONS, *MORE_PLUG_CONDITIONS)]
    found += [(one, "") for one in plain]
    return [(one, _face_words(one), drawn) for one, drawn in found]


def _face_words(one: str) -> str:
    return say(f"reading.sign.{one}" if one in SIGNS else f"seen.{one}")
