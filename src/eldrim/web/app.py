"""The application: areas, files, headers, and friendly words for what goes wrong."""

import asyncio
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from functools import cache
from urllib.parse import urlencode

from fastapi import APIRouter, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, RedirectResponse, Response
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import BaseRoute

from eldrim.core.base.errors import ProblemsError, RunError
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.devices.hub import urls_from_environment
from eldrim.devices.play import StandIns
from eldrim.exchange.model_faults import fault_words
from eldrim.store import at_once, runs
from eldrim.store.database import SECRET_TURNS, TURNS, Readiness, answers, sessions
from eldrim.store.errors import ConflictError, NotFoundError, ThrottledError
from eldrim.store.notices import EVERYTHING, Notices
from eldrim.store.past_runs import forget_past
from eldrim.web import files, metrics
from eldrim.web.account.routes import router as account
from eldrim.web.api.routes import router as api
from eldrim.web.audit.routes import router as audit
from eldrim.web.bay.routes import router as bay
from eldrim.web.capture.elsewhere import router as capture_elsewhere
from eldrim.web.capture.routes import router as capture
from eldrim.web.capture.teardown import router as teardown
from eldrim.web.capture.underlay import router as underlay
from eldrim.web.context import SignInNeededError, render, swaps
from eldrim.web.crib.routes import router as crib
from eldrim.web.desk.routes import router as desk
from eldrim.web.devices.line import shared_hub
from eldrim.web.devices.routes import router as devices
from eldrim.web.due.routes import forget_calendar
from eldrim.web.due.routes import router as due
from eldrim.web.due.week import router as week
from eldrim.web.engines.routes import router as engines
from eldrim.web.faults.routes import router as faults
from eldrim.web.figures.routes import router as figures
from eldrim.web.figures.variants import router as variants
from eldrim.web.figures.words import router as words
from eldrim.web.first.routes import router as first
from eldrim.web.floor.bays import FloorKept
from eldrim.web.floor.routes import router as floor
from eldrim.web.forms import place_words
from eldrim.web.front import Front, OwnNames
from eldrim.web.leads.routes import router as leads
from eldrim.web.learnt.routes import router as learnt
from eldrim.web.lessons.parts import router as part_lives
from eldrim.web.lessons.procedure import router as procedure_lessons
from eldrim.web.lessons.shop import router as shop_lessons
from eldrim.web.live import Live
from eldrim.web.live import router as live
from eldrim.web.log.list import router as log_list
from eldrim.web.log.routes import router as log
from eldrim.web.people.routes import router as people
from eldrim.web.plain_text import SAID, PlainAddress
from eldrim.web.procedures.editing import router as editing
from eldrim.web.procedures.on_paper import router as on_paper
from eldrim.web.procedures.photos import router as photos
from eldrim.web.procedures.routes import router as procedures
from eldrim.web.procedures.touched import forget_changes
from eldrim.web.procedures.touched import router as touched
from eldrim.web.reader import Reader
from eldrim.web.reading.routes import router as reading
from eldrim.web.request_log import RequestLog, note_fault, reference_of
from eldrim.web.rules.routes import router as rules
from eldrim.web.search.routes import router as search
from eldrim.web.security import BodyLimit, Faults, Headers
from eldrim.web.sums.routes import router as sums
from eldrim.web.takein.routes import router as takein
from eldrim.web.units.routes import router as units

AREAS = (
    api,
    account,
    first,
    audit,
    teardown,
    capture_elsewhere,
    underlay,
    capture,
    leads,
    reading,
    faults,
    engines,
    figures,
    variants,
    words,
    crib,
    touched,
    procedures,
    editing,
    on_paper,
    photos,
    rules,
    bay,
    floor,
    live,
    log_list,
    log,
    part_lives,
    procedure_lessons,
    shop_lessons,
    desk,
    due,
    week,
    learnt,
    units,
    people,
    takein,
    devices,
    search,
    sums,
)
# What a process has in memory of runs, changes and days, let go where its database was restored.
FORGETTING = (runs.forget_folds, forget_past, at_once.forget, forget_changes, forget_calendar)
FAULT = 500
# PostgreSQL's codes for a full disk, and for no memory or other room.
NO_ROOM = ("53100", "53000")
TITLES = {
    403: gettext_lazy("Not yours to do"),
    404: gettext_lazy("Not here"),
    405: gettext_lazy("Not possible here"),
    409: gettext_lazy("Changed meanwhile"),
    408: gettext_lazy("Too slow"),
    413: gettext_lazy("Too large"),
    422: gettext_lazy("Not understood"),
    429: gettext_lazy("Too many tries"),
    500: gettext_lazy("Our fault"),
    503: gettext_lazy("The database does not answer"),
    507: gettext_lazy("The disk is full"),
}


@cache
def _routes_of_areas() -> tuple[BaseRoute, ...]:
    """The routes of all areas; what each asks for is looked up once for all applications."""
    every = APIRouter()
    for router in AREAS:
        every.include_router(router)
    return tuple(every.routes)


def make_app(
    engine: Engine, standins: StandIns | None = None, front: Front | None = None
) -> FastAPI:
    """Build the application on a migrated database; ``standins`` are the devices to play."""
    app = FastAPI(
        title="Eldrim",
        version="1",
        docs_url=None,
        redoc_url=None,
        openapi_url="/openapi.json",
        description=gettext("Spark-plug and ignition-coil procedures, computed from facts."),
        lifespan=_listening,
    )
    front = front or Front()
    app.state.front, app.state.engine, app.state.sessions = front, engine, sessions(engine)
    app.state.turns, app.state.readiness = asyncio.Semaphore(TURNS), Readiness(engine)
    app.state.secret_turns = asyncio.Semaphore(SECRET_TURNS)
    app.state.standins = standins
    # How people are called, by the name they sign in with; names are only ever added.
    app.state.called, app.state.live, app.state.floor = {}, Live(), FloorKept()
    app.state.notices = Notices(engine, app.state.sessions)
    app.state.notices.hear(app.state.live.heard, _forgetting(app))
    devices_at = standins.urls if standins else urls_from_environment()
    app.state.hub = shared_hub(devices_at, engine, app.state.notices)
    app.router.routes.extend(_routes_of_areas())
    app.mount(files.address(), StaticFiles(directory=files.FOLDER), name="static")
    app.add_api_route("/sw.js", _worker, methods=["GET"], include_in_schema=False)
    app.add_api_route("/healthz", _health, methods=["GET"], include_in_schema=False)
    app.add_api_route("/readyz", _ready, methods=["GET"], include_in_schema=False)
    app.add_api_route("/metrics", metrics.show, methods=["GET"], include_in_schema=False)
    _handle_errors(app)
    _add_layers(app, front)
    return app


def _add_layers(app: FastAPI, front: Front) -> None:
    """What every request goes through, from the inside out."""
    app.add_middleware(Faults, answer=_internal)
    # Level 5 is within a few percent of the best, at a third of its time.
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=5)
    app.add_middleware(BodyLimit)
    app.add_middleware(PlainAddress)
    if front.hosts:
        app.add_middleware(OwnNames, hosts=front.hosts)
    app.add_middleware(Reader)
    app.add_middleware(Headers, secure=front.secure)
    app.add_middleware(RequestLog)


@asynccontextmanager
async def _listening(app: FastAPI) -> AsyncIterator[None]:
    """Hear what other processes change for as long as this one serves."""
    app.state.live.begin()
    app.state.notices.start()
    try:
        yield
    finally:
        app.state.live.end()
        app.state.hub.close()
        await asyncio.to_thread(app.state.notices.close)


def _forgetting(app: FastAPI) -> Callable[[list[str]], None]:
    """Forget names when people change, and look again where something was committed whose number
    may be older than one that was there before; when the line broke, forget all that counts on its
    numbers going on from where they were: a restored database has them over again.
    """

    def hearer(topics: list[str]) -> None:
        if "people" in topics or EVERYTHING in topics:
            app.state.called.clear()
        if "floor" in topics:
            app.state.floor.look_again()
        if "due" in topics:
            forget_calendar()
        if EVERYTHING in topics:
            app.state.floor.forget()
            for forget in FORGETTING:
                forget()

    return hearer


def _worker() -> FileResponse:
    """The tablet's helper; from the root, so that it may answer for every page."""
    return FileResponse(
        files.FOLDER / "sw.js", media_type="text/javascript", headers={"cache-control": "no-cache"}
    )


def _health(request: Request) -> JSONResponse:
    up = answers(request.app.state.engine)
    body = {
        "status": "ok" if up else "down",
        "database": "answers" if up else gettext("does not answer"),
    }
    return JSONResponse(body, 200 if up else 503)


def _ready(request: Request) -> JSONResponse:
    fault = request.app.state.readiness.fault()
    return JSONResponse({"status": fault or "ready"}, 503 if fault else 200)


def _handle_errors(app: FastAPI) -> None:
    statuses: dict[type[Exception], int] = {
        NotFoundError: 404,
        ConflictError: 409,
        RunError: 409,
        ProblemsError: 422,
        ThrottledError: 429,
    }
    for kind, status in statuses.items():
        app.add_exception_handler(kind, _answer_of_status(status))
    app.add_exception_handler(SignInNeededError, _sign_in)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(DBAPIError, _database)
    app.add_exception_handler(PoolTimeoutError, _no_connection)
    app.add_exception_handler(UnicodeEncodeError, _no_text)


def _answer_of_status(status: int):  # type: ignore[no-untyped-def]
    def handler(request: Request, error: Exception) -> Response:
        return failure(request, status, str(error))

    return handler


def _place(request: Request, loc: tuple[str | int, ...]) -> str:
    """Where something is wrong: by its path for a program, as the pages call it for a person."""
    path = ".".join(map(str, loc))
    return path if request.url.path.startswith("/api/v1") else place_words(path)


def failure(request: Request, status: int, message: str) -> Response:
    """An error as a page, or as JSON where the caller speaks JSON."""
    # It may name what was sent, and that need not be text.
    message = message.encode("utf-8", "replace").decode()
    if request.url.path.startswith("/api/v1"):
        about = {"reference": reference_of(request)} if status >= FAULT else {}
        return JSONResponse({"error": message, **about}, status)
    template = "templates/error_part.html.jinja" if swaps(request) else "templates/error.html.jinja"
    title = TITLES.get(status, gettext("That did not work"))
    # Who reports a fault of ours reads it out: by it the log is searched.
    reference = reference_of(request) if status >= FAULT else ""
    values = {"title": title, "message": message, "reference": reference}
    return render(request, template, status=status, **values)


def _sign_in(request: Request, _: Exception) -> Response:
    if request.headers.get("accept") == "text/event-stream":
        # A page that listens is told to stop asking; it says itself that one is signed out.
        return Response(status_code=204)
    if request.url.path.startswith("/api/v1"):
        return JSONResponse({"error": "Sign in first."}, 401)
    if swaps(request):
        return Response(status_code=401, headers={"hx-redirect": "/sign-in"})
    path = request.url.path
    # Whoever looked at a code on paper goes on to what it tells.
    after = f"?{urlencode({'next': path})}" if path.startswith("/E/") else ""
    return RedirectResponse(f"/sign-in{after}", 303)


def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    said = (
        gettext("There is nothing at this address.")
        if error.status_code == 404
        else str(error.detail)
    )
    return failure(request, error.status_code, said)


def _invalid(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    lines = [
        f"{_place(request, fault['loc'][1:])}: {fault_words(fault)}" for fault in error.errors()
    ]
    return failure(request, 422, "; ".join(lines))


def _database(request: Request, error: Exception) -> Response:
    note_fault(request, error)
    # A connection that broke says so, also where the server is up again by now.
    broke = isinstance(error, DBAPIError) and error.connection_invalidated
    if isinstance(error, IntegrityError):
        return failure(
            request, 409, gettext("Somebody else did the same meanwhile. Load the page again.")
        )
    if getattr(getattr(error, "orig", None), "sqlstate", "") in NO_ROOM:
        said = gettext(
            "Nothing was saved: the database's disk is full. Tell who looks after the server."
        )
        return failure(request, 507, said)
    if isinstance(error, DataError):
        return failure(request, 422, gettext("What was sent cannot be kept. Nothing was saved."))
    waited = isinstance(error, OperationalError)
    if not broke and not waited and answers(request.app.state.engine):
        return failure(
            request, 500, gettext("Nothing was saved. Try again; if it stays, tell the lead.")
        )
    return _busy(request)


def _no_connection(request: Request, error: Exception) -> Response:
    note_fault(request, error)
    return _busy(request)


def _busy(request: Request) -> Response:
    said = gettext("Nothing was saved just now. Wait a moment and send it again.")
    return failure(request, 503, said)


def _no_text(request: Request, _: Exception) -> Response:
    return failure(request, 422, gettext("What was sent {said}. Nothing was saved.", said=SAID))


def _internal(request: Request, _: Exception) -> Response:
    return failure(
        request, 500, gettext("Nothing was saved. Try again; if it stays, tell the lead.")
    )
