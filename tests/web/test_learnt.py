"""What the bays teach, over HTTP: proposed with evidence, what changes first, taken in once."""

import re

from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from eldrim.store import sheet_store
from eldrim.store.database import sessions
from tests.web.client import TestClient, asking
from tests.web.test_web import sign_in

TUG = "/engines/marlet-34-v6/learnt"


def test_without_runs_there_is_nothing_to_teach(client: TestClient) -> None:
    """It says so; a technician may look."""
    sign_in(client, "technician")
    assert (
        "No signed run moved anything yet." in client.get("/engines/kestwick-900-twin/learnt").text
    )


def test_the_slow_duct_is_proposed_shown_and_taken_in(years: Engine) -> None:
    """Only what was planted: with the runs behind it, another way in, and once."""
    store = sessions(years)
    with asking(years) as client:
        taken_in(client, store)


def taken_in(client: TestClient, store: "sessionmaker[Session]") -> None:
    """The story of it."""
    csrf = sign_in(client, "trainer")
    page = client.get(TUG).text
    proposed = re.findall(r'name="take" value="([^"]+)"', page)
    assert set(proposed) == {"intake-duct/shift/out", "intake-duct/shift/back"}
    assert "Take the intake duct off instead of:" in page
    assert len(re.findall(r'href="/log/', page)) >= 12
    one = client.get(f"{TUG}?take=intake-duct/shift/back").text
    assert one.count(" checked") == 1
    with store() as session:
        revision = sheet_store.sheet(session, "marlet-34-v6").revision
    form = {"csrf": csrf, "revision": str(revision), "take": proposed}
    assert client.post(TUG, data={**form, "take": []}).status_code == 422
    assert client.post(TUG, data={**form, "take": ["plenum/remove/out"]}).status_code == 422
    page = client.post(TUG, data=form).text
    assert "Its minutes hold" in page
    with store() as session:
        way = sheet_store.sheet(session, "marlet-34-v6").parts["intake-duct"].ways["shift"]
        assert way.out.mid > 3
    assert client.post(TUG, data=form).status_code == 409
    plan = client.get("/engines/marlet-34-v6?c=5&work=plug").text
    assert "Intake duct<i>: off" in plan
    sign_in(client, "technician")
    assert client.post(TUG, data=form).status_code == 403
