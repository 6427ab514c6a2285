"""What is written down of each request, and by which reference it is found again."""

import re
import time
import traceback
from typing import Any
from urllib.parse import quote
from uuid import uuid4

import structlog
from sqlalchemy.exc import DBAPIError
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from eldrim.core.base.errors import EldrimError
from eldrim.web import metrics

log = structlog.get_logger("eldrim.web")

# What stands before us may have given the request a reference already.
REFERENCE = re.compile(r"[A-Za-z0-9-]{8,64}")
QUIET = ("/static/", "/healthz", "/readyz", "/metrics")


class RequestLog:
    """Gives each request a reference, and says how it ended, for whom, and how long it took."""

    def __init__(self, app: ASGIApp) -> None:
        """Wrap ``app``; nothing of ours is outside of this."""
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, with the reference in the log, the answer and the request's state."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        given = dict(scope["headers"]).get(b"x-request-id", b"").decode("latin-1")
        reference = given if REFERENCE.fullmatch(given) else uuid4().hex[:16]
        scope.setdefault("state", {})["reference"] = reference
        status, began = 499, time.perf_counter()

        async def watched(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                own = (b"x-request-id", reference.encode())
                message["headers"] = [*message["headers"], own]
            await send(message)

        with structlog.contextvars.bound_contextvars(reference=reference):
            try:
                await self.app(scope, receive, watched)
            finally:
                _say(scope, status, time.perf_counter() - began)


def _say(scope: Scope, status: int, seconds: float) -> None:
    """One line: the route as it is written in the code, never what was asked or sent with it."""
    route = getattr(scope.get("route"), "path", "") or "none"
    metrics.answered(scope["method"], route, status, seconds)
    if scope["path"].startswith(QUIET):
        return
    person = getattr(scope["state"].get("signed_in"), "name", "")
    log.info(
        "answered",
        method=scope["method"],
        path=_path(scope),
        status=status,
        ms=round(1000 * seconds, 1),
        person=person,
    )


def _path(scope: Scope) -> str:
    """The path as it came, still quoted: nothing in it ends a line of the log."""
    return quote(scope["path"], safe="/")[:200]


def reference_of(request: Request) -> str:
    """The reference of a request; empty outside of the log."""
    return str(getattr(request.state, "reference", ""))


def note_fault(request: Request, fault: Exception) -> None:
    """Write down what went wrong and where, without what was sent: that may be a secret."""
    metrics.FAULTS.labels(type(fault).__name__).inc()
    log.error("fault", path=_path(request.scope), **fault_facts(fault))


# Their words are ours or Python's own; those of others may quote what was typed.
SPEAKABLE = (EldrimError, AssertionError, AttributeError, TypeError, RuntimeError, OSError)


def fault_facts(fault: BaseException) -> dict[str, Any]:
    """The kind of a fault and its way through the code; of the database its own code besides."""
    steps = traceback.extract_tb(fault.__traceback__)
    facts: dict[str, Any] = {
        "kind": type(fault).__name__,
        "trace": [f"{step.filename}:{step.lineno} {step.name}" for step in steps],
    }
    if isinstance(fault, DBAPIError):
        said = getattr(fault.orig, "diag", None)
        about = {"sqlstate": getattr(fault.orig, "sqlstate", None)}
        about |= {"constraint": getattr(said, "constraint_name", None)}
        # Its detail quotes the row; its statement has names of columns in it, and no values.
        return facts | about | {"statement": " ".join((fault.statement or "").split())[:400]}
    if isinstance(fault, SPEAKABLE):
        facts["said"] = str(fault)[:400]
    return facts
