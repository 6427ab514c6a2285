"""The application over the demo's database, for tests of its pages."""

from collections.abc import Iterator

import pytest
from sqlalchemy import Engine

from tests.web.client import TestClient, asking, stop_serving


@pytest.fixture
def client(database: Engine) -> Iterator[TestClient]:
    """The application, nobody signed in."""
    with asking(database) as made:
        yield made


@pytest.fixture(scope="session", autouse=True)
def _ended(cluster: object) -> Iterator[None]:
    """The applications end before their database server does."""
    yield
    stop_serving()
