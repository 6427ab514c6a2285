"""A lead sees everybody, adds and lets go; anyone changes their own password, a lead their PIN."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.messages import gettext
from eldrim.core.run.entries import Role
from eldrim.store import accounts, audit, bays, edition_store, people, runs
from eldrim.store.accounts import Person
from eldrim.store.errors import ConflictError, ThrottledError
from eldrim.web.context import COOKIE, Db, Lead, SignedIn, Writer, render

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=80)]
Secret = Annotated[str, Form(max_length=200)]


@router.get("/people")
def index(request: Request, db: Db, signed_in: SignedIn) -> Response:
    """Everybody, for a lead; oneself, for the others."""
    return _page(request, db, signed_in)


def _page(
    request: Request,
    db: Db,
    signed_in: Person,
    *,
    said: str = "",
    problems: tuple[str, ...] = (),
    typed: dict[str, str] | None = None,
) -> Response:
    all_of_us = people.everybody(db) if signed_in.role == Role.LEAD.value else []
    return render(
        request,
        "people/index.html.jinja",
        status=422 if problems else 200,
        people=all_of_us,
        roles=list(Role),
        said=said,
        problems=problems,
        typed=typed or {},
        me=people.person(db, signed_in.name),
        bays=bays.bays(db),
        sign_ins=accounts.sessions_of(db, signed_in.name),
        this_one=accounts.digest(request.cookies.get(COOKIE, "")),
        mark=accounts.MARK,
    )


class PersonForm(BaseModel):
    """A new person: the name to sign in with, the one they are called by, role and password."""

    name: Annotated[str, Field(max_length=80)] = ""
    display: Annotated[str, Field(max_length=80)] = ""
    role: Annotated[str, Field(max_length=80)] = ""
    password: Annotated[str, Field(max_length=200)] = ""


@router.post("/people")
def add(request: Request, db: Db, lead: Lead, form: Annotated[PersonForm, Form()]) -> Response:
    """Add a person; what was typed stays when something is wrong, but for the password."""
    try:
        people.add(db, form.name, form.display, form.role, form.password)
    except ProblemsError as error:
        typed = form.model_dump(exclude={"password"})
        found = tuple(f"{problem.message}: {problem.fix}" for problem in error.problems)
        return _page(request, db, lead, problems=found, typed=typed)
    audit.note(db, lead.name, "person added", form.name.strip().lower(), role=form.role)
    return RedirectResponse("/people", 303)


@router.post("/bays")
def add_bay(request: Request, db: Db, lead: Lead, bay: Short = "") -> Response:
    """Name a bay, so that a run can say where it is done."""
    try:
        bays.add(db, bay)
    except ProblemsError as error:
        found = tuple(f"{problem.message}: {problem.fix}" for problem in error.problems)
        return _page(request, db, lead, problems=found, typed={"bay": bay})
    audit.note(db, lead.name, "bay added", bay)
    return RedirectResponse("/people", 303)


@router.post("/bays/away")
def remove_bay(db: Db, lead: Lead, bay: Short) -> Response:
    """Take a bay away; runs that were done there keep its name."""
    bays.remove(db, bay)
    audit.note(db, lead.name, "bay taken away", bay)
    return RedirectResponse("/people", 303)


@router.post("/people/me")
def change_mine(
    request: Request,
    db: Db,
    me: Writer,
    current: Secret = "",
    password: Secret = "",
    pin: Annotated[str, Form(max_length=12)] = "",
) -> Response:
    """Change one's own password, or PIN, or both; the password one has is asked for first."""
    address = request.client.host if request.client else ""
    try:
        # The failed try is kept, so this is an answer and no error that undoes it.
        if not accounts.has_password(db, me.name, current, address):
            return _page(request, db, me, problems=(gettext("This is not your password."),))
    except ThrottledError as error:
        return _page(request, db, me, problems=(str(error),))
    if not password and not pin:
        raise ProblemsError(
            [Problem("password", gettext("nothing was entered"), gettext("enter what is new"))]
        )
    if pin:
        people.set_pin(db, me.name, pin)
        audit.note(db, me.name, "PIN changed", me.name)
    if password:
        people.set_password(db, me.name, password, keep=request.cookies.get(COOKIE, ""))
        audit.note(db, me.name, "password changed", me.name)
    changed = " + ".join(w for w, new in ((gettext("Password"), password), ("PIN", pin)) if new)
    return _page(request, db, me, said=gettext("{changed} changed.", changed=changed))


@router.post("/people/{name}/password")
def reset_password(db: Db, lead: Lead, name: str, password: Secret = "") -> Response:
    """A lead gives a person who forgot theirs another password; they are signed out."""
    if name == lead.name:
        raise ConflictError(gettext("Your own password is changed below, with the one you have."))
    people.set_password(db, name, password)
    audit.note(db, lead.name, "password reset", name)
    return RedirectResponse("/people", 303)


@router.post("/people/{name}/left")
def left(
    request: Request,
    db: Db,
    lead: Lead,
    name: str,
    back: Annotated[bool, Form()] = False,
    sure: Annotated[bool, Form()] = False,
) -> Response:
    """Let a person go, or take them in again; in the middle of a run it is asked."""
    going = [] if back or sure else runs.going_on_of(db, name)
    if going:
        who = people.person(db, name)
        plans = {row.id: edition_store.plan_of(row.edition) for row in going}
        page = "people/leave.html.jinja"
        return render(request, page, status=409, person=who, going=going, plans=plans)
    (people.come_back if back else people.leave)(db, name)
    audit.note(db, lead.name, "person came back" if back else "person left", name)
    return RedirectResponse("/people", 303)
