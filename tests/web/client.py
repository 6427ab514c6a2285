"""A client that reads pages as a browser shows them, on an application that serves many tests."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import httpx
from fastapi import testclient
from sqlalchemy import Engine

from eldrim.store.notices import EVERYTHING
from eldrim.web.app import make_app


class TestClient(testclient.TestClient):
    """FastAPI's test client; in the text of a page, spaces and line ends are one space."""

    __test__ = False

    def request(self, *args: Any, **kwargs: Any) -> httpx.Response:
        """Send a request, and read a page's text with its white space collapsed."""
        answer = super().request(*args, **kwargs)
        if answer.headers.get("content-type", "").startswith("text/html"):
            answer._text = re.sub(r"\s+", " ", answer.text)
        return answer


class Serving:
    """An application that goes on serving from one test to the next, as a server does."""

    def __init__(self, engine: Engine) -> None:
        """Start it."""
        self.engine, self.app = engine, make_app(engine)
        self._keeper = TestClient(self.app)
        self._keeper.__enter__()

    def client(self, headers: dict[str, str] | None) -> TestClient:
        """Somebody new at its door; a fault of ours is an answer, as on a server."""
        made = TestClient(self.app, raise_server_exceptions=False, headers=headers)
        made.portal = self._keeper.portal
        return made

    def forget(self) -> None:
        """Let go what it has in memory of the database, as when its line broke: it was put back."""
        self.app.state.notices._heard([EVERYTHING])

    def stop(self) -> None:
        """End it."""
        self._keeper.__exit__()


_serving: dict[str, Serving] = {}


@contextmanager
def asking(engine: Engine, headers: dict[str, str] | None = None) -> Iterator[TestClient]:
    """A client of the application on this database, nobody signed in."""
    address = str(engine.url)
    there = _serving.get(address)
    if there is None or there.engine is not engine:
        if there is not None:
            there.stop()
        there = _serving[address] = Serving(engine)
    there.forget()
    yield there.client(headers)


def stop_serving() -> None:
    """End every application that was started here."""
    while _serving:
        _serving.popitem()[1].stop()
