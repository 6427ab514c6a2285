"""What one person sends never keeps the others waiting, nor makes a page fail for them."""

import asyncio
import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from copy import deepcopy
from datetime import UTC, datetime
from threading import Thread
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import EngineError
from eldrim.exchange.procedure_files import csv_text
from eldrim.store import past_runs, sheet_store
from eldrim.store.database import CONNECTIONS, Readiness
from eldrim.store.tables import EngineRow, EntryRow, RunRow
from eldrim.web.app import make_app
from tests.builders import tug
from tests.web.client import TestClient, asking
from tests.web.test_bay import Bay
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


@pytest.fixture
def bay(database: Engine) -> Iterator[Bay]:
    """A run just started; a fault of ours is an answer, as on a server."""
    with asking(database) as client:
        yield Bay(client)


METER = {"step": "ready/unit", "reading": "meter"}


def send(bay: Bay, **entry: object):  # type: ignore[no-untyped-def]
    """Send an entry as a tablet does."""
    body = json.dumps({"id": str(uuid4()), "kind": "reading", **METER, **entry})
    headers = {"x-csrf-token": bay.csrf, "content-type": "application/json"}
    return bay.client.post(f"/api/v1/runs/{bay.run}/entries", content=body, headers=headers)


@pytest.mark.parametrize(
    "made",
    [
        "2026-11-26T10:00:00",
        "0001-01-01T00:00:00Z",
        "9999-12-31T23:59:59Z",
        "2099-01-01T08:00:00+01:00",
        "noon",
    ],
)
def test_a_time_that_cannot_be_is_refused_and_the_pages_go_on(bay: Bay, made: str) -> None:
    """Without a zone, or far from ours; nothing is kept of it."""
    assert send(bay, value=19000, made=made).status_code == 422
    assert bay.client.get(f"/bay/runs/{bay.run}").status_code == 200
    assert "meter" not in bay.state()["values"]


def test_a_time_kept_without_a_zone_is_read_as_utc(bay: Bay, store: Store) -> None:
    """So that what an earlier version let in stops no page."""
    with store.begin() as session:
        body = {"kind": "reading", "step": "ready/unit", "reading": "meter", "value": 19000}
        body = {**body, "id": str(uuid4()), "made": "2026-11-26T10:00:00"}
        session.add(EntryRow(id=UUID(body["id"]), run_id=UUID(bay.run), body=body, by="technician",
                             role="technician"))  # fmt: skip
    assert bay.client.get(f"/bay/runs/{bay.run}").status_code == 200
    assert bay.client.get("/bay").status_code == 200
    with store.begin() as session:
        [kept] = past_runs.entries(session, UUID(bay.run))
        assert kept.written == datetime(2026, 11, 26, 10, tzinfo=UTC)


@pytest.mark.parametrize(
    "more",
    [
        {"value": "x" * 401},
        {"value": "a\x00b"},
        {"unit": "N" * 21},
        {"note": "y" * 401},
        {"checks": ["c"] * 61},
        {"carries": ["s"] * 401},
        {"photo": "not a digest"},
        {"photo": "0" * 64},
        {"step": "s" * 121},
        {"reading": "\ud800"},
    ],
)
def test_an_entry_has_bounds(bay: Bay, more: dict[str, object]) -> None:
    """A text, a unit, a count over them, what is no text or a photo nobody has: said, not kept."""
    before = bay.state()
    assert send(bay, **{"value": 19000, **more}).status_code == 422
    assert bay.state() == before


@pytest.mark.parametrize("said", ["1e999", "-1e999", "NaN"])
def test_no_number_is_endless(bay: Bay, said: str) -> None:
    """Neither infinite nor none."""
    body = json.dumps({"id": str(uuid4()), "kind": "reading", **METER, "value": 1})
    body = body.replace('"value": 1', f'"value": {said}')
    headers = {"x-csrf-token": bay.csrf, "content-type": "application/json"}
    answer = bay.client.post(f"/api/v1/runs/{bay.run}/entries", content=body, headers=headers)
    assert answer.status_code == 422


def test_who_waits_for_a_lock_is_told_and_lets_go(bay: Bay, store: Store) -> None:
    """A transaction that holds a run keeps nobody for ever; what was not saved is said so."""
    with store.begin() as session:
        session.execute(select(RunRow.id).where(RunRow.id == UUID(bay.run)).with_for_update())
        answer = send(bay, value=19000)
    assert answer.status_code == 503
    assert "Nothing was saved just now" in answer.json()["error"]
    assert send(bay, value=19000).status_code == 200


def test_the_server_ends_what_holds_others_up(database: Engine) -> None:
    """Waiting for locks, questions without end, transactions nobody goes on with."""
    with database.connect() as connection:
        for name in ("lock_timeout", "statement_timeout", "idle_in_transaction_session_timeout"):
            assert connection.execute(text(f"SHOW {name}")).scalar() not in ("0", None), name


def test_the_same_sent_by_many_at_once_is_kept_once(bay: Bay, store: Store) -> None:
    """Nobody waits for ever, and there is one of it."""
    key = str(uuid4())
    answers: list[int] = []

    def once() -> None:
        answers.append(send(bay, id=key, value=19000).status_code)

    threads = [Thread(target=once) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers == [200] * 6
    with store.begin() as session:
        assert len(past_runs.entries(session, UUID(bay.run))) == 1


def test_a_sheet_that_does_not_hold_is_not_kept(store: Store) -> None:
    """A figure without what it needs, a key that is none: refused at the store's border."""
    sheet = tug()
    keys = {"variants": {"Bad Key é!": sheet.variants["late"]}}
    figures = {"figures": {**sheet.figures, "": next(iter(sheet.figures.values()))}}
    for wrong in (keys, figures):
        bent = sheet.model_copy(update={"revision": 99, **wrong})
        with store.begin() as session, pytest.raises((EngineError, ValueError)):
            sheet_store.save_sheet(session, bent, "trainer")


def test_a_list_names_the_sheet_it_cannot_read(bay: Bay, store: Store) -> None:
    """One that an earlier version let in stops no list."""
    with store.begin() as session:
        said = {"make": "Tarn", "name": "Broken", "document": {"format": 2, "id": "Bad Key é!"}}
        session.add(EngineRow(id="broken", revision=1, by="trainer", **said))
    for address in ("/engines", "/units", "/floor", "/bay", "/procedures", "/open"):
        assert bay.client.get(address).status_code == 200, address
    assert "cannot be read" in bay.client.get("/engines").text


def test_a_revision_that_cannot_be_read_stops_nobody_at_work(bay: Bay, store: Store) -> None:
    """Not even of an engine that units have: the one before it holds."""
    with store.begin() as session:
        said = {"make": "Marlet", "name": "3.4", "document": {"format": 2, "id": "Bad Key é!"}}
        session.add(EngineRow(id="marlet-34-v6", revision=99, by="trainer", **said))
    at = f"/bay/runs/{bay.run}"
    lists = ("/engines", "/units", "/units/tug-14", "/floor", "/bay", "/procedures", "/open")
    for address in (*lists, at, "/engines/marlet-34-v6?c=5", "/changed-underneath"):
        assert bay.client.get(address).status_code == 200, address
    assert "revision 99" in bay.client.get("/engines").text
    assert send(bay, value=19000).status_code == 200


def leaves(place: list[Any], value: object) -> Iterator[list[Any]]:
    """Where each text of a document stands."""
    if isinstance(value, str):
        yield place
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves([*place, key], inner)
    elif isinstance(value, list):
        for at, inner in enumerate(value):
            yield from leaves([*place, at], inner)


def test_no_text_of_a_sheet_runs_long_nor_is_a_fault(bay: Bay) -> None:
    """Each in turn is fourteen hundred blanks; without signing in, as anybody can send it."""
    bay.client.cookies.clear()
    sheet = tug().model_dump(mode="json", exclude_defaults=True)
    places = list(leaves([], sheet))
    assert len(places) > 100
    for place in places:
        bent = deepcopy(sheet)
        at = bent
        for step in place[:-1]:
            at = at[step]
        at[place[-1]] = " " * 1400
        asked = {"engine": bent, "job": {"cylinders": [1], "variant": "late"}}
        answer = bay.client.post("/api/v1/plan", json=asked)
        assert answer.status_code in (200, 422), (place, answer.status_code)


def test_a_body_is_in_before_a_connection_is_taken(database: Engine) -> None:
    """Who sends slowly holds nothing that others need."""
    app, held = make_app(database), []
    body = b"name=trainer&password=eldrim-demo"

    async def receive() -> dict[str, object]:
        held.append(database.pool.checkedout())  # type: ignore[attr-defined]
        return {"type": "http.request", "body": body, "more_body": False}

    async def send(message: dict[str, object]) -> None:
        if message["type"] == "http.response.start":
            held.append(f"answered {message['status']}")

    for path, kind in (("/sign-in", b"application/x-www-form-urlencoded"), ("/api/v1/photos", b"")):
        scope = {
            "type": "http", "method": "POST", "path": path, "raw_path": path.encode(),
            "query_string": b"", "headers": [(b"content-type", kind), (b"host", b"here")],
            "scheme": "http", "server": ("here", 80), "client": ("there", 1), "root_path": "",
            "http_version": "1.1",
        }  # fmt: skip
        with ThreadPoolExecutor(1) as apart:
            apart.submit(asyncio.run, app(scope, receive, send)).result()
    assert held == [0, "answered 303", 0, "answered 401"]


def test_a_fault_of_ours_carries_every_header(database: Engine) -> None:
    """As every other answer does."""
    app = make_app(database)

    def fault() -> None:
        raise ZeroDivisionError

    app.add_api_route("/fault", fault)
    with TestClient(app, raise_server_exceptions=False) as client:
        answer = client.get("/fault")
    assert answer.status_code == 500
    assert "Nothing was saved" in answer.text
    for name in ("content-security-policy", "x-content-type-options", "x-frame-options"):
        assert name in answer.headers


@pytest.mark.parametrize("cell", ["=1+1", "\t=1+1", "\r=1", "  =1+1", "+49", "@x"])
def test_no_cell_is_run_by_a_spreadsheet(cell: str) -> None:
    """Whatever stands before the sign."""
    assert csv_text(("a",), [[cell]]).split("\n", 1)[1].lstrip('"').startswith("'")


def test_a_slow_database_is_told_in_time(database: Engine) -> None:
    """Ready, then held up, then with another schema: each is said."""
    app = make_app(database)
    with TestClient(app) as client:
        assert client.get("/readyz").json() == {"status": "ready"}
        app.state.readiness = Readiness(database, seconds=0.3)
        with database.begin() as holding:
            holding.execute(text("LOCK TABLE alembic_version IN ACCESS EXCLUSIVE MODE"))
            slow = client.get("/readyz")
        assert slow.status_code == 503
        assert "within 0.3 seconds" in slow.json()["status"]
        with database.begin() as session:
            session.execute(text("UPDATE alembic_version SET version_num = '0001'"))
        other = client.get("/readyz")
        assert other.status_code == 503
        assert "another schema" in other.json()["status"]


@pytest.mark.parametrize(("base", "said"), [("https://here", True), ("http://here", False)])
def test_under_tls_a_browser_is_told_to_stay_there(database: Engine, base: str, said: bool) -> None:
    """And only there."""
    with TestClient(make_app(database), base_url=base) as client:
        assert ("strict-transport-security" in client.get("/sign-in").headers) is said


def test_where_every_connection_is_taken_it_is_said(database: Engine) -> None:
    """And it goes on once there are some again."""
    with asking(database) as client:
        sign_in(client, "trainer")
        with ExitStack() as held:
            for _ in range(CONNECTIONS):
                held.enter_context(database.connect())
            busy = client.get("/engines")
        assert busy.status_code == 503
        assert "Nothing was saved just now" in busy.text
        assert client.get("/engines").status_code == 200
