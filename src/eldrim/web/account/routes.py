"""Signing in and out."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from eldrim.store import accounts
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
    """Start a session. The session cookie is SameSite=Strict, so no other site can post here."""
    address = request.client.host if request.client else "unknown"
    try:
        found = accounts.sign_in(db, name, password, address)
    except ThrottledError as error:
        return _again(request, name, str(error), 429, next)
    if found is None:
        return _again(request, name, "Name and password do not match.", 401, next)
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
def sign_out(request: Request, db: Db, _: Writer) -> Response:
    """End the session."""
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    answer = RedirectResponse("/sign-in", 303)
    answer.delete_cookie(COOKIE)
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
