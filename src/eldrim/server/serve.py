"""Serves a workshop of one's own: no demo data, no stand-ins, no passwords anybody knows."""

import json
import logging
import os
import shutil
import signal
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NoReturn

import structlog
import uvicorn
from fastapi import FastAPI
from sqlalchemy.exc import SQLAlchemyError

from eldrim.core.base.errors import EldrimError
from eldrim.server.logs import set_up
from eldrim.server.memory import keep_loaded
from eldrim.server.settings import Settings
from eldrim.store import first_start, upkeep
from eldrim.store.cluster import Cluster, ClusterError, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions
from eldrim.web.app import make_app
from eldrim.web.metrics import SHARED

log = structlog.get_logger("eldrim.server")

# How the processes of one server are told what it was told.
HANDED_ON = "ELDRIM_HANDED_ON"
GRACE_SECONDS = 5
# How often it is looked whether our own PostgreSQL is up.
LOOK_SECONDS = 3
# A process that starts on a busy machine reads its modules meanwhile: it is not ended for that.
HEALTH_SECONDS = 60


class StartError(EldrimError):
    """The server cannot start; the message says why and what to do."""


def serve(settings: Settings, say: Callable[[str], None] = print) -> None:
    """Serve until a signal ends it. Raises :class:`StartError`, or
    :class:`~eldrim.store.cluster.ClusterError` where our own PostgreSQL does not start.
    """
    set_up(settings.log_format)
    # A stop must run what comes after, as Ctrl-C does.
    signal.signal(signal.SIGTERM, _interrupt)
    with database(settings) as url, _counts_shared(settings.workers > 1):
        code = prepare(url)
        say(f"Eldrim: {settings.address}")
        if code:
            say(f"Nobody works here yet. Open {settings.address}/first; the code is\n\n  {code}\n")
        _run(settings, url)


def _interrupt(*_: object) -> NoReturn:
    raise KeyboardInterrupt


@contextmanager
def database(settings: Settings) -> Iterator[str]:
    """The address of the database; our own PostgreSQL runs for as long."""
    stated = settings.database_url.get_secret_value()
    if stated:
        yield stated
        return
    own = Cluster(reachable_home(settings.home))
    was_running = own.running
    own.start()
    ended = threading.Event()
    watch = threading.Thread(target=_keep_up, args=(own, ended), daemon=True)
    watch.start()
    try:
        yield own.url()
    finally:
        ended.set()
        watch.join()
        if not was_running:
            own.stop()


def _keep_up(own: Cluster, ended: threading.Event) -> None:
    """Start our own PostgreSQL again where it went down, as it does when its disk is full."""
    said = False
    while not ended.wait(LOOK_SECONDS):
        try:
            if own.running:
                said = False
                continue
            log.warning("PostgreSQL is down and is started again")
            own.start()
        except ClusterError as error:
            # Once until it is up; there may be no room for days.
            if not said:
                log.error("PostgreSQL does not start", said=str(error)[-400:])
            said = True


@contextmanager
def _counts_shared(several: bool) -> Iterator[None]:
    """A folder in which several processes add up what they count."""
    if not several:
        yield
        return
    folder = tempfile.mkdtemp(prefix="eldrim-counts-")
    os.environ[SHARED] = folder
    try:
        yield
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def prepare(url: str) -> str | None:
    """Make and upgrade the database; a code where nobody works there yet."""
    try:
        ensure_database(url)
        engine = connect(url)
        migrate(engine)
        with sessions(engine).begin() as session:
            upkeep.catch_up(session)
            return first_start.new_code(session)
    except SQLAlchemyError as error:
        # The address holds a password, and the server's own words may hold a row: neither is said.
        state = getattr(getattr(error, "orig", None), "sqlstate", "") or "no answer"
        raise StartError(
            f"PostgreSQL does not let us in ({state}): check database_url, that the server runs, "
            "and that its user may create tables."
        ) from None


def _run(settings: Settings, url: str) -> None:
    handed = settings.model_dump(mode="json") | {
        "database_url": url,
        "metrics_token": settings.metrics_token.get_secret_value(),
    }
    os.environ[HANDED_ON] = json.dumps(handed)
    uvicorn.run(
        "eldrim.server.serve:application",
        factory=True,
        workers=settings.workers if settings.workers > 1 else None,
        **uvicorn_options(settings),
    )


def uvicorn_options(settings: Settings) -> dict[str, Any]:
    """What uvicorn is told, for one process or many."""
    return {
        "host": settings.host,
        "port": settings.port,
        "http": "eldrim.server.patient:PatientProtocol",
        "log_config": None,
        "access_log": False,
        "server_header": False,
        "proxy_headers": bool(settings.trusted_proxy),
        "forwarded_allow_ips": settings.trusted_proxy or None,
        "timeout_graceful_shutdown": GRACE_SECONDS,
        "timeout_keep_alive": 75,
        "timeout_worker_healthcheck": HEALTH_SECONDS,
        **_tls(settings.tls_cert, settings.tls_key),
    }


def _tls(cert: Path | None, key: Path | None) -> dict[str, Any]:
    if cert is None or key is None:
        return {}
    return {"ssl_certfile": str(cert), "ssl_keyfile": str(key)}


def application() -> FastAPI:
    """The application of one process, told by the one that started it."""
    settings = Settings.model_validate_json(os.environ[HANDED_ON])
    set_up(settings.log_format, logging.INFO)
    made = make_app(connect(settings.database_url.get_secret_value()), front=settings.front())
    keep_loaded()
    return made
