"""A workshop in which nobody works yet."""

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine

from eldrim.store.cluster import Cluster
from eldrim.store.database import connect, ensure_database, migrate
from tests.databases import MINE, drop_mine


@pytest.fixture
def empty_url(cluster: Cluster) -> Iterator[str]:
    """The address of a database that is not there yet; dropped afterwards, with what it left."""
    yield cluster.url(f"{MINE}_own")
    drop_mine(cluster, "own")


@pytest.fixture
def empty(empty_url: str) -> Iterator[Engine]:
    """A migrated database with nothing in it."""
    ensure_database(empty_url)
    engine = connect(empty_url)
    migrate(engine)
    yield engine
    engine.dispose()


@pytest.fixture
def database(own_database: Engine) -> Engine:
    """Servers, backups and schemas change more than rows."""
    return own_database
