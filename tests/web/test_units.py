"""Units by their plate, variants on the sheet, what is due."""

from datetime import date, datetime
from uuid import uuid4

import pytest
from icalendar import Calendar

from eldrim.store import sheet_store, unit_store
from tests.web.client import TestClient
from tests.web.test_release import Store
from tests.web.test_web import sign_in

TURBO = "corvane-20-turbo-four"


@pytest.mark.parametrize(("serial", "variant"), [("4199", "early"), ("4200", "late")])
def test_the_plate_picks_the_variant(
    client: TestClient, store: Store, serial: str, variant: str
) -> None:
    """Without being asked."""
    csrf = sign_in(client, "lead")
    plate = {"csrf": csrf, "name": "Loader 11", "engine": TURBO, "serial": serial, "meter": "hours"}
    page = client.post("/units", data=plate).text
    assert "told by the plate" in page
    with store() as session:
        assert unit_store.unit(session, "loader-11").variant == variant


def test_an_ambiguous_unit_is_asked_about_never_guessed(client: TestClient, store: Store) -> None:
    """No serial: both variants are open, and nothing is kept until a person says."""
    csrf = sign_in(client, "lead")
    plate = {"csrf": csrf, "name": "Loader 12", "engine": TURBO, "meter": "hours"}
    asked = client.post("/units", data=plate)
    assert asked.status_code == 409
    assert "leaves 2 of the 2 variants" in asked.text
    assert client.get("/units/loader-12").status_code == 404
    page = client.post("/units", data={**plate, "variant": "late"}).text
    assert "picked by lead" in page
    bad = client.post("/units", data={**plate, "year": "last"})
    assert bad.status_code == 422


def test_a_variant_is_stated_from_another_and_taken_away(client: TestClient, store: Store) -> None:
    """Not while a unit has it."""
    csrf = sign_in(client, "trainer")
    revision = 1
    with store() as session:
        revision = sheet_store.sheet(session, TURBO).revision
    form = {
        "csrf": csrf,
        "revision": str(revision),
        "name": "serial 6000 on",
        "like": "late",
        "serial_from": "6000",
        "letters": "CT, CU",
    }
    assert "serial 6000 on" in client.post(f"/engines/{TURBO}/variants", data=form).text
    with store() as session:
        sheet = sheet_store.sheet(session, TURBO)
    key = next(k for k, v in sheet.variants.items() if v.serial_from == 6000)
    assert sheet.variants[key].letters == ("CT", "CU")
    late = [f for f in sheet.figures["plug-gap"] if "late" in f.variants]
    assert all(key in f.variants for f in late)
    away = {"csrf": csrf, "revision": str(sheet.revision), "key": "late"}
    refused = client.post(f"/engines/{TURBO}/variants/away", data=away)
    assert "Belt loader 9 has it" in refused.text
    away = {"csrf": csrf, "revision": str(sheet.revision), "key": key}
    assert client.post(f"/engines/{TURBO}/variants/away", data=away).status_code == 200
    with store() as session:
        assert key not in sheet_store.sheet(session, TURBO).variants


def test_what_was_set_at_signing_is_due_and_goes_out_as_a_calendar(client: TestClient) -> None:
    """One event a day that was set, of the newest run of a job on a unit."""
    sign_in(client, "technician")
    page = client.get("/units").text
    assert "20 May 2027" in page
    assert "2 900 hours" in page
    events = Calendar.from_ical(client.get("/due.ics").content).walk("VEVENT")
    found = {(str(e["summary"]).split(":")[0], e.decoded("dtstart")) for e in events}
    assert found == {
        (unit, day)
        for unit in ("Tug 15", "Tug 21")
        for day in (date(2027, 5, 20), date(2026, 12, 18))
    }
    assert len({str(e["uid"]) for e in events}) == 4
    assert all(isinstance(e.decoded("dtstamp"), datetime) for e in events)
    assert "Re-check" in client.get("/units/tug-15").text


def test_a_unit_called_otherwise_is_so_everywhere_at_once(client: TestClient) -> None:
    """Also where what is shown was kept: on the floor and in the calendar."""
    csrf = sign_in(client, "lead")
    bay = client.get("/bay").text.split("Tug 15")[-1]
    edition = bay.split('name="edition" value="')[1].split('"')[0]
    begin = {"run": str(uuid4()), "edition": edition, "unit": "tug-15", "anyway": "yes"}
    client.post("/bay/runs", data={"csrf": csrf, **begin})
    for address in ("/floor", "/due.ics"):
        assert "Tug 15" in client.get(address).text
    plate = {"key": "tug-15", "engine": "marlet-34-v6", "name": "Shunter", "serial": "2248"}
    client.post("/units", data={"csrf": csrf, **plate, "meter": "hours"})
    for address in ("/floor", "/due.ics"):
        found = client.get(address).text
        assert "Shunter" in found, address
        assert "Tug 15" not in found, address
