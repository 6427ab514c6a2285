"""Connecting and migrating."""

import os
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

ENVIRONMENT = "ELDRIM_DATABASE_URL"
CONNECTIONS = 40


def connect(url: str) -> Engine:
    """Return a pooled engine that notices a restarted server instead of failing on it."""
    return create_engine(
        make_url(url).set(drivername="postgresql+psycopg"),
        pool_pre_ping=True,
        # Kept open: one over the size would be made and closed again at every request.
        pool_size=CONNECTIONS,
        max_overflow=10,
        connect_args={"connect_timeout": 5},
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
    """Bring the schema up to ``target``; in one transaction."""
    with engine.begin() as connection:
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
