"""How the server stands towards the outside: names, TLS, slow callers, a full disk, sign-ins."""

import asyncio
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import httpx
import pytest
import uvicorn
from anyio.to_thread import current_default_thread_limiter
from fastapi import FastAPI
from sqlalchemy import Engine, create_engine, select, text, update
from sqlalchemy.orm import Session, sessionmaker

from eldrim.demo.load import PASSWORD
from eldrim.server import patient
from eldrim.store import accounts
from eldrim.store.accounts import Caller
from eldrim.store.database import CONNECTIONS, connect
from eldrim.store.errors import ThrottledError
from eldrim.store.tables import EntryRow, KnownDeviceRow, SessionRow
from eldrim.web.app import make_app
from eldrim.web.front import Front
from eldrim.web.security import BodyLimit
from tests.web.client import TestClient, asking
from tests.web.test_bay import Bay
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def test_another_name_is_refused_in_words(database: Engine) -> None:
    """A page elsewhere must not reach us by a name of its own; health is asked under any."""
    app = make_app(database, front=Front(hosts=("workshop.example",)))
    with TestClient(app, base_url="http://workshop.example:8400") as client:
        assert client.get("/sign-in").status_code == 200
        other = client.get("/sign-in", headers={"host": "evil.example"})
        assert other.status_code == 421
        assert "another name" in other.text
        assert "content-security-policy" in other.headers
        assert client.get("/healthz", headers={"host": "10.0.0.1"}).status_code == 200


def test_cookies_are_for_tls_where_that_is_set(database: Engine) -> None:
    """Although what stands before us does not say that it speaks TLS."""
    with TestClient(make_app(database, front=Front(secure=True))) as client:
        form = {"name": "lead", "password": PASSWORD}
        signed = client.post("/sign-in", data=form, follow_redirects=False)
    assert all("Secure" in cookie for cookie in signed.headers.get_list("set-cookie"))
    assert "strict-transport-security" in signed.headers


def test_a_known_device_is_not_kept_out_by_strangers(store: Store) -> None:
    """Eight wrong tries from the same address; who signed in at this browser before gets in."""
    with store.begin() as session:
        known = accounts.sign_in(session, "trainer", PASSWORD, Caller("shop"))
        assert known is not None
    for _ in range(accounts.MAX_FAILURES):
        with store.begin() as session:
            assert accounts.sign_in(session, "trainer", "wrong", Caller("shop")) is None
    with pytest.raises(ThrottledError), store.begin() as session:
        accounts.sign_in(session, "trainer", PASSWORD, Caller("shop"))
    with pytest.raises(ThrottledError), store.begin() as session:
        accounts.sign_in(session, "trainer", PASSWORD, Caller("shop", device="made up"))
    with store.begin() as session:
        again = accounts.sign_in(session, "trainer", PASSWORD, Caller("shop", device=known.device))
        assert again is not None
        assert len(session.scalars(select(KnownDeviceRow)).all()) == 1


def test_a_known_device_guesses_no_more_than_others(store: Store) -> None:
    """Its own wrong tries count."""
    with store.begin() as session:
        known = accounts.sign_in(session, "trainer", PASSWORD, Caller("shop"))
        assert known is not None
    caller = Caller("shop", device=known.device)
    for _ in range(accounts.MAX_FAILURES):
        with store.begin() as session:
            assert accounts.sign_in(session, "trainer", "wrong", caller) is None
    with pytest.raises(ThrottledError), store.begin() as session:
        accounts.sign_in(session, "trainer", PASSWORD, caller)


def test_a_sign_in_nobody_uses_is_over(client: TestClient, store: Store) -> None:
    """After three hours; one in use goes on, and that is written down every few minutes."""
    sign_in(client, "lead")
    for idle, status in ((accounts.IDLE / 2, 200), (accounts.IDLE, 303)):
        with store.begin() as session:
            seen = datetime.now(UTC) - idle - timedelta(seconds=5)
            session.execute(update(SessionRow).values(seen=seen))
        assert client.get("/people", follow_redirects=False).status_code == status
        with store() as session:
            (row,) = session.scalars(select(SessionRow)).all()
            assert (row.seen > seen) is (status == 200)


def test_one_sees_where_one_is_signed_in_and_ends_it(client: TestClient, database: Engine) -> None:
    """One's own only: a mark of somebody else's does nothing."""
    sign_in(client, "lead")
    with asking(database) as tablet, asking(database) as other:
        sign_in(tablet, "lead")
        sign_in(other, "technician")
        page = client.get("/people").text
        assert page.count("Sign out there") == 1
        mark = page.split('name="mark" value="')[1].split('"')[0]
        csrf = page.split('data-csrf="')[1].split('"')[0]
        theirs = other.get("/people").text.split('data-csrf="')[1].split('"')[0]
        other.post("/sign-ins/end", data={"csrf": theirs, "mark": mark})
        assert tablet.get("/people", follow_redirects=False).status_code == 200
        client.post("/sign-ins/end", data={"csrf": csrf, "mark": mark})
        assert tablet.get("/people", follow_redirects=False).status_code == 303
    assert client.get("/people").text.count("Sign out there") == 0


@pytest.mark.parametrize("stream", ["/live?topic=floor", "/api/v1/devices/stream"])
def test_a_page_that_listens_signed_out_stops_asking(client: TestClient, stream: str) -> None:
    """No page of another kind comes in place of events."""
    head = {"accept": "text/event-stream"}
    assert client.get(stream, headers=head, follow_redirects=False).status_code == 204


def test_a_full_disk_is_said_and_nothing_half_kept(client: TestClient, store: Store) -> None:
    """507 with words; with room again the same entry is taken."""
    bay = Bay(client)
    entry = {"id": str(uuid4()), "kind": "reading", "step": "ready/unit", "reading": "meter"}
    head, address = {"x-csrf-token": bay.csrf}, f"/api/v1/runs/{bay.run}/entries"
    full = (
        "CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN "
        "RAISE EXCEPTION 'could not extend file' USING ERRCODE = '53100'; END $$",
        "CREATE TRIGGER no_room BEFORE INSERT ON entries FOR EACH ROW EXECUTE FUNCTION full_disk()",
    )
    with store.begin() as session:
        for statement in full:
            session.execute(text(statement))
    refused = client.post(address, json={**entry, "value": 2400.0}, headers=head)
    assert refused.status_code == 507
    assert "disk is full" in refused.json()["error"]
    with store.begin() as session:
        assert session.get(EntryRow, entry["id"]) is None
        session.execute(text("DROP TRIGGER no_room ON entries"))
    assert client.post(address, json={**entry, "value": 2400.0}, headers=head).status_code == 200


@contextmanager
def serving(app: FastAPI) -> Iterator[int]:
    """A real server; its port."""
    listening = socket.socket()
    listening.bind(("127.0.0.1", 0))
    config = uvicorn.Config(app, http=patient.PatientProtocol, log_level="error")
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]})
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield int(listening.getsockname()[1])
    server.should_exit = True
    thread.join()


@pytest.fixture
def served(database: Engine, monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    """One that waits for nobody longer than half a second; its port."""
    monkeypatch.setattr(patient, "HEADER_SECONDS", 0.5)
    app = make_app(database)
    for layer in app.user_middleware:
        if layer.cls is BodyLimit:
            layer.kwargs["seconds"] = 0.5
    with serving(app) as port:
        yield port


def said_by(port: int, *pieces: bytes) -> bytes:
    """What comes back before the server lets go of who says this, and then nothing more."""
    with socket.create_connection(("127.0.0.1", port), timeout=20) as link:
        for piece in pieces:
            link.sendall(piece)
        found = b""
        while more := link.recv(4096):
            found += more
        return found


def test_who_says_nothing_or_half_is_let_go(served: int) -> None:
    """No headers: closed. No end of the body: 408, in words."""
    assert said_by(served) == b""
    assert said_by(served, b"GET /sign-in HTTP/1.1\r\nhost: x\r\n") == b""
    head = b"POST /sign-in HTTP/1.1\r\nhost: x\r\ncontent-length: 90\r\n"
    kind = b"content-type: application/x-www-form-urlencoded\r\n\r\nname="
    answer = said_by(served, head + kind)
    assert answer.startswith(b"HTTP/1.1 408")
    assert b"did not arrive in time" in answer


def test_a_connection_is_used_again_and_again(served: int) -> None:
    """Waiting ends with the headers: what follows on the same connection is answered."""
    with socket.create_connection(("127.0.0.1", served), timeout=20) as link:
        for _ in range(3):
            link.sendall(b"GET /healthz HTTP/1.1\r\nhost: x\r\n\r\n")
            assert link.recv(4096).startswith(b"HTTP/1.1 200")


THREADS = 3


async def few_threads() -> None:
    """Let the server have no more than these."""
    current_default_thread_limiter().total_tokens = THREADS


def test_more_at_once_than_there_are_connections_are_all_answered(database: Engine) -> None:
    """Who waits for one takes no thread from those who have one and want to go on."""
    scarce = create_engine(database.url, pool_size=2, max_overflow=0, pool_timeout=3)
    app, answers = make_app(scarce), list[int]()
    app.state.turns = asyncio.Semaphore(2)
    app.add_api_route("/few-threads", few_threads)

    def ask(address: str, signed_in: httpx.Cookies) -> None:
        with httpx.Client(base_url=address, timeout=60, cookies=signed_in) as client:
            answers.extend(client.get("/sums").status_code for _ in range(3))

    with serving(app) as port, httpx.Client(base_url=f"http://127.0.0.1:{port}") as first:
        first.post("/sign-in", data={"name": "trainer", "password": PASSWORD})
        assert first.get("/few-threads").status_code == 200
        given = (f"http://127.0.0.1:{port}", httpx.Cookies(first.cookies))
        threads = [threading.Thread(target=ask, args=given) for _ in range(30)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    scarce.dispose()
    assert answers == [200] * 90


def test_tries_that_wait_for_each_other_hold_nobody_else_up(database: Engine) -> None:
    """Twenty sign-ins of one name at once, while one of them is being looked at: another person's
    page is answered at once.
    """
    statuses: list[int] = []

    def try_one(address: str) -> None:
        form = {"name": "lead", "password": "wrong"}
        statuses.append(httpx.post(f"{address}/sign-in", data=form, timeout=60).status_code)

    looked_at = text("SELECT pg_advisory_xact_lock(hashtext('name lead from 127.0.0.1'))")
    with serving(make_app(database)) as port:
        address = f"http://127.0.0.1:{port}"
        client = httpx.Client(base_url=address, timeout=30)
        client.post("/sign-in", data={"name": "trainer", "password": PASSWORD})
        with connect(str(database.url.render_as_string(False))).begin() as other:
            other.execute(looked_at)
            threads = [threading.Thread(target=try_one, args=(address,)) for _ in range(20)]
            for thread in threads:
                thread.start()
            time.sleep(1)
            assert client.get("/sums").status_code == 200
        for thread in threads:
            thread.join()
    assert set(statuses) <= {401, 429, 503}
    assert statuses.count(401) >= 1


def test_pages_that_listen_hold_no_connection(database: Engine) -> None:
    """More of them than there are connections; others are answered meanwhile."""
    with serving(make_app(database)) as port, ExitStack() as open_streams:
        client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=30)
        client.post("/sign-in", data={"name": "trainer", "password": PASSWORD})
        for _ in range(2 * CONNECTIONS):
            stream = open_streams.enter_context(client.stream("GET", "/live?topic=floor"))
            assert next(stream.iter_lines()) == "retry: 2000"
        assert client.get("/sums").status_code == 200
