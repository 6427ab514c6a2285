"""Our own PostgreSQL: made, stopped, started again and removed without touching anything else."""

import os
import socket
import stat
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import text

from eldrim.store import cluster as module
from eldrim.store.cluster import ROOT, Cluster, ClusterError, reachable_home
from eldrim.store.database import answers, connect, ensure_database
from tests.databases import WORKER


@pytest.fixture
def own() -> Iterator[Cluster]:
    """A cluster of this test's own, running."""
    made = Cluster(reachable_home(ROOT / "var" / f"cluster-{WORKER}"))
    made.destroy()
    made.start()
    yield made
    made.destroy()


def test_it_keeps_its_data_over_a_stop_and_a_start(own: Cluster) -> None:
    """Also after a stop as sudden as a power cut."""
    ensure_database(own.url())
    ensure_database(own.url())
    engine = connect(own.url())
    with engine.begin() as connection:
        connection.execute(text("CREATE TABLE kept AS SELECT 7 AS number"))
    own.stop("immediate")
    assert not own.running
    assert not answers(engine)
    own.start()
    own.start()
    with engine.begin() as connection:
        assert connection.execute(text("SELECT number FROM kept")).scalar() == 7
    engine.dispose()


def test_nobody_else_can_read_its_password_or_reach_it_from_outside(own: Cluster) -> None:
    """Loopback only, and the password readable by the server's user alone."""
    assert stat.S_IMODE((own.home / "password").stat().st_mode) == 0o600
    engine = connect(own.url("postgres"))
    with engine.connect() as connection:
        assert connection.execute(text("SHOW listen_addresses")).scalar() == "127.0.0.1"
        assert connection.execute(text("SHOW unix_socket_directories")).scalar() == ""
    engine.dispose()
    wrong = connect(own.url("postgres").replace(":", ":x", 2).replace(":x//", "://"))
    assert not answers(wrong)
    wrong.dispose()


def test_a_taken_port_is_left_alone(own: Cluster) -> None:
    """Another program has it meanwhile: ours moves."""
    own.stop()
    before = own.port
    with socket.socket() as other:
        other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        other.bind(("127.0.0.1", before))
        other.listen()
        own.start()
        assert own.port != before
        assert own.running


def test_what_is_missing_is_said(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """With the command that installs it."""
    monkeypatch.setattr(module, "Path", lambda *_: tmp_path)
    monkeypatch.setattr(module.shutil, "which", lambda _: None)
    with pytest.raises(ClusterError, match="apt-get install postgresql"):
        module.binary("initdb")


@pytest.mark.skipif(os.geteuid() != 0, reason="only root drops to another user")
def test_a_closed_home_folder_is_stepped_round(tmp_path: Path) -> None:
    """The server's user cannot enter root's home; its data goes elsewhere, always to one place."""
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    home = reachable_home(closed / "var" / "postgres")
    assert not home.is_relative_to(closed)
    assert home == reachable_home(closed / "var" / "postgres")
