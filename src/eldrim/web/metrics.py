"""Counts for Prometheus: answers, faults, sign-ins, entries, connections; of all processes."""

import os
import secrets

from fastapi import HTTPException, Request
from fastapi.responses import Response
from prometheus_client import (
    CONTENT_TYPE_LATEST,
    REGISTRY,
    CollectorRegistry,
    Counter,
    Gauge,
    Histogram,
    generate_latest,
)
from prometheus_client.multiprocess import MultiProcessCollector

ANSWERS = Counter("eldrim_answers", "Answers.", ("method", "route", "status"))
SECONDS = Histogram(
    "eldrim_answer_seconds",
    "How long answers took.",
    ("route",),
    buckets=(0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10),
)
FAULTS = Counter("eldrim_faults", "Faults that nobody expected, by kind.", ("kind",))
SIGN_INS = Counter("eldrim_sign_ins", "Sign-ins, by how they ended.", ("ended",))
ENTRIES = Counter("eldrim_entries", "Entries kept, by kind.", ("kind",))
CONNECTIONS = Gauge(
    "eldrim_database_connections",
    "Connections to the database in use.",
    multiprocess_mode="livesum",
)
# Where several processes put their counts; set before the first of them starts.
SHARED = "PROMETHEUS_MULTIPROC_DIR"
LOCAL = ("127.0.0.1", "::1")


def answered(method: str, route: str, status: int, seconds: float) -> None:
    """Count one answer."""
    known = method if method in ("GET", "POST", "PUT", "DELETE", "HEAD") else "other"
    ANSWERS.labels(known, route, str(status)).inc()
    SECONDS.labels(route).observe(seconds)


def show(request: Request) -> Response:
    """The counts: to this machine itself, or to who has the token."""
    if not _may_read(request):
        raise HTTPException(404)
    CONNECTIONS.set(request.app.state.engine.pool.checkedout())
    registry = REGISTRY
    if os.environ.get(SHARED):
        registry = CollectorRegistry()
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    return Response(generate_latest(registry), media_type=CONTENT_TYPE_LATEST)


def _may_read(request: Request) -> bool:
    token = request.app.state.front.metrics_token
    given = request.headers.get("authorization", "")
    if token and secrets.compare_digest(given.encode(), f"Bearer {token}".encode()):
        return True
    # What a proxy on this machine passes on is not from this machine.
    passed_on = {"x-forwarded-for", "forwarded", "x-real-ip"} & set(request.headers)
    here = request.client is not None and request.client.host in LOCAL
    return here and not passed_on
