"""A disk that is really full: a small one, where whoever runs the tests may mount one."""

import os
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from eldrim.demo.load import load
from eldrim.server.serve import database
from eldrim.server.settings import Settings
from eldrim.store import past_runs
from eldrim.store.cluster import Cluster
from eldrim.store.database import answers, connect, ensure_database, migrate, sessions
from eldrim.web.app import FORGETTING, make_app
from tests.web.client import TestClient
from tests.web.test_bay import Bay

SIZE = "size=220m,mode=755"


class SmallDisk:
    """A disk that can be filled up and emptied again."""

    def __init__(self, home: Path) -> None:
        """``home`` is where it is mounted."""
        self.home, self.filler = home, home / "filler"

    def fill(self, leaving: int = 0) -> None:
        """Leave so many bytes."""
        with self.filler.open("wb", buffering=0) as out:
            try:
                while True:
                    out.write(bytes(4096))
            except OSError:
                out.truncate(max(0, out.tell() - leaving))

    def empty(self) -> None:
        """Give the room back."""
        self.filler.unlink()


@pytest.fixture
def disk() -> Iterator[SmallDisk]:
    """A small disk, in memory."""
    home = Path(tempfile.mkdtemp(prefix="eldrim-disk-", dir="/tmp"))
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", SIZE, "tmpfs", str(home)], capture_output=True, check=False
    )
    if mounted.returncode:
        home.rmdir()
        pytest.skip("a small disk can be mounted here by nobody but root")
    yield SmallDisk(home)
    subprocess.run(["umount", "-l", str(home)], check=True)
    home.rmdir()


def test_a_full_disk_keeps_nothing_half_and_goes_on_with_room(disk: SmallDisk) -> None:
    """507 in words once there is no room; each acknowledged entry is there, once."""
    cluster = Cluster(disk.home / "cluster")
    cluster.start()
    try:
        engine = _with_demo(cluster)
        with TestClient(make_app(engine), raise_server_exceptions=False) as client:
            bay = Bay(client)
            assert client.get("/readyz").json() == {"status": "ready"}
            disk.fill()
            full = client.get("/readyz")
            assert full.status_code == 503
            assert "full" in full.json()["status"]
            acknowledged, refused = _written(bay, 2000)
            assert refused is not None
            assert refused.status_code == 507
            assert "disk is full" in refused.json()["error"]
            assert client.get("/bay").status_code == 200
            disk.empty()
            assert client.get("/readyz").status_code == 200
            more, refused = _written(bay, 3)
            assert refused is None
        with sessions(engine)() as session:
            kept = [recorded.entry.id for recorded in past_runs.entries(session, UUID(bay.run))]
        assert kept == [*acknowledged, *more]
        engine.dispose()
    finally:
        cluster.stop("immediate")


def test_our_own_postgresql_comes_up_again_once_there_is_room(disk: SmallDisk) -> None:
    """It goes down when it has no room for its own log; the server starts it again by itself."""
    with database(Settings(home=disk.home / "home")) as url:
        engine = connect(url)
        ensure_database(url)
        migrate(engine)
        disk.fill(leaving=4_000_000)
        with pytest.raises(DBAPIError):
            _fill_log(engine)
        _until(engine, up=False)
        disk.empty()
        _until(engine, up=True)
        engine.dispose()


def _fill_log(engine: Engine) -> None:
    with engine.connect() as connection:
        own = connection.execution_options(isolation_level="AUTOCOMMIT")
        for _ in range(200):
            own.execute(text("SELECT pg_logical_emit_message(true, 'x', repeat('x', 1000000))"))


def _with_demo(cluster: Cluster) -> Engine:
    for forget in FORGETTING:
        forget()
    ensure_database(cluster.url("demo"))
    engine = connect(cluster.url("demo"))
    migrate(engine)
    with sessions(engine).begin() as session:
        load(session)
    return engine


def _written(bay: Bay, most: int):  # type: ignore[no-untyped-def]
    """Readings with long notes until one is refused: those taken, and the refusal."""
    taken: list[UUID] = []
    address, head = f"/api/v1/runs/{bay.run}/entries", {"x-csrf-token": bay.csrf}
    about = {"kind": "reading", "step": "ready/unit", "reading": "meter", "value": 5000.0}
    for _ in range(most):
        key = uuid4()
        entry = {**about, "id": str(key), "note": os.urandom(190).hex()}
        answer = bay.client.post(address, json=entry, headers=head)
        if answer.status_code != 200:
            return taken, answer
        taken.append(key)
    return taken, None


def _until(engine: Engine, *, up: bool) -> None:
    for _ in range(600):
        if answers(engine) is up:
            return
        time.sleep(0.1)
    raise AssertionError(f"PostgreSQL is {'down' if up else 'up'} all the same")
