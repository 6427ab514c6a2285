"""What tests share: one PostgreSQL, and a clean database in it for each test."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from argon2 import PasswordHasher
from hypothesis import settings
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from eldrim.demo.process import DemoProcess
from eldrim.store import accounts
from eldrim.store.cluster import Cluster
from eldrim.store.database import connect, sessions
from eldrim.web.app import FORGETTING
from tests import databases, durations, sweeps

settings.register_profile("project", deadline=None, print_blob=True)
settings.load_profile("project")
# Passwords of tests guard nothing: to look at one takes a thousandth of the time.
accounts._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)


def pytest_addoption(parser: pytest.Parser) -> None:
    """What `bin/test` hands on."""
    parser.addoption("--deep", action="store_true", help="every case of every sweep")
    parser.addoption("--quick", action="store_true", help="what neither has a browser nor is long")
    parser.addoption("--measure", action="store_true", help="keep how long each test takes")


def pytest_configure(config: pytest.Config) -> None:
    """Before anything is collected: what sweeps draw."""
    sweeps.begin(config.getoption("--deep"))
    if config.getoption("--measure") and not hasattr(config, "workerinput"):
        config.pluginmanager.register(durations.Measured())


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> durations.LongestFirst:
    """Who hands tests to the workers."""
    return durations.LongestFirst(config, log)


def pytest_report_header() -> str:
    """What a failure in a sample is found again by."""
    return sweeps.head()


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Take the sample of each sweep, then the longest first, as they were last measured.

    Tests of many examples run uncounted: what they reach, others reach, in half the time.
    """
    out = set(sweeps.left_out(items))
    if config.getoption("--quick"):
        out |= set(durations.long_ones(items))
    config.hook.pytest_deselected(items=list(out))
    items[:] = [item for item in items if item not in out]
    for item in items:
        if getattr(getattr(item, "obj", None), "is_hypothesis_test", False):
            item.add_marker("no_cover")
    durations.longest_first(items)


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """The server that all workers share; who is last stops it."""
    with databases.alone_at("test-used", shared=True):
        yield databases.shared_cluster()


@contextmanager
def copied(cluster: Cluster, template: str, name: str = "one") -> Iterator[Engine]:
    """A database of one test's own, copied from a template."""
    for forget in FORGETTING:
        forget()
    name = f"{databases.MINE}_{name}"
    with databases.asking(cluster) as server:
        databases.copy(server, template, name)
        engine = connect(cluster.url(name))
        yield engine
        engine.dispose()
        databases.drop(server, name)


def put_back(
    cluster: Cluster, template: str, name: str, standing: dict[str, databases.Restored]
) -> Iterator[Engine]:
    """A database that is as it was made whenever a test begins; ``standing`` holds it meanwhile."""
    for forget in FORGETTING:
        forget()
    if template not in standing:
        standing[template] = databases.Restored(cluster, template, f"{databases.MINE}_{name}")
    here = standing[template]
    yield here.engine
    try:
        here.put_back()
    except SQLAlchemyError:
        # Somebody still holds a table: the next test has a new copy.
        del standing[template]
        here.engine.dispose()


@pytest.fixture(scope="session")
def standing() -> dict[str, databases.Restored]:
    """The databases of this worker that are put back after each test."""
    return {}


@pytest.fixture
def database(cluster: Cluster, standing: dict[str, databases.Restored]) -> Iterator[Engine]:
    """The demo's database, as it was loaded."""
    yield from put_back(cluster, databases.demo_template(cluster), "one", standing)


@pytest.fixture
def years(cluster: Cluster, standing: dict[str, databases.Restored]) -> Iterator[Engine]:
    """The demo's database with its two years, as it was loaded."""
    yield from put_back(cluster, databases.years_template(cluster), "years", standing)


@pytest.fixture
def own_database(cluster: Cluster) -> Iterator[Engine]:
    """A new copy of the demo's database, for tests that change more than rows."""
    with copied(cluster, databases.demo_template(cluster), "own_copy") as engine:
        yield engine


@pytest.fixture
def store(database: Engine) -> "sessionmaker[Session]":
    """Transactions on this test's database."""
    return sessions(database)


@pytest.fixture(scope="session")
def demo_data(cluster: Cluster) -> Iterator[databases.Restored]:
    """The database that the demo of this worker is served from."""
    name = f"{databases.MINE}_demo"
    yield databases.Restored(cluster, databases.demo_template(cluster), name)
    with databases.asking(cluster) as server:
        databases.drop(server, name)


@pytest.fixture(scope="session")
def demo(demo_data: databases.Restored) -> Iterator[DemoProcess]:
    """The demo on its own port and data, by two processes: either may answer, and either does."""
    process = DemoProcess(url=demo_data.url)
    process.start("--workers", "2")
    yield process
    process.stop()


@pytest.fixture
def as_loaded(demo_data: databases.Restored, demo: DemoProcess) -> None:
    """The demo as it was loaded, whatever stories were played before; who signed in stays so."""
    demo_data.put_back(leave=("sessions", "known_devices"))
    demo_data.break_lines()


def address(engine: Engine) -> str:
    """Where a database is, with its password."""
    return engine.url.render_as_string(hide_password=False)


def pytest_unconfigure(config: pytest.Config) -> None:
    """The process that began the run ends what its workers shared."""
    if not hasattr(config, "workerinput"):
        databases.stop_if_last()
