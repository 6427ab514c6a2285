"""Connecting and migrating."""

import os
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.exc import OperationalError, SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

ENVIRONMENT = "ELDRIM_DATABASE_URL"
CONNECTIONS, OVERFLOW = 40, 10
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
        max_overflow=OVERFLOW,
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
    server = connect(wanted.set(database="postgres").render_as_string(hide_password=False))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text(f'CREATE DATABASE "{wanted.database}"'))
    server.dispose()


def migrate(engine: Engine, target: str = "head") -> None:
    """Bring the schema up to ``target``; in one transaction, however long it takes."""
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        connection.execute(text("SET LOCAL lock_timeout = 0"))
        command.upgrade(_config(connection), target)


def unmigrate(engine: Engine, target: str = "base") -> None:
    """Take the schema down to ``target``."""
    with engine.begin() as connection:
        command.downgrade(_config(connection), target)


def _config(connection: object) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["connection"] = connection
    return config


def answers(engine: Engine) -> bool:
    """Whether the database can be asked something right now."""
    try:
        with engine.connect() as connection:
            return connection.execute(text("select 1")).scalar() == 1
    except OperationalError:
        return False


def is_migrated(engine: Engine) -> bool:
    """Whether the schema is the one this version works with; raises where nothing answers."""
    with engine.connect() as connection:
        found = MigrationContext.configure(connection).get_current_revision()
        return found == ScriptDirectory.from_config(_config(connection)).get_current_head()


class Readiness:
    """Says within ``seconds`` whether the database serves, however slow it is to answer."""

    def __init__(self, engine: Engine, seconds: float = 2.0) -> None:
        """Two may ask at a time; where both still wait, the next is told at once enough."""
        self.engine, self.seconds = engine, seconds
        self._asking = ThreadPoolExecutor(2, thread_name_prefix="ready")

    def fault(self) -> str:
        """Why it does not serve; empty where it does."""
        try:
            up = self._asking.submit(is_migrated, self.engine).result(timeout=self.seconds)
        except TimeoutError:
            return f"the database does not answer within {self.seconds:g} seconds"
        except (SQLAlchemyError, OSError):
            return "the database does not answer"
        return "" if up else "the database has another schema than this version needs"
