"""Beside the engine: tap what comes off as it comes off, then answer what only you can tell."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from eldrim.core.capture import edits
from eldrim.core.capture.teardown import AWAY, TapAct, derive, reply
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import PartKind
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.drawing import engine_plan
from eldrim.store import drafts
from eldrim.web.capture.page import PALETTE
from eldrim.web.context import Db, SignedIn, Trainer, render
from eldrim.web.forms import decimal_number

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=60)]
Back = Annotated[bool, Form()]
# How a part gets out of the way, as it is asked beside the engine.
MANNERS = (
    ("off", gettext_lazy("What came off?")),
    ("aside", gettext_lazy("Slid or swung aside")),
    ("unclip", gettext_lazy("Unclipped")),
)


@router.get("/capture/{engine_id}/teardown")
def show(request: Request, db: Db, _: SignedIn, engine_id: str, back: bool = False) -> Response:
    """The plan with large things to tap; ``back`` while the engine is put together again."""
    return _page(request, db, engine_id, back)


def _page(request: Request, db: Session, engine_id: str, back: bool, problem: str = "") -> Response:
    draft, taps = drafts.current(db, engine_id), drafts.taps(db, engine_id)
    off = list(dict.fromkeys(t.what for t in taps if t.act in AWAY))
    on = {tap.what for tap in taps if tap.act == "on"}
    opened = {t.what for t in taps if t.act == "open"}
    return render(
        request,
        "capture/teardown.html.jinja",
        status=422 if problem else 200,
        problem=problem,
        paused=bool(taps) and taps[-1].act == "pause",
        manners=MANNERS,
        engine=draft.engine,
        draft=draft,
        taps=taps,
        off=off,
        on=on,
        opened=opened,
        back=back,
        palette=PALETTE,
        taught=derive(draft.engine, taps),
        drawing=engine_plan.draw(draft.engine, engine_plan.PlanView(photo=True)),
    )


class TapForm(BaseModel):
    """One tap: what came off, went on or was found open. Its id is made by the client."""

    id: UUID
    act: TapAct
    what: Annotated[str, Field(max_length=60)] = ""
    back: bool = False


@router.post("/capture/{engine_id}/teardown/tap")
def tap(db: Db, _: Trainer, engine_id: str, form: Annotated[TapForm, Form()]) -> Response:
    """Keep one tap with its time."""
    drafts.tap(db, form.id, engine_id, form.act, form.what)
    return _there(engine_id, form.back)


class NewPartForm(BaseModel):
    """A part met while taking apart: what it is, what it is called, and where it was tapped."""

    id: UUID
    kind: PartKind
    name: Annotated[str, Field(max_length=60)] = ""
    over: Annotated[str, Field(max_length=60)] = ""
    x: Annotated[str, Field(max_length=20)] = ""
    y: Annotated[str, Field(max_length=20)] = ""

    def place(self, engine: Engine) -> tuple[float, float] | None:
        """Where it lies on the plan, in mm; None where nobody said."""
        across, down = decimal_number("x", self.x), decimal_number("y", self.y)
        if across is not None and down is not None:
            width, height = engine.layout.plan
            return min(max(across, 0.0), width), min(max(down, 0.0), height)
        well = engine.holes.get(self.over)
        return well[1].at if well else None


@router.post("/capture/{engine_id}/teardown/new")
def new_part(
    request: Request,
    db: Db,
    signed_in: Trainer,
    engine_id: str,
    form: Annotated[NewPartForm, Form()],
) -> Response:
    """A part not drawn yet came off: it is named, and put where it was tapped or over a hole.

    Without a place it is asked for: what lies over what is told from it.
    """
    draft = drafts.current(db, engine_id)
    place = form.place(draft.engine)
    if place is None:
        asked = gettext("Where does it lie? Tap on the plan, or choose the hole it lies over.")
        return _page(request, db, engine_id, False, asked)
    made, key = edits.add_part(draft.engine, form.kind, place, form.name)
    drafts.push(
        db, draft.number, made, gettext("came off: {key}", key=made.parts[key].name), signed_in.name
    )
    drafts.tap(db, form.id, engine_id, "off", key)
    return _there(engine_id, False)


@router.post("/capture/{engine_id}/teardown/undo")
def undo(db: Db, _: Trainer, engine_id: str, back: Back = False) -> Response:
    """Take the last tap back."""
    drafts.untap(db, engine_id)
    return _there(engine_id, back)


@router.post("/capture/{engine_id}/teardown/answer")
def answer(
    db: Db, signed_in: Trainer, engine_id: str, first: Short, then: Short, needed: Short
) -> Response:
    """Keep what only the trainer could tell."""
    draft = drafts.current(db, engine_id)
    made = reply(draft.engine, first, then, needed=needed == "yes")
    drafts.push(
        db,
        draft.number,
        made,
        gettext("{first} before {then}: {needed}", first=first, then=then, needed=needed),
        signed_in.name,
    )
    return _there(engine_id, True)


@router.post("/capture/{engine_id}/teardown/take")
def take(db: Db, signed_in: Trainer, engine_id: str) -> Response:
    """Put what the teardown tells on the sheet; the taps have done their work then."""
    draft = drafts.current(db, engine_id)
    taught = derive(draft.engine, drafts.taps(db, engine_id))
    drafts.push(db, draft.number, taught.engine, "teardown", signed_in.name)
    drafts.clear_taps(db, engine_id)
    return RedirectResponse(f"/capture/{engine_id}", 303)


def _there(engine_id: str, back: bool) -> Response:
    return RedirectResponse(f"/capture/{engine_id}/teardown{'?back=true' if back else ''}", 303)
