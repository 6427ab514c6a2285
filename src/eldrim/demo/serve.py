"""What ``bin/demo`` runs: database up, schema current, demo data in, web server on."""

import argparse
import json
import logging
import os
import signal
import sys
from pathlib import Path
from typing import NoReturn

import uvicorn
from fastapi import FastAPI
from sqlalchemy import Engine

from eldrim.demo.load import PASSWORD, PEOPLE, load
from eldrim.demo.years import load_years
from eldrim.devices.play import StandIns
from eldrim.server.logs import set_up
from eldrim.server.memory import keep_loaded
from eldrim.server.serve import HEALTH_SECONDS
from eldrim.store import upkeep
from eldrim.store.cluster import Cluster, ClusterError, default_cluster, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions, url_from_environment
from eldrim.web.app import make_app

# How the processes of one demo are told what it was told.
HANDED_ON = "ELDRIM_DEMO_HANDED_ON"


def main() -> None:
    """Serve until Ctrl-C, then stop server and database."""
    options = _options()
    set_up(level=logging.WARNING)
    own = None if url_from_environment() else _cluster(options.home)
    # A stop signal must run the cleanup below, as Ctrl-C does; so must a terminal that is closed.
    for ending in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(ending, _interrupt)
    try:
        _serve(url_from_environment() or _start(own, options.fresh), options)
    except ClusterError as error:
        sys.exit(f"bin/demo: {error}")
    except KeyboardInterrupt:
        pass
    finally:
        if own is not None and own.home.exists():
            own.stop()
            print("Database stopped.")


def _interrupt(*_: object) -> NoReturn:
    raise KeyboardInterrupt


def _options() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="bin/demo", description=main.__doc__)
    parser.add_argument("--fresh", action="store_true", help="throw the demo's data away first")
    parser.add_argument("--no-years", action="store_true", help="without its two years of history")
    parser.add_argument("--port", type=int, default=8400, help="default 8400")
    parser.add_argument("--workers", type=int, default=1, help="processes; default 1")
    parser.add_argument("--home", type=Path, help="folder of the database; default var/postgres")
    return parser.parse_args()


def _cluster(home: Path | None) -> Cluster:
    return Cluster(reachable_home(home)) if home else default_cluster()


def _start(cluster: Cluster | None, fresh: bool) -> str:
    assert cluster is not None
    if fresh and cluster.home.exists():
        cluster.destroy()
    cluster.start()
    return cluster.url()


def _serve(url: str, options: argparse.Namespace) -> None:
    ensure_database(url)
    engine = connect(url)
    migrate(engine)
    with sessions(engine).begin() as session:
        if load(session):
            count = 0 if options.no_years else load_years(session)
            print(f"Demo workshop loaded{f', with {count} runs of two years' if count else ''}.")
        upkeep.catch_up(session)
    print(f"\n  Eldrim: http://127.0.0.1:{options.port}")
    print(f"  Sign in as {', '.join(p[0] for p in PEOPLE)}; password {PASSWORD}")
    print("  Ctrl-C stops it.\n", flush=True)
    standins = StandIns().start()
    several = options.workers > 1
    os.environ[HANDED_ON] = json.dumps([url, standins.urls, standins.controls])
    try:
        uvicorn.run(
            "eldrim.demo.serve:application" if several else _made(engine, standins),
            factory=several,
            workers=options.workers if several else None,
            host="127.0.0.1",
            port=options.port,
            log_level="warning",
            server_header=False,
            timeout_graceful_shutdown=2,
            timeout_keep_alive=75,
            timeout_worker_healthcheck=HEALTH_SECONDS,
        )
    finally:
        standins.stop()


def application() -> FastAPI:
    """The application of one of several processes, with the stand-ins of the one that began."""
    set_up(level=logging.WARNING)
    url, urls, controls = json.loads(os.environ[HANDED_ON])
    return _made(connect(url), StandIns(urls, controls))


def _made(engine: Engine, standins: StandIns) -> FastAPI:
    made = make_app(engine, standins)
    keep_loaded()
    return made


if __name__ == "__main__":
    main()
