"""What tests share: a PostgreSQL of their own for each worker, and a clean database in it."""

import os
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from argon2 import PasswordHasher
from hypothesis import settings
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session, sessionmaker

from eldrim.demo.load import load
from eldrim.demo.process import DemoProcess
from eldrim.demo.years import load_years
from eldrim.store import accounts
from eldrim.store.cluster import ROOT, Cluster, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions
from eldrim.web.procedures import touched

settings.register_profile("project", deadline=None, print_blob=True)
settings.load_profile("project")
# Passwords of tests guard nothing: to look at one takes a thousandth of the time.
accounts._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests of many examples run uncounted: what they reach, others reach, in half the time.

    Those with a browser mostly wait for it: they are spread among the others, whose sums fill
    the time.
    """
    for item in items:
        if getattr(getattr(item, "obj", None), "is_hypothesis_test", False):
            item.add_marker("no_cover")
    waiting = [item for item in items if "browser" in item.path.parts]
    others = [item for item in items if "browser" not in item.path.parts]
    every = len(others) / (len(waiting) or 1)
    placed = [(round(every * place), 0, item) for place, item in enumerate(waiting)]
    placed += [(place, 1, item) for place, item in enumerate(others)]
    items[:] = [item for *_, item in sorted(placed, key=lambda one: one[:2])]


WORKER = os.environ.get("PYTEST_XDIST_WORKER", "alone")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A server whose data may be lost: quick, and gone afterwards."""
    own = Cluster(reachable_home(ROOT / "var" / f"test-{WORKER}"), durable=False)
    own.destroy()
    own.start()
    yield own
    own.destroy()


@pytest.fixture(scope="session")
def demo_database(cluster: Cluster) -> Iterator[Engine]:
    """A migrated database with the demo workshop in it; a template for the others."""
    ensure_database(cluster.url("demo"))
    engine = connect(cluster.url("demo"))
    migrate(engine)
    with sessions(engine).begin() as session:
        load(session)
    engine.dispose()
    yield engine
    engine.dispose()


@contextmanager
def copied(cluster: Cluster, template: str) -> Iterator[Engine]:
    """A database of one test's own, copied from another that nobody is connected to."""
    touched.FOUND_CHANGES.clear()
    server = connect(cluster.url("postgres"))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("DROP DATABASE IF EXISTS one WITH (FORCE)"))
        connection.execute(text(f"CREATE DATABASE one TEMPLATE {template}"))
    engine = connect(cluster.url("one"))
    yield engine
    engine.dispose()
    server.dispose()


@pytest.fixture
def database(cluster: Cluster, demo_database: Engine) -> Iterator[Engine]:
    """A database of this test's own, copied from the demo; it has the ids of others."""
    demo_database.dispose()
    with copied(cluster, "demo") as engine:
        yield engine


@pytest.fixture(scope="session")
def years_database(cluster: Cluster, demo_database: Engine) -> Iterator[Engine]:
    """The demo with its two years of history; a template for others."""
    demo_database.dispose()
    server = connect(cluster.url("postgres"))
    with server.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("CREATE DATABASE years TEMPLATE demo"))
    engine = connect(cluster.url("years"))
    with sessions(engine).begin() as session:
        load_years(session)
    yield engine
    engine.dispose()
    server.dispose()


@pytest.fixture
def years(cluster: Cluster, years_database: Engine) -> Iterator[Engine]:
    """A database of this test's own with the two years in it."""
    years_database.dispose()
    with copied(cluster, "years") as engine:
        yield engine


@pytest.fixture
def store(database: Engine) -> "sessionmaker[Session]":
    """Transactions on this test's database."""
    return sessions(database)


@pytest.fixture(scope="session")
def demo() -> Iterator[DemoProcess]:
    """The demo on its own port and data, by two processes: either may answer, and either does."""
    process = DemoProcess(ROOT / "var" / f"browser-{WORKER}")
    process.start("--fresh", "--no-years", "--workers", "2")
    yield process
    process.stop()
