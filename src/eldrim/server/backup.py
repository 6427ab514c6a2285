"""Backup, restore and verify: PostgreSQL's own dump, and beside it what it must hold.

A backup is one tar file: ``database.dump`` (pg_dump's custom format) and ``contents.json`` (schema,
time, rows and sums of each table, taken in the same snapshot as the dump).
"""

import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal
from uuid import uuid4

from pydantic import BaseModel, ValidationError
from sqlalchemy import Connection, Engine, make_url, text
from sqlalchemy.exc import SQLAlchemyError

from eldrim.core.base.errors import EldrimError
from eldrim.store import audit
from eldrim.store.cluster import ClusterError, binary
from eldrim.store.database import (
    at_server,
    connect,
    ensure_database,
    migrate,
    newest_schema,
    schema,
    sessions,
)
from eldrim.store.digests import digests

DUMP, CONTENTS = "database.dump", "contents.json"


class BackupError(EldrimError):
    """A backup cannot be made, read or restored; the message says why. Nothing was changed."""


class Contents(BaseModel):
    """What a backup holds: rows and sum of each table."""

    format: Literal["eldrim-backup-1"] = "eldrim-backup-1"
    schema_revision: str
    at: datetime
    tables: dict[str, tuple[int, str]]

    def words(self) -> str:
        """When it was made, and how much of what matters is in it."""
        named = ("editions", "runs", "entries", "images")
        counts = ", ".join(f"{self.tables.get(n, (0, ''))[0]} {n}" for n in named)
        return f"{self.at:%Y-%m-%d %H:%M} UTC, schema {self.schema_revision}: {counts}"


def backup(url: str, file: Path) -> Contents:
    """Write all that the database holds to ``file``, and prove it by restoring it beside.

    ``file`` is there only when that was well. Raises :class:`BackupError`.
    """
    if file.exists():
        raise BackupError(f"{file} is there already; a backup never replaces another.")
    part = file.with_name(f".{file.name}.part")
    try:
        with _folder() as folder:
            contents = _dump(url, folder)
            # It holds everything: nobody else reads it, from its first byte on.
            part.unlink(missing_ok=True)
            part.touch(mode=0o600)
            with tarfile.open(part, "w") as tar:
                tar.add(folder / CONTENTS, CONTENTS)
                tar.add(folder / DUMP, DUMP)
        verify(url, part)
        part.rename(file)
    except OSError as error:
        raise BackupError(f"{file} cannot be written: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)
    _noted(url, "backup made", file, contents)
    return contents


def verify(url: str, file: Path) -> Contents:
    """Restore ``file`` into a scratch database of the same server and compare every table.

    Raises :class:`BackupError` that names the tables that differ.
    """
    with _opened(file) as (folder, contents), _scratch(url) as scratch:
        _require_readable(contents)
        _restore_into(scratch, folder, contents)
    return contents


def restore(url: str, file: Path) -> tuple[Contents, str | None]:
    """Put what ``file`` holds in the place of the database, under servers that run.

    It is restored beside, compared and upgraded first; then the two change names. Returns what it
    holds, and the name under which what was there before is kept (None where nothing was).
    """
    with _opened(file) as (folder, contents):
        _require_readable(contents)
        with _scratch(url) as scratch:
            _restore_into(scratch, folder, contents)
            before = _change_names(url, scratch)
    _noted(url, "backup restored", file, contents)
    return contents, before


def _dump(url: str, folder: Path) -> Contents:
    """The dump and what it holds, both of one moment."""
    engine = connect(url)
    try:
        with engine.connect().execution_options(isolation_level="REPEATABLE READ") as asked:
            asked.execute(text("SET LOCAL idle_in_transaction_session_timeout = 0"))
            snapshot = asked.scalar(text("SELECT pg_export_snapshot()"))
            found = schema(asked)
            if not found:
                raise BackupError("There is no workshop of ours in this database.")
            contents = Contents(schema_revision=found, at=datetime.now(UTC), tables=digests(asked))
            target = folder / DUMP
            _run("pg_dump", url, "-Fc", f"--snapshot={snapshot}", "--no-owner", "-f", str(target))
    except SQLAlchemyError as error:
        raise BackupError(_said(error)) from None
    finally:
        engine.dispose()
    (folder / CONTENTS).write_text(contents.model_dump_json(indent=2))
    return contents


def _restore_into(url: str, folder: Path, contents: Contents) -> None:
    """Restore into an empty database, compare it, and bring it up to this version."""
    _run("pg_restore", url, "--no-owner", "--exit-on-error", str(folder / DUMP))
    engine = connect(url)
    try:
        _require_same(engine, contents)
        migrate(engine)
    finally:
        engine.dispose()


def _require_same(engine: Engine, contents: Contents) -> None:
    with engine.begin() as asked:
        found = digests(asked)
    tables = sorted(set(found) | set(contents.tables))
    differing = [t for t in tables if found.get(t) != contents.tables.get(t)]
    if differing:
        said = "; ".join(
            f"{t}: {contents.tables.get(t, (0, ''))[0]} rows then, {found.get(t, (0, ''))[0]} now"
            for t in differing
        )
        raise BackupError(f"What came back is not what was written down: {said}.")


def _require_readable(contents: Contents) -> None:
    known = newest_schema()
    if contents.schema_revision > known:
        raise BackupError(
            f"This backup has schema {contents.schema_revision}; this version knows {known} at "
            "most. Restore it with the version that made it, or a newer one. Nothing was changed."
        )


def _change_names(url: str, restored: str) -> str | None:
    """Let the restored database take the name; what had it stays under another."""
    name, fresh = make_url(url).database, make_url(restored).database
    with _server(url) as asked:
        there = asked.scalar(text("SELECT 1 FROM pg_database WHERE datname = :n"), {"n": name})
        before = f"{name}_before_{datetime.now(UTC):%Y%m%d_%H%M%S}" if there else None
        if before:
            # Who is connected would hold the name; they come back to the new one by themselves.
            asked.execute(text(f'ALTER DATABASE "{name}" ALLOW_CONNECTIONS false'))
            try:
                _let_go(asked, str(name))
                asked.execute(text(f'ALTER DATABASE "{name}" RENAME TO "{before}"'))
            except SQLAlchemyError as error:
                asked.execute(text(f'ALTER DATABASE "{name}" ALLOW_CONNECTIONS true'))
                raise BackupError(_said(error)) from None
            asked.execute(text(f'ALTER DATABASE "{before}" ALLOW_CONNECTIONS true'))
        _let_go(asked, str(fresh))
        asked.execute(text(f'ALTER DATABASE "{fresh}" RENAME TO "{name}"'))
    return before


def _let_go(asked: Connection, name: str) -> None:
    ending = text("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = :n")
    asked.execute(ending, {"n": name})
    gone = text("SELECT count(*) FROM pg_stat_activity WHERE datname = :n")
    for _ in range(100):
        if not asked.scalar(gone, {"n": name}):
            return
        asked.execute(text("SELECT pg_sleep(0.05)"))


@contextmanager
def _scratch(url: str) -> Iterator[str]:
    """An empty database on the same server; dropped unless it was given another name."""
    name = f"eldrim_scratch_{uuid4().hex[:12]}"
    scratch = make_url(url).set(database=name).render_as_string(hide_password=False)
    try:
        ensure_database(scratch)
        yield scratch
    except SQLAlchemyError as error:
        raise BackupError(_said(error)) from None
    finally:
        with _server(url) as asked:
            asked.execute(text(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)'))


@contextmanager
def _server(url: str) -> Iterator[Connection]:
    engine = connect(at_server(url))
    try:
        with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as asked:
            asked.execute(text("SET statement_timeout = 0"))
            yield asked
    except SQLAlchemyError as error:
        raise BackupError(_said(error)) from None
    finally:
        engine.dispose()


@contextmanager
def _opened(file: Path) -> Iterator[tuple[Path, Contents]]:
    """The two parts of a backup in a folder, and what it says it holds."""
    with _folder() as folder:
        try:
            with tarfile.open(file) as tar:
                for name in (CONTENTS, DUMP):
                    member = tar.getmember(name)
                    with (folder / name).open("wb") as out:
                        part = tar.extractfile(member)
                        if part is None:
                            raise KeyError(name)
                        shutil.copyfileobj(part, out)
            contents = Contents.model_validate_json((folder / CONTENTS).read_text())
        except FileNotFoundError:
            raise BackupError(f"There is no file {file}.") from None
        except (tarfile.TarError, KeyError, ValidationError, UnicodeDecodeError, EOFError):
            raise BackupError(f"{file} is no backup of ours, or is cut off.") from None
        yield folder, contents


@contextmanager
def _folder() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="eldrim-backup-") as folder:
        yield Path(folder)


def _run(program: str, url: str, *options: str) -> None:
    """Run one of PostgreSQL's programs on a database; the password is not on its command line."""
    wanted = make_url(url)
    place = {
        "PGHOST": wanted.host,
        "PGPORT": wanted.port,
        "PGUSER": wanted.username,
        "PGPASSWORD": wanted.password,
        "PGDATABASE": wanted.database,
    }
    environment = os.environ | {name: str(value) for name, value in place.items() if value}
    extra = ["-d", str(wanted.database)] if program == "pg_restore" else []
    try:
        command = [binary(program), *options[:-1], *extra, options[-1]]
    except ClusterError as error:
        raise BackupError(str(error)) from None
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode:
        lines = done.stderr.strip().splitlines() or ["it said nothing"]
        raise BackupError(f"{program} failed: {lines[0][:300]}")


def _noted(url: str, act: str, file: Path, contents: Contents) -> None:
    engine = connect(url)
    try:
        with sessions(engine).begin() as session:
            counts = {name: count for name, (count, _) in contents.tables.items() if count}
            audit.note(session, "the server", act, file.name, rows=json.dumps(counts))
    finally:
        engine.dispose()


def _said(error: SQLAlchemyError) -> str:
    said = getattr(getattr(getattr(error, "orig", None), "diag", None), "message_primary", None)
    return f"PostgreSQL says: {said or 'nothing; is it running, and is database_url right?'}"
