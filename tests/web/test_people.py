"""People: a lead adds and lets go; a password and a PIN are each person's own."""

from datetime import timedelta
from uuid import uuid4

import pytest
from sqlalchemy import select, update

from eldrim.demo.load import PASSWORD, PIN
from eldrim.store import accounts
from eldrim.store.edition_store import plan_of
from eldrim.store.errors import ThrottledError
from eldrim.store.tables import AttemptRow, EditionRow, RunRow, UnitRow
from tests.web.client import TestClient
from tests.web.test_release import Store
from tests.web.test_web import sign_in

NEW = {"name": "Ina.Kol", "display": "Ina Kol", "role": "technician", "password": "long enough 1"}


def add(client: TestClient, **changes: str):  # type: ignore[no-untyped-def]
    """Ask for another person, as whoever is signed in."""
    csrf = client.get("/api/v1/me").json()["csrf"]
    return client.post("/people", data={**NEW, **changes, "csrf": csrf})


def enter(client: TestClient, name: str, password: str) -> int:
    """Try to sign in; the status that says whether it worked."""
    tried = client.post(
        "/sign-in", data={"name": name, "password": password}, follow_redirects=False
    )
    return tried.status_code


def test_a_person_added_signs_in_and_one_let_go_does_not(client: TestClient) -> None:
    """Let go, every session of theirs ends; taken in again, the password is the one they had."""
    sign_in(client, "lead")
    assert "Ina Kol" in add(client).text
    theirs = TestClient(client.app)
    assert enter(theirs, "ina.kol", NEW["password"]) == 303
    assert "Ina Kol" in theirs.get("/people").text
    csrf = client.get("/api/v1/me").json()["csrf"]
    assert "Take in again" in client.post("/people/ina.kol/left", data={"csrf": csrf}).text
    assert theirs.get("/bay", follow_redirects=False).headers["location"] == "/sign-in"
    assert enter(theirs, "ina.kol", NEW["password"]) == 401
    client.post("/people/ina.kol/left", data={"csrf": csrf, "back": "true"})
    assert enter(theirs, "ina.kol", NEW["password"]) == 303


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"name": "7th"}, "cannot be signed in with"),
        ({"name": "Trainer"}, "is taken"),
        ({"password": "short"}, "too short"),
        ({"display": "  "}, "has no name"),
        ({"role": "owner"}, "no role"),
    ],
)
def test_what_is_wrong_with_a_new_person_is_named(
    client: TestClient, changes: dict[str, str], says: str
) -> None:
    """And what was typed stays, but for the password."""
    sign_in(client, "lead")
    page = add(client, **changes)
    assert page.status_code == 422
    assert says in page.text
    assert NEW["password"] not in page.text
    assert changes.get("display", "Ina Kol").strip() in page.text


def test_only_a_lead_adds_and_sees_everybody(client: TestClient) -> None:
    """Others see themselves."""
    sign_in(client, "technician")
    assert add(client).status_code == 403
    page = client.get("/people").text
    assert "Tam Okely" in page
    assert "Berit Vance" not in page
    assert "New PIN" not in page


def test_ones_own_password_is_asked_for_first_and_wrong_ones_are_counted(
    client: TestClient, store: Store
) -> None:
    """Changed, other sessions end and this one goes on."""
    csrf = sign_in(client, "technician")
    other = TestClient(client.app)
    sign_in(other, "technician")
    change = {"csrf": csrf, "password": "another long one"}
    refused = client.post("/people/me", data={**change, "current": "guess"})
    assert "not your password" in refused.text
    assert (
        "too short"
        in client.post("/people/me", data={**change, "current": PASSWORD, "password": "short"}).text
    )
    assert (
        "Password changed" in client.post("/people/me", data={**change, "current": PASSWORD}).text
    )
    assert client.get("/people").status_code == 200
    assert other.get("/bay", follow_redirects=False).status_code == 303
    for _ in range(8):
        said = client.post("/people/me", data={**change, "current": "guess"}).text
    assert "Too many" in said
    with store() as session:
        session.execute(update(AttemptRow).values(at=AttemptRow.at - timedelta(hours=1)))
        session.commit()
    assert enter(client, "technician", "another long one") == 303


def test_a_lead_sets_a_pin_and_the_old_one_is_none_any_more(
    client: TestClient, store: Store
) -> None:
    """Digits, four and more, not all the same; a technician has none."""
    csrf = sign_in(client, "lead")
    change = {"csrf": csrf, "current": PASSWORD}
    for wrong in ("123", "1111", "12a4"):
        assert "this is no PIN" in client.post("/people/me", data={**change, "pin": wrong}).text
    assert "PIN changed" in client.post("/people/me", data={**change, "pin": "739152"}).text
    with store() as session:
        assert accounts.is_lead(session, "lead", "739152", run=uuid4(), by="technician")
        assert not accounts.is_lead(session, "lead", PIN, run=uuid4(), by="technician")
    csrf = sign_in(client, "technician")
    tried = client.post("/people/me", data={**change, "csrf": csrf, "pin": "739152"})
    assert "only a lead" in tried.text


def test_wrong_pins_on_one_run_bar_no_other(client: TestClient, store: Store) -> None:
    """Nor a sign-in; only who tries them on run after run is made to wait."""
    runs = [uuid4() for _ in range(4)]
    with store() as session:
        for _ in range(accounts.MAX_FAILURES):
            assert not accounts.is_lead(session, "lead", "0000", run=runs[0], by="technician")
        with pytest.raises(ThrottledError):
            accounts.is_lead(session, "lead", PIN, run=runs[0], by="technician")
        assert accounts.is_lead(session, "lead", PIN, run=runs[1], by="technician")
        for run in runs[1:3]:
            for _ in range(accounts.MAX_FAILURES):
                accounts.is_lead(session, "lead", "0000", run=run, by="technician")
        with pytest.raises(ThrottledError):
            accounts.is_lead(session, "lead", PIN, run=runs[3], by="technician")
        assert accounts.is_lead(session, "lead", PIN, run=runs[3], by="trainer")
        session.commit()
    assert enter(client, "lead", PASSWORD) == 303


def test_letting_somebody_go_in_the_middle_of_a_run_asks(client: TestClient, store: Store) -> None:
    """What goes on is named; it stays open for another."""
    with store.begin() as session:
        edition = session.scalars(select(EditionRow).where(EditionRow.number == 1)).first()
        assert edition is not None
        engine = plan_of(edition).engine
        unit = session.scalars(select(UnitRow).where(UnitRow.engine_id == engine)).first()
        assert unit is not None
        session.add(RunRow(id=uuid4(), edition_id=edition.id, unit_id=unit.id, by="technician"))
        name = unit.name
    csrf = sign_in(client, "lead")
    asked = client.post("/people/technician/left", data={"csrf": csrf})
    assert asked.status_code == 409
    assert name in asked.text
    assert "Let go all the same" in asked.text
    gone = client.post("/people/technician/left", data={"csrf": csrf, "sure": "true"})
    assert "left " in gone.text


def test_the_last_lead_stays_and_a_forgotten_password_is_set_anew(client: TestClient) -> None:
    """Somebody must be able to release; who forgot theirs gets another from the lead."""
    csrf = sign_in(client, "lead")
    assert client.post("/people/lead/left", data={"csrf": csrf}).status_code == 409
    mine = {"csrf": csrf, "password": "without the old"}
    assert client.post("/people/lead/password", data=mine).status_code == 409
    client.post("/people/trainer/password", data={"csrf": csrf, "password": "set by the lead"})
    assert enter(TestClient(client.app), "trainer", "set by the lead") == 303
    assert client.post("/people/nobody/left", data={"csrf": csrf}).status_code == 404
