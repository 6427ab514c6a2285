"""The audit trail: what was done to the workshop itself, for leads, never changed."""

import csv
import io
from uuid import UUID

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from eldrim.demo.load import PIN
from eldrim.store import audit, runs, unit_store
from tests.web.client import TestClient
from tests.web.test_bay import Bay
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def unit(client: TestClient, csrf: str, **changed: str):  # type: ignore[no-untyped-def]
    """Save Tug 14 as its page does, with something changed."""
    about = {"name": "Tug 14", "engine": "marlet-34-v6", "meter": "hours", "key": "tug-14"}
    plate = {"serial": "2231", "letters": "MV34L", "year": "2019", "variant": "late"}
    return client.post("/units", data={"csrf": csrf, **about, **plate, **changed})


def test_what_was_done_is_read_by_leads_alone(client: TestClient) -> None:
    """With who, about what, before and after; and taken away as CSV."""
    client.post("/sign-in", data={"name": "my secret words", "password": "a guess too many"})
    client.post("/sign-in", data={"name": "Trainer", "password": "a guess too many"})
    csrf = sign_in(client, "lead")
    person = {"name": "new.hand", "display": "New Hand", "role": "technician"}
    client.post("/people", data={"csrf": csrf, **person, "password": "three blue gulls"})
    assert unit(client, csrf, serial="2231-B").status_code == 200
    page = client.get("/audit").text
    for said in ("signed in", "sign-in refused", "person added", "serial: 2231 → 2231-B"):
        assert said in page, said
    assert "serial: 2231 → 2231-B" in client.get("/units/tug-14").text
    only = client.get("/audit?act=person added").text
    assert "new.hand" in only
    assert "2231-B" not in only
    rows = list(csv.DictReader(io.StringIO(client.get("/audit.csv").text)))
    assert {"at", "by", "act", "about", "said"} == set(rows[0])
    assert ("trainer", "sign-in refused") in {(row["by"], row["act"]) for row in rows}
    assert "three blue gulls" not in client.get("/audit.csv").text
    assert "secret words" not in client.get("/audit.csv").text
    assert PIN not in client.get("/audit.csv").text
    sign_in(client, "trainer")
    assert client.get("/audit").status_code == 403
    assert client.get("/audit.csv").status_code == 403


def test_nothing_in_it_is_changed(store: Store) -> None:
    """Nor taken away, by anybody who reaches the table."""
    with store.begin() as session:
        audit.note(session, "lead", "bay added", "Bay 9")
    for act in ("UPDATE audit SET by = 'x'", "DELETE FROM audit"):
        with store.begin() as session, pytest.raises(DBAPIError, match="never"):
            session.execute(text(act))
    with store.begin() as session, pytest.raises(ValueError, match="unheard"):
        audit.note(session, "lead", "unheard of")


def test_a_plate_is_changed_by_a_trainer_or_lead_and_never_to_nothing(client: TestClient) -> None:
    """What every run compares with cannot be switched off."""
    csrf = sign_in(client, "technician")
    assert unit(client, csrf, serial="1").status_code == 403
    assert "Change what the plate says" not in client.get("/units/tug-14").text
    csrf = sign_in(client, "trainer")
    refused = unit(client, csrf, serial="  ")
    assert refused.status_code == 422
    assert "is not taken away" in refused.text


def test_a_run_keeps_the_serial_it_began_with(client: TestClient, store: Store) -> None:
    """Whatever is written on the card meanwhile."""
    bay = Bay(client)
    csrf = sign_in(client, "lead")
    assert unit(client, csrf, serial="9999").status_code == 200
    with store.begin() as session:
        row = runs.run(session, UUID(bay.run))
        assert row.serial == "2231"
        assert unit_store.unit(session, "tug-14").serial == "9999"
    bay.csrf = sign_in(client, "technician")
    answer = bay.write("reading", "ready/unit", reading="serial", value="2231")
    assert answer.status_code == 200
