"""A lead sees everybody, adds and lets go; anyone changes their own password, a lead their PIN."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.run.entries import Role
from eldrim.core.words.messages import gettext
from eldrim.store import accounts, audit, bays, edition_store, people, runs
from eldrim.store.accounts import Person
from eldrim.store.errors import ConflictError, ThrottledError
from eldrim.store.tables import UserRow
from eldrim.web import filters
from eldrim.web.context import COOKIE, Db, Lead, SignedIn, Writer, render
from eldrim.web.listing import Choice, Listing

router = APIRouter(include_in_schema=False)
Short = Annotated[str, Form(max_length=80)]
Secret = Annotated[str, Form(max_length=200)]


@dataclass(frozen=True)
class Outcome:
    """What came of something done on the page; what was typed stays where it was refused."""

    said: str = ""
    problems: tuple[str, ...] = ()
    typed: Mapping[str, str] = field(default_factory=dict)


class PeopleAsked(BaseModel):
    """Which people the list shows: called so, of a role, here or gone; by name or by role."""

    said: Annotated[str, Field(max_length=120)] = ""
    role: Literal["", "trainer", "technician", "lead"] = ""
    here: Literal["", "yes", "no"] = ""
    sort: Literal["", "role"] = ""

    def fits(self, row: UserRow) -> bool:
        """Whether a person is shown."""
        called = self.said.strip().lower() in f"{row.display} {row.name}".lower()
        here = not self.here or (row.left_on is None) == (self.here == "yes")
        return called and here and self.role in {"", row.role}


def _listed(everybody: Sequence[UserRow], asked: PeopleAsked) -> tuple[list[UserRow], Listing]:
    """The people shown, who is here before who is gone; and the list's head."""
    shown = [row for row in everybody if asked.fits(row)]
    shown.sort(
        key=lambda row: (row.left_on is not None, row.role if asked.sort else "", row.display)
    )
    roles = tuple((role.value, filters.worded(role.value)) for role in Role)
    here = (("yes", gettext("here")), ("no", gettext("gone")))
    return shown, Listing(
        "/people",
        gettext("Name"),
        asked.model_dump(),
        len(shown),
        filters=(
            Choice("role", gettext("Role"), (("", gettext("all")), *roles)),
            Choice("here", gettext("Here"), (("", gettext("all")), *here)),
        ),
        sorts=(("", gettext("by name")), ("role", gettext("by role"))),
    )


@router.get("/people")
def index(
    request: Request, db: Db, signed_in: SignedIn, asked: Annotated[PeopleAsked, Query()]
) -> Response:
    """Everybody, for a lead; oneself, for the others."""
    return _page(request, db, signed_in, asked=asked)


def _page(
    request: Request,
    db: Db,
    signed_in: Person,
    *,
    outcome: Outcome = Outcome(),
    asked: PeopleAsked = PeopleAsked(),
) -> Response:
    lead = signed_in.role == Role.LEAD.value
    listed = _listed(people.everybody(db), asked) if lead else ([], None)
    return render(
        request,
        "people/index.html.jinja",
        status=422 if outcome.problems else 200,
        people=listed[0],
        list=listed[1],
        roles=list(Role),
        said=outcome.said,
        problems=outcome.problems,
        typed=outcome.typed,
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
        return _page(request, db, lead, outcome=Outcome(problems=found, typed=typed))
    audit.note(db, lead.name, "person added", form.name.strip().lower(), role=form.role)
    return RedirectResponse("/people", 303)


@router.post("/bays")
def add_bay(request: Request, db: Db, lead: Lead, bay: Short = "") -> Response:
    """Name a bay, so that a run can say where it is done."""
    try:
        bays.add(db, bay)
    except ProblemsError as error:
        found = tuple(f"{problem.message}: {problem.fix}" for problem in error.problems)
        return _page(request, db, lead, outcome=Outcome(problems=found, typed={"bay": bay}))
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
            return _page(
                request, db, me, outcome=Outcome(problems=(gettext("This is not your password."),))
            )
    except ThrottledError as error:
        return _page(request, db, me, outcome=Outcome(problems=(str(error),)))
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
    return _page(
        request, db, me, outcome=Outcome(said=gettext("{changed} changed.", changed=changed))
    )


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
