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
def form(request: Request) -> Response:
    """Ask who it is."""
    return render(request, "account/sign_in.html.jinja", name="", problem="")


@router.post("/sign-in")
def sign_in(
    request: Request,
    db: Db,
    name: Annotated[str, Form(max_length=80)] = "",
    password: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Start a session. The session cookie is SameSite=Strict, so no other site can post here."""
    address = request.client.host if request.client else "unknown"
    try:
        found = accounts.sign_in(db, name, password, address)
    except ThrottledError as error:
        return _again(request, name, str(error), 429)
    if found is None:
        return _again(request, name, "Name and password do not match.", 401)
    answer = RedirectResponse("/", 303)
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


def _again(request: Request, name: str, problem: str, status: int) -> Response:
    return render(request, "account/sign_in.html.jinja", status=status, name=name, problem=problem)
