"""What ``bin/demo`` runs: database up, schema current, demo data in, web server on."""

import argparse
import signal
import sys
from pathlib import Path
from typing import NoReturn

import uvicorn

from eldrim.demo.load import PASSWORD, PEOPLE, load
from eldrim.devices.play import StandIns
from eldrim.store import upkeep
from eldrim.store.cluster import Cluster, ClusterError, default_cluster, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions, url_from_environment
from eldrim.web.app import make_app


def main() -> None:
    """Serve until Ctrl-C, then stop server and database."""
    options = _options()
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
    parser.add_argument("--port", type=int, default=8400, help="default 8400")
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
            print("Demo workshop loaded.")
        upkeep.catch_up(session)
    print(f"\n  Eldrim: http://127.0.0.1:{options.port}")
    print(f"  Sign in as {', '.join(p[0] for p in PEOPLE)}; password {PASSWORD}")
    print("  Ctrl-C stops it.\n", flush=True)
    standins = StandIns().start()
    try:
        uvicorn.run(
            make_app(engine, standins),
            host="127.0.0.1",
            port=options.port,
            log_level="warning",
            server_header=False,
            timeout_graceful_shutdown=2,
            timeout_keep_alive=75,
        )
    finally:
        standins.stop()


if __name__ == "__main__":
    main()
