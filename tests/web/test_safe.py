"""Who may be whom: signing in, PINs, passwords; and two who do the same at once."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from threading import Barrier, Thread
from uuid import UUID, uuid4

import pytest
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import ProblemsError
from eldrim.demo.load import PIN
from eldrim.store import accounts, people, procedure_store
from eldrim.store.accounts import Caller
from eldrim.store.errors import ConflictError, ThrottledError
from eldrim.store.tables import AttemptRow, EditionRow, EntryRow, UserRow
from tests.builders import job, tug
from tests.web.client import TestClient
from tests.web.test_bay import Bay
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def at_once(count: int, act: Callable[[], int]) -> list[int]:
    """What each of so many got who did the same at once."""
    start, found = Barrier(count), []

    def one() -> None:
        start.wait()
        found.append(act())

    threads = [Thread(target=one) for _ in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return sorted(found)


def test_many_wrong_pins_at_once_get_no_further(client: TestClient, store: Store) -> None:
    """Each is counted before the next is looked at; then even the right one waits."""
    bay = Bay(client)
    headers = {"x-csrf-token": bay.csrf}

    def tried(pin: str) -> int:
        entry = {"id": str(uuid4()), "kind": "release", "step": "prove/sign"}
        asked = {"lead": "lead", "pin": pin, "entry": entry}
        address = f"/api/v1/runs/{bay.run}/by-lead"
        return client.post(address, json=asked, headers=headers).status_code

    found = at_once(24, lambda: tried("000000"))
    assert found.count(403) <= accounts.MAX_FAILURES
    assert set(found) <= {403, 429, 503}
    assert tried(PIN) == 429
    client.cookies.clear()
    sign_in(client, "lead")
    assert "wrong PINs" in client.get("/floor").text
    other = uuid4()
    with store() as session:
        assert accounts.is_lead(session, "lead", PIN, run=other, by="trainer")


def test_waits_grow_with_each_wrong_try(store: Store) -> None:
    """And end; a name is never shut out for everybody."""
    with store.begin() as session:
        for _ in range(accounts.MAX_FAILURES):
            assert accounts.sign_in(session, "trainer", "wrong", Caller("b")) is None
    waits = []
    for _ in range(3):
        with store() as session, pytest.raises(ThrottledError) as told:
            accounts.sign_in(session, "trainer", "eldrim-demo", Caller("b"))
        waits.append(int(str(told.value).split("Wait ")[1].split()[0]))
        with store.begin() as session:
            session.add(AttemptRow(who="name trainer from b"))
    assert waits[0] < waits[1] < waits[2]
    with store.begin() as session:
        assert accounts.sign_in(session, "trainer", "eldrim-demo", Caller("c")) is not None
    with store.begin() as session:
        session.execute(update(AttemptRow).values(at=datetime.now(UTC) - timedelta(minutes=9)))
    with store.begin() as session:
        assert accounts.sign_in(session, "trainer", "eldrim-demo", Caller("b")) is not None


def test_made_up_names_lock_no_shop(store: Store) -> None:
    """Forty from one address slow it down by a second; whoever works there comes in."""
    with store.begin() as session:
        for number in range(60):
            session.add(AttemptRow(who=f"name nobody{number} from b"))
            session.add(AttemptRow(who="from b"))
    with store.begin() as session:
        session.execute(update(AttemptRow).values(at=datetime.now(UTC) - timedelta(seconds=2)))
    with store.begin() as session:
        assert accounts.sign_in(session, "technician", "eldrim-demo", Caller("b")) is not None


@pytest.mark.parametrize(
    "headers", [{"origin": "https://elsewhere.example"}, {"sec-fetch-site": "cross-site"}]
)
def test_nobody_is_signed_in_from_another_site(client: TestClient, headers: dict[str, str]) -> None:
    """So that no one works on in somebody else's name without knowing."""
    data = {"name": "trainer", "password": "eldrim-demo"}
    assert client.post("/sign-in", data=data, headers=headers).status_code == 403
    assert client.get("/engines", follow_redirects=False).status_code == 303


def test_a_new_sign_in_ends_the_old_session(client: TestClient) -> None:
    """The cookie somebody copied before is worth nothing after it."""
    sign_in(client, "technician")
    old = client.cookies["eldrim_session"]
    sign_in(client, "lead")
    client.cookies.clear()
    client.cookies.set("eldrim_session", old)
    assert client.get("/engines", follow_redirects=False).status_code == 303


def test_the_next_person_finds_nothing_of_the_last_one_s(client: TestClient) -> None:
    """Signing out clears what the browser keeps of pages."""
    csrf = sign_in(client, "lead")
    answer = client.post("/sign-out", data={"csrf": csrf}, follow_redirects=False)
    assert answer.headers["clear-site-data"] == '"cache"'


@pytest.mark.parametrize(
    "password",
    [
        "short",
        " " * 12,
        "Password123!",
        "1234567890",
        "aaaaaaaaaaaa",
        "jo.blackwood",
        "Jo Blackwood",
    ],
)
def test_a_password_that_is_tried_first_is_refused(store: Store, password: str) -> None:
    """Short, blank, common, figures alone, the name itself."""
    with store.begin() as session, pytest.raises(ProblemsError, match="password"):
        people.add(session, "jo.blackwood", "Jo Blackwood", "technician", password)


@pytest.mark.parametrize(
    "pin", ["1234", "123456", "987654", "111111", "121212", "123123", "12345a"]
)
def test_a_pin_that_is_tried_first_is_refused(store: Store, pin: str) -> None:
    """Too short, counted, repeated, no digits."""
    with store.begin() as session, pytest.raises(ProblemsError, match="PIN"):
        people.set_pin(session, "lead", pin)


def test_the_last_lead_cannot_leave_nor_two_at_once(store: Store) -> None:
    """Neither counts on the other to stay."""
    with store.begin() as session:
        people.add(session, "second", "Second Lead", "lead", "three blue gulls")

    def leave_as(name: str) -> int:
        try:
            with store.begin() as session:
                people.leave(session, name)
        except ConflictError:
            return 409
        return 200

    names = ["lead", "second"]
    assert at_once(2, lambda: leave_as(names.pop())) == [200, 409]
    with store() as session:
        here = select(func.count()).where(UserRow.role == "lead", UserRow.left_on.is_(None))
        assert session.scalar(here) == 1


def test_two_clicks_release_one_edition(client: TestClient, store: Store) -> None:
    """The second finds the draft released and says so."""
    csrf = sign_in(client, "trainer")
    with store.begin() as session:
        key = procedure_store.add_procedure(session, tug(), job(3, variant="late"), "trainer")
    form = {"csrf": csrf, "version": 1, "reason": "first", "accepted": "looked at"}

    def released() -> int:
        return client.post(
            f"/procedures/{key}/release", data=form, follow_redirects=False
        ).status_code

    assert at_once(2, released) == [303, 409]
    with store() as session:
        made = select(func.count()).where(EditionRow.procedure_id == key)
        assert session.scalar(made) == 1


def test_who_does_what_another_did_is_told_in_words(client: TestClient) -> None:
    """A person added, an edition withdrawn: twice is a 4xx, never a fault."""
    csrf = sign_in(client, "lead")
    edition = client.get("/procedures").text.split('href="/editions/')[1].split('"')[0]
    withdrawn = {"csrf": csrf, "reason": "wrong torque"}
    first = client.post(f"/editions/{edition}/withdraw", data=withdrawn)
    again = client.post(f"/editions/{edition}/withdraw", data=withdrawn)
    assert first.status_code == 200
    assert again.status_code in (200, 409)
    person = {"csrf": csrf, "name": "new.hand", "display": "New Hand", "role": "technician"}
    person["password"] = "three blue gulls"
    assert client.post("/people", data=person).status_code == 200
    assert client.post("/people", data=person).status_code in (409, 422)


def test_an_entry_by_pin_keeps_whose_session_it_was(client: TestClient, store: Store) -> None:
    """Who stood beside the lead is told in the log."""
    bay = Bay(client)
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="twice")
    [key] = bay.state()["deviations"]
    entry = {"id": str(uuid4()), "kind": "accept", "refers_to": key}
    asked = {"lead": "lead", "pin": PIN, "entry": entry}
    headers = {"x-csrf-token": bay.csrf}
    answer = client.post(f"/api/v1/runs/{bay.run}/by-lead", json=asked, headers=headers)
    assert answer.status_code == 200
    with store() as session:
        kept = session.get_one(EntryRow, UUID(entry["id"]))
        assert kept.by == "lead"
        assert kept.body["beside"] == "technician"
    assert "by PIN beside Tam Okely" in client.get(f"/log/{bay.run}").text
    forged = {**entry, "id": str(uuid4()), "beside": "trainer"}
    asked = {**asked, "entry": forged}
    answer = client.post(f"/api/v1/runs/{bay.run}/by-lead", json=asked, headers=headers)
    assert answer.status_code == 422
