"""Logs, references and counts: every fault is found again, no secret is ever written."""

import json
from collections.abc import Iterator
from io import StringIO

import pytest
import structlog
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from eldrim.server import logs
from eldrim.web.app import make_app
from eldrim.web.front import Front
from eldrim.web.request_log import fault_facts
from tests.web.client import TestClient
from tests.web.test_web import sign_in

TOKEN = "a token of many letters"


@pytest.fixture
def written(monkeypatch: pytest.MonkeyPatch) -> Iterator[StringIO]:
    """What is written to the log, as JSON."""
    out = StringIO()
    monkeypatch.setattr(logs.sys, "stderr", out)
    before = structlog.get_config()
    logs.set_up("json")
    yield out
    structlog.configure(**before)


def lines(written: StringIO) -> list[dict[str, object]]:
    """Each line of it."""
    return [json.loads(line) for line in written.getvalue().splitlines()]


def test_a_database_fault_leaves_a_trace_and_no_row(database: Engine, written: StringIO) -> None:
    """The page names the reference under which it stands in the log; no value is in either."""
    with TestClient(make_app(database), raise_server_exceptions=False) as client:
        sign_in(client, "lead")
        with database.begin() as writing:
            writing.execute(text("ALTER TABLE bays ADD CHECK (name <> 'No such bay 77')"))
            writing.execute(text("ALTER TABLE units RENAME COLUMN name TO called"))
        answer = client.get("/units")
        csrf = client.get("/people").text.split('data-csrf="')[1].split('"')[0]
        refused = client.post("/bays", data={"csrf": csrf, "bay": "No such bay 77"})
    assert answer.status_code == 500
    reference = answer.headers["x-request-id"]
    assert reference in answer.text
    (fault,) = [line for line in lines(written) if line.get("reference") == reference][:1]
    assert fault["sqlstate"] == "42703"
    assert fault["event"] == "fault"
    assert "units" in str(fault["statement"])
    assert refused.status_code == 409
    assert "No such bay 77" not in written.getvalue()


def test_no_secret_is_written_whoever_puts_it_there(written: StringIO) -> None:
    """By its name; and a fault by kind and place, not by words that may quote it."""
    structlog.get_logger().info(
        "x", password="hidden-1", new_pin="hidden-2", database_url="hidden-3"
    )
    try:
        int("hidden-4")
    except ValueError:
        structlog.get_logger().exception("went wrong")
    assert "hidden" not in written.getvalue()
    assert lines(written)[1]["kind"] == "ValueError"


def test_a_password_is_in_no_fault_of_the_database(database: Engine) -> None:
    """Not as a parameter, nor in what the server says of the row."""
    adding = text(
        "INSERT INTO users (name, display, role, password_hash) VALUES (:n, :d, NULL, :h)"
    )
    with pytest.raises(DBAPIError) as caught, database.begin() as writing:
        writing.execute(adding, {"n": "x", "d": "y", "h": "$argon2id$hidden"})
    assert "hidden" not in json.dumps(fault_facts(caught.value))


def test_an_address_does_not_forge_a_line(database: Engine, written: StringIO) -> None:
    """What ends a line in it stays quoted, as it came."""
    with TestClient(make_app(database)) as client:
        client.get("/units/a%0A2026-11-26 [info] signed in")
    line = next(line for line in lines(written) if line["event"] == "answered")
    assert line["path"] == "/units/a%0A2026-11-26%20%5Binfo%5D%20signed%20in"


def test_every_answer_has_a_reference(database: Engine) -> None:
    """That of what stands before us, where it is one; otherwise our own."""
    with TestClient(make_app(database)) as client:
        own = client.get("/healthz").headers["x-request-id"]
        given = client.get("/healthz", headers={"x-request-id": "abc-12345"})
        forged = client.get("/healthz", headers={"x-request-id": "a b\tc" * 5})
    assert len(own) == 16
    assert given.headers["x-request-id"] == "abc-12345"
    assert forged.headers["x-request-id"] not in ("a b\tc" * 5, own)


def test_counts_are_for_this_machine_or_who_has_the_token(database: Engine) -> None:
    """Not for what a proxy on this machine passes on; routes as they are written in the code."""
    app = make_app(database, front=Front(metrics_token=TOKEN))
    with TestClient(app, client=("127.0.0.1", 5)) as client:
        sign_in(client, "lead")
        client.get("/units/tug-14")
        counts = client.get("/metrics").text
        assert 'route="/units/{key}",status="200"' in counts
        assert "tug-14" not in counts
        assert client.get("/metrics", headers={"x-forwarded-for": "10.0.0.9"}).status_code == 404
    with TestClient(app, client=("10.0.0.9", 5)) as client:
        assert client.get("/metrics").status_code == 404
        wrong = client.get("/metrics", headers={"authorization": "Bearer no"})
        right = client.get("/metrics", headers={"authorization": f"Bearer {TOKEN}"})
    assert (wrong.status_code, right.status_code) == (404, 200)
