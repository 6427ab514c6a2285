"""A workshop in which nobody works yet."""

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, text

from eldrim.store.cluster import Cluster
from eldrim.store.database import connect, ensure_database, migrate


@pytest.fixture
def empty_url(cluster: Cluster) -> Iterator[str]:
    """The address of a database that is not there yet; dropped afterwards, with what it left."""
    yield cluster.url("own")
    server = connect(cluster.url("postgres"))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as asked:
        left = asked.scalars(text("SELECT datname FROM pg_database WHERE datname LIKE 'own%'"))
        for name in left.all():
            asked.execute(text(f'DROP DATABASE "{name}" WITH (FORCE)'))
    server.dispose()


@pytest.fixture
def empty(empty_url: str) -> Iterator[Engine]:
    """A migrated database with nothing in it."""
    ensure_database(empty_url)
    engine = connect(empty_url)
    migrate(engine)
    yield engine
    engine.dispose()
