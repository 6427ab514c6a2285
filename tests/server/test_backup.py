"""A backup is only one if it was restored: what is lost, doubled or changed is found."""

import subprocess
import tarfile
import time
from pathlib import Path

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session, sessionmaker

from eldrim.server import backup as module
from eldrim.server.backup import BackupError, backup, restore, verify
from eldrim.store.database import SchemaError, connect, migrate
from eldrim.store.tables import AuditRow, EntryRow
from eldrim.web.app import make_app
from tests.conftest import address
from tests.databases import MINE
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def names(engine: Engine) -> list[str]:
    """The databases of this test: the server has those of other workers too."""
    with engine.connect() as asked:
        found = asked.scalars(text("SELECT datname FROM pg_database ORDER BY 1"))
        return [str(name) for name in found if str(name).startswith(f"{MINE}_")]


@pytest.fixture
def tidy(database: Engine) -> Engine:
    """The server is left with the databases it had; others count on them."""
    return database


def test_what_is_lost_after_a_backup_is_there_again(
    tidy: Engine, store: Store, tmp_path: Path
) -> None:
    """Under a server that runs: it answers before and after, with what was backed up."""
    url, file = address(tidy), tmp_path / "friday.tar"
    before = names(tidy)
    made = backup(url, file)
    assert made.tables["entries"][0] > 0
    assert file.stat().st_mode & 0o077 == 0, "it holds everything"
    assert made.tables["images"] == verify(url, file).tables["images"]
    with TestClient(make_app(tidy)) as client:
        sign_in(client, "lead")
        with store.begin() as session:
            session.execute(text("ALTER TABLE entries DISABLE TRIGGER ALL"))
            session.execute(text("DELETE FROM entries"))
            session.execute(text("ALTER TABLE entries ENABLE TRIGGER ALL"))
        floor = client.app.state.floor  # type: ignore[attr-defined]
        assert client.get("/floor").status_code == 200
        assert floor._mark
        contents, kept = restore(url, file)
        assert client.get("/log").status_code == 200
        for _ in range(200):
            if not floor._mark:
                break
            time.sleep(0.05)
        assert not floor._mark, "what was made from the database before is dropped"
    with store() as session:
        count = len(session.scalars(select(EntryRow.id)).all())
        noted = session.scalars(select(AuditRow.act).order_by(AuditRow.id.desc()).limit(1)).one()
    assert count == contents.tables["entries"][0]
    assert noted == "backup restored"
    assert kept is not None
    assert sorted(set(names(tidy)) - set(before)) == [kept]
    server = connect(url.rsplit("/", 1)[0] + "/postgres")
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as asked:
        asked.execute(text(f'DROP DATABASE "{kept}"'))
    server.dispose()


def test_a_backup_never_replaces_another_and_leaves_nothing_half(
    tidy: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A dump that fails leaves no file; one that is there stays as it is."""
    file = tmp_path / "one.tar"
    file.write_text("mine")
    with pytest.raises(BackupError, match="is there already"):
        backup(address(tidy), file)
    assert file.read_text() == "mine"

    def full(*_: object, **__: object) -> subprocess.CompletedProcess[str]:
        return subprocess.CompletedProcess((), 1, "", "pg_dump: error: No space left on device")

    monkeypatch.setattr(module.subprocess, "run", full)
    with pytest.raises(BackupError, match="No space left"):
        backup(address(tidy), tmp_path / "two.tar")
    assert [path.name for path in tmp_path.iterdir()] == ["one.tar"]


def test_a_backup_that_lost_a_row_is_found_out(tidy: Engine, tmp_path: Path) -> None:
    """The table that differs is named; so is what is no backup at all."""
    url, file = address(tidy), tmp_path / "whole.tar"
    contents = backup(url, file)
    count, total = contents.tables["units"]
    lying = contents.model_copy(update={"tables": contents.tables | {"units": (count + 1, total)}})
    with tarfile.open(file) as tar:
        tar.extractall(tmp_path)
    (tmp_path / "contents.json").write_text(lying.model_dump_json())
    forged = tmp_path / "forged.tar"
    with tarfile.open(forged, "w") as tar:
        for name in ("contents.json", "database.dump"):
            tar.add(tmp_path / name, name)
    with pytest.raises(BackupError, match=rf"units: {count + 1} rows then, {count} now"):
        verify(url, forged)
    cut = tmp_path / "cut.tar"
    cut.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    with pytest.raises(BackupError):
        restore(url, cut)
    with pytest.raises(BackupError, match="There is no file"):
        verify(url, tmp_path / "none.tar")
    assert not [name for name in names(tidy) if "scratch" in name]


def test_a_backup_of_a_newer_version_is_refused(tidy: Engine, tmp_path: Path) -> None:
    """In words, before anything is touched."""
    url, file = address(tidy), tmp_path / "later.tar"
    contents = backup(url, file).model_copy(update={"schema_revision": "9999"})
    with tarfile.open(file) as tar:
        tar.extractall(tmp_path)
    (tmp_path / "contents.json").write_text(contents.model_dump_json())
    file.unlink()
    with tarfile.open(file, "w") as tar:
        for name in ("contents.json", "database.dump"):
            tar.add(tmp_path / name, name)
    with pytest.raises(BackupError, match="schema 9999"):
        restore(url, file)


def test_a_database_of_a_newer_version_is_not_opened(database: Engine) -> None:
    """Nothing is changed by one that does not know it."""
    with database.begin() as writing:
        writing.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    with pytest.raises(SchemaError, match="a newer Eldrim"):
        migrate(database)
