"""Signing in and out."""

from typing import Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.store import accounts, audit
from eldrim.store.errors import ThrottledError
from eldrim.web.context import COOKIE, Db, SignedIn, Writer, render

router = APIRouter(include_in_schema=False)
HOMES = {"trainer": "/engines", "technician": "/bay", "lead": "/bay"}


@router.get("/")
def home(signed_in: SignedIn) -> Response:
    """Go where this role starts its day."""
    return RedirectResponse(HOMES.get(signed_in.role, "/engines"), 303)


@router.get("/sign-in")
def form(request: Request, next: str = "") -> Response:
    """Ask who it is; ``next`` is where they go on from there."""
    return render(request, "account/sign_in.html.jinja", name="", problem="", next=_own(next))


def _own(address: str) -> str:
    """An address of ours without its host; empty for any other."""
    ours = address.startswith("/") and not address.startswith(("//", "/\\"))
    return address[:300] if ours else ""


@router.post("/sign-in")
def sign_in(
    request: Request,
    db: Db,
    name: Annotated[str, Form(max_length=80)] = "",
    password: Annotated[str, Form(max_length=200)] = "",
    next: Annotated[str, Form(max_length=300)] = "",
) -> Response:
    """Start a session, and end the one this browser had; another site cannot post here."""
    if not _from_here(request):
        raise HTTPException(403, "Sign in on this page, not from another site.")
    address = request.client.host if request.client else "unknown"
    try:
        found = accounts.sign_in(db, name, password, address)
    except ThrottledError as error:
        return _again(request, name, str(error), 429, next)
    if found is None:
        # What is no name of ours may be a password in the wrong field: it is not kept.
        typed = name.strip().lower()
        known = typed if typed in accounts.called(db) else "a name not known here"
        audit.note(db, known, "sign-in refused", address)
        return _again(request, name, "Name and password do not match.", 401, next)
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    audit.note(db, name.strip().lower(), "signed in", address)
    answer = RedirectResponse(_own(next) or "/", 303)
    answer.set_cookie(
        COOKIE,
        found[0],
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        max_age=int(accounts.LIFETIME.total_seconds()),
    )
    return answer


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


def _from_here(request: Request) -> bool:
    """Whether a form was sent by a page of ours, as far as the browser says."""
    site = request.headers.get("sec-fetch-site", "same-origin")
    origin = request.headers.get("origin")
    ours = origin is None or urlsplit(origin).netloc == request.headers.get("host", "")
    return ours and site in ("same-origin", "none")


def _again(request: Request, name: str, problem: str, status: int, next: str) -> Response:
    return render(
        request,
        "account/sign_in.html.jinja",
        status=status,
        name=name,
        problem=problem,
        next=_own(next),
    )
