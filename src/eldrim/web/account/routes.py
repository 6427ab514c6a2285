"""Signing in and out."""

from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.core.run.entries import Role
from eldrim.core.words.language import LANGUAGES
from eldrim.core.words.messages import gettext
from eldrim.store import accounts, audit, first_start, people
from eldrim.store.accounts import Caller
from eldrim.store.errors import ThrottledError
from eldrim.web import metrics
from eldrim.web.context import COOKIE, Db, SecretTurn, SignedIn, Writer, render
from eldrim.web.first.todo import anything_released
from eldrim.web.front import set_cookie
from eldrim.web.reader import LANGUAGE_COOKIE, LANGUAGE_SECONDS
from eldrim.web.security import sent_from_here

router = APIRouter(include_in_schema=False)
DEVICE = "eldrim_device"
# What is kept of where somebody signs in, translated where it is shown.
DEVICES = ("a tablet or telephone", "a desk machine")
UNKNOWN = "a name not known here"


@router.get("/")
def home(db: Db, signed_in: SignedIn) -> Response:
    """Go where this role starts its day; an empty workshop says what to do first."""
    if signed_in.role != Role.TECHNICIAN.value and not anything_released(db):
        return RedirectResponse("/first-steps", 303)
    return RedirectResponse("/desk", 303)


@router.get("/sign-in")
def form(request: Request, db: Db, next: str = "") -> Response:
    """Ask who it is; ``next`` is where they go on from there. Where nobody works, who begins."""
    if first_start.nobody_works_here(db):
        return RedirectResponse("/first", 303)
    return render(request, "account/sign_in.html.jinja", name="", problem="", next=_own(next))


def _own(address: str) -> str:
    """An address of ours without its host; empty for any other."""
    ours = address.startswith("/") and not address.startswith(("//", "/\\"))
    return address[:300] if ours else ""


@router.post("/sign-in")
def sign_in(
    request: Request,
    _: SecretTurn,
    db: Db,
    name: Annotated[str, Form(max_length=80)] = "",
    password: Annotated[str, Form(max_length=200)] = "",
    next: Annotated[str, Form(max_length=300)] = "",
) -> Response:
    """Start a session, and end the one this browser had; another site cannot post here."""
    if not sent_from_here(request):
        raise HTTPException(403, gettext("Sign in on this page, not from another site."))
    address = request.client.host if request.client else "unknown"
    try:
        found = accounts.sign_in(db, name, password, _caller(request, address))
    except ThrottledError as error:
        return _again(request, name, str(error), 429, next)
    if found is None:
        # What is no name of ours may be a password in the wrong field: it is not kept.
        typed = name.strip().lower()
        known = typed if typed in accounts.called(db) else UNKNOWN
        audit.note(db, known, "sign-in refused", address)
        metrics.SIGN_INS.labels("refused").inc()
        return _again(request, name, gettext("Name and password do not match."), 401, next)
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    audit.note(db, name.strip().lower(), "signed in", address)
    metrics.SIGN_INS.labels("signed in").inc()
    answer = RedirectResponse(_own(next) or "/", 303)
    set_cookie(request, answer, COOKIE, found.token, int(accounts.LIFETIME.total_seconds()))
    set_cookie(request, answer, DEVICE, found.device, int(accounts.DEVICES_KEPT.total_seconds()))
    language = people.person(db, name.strip().lower()).language
    if language in LANGUAGES:
        set_cookie(request, answer, LANGUAGE_COOKIE, language, LANGUAGE_SECONDS)
    return answer


@router.post("/language")
def choose_language(
    request: Request,
    db: Db,
    language: Annotated[str, Form(max_length=8)] = "",
    next: Annotated[str, Form(max_length=300)] = "",
) -> Response:
    """Read pages in a language from now on; it is kept for the person where one is signed in."""
    if not sent_from_here(request) or language not in LANGUAGES:
        raise HTTPException(403, gettext("Choose the language on a page of ours."))
    who = accounts.session_of(db, request.cookies.get(COOKIE, ""))
    if who is not None:
        people.set_language(db, who.name, language)
    answer = RedirectResponse(_own(next) or "/", 303)
    set_cookie(request, answer, LANGUAGE_COOKIE, language, LANGUAGE_SECONDS)
    return answer


def _caller(request: Request, address: str) -> Caller:
    mobile = "Mobi" in request.headers.get("user-agent", "")
    kind = DEVICES[0] if mobile else DEVICES[1]
    return Caller(address, f"{kind} at {address}", request.cookies.get(DEVICE, "")[:100])


@router.post("/sign-ins/end")
def end(db: Db, me: Writer, mark: Annotated[str, Form(max_length=64)] = "") -> Response:
    """End one of one's own sign-ins, as on a tablet that was left lying."""
    if accounts.end_session(db, me.name, mark):
        audit.note(db, me.name, "signed out", "elsewhere")
    return RedirectResponse("/people", 303)


@router.post("/sign-out")
def sign_out(request: Request, db: Db, me: Writer) -> Response:
    """End the session."""
    audit.note(db, me.name, "signed out")
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    answer = RedirectResponse("/sign-in", 303)
    answer.delete_cookie(COOKIE)
    # What this person was shown is not for the next one. Unsent entries lie elsewhere and stay.
    answer.headers["clear-site-data"] = '"cache"'
    return answer


def _again(request: Request, name: str, problem: str, status: int, next: str) -> Response:
    return render(
        request,
        "account/sign_in.html.jinja",
        status=status,
        name=name,
        problem=problem,
        next=_own(next),
    )
