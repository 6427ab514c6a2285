"""Connecting and migrating."""

import os
import re
import shutil
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, Engine, create_engine, make_url, text
from sqlalchemy.exc import IntegrityError, OperationalError, ProgrammingError, SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import EldrimError
from eldrim.core.words.messages import gettext

if TYPE_CHECKING:
    from alembic.config import Config

ENVIRONMENT = "ELDRIM_DATABASE_URL"
# A process has this many connections; PostgreSQL bears a hundred as it comes.
CONNECTIONS = 10
# So many requests have one at a time; the others are for notices and for who asks how we are.
TURNS = CONNECTIONS - 2
# Of them so many at most look at a password or PIN.
SECRET_TURNS = 3
# Nobody waits longer for a connection, and the server ends what holds others up: what waits for a
# lock, a question without end, a transaction nobody goes on with. A large plan takes seconds.
WAIT_SECONDS = 5
LIMITS = {
    "lock_timeout": "5s",
    "statement_timeout": "20s",
    "idle_in_transaction_session_timeout": "60s",
}


def connect(url: str) -> Engine:
    """Return a pooled engine that notices a restarted server instead of failing on it."""
    return create_engine(
        make_url(url).set(drivername="postgresql+psycopg"),
        pool_pre_ping=True,
        # Kept open: one over the size would be made and closed again at every request.
        pool_size=CONNECTIONS,
        max_overflow=0,
        # What is asked with holds names and hashes: it is in no message and no log.
        hide_parameters=True,
        pool_timeout=WAIT_SECONDS,
        connect_args={
            "connect_timeout": WAIT_SECONDS,
            "options": " ".join(f"-c {name}={most}" for name, most in LIMITS.items()),
        },
    )


def sessions(engine: Engine) -> "sessionmaker[Session]":
    """Return the factory of transactions."""
    return sessionmaker(engine, expire_on_commit=False)


def url_from_environment() -> str | None:
    """The address of another server, where one is set."""
    return os.environ.get(ENVIRONMENT)


def ensure_database(url: str) -> None:
    """Make the database named in ``url`` if the server has none of that name."""
    wanted = make_url(url)
    try:
        with connect(url).connect():
            return
    except OperationalError:
        pass
    server = connect(at_server(url))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        try:
            connection.execute(text(f'CREATE DATABASE "{wanted.database}"'))
        except (ProgrammingError, IntegrityError):
            # Another process made it meanwhile; whoever may not make one hears so at once.
            connect(url).connect().close()
    server.dispose()


def at_server(url: str) -> str:
    """The address of the server's own database, from which others are made and renamed."""
    return make_url(url).set(database="postgres").render_as_string(hide_password=False)


class SchemaError(EldrimError):
    """The database was written by a newer Eldrim than this, or by one from before version 0.2."""


# Two processes that start on an empty database: the second waits for the first.
MIGRATING = 0x656C6472


def migrate(engine: Engine, target: str = "head") -> None:
    """Bring the schema up to ``target``; in one transaction, however long it takes.

    Raises :class:`SchemaError` for a schema this version does not know: nothing is changed.
    """
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        connection.execute(text("SET LOCAL lock_timeout = 0"))
        connection.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": MIGRATING})
        _require_known(connection)
        # Where the schema is right, what changes it is not even loaded.
        if target == "head" and schema(connection) == newest_schema():
            return
        _require_known(connection)
        from alembic import command

        command.upgrade(_config(connection), target)


def _require_known(connection: Connection) -> None:
    found = schema(connection)
    if found and found < min(_revisions()):
        raise SchemaError(
            gettext(
                "The database has schema {found}, of an Eldrim before version 0.2. Start version "
                "0.2 with it once, which brings it up; then this one. Nothing was changed.",
                found=found,
            )
        )
    if found and found not in _revisions():
        raise SchemaError(
            gettext(
                "The database has schema {found}, which this version does not know: a newer "
                "Eldrim wrote it. Start that version, or restore a backup from before it. "
                "Nothing was changed.",
                found=found,
            )
        )


MIGRATIONS = Path(__file__).parent / "migrations"
REVISION = re.compile(r'^(revision|down_revision)(?:: [^=]+)? = "(\w+)"', re.MULTILINE)


def schema(connection: Connection) -> str:
    """Which schema the database has; empty where it has none of ours."""
    there = connection.execute(text("SELECT to_regclass('alembic_version') IS NOT NULL")).scalar()
    found = connection.execute(text("SELECT version_num FROM alembic_version")) if there else None
    return str(found.scalar() or "") if found else ""


def newest_schema() -> str:
    """The schema this version works with: the one that no other goes on from."""
    [newest] = _revisions().keys() - set(_revisions().values())
    return newest


@cache
def _revisions() -> dict[str, str]:
    """The schemas this version knows, each with the one before it, as the files say.

    A server asks for them as it starts, and loads nothing for it.
    """
    found = [
        dict(REVISION.findall(path.read_text())) for path in (MIGRATIONS / "versions").glob("*.py")
    ]
    return {each["revision"]: each.get("down_revision", "") for each in found}


def _config(connection: object) -> "Config":
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["connection"] = connection
    return config


def answers(engine: Engine) -> bool:
    """Whether the database can be asked something right now."""
    try:
        with engine.connect() as connection:
            return connection.execute(text("select 1")).scalar() == 1
    except OperationalError:
        return False


# PostgreSQL goes down where it has no room for two more pieces of its log.
LEAST_FREE_BYTES = 48_000_000
HERE = ("127.0.0.1", "localhost", "::1")


def has_room(engine: Engine) -> bool:
    """Whether the disk under the database has room; True where that cannot be seen from here."""
    if engine.url.host not in HERE:
        return True
    try:
        with engine.connect() as connection:
            folder = str(connection.execute(text("SHOW data_directory")).scalar())
        return shutil.disk_usage(folder).free >= LEAST_FREE_BYTES
    except (ProgrammingError, OSError):
        # Neither the setting nor the folder need be ours to look at.
        return True


def is_migrated(engine: Engine) -> bool:
    """Whether the schema is the one this version works with; raises where nothing answers."""
    with engine.connect() as connection:
        return schema(connection) == newest_schema()


class Readiness:
    """Says within ``seconds`` whether the database serves, however slow it is to answer."""

    def __init__(self, engine: Engine, seconds: float = 2.0) -> None:
        """Two may ask at a time; where both still wait, the next is told at once enough."""
        self.engine, self.seconds = engine, seconds
        self._asking = ThreadPoolExecutor(2, thread_name_prefix="ready")

    def fault(self) -> str:
        """Why it does not serve; empty where it does."""
        try:
            return self._asking.submit(self._look).result(timeout=self.seconds)
        except TimeoutError:
            return f"the database does not answer within {self.seconds:g} seconds"
        except (SQLAlchemyError, OSError):
            return "the database does not answer"

    def _look(self) -> str:
        if not is_migrated(self.engine):
            return "the database has another schema than this version needs"
        return "" if has_room(self.engine) else "the disk under the database is full, or nearly so"
