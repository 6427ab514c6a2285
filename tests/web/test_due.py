"""The board of what is due: by week, with procedures; filters; calendars that move what moved."""

import re
from datetime import UTC, datetime, timedelta
from uuid import uuid4

from icalendar import Calendar
from sqlalchemy import select, update
from sqlalchemy.orm import Session, sessionmaker

from eldrim.store import dues, sheet_store
from eldrim.store.tables import DueRow, RunRow, UnitRow
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def run_again(store: Store, unit: str, ago: int, meter: float) -> None:
    """A unit's run as if it had been signed so long ago, at a reading: its use can then be told."""
    with store.begin() as session:
        row = session.scalar(select(RunRow).where(RunRow.unit_id == unit).limit(1))
        assert row is not None
        when = datetime.now(UTC) - timedelta(days=ago)
        session.add(
            RunRow(
                id=uuid4(),
                edition_id=row.edition_id,
                unit_id=unit,
                by="technician",
                at=when,
                signed_at=when,
                meter=meter,
            )
        )
        session.flush()
        dues.work_out(session, unit)


def events(client: TestClient, address: str = "/due.ics") -> dict[str, tuple[str, object]]:
    """The events of a calendar: summary and first day, by id."""
    found = Calendar.from_ical(client.get(address).content).walk("VEVENT")
    return {str(e["uid"]): (str(e["summary"]), e.decoded("dtstart")) for e in found}


def test_the_board_tells_what_why_when_and_by_which_procedure(
    client: TestClient, store: Store
) -> None:
    """By week where a day can be told, by the meter where not; with what is released for it."""
    sign_in(client, "technician")
    page = client.get("/due").text
    assert "Plugs 2, 4 and 6: renew" in page
    assert "Every 1 500 h (Skerry Field fleet handbook, issue 12, p. 46)" in page
    assert "By the meter; nobody can say when" in page
    run_again(store, "tug-21", 100, 2_250.0)
    page = client.get("/due?unit=tug-21").text
    assert "runs 14 h a week by 2 readings" in page
    line = page.split("<b>Plugs 2, 4 and 6: renew</b>")[1].split("</li>")[0]
    assert "Plug and coil, holes 2, 4 and 6</a>" in line
    assert re.search(r"Week \d+ of \d{4}, from", page)
    assert "Tug 15" not in page


def test_what_no_procedure_is_released_for_is_planned(client: TestClient, store: Store) -> None:
    """The line says so and leads to the plan."""
    sign_in(client, "trainer")
    with store.begin() as session:
        run = session.scalar(select(RunRow).where(RunRow.unit_id == "tug-21").limit(1))
        assert run is not None
        session.add(
            DueRow(
                run_id=run.id,
                unit_id="tug-21",
                kind="interval",
                what="Air filter: renew",
                set_at=datetime.now(UTC),
                thing="air-filter",
                meter=3_000.0,
            )
        )
    page = client.get("/due?unit=tug-21&kind=interval").text
    line = page.split("<b>Air filter: renew</b>")[1].split("</li>")[0]
    assert "No procedure is released" in line
    plan = re.search(r'href="(/engines/[^"]+)">Plan it', line)
    assert plan is not None
    assert "<h1>Air filter</h1>" in client.get(plan[1].replace("&amp;", "&")).text


def test_filters_by_kind_engine_and_place(client: TestClient) -> None:
    """What fits none of them says so."""
    csrf = sign_in(client, "lead")
    form = {"csrf": csrf, "key": "tug-15", "name": "Tug 15", "engine": "marlet-34-v6"}
    plate = {"serial": "2248", "meter": "hours", "place": "Hangar 2"}
    assert client.post("/units", data={**form, **plate}).status_code == 200
    page = client.get("/due?place=Hangar+2").text
    assert "Tug 15" in page
    assert "Tug 21" not in page
    assert "Hangar 2" in page
    assert "Re-check" not in client.get("/due?kind=interval").text
    loader = client.get("/due?engine=corvane-20-turbo-four").text
    assert "Belt loader 6" in loader
    assert "Tug 15" not in loader
    assert "Nothing is due of these." in client.get("/due?kind=nonsense").text
    assert client.get("/due?page=0").status_code == 422


def test_a_moved_date_moves_in_the_calendar(client: TestClient, store: Store) -> None:
    """The same thing keeps its id when another run or another use moves its day."""
    sign_in(client, "technician")
    run_again(store, "tug-21", 100, 2_250.0)
    before = events(client, "/units/tug-21/due.ics")
    plugs = {uid: said for uid, said in before.items() if "Plugs 2, 4 and 6: renew" in said[0]}
    assert len(plugs) == 1
    run_again(store, "tug-21", 300, 2_210.0)
    after = events(client, "/units/tug-21/due.ics")
    [uid] = plugs
    assert uid in after
    assert after[uid][1] != before[uid][1]
    assert set(events(client, "/units/tug-21/due.ics")) <= set(events(client))
    assert client.get("/units/nobody/due.ics").status_code == 404


def test_a_sheet_that_changes_changes_what_is_due(client: TestClient, store: Store) -> None:
    """Worked out again before the board is shown; severe use of a unit at once."""
    sign_in(client, "trainer")
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        figures = {**sheet.figures}
        shorter = sheet.figures["interval-hours"][0].model_dump(mode="json") | {"value": "900 h"}
        figures["interval-hours"] = (
            type(sheet.figures["interval-hours"][0]).model_validate(shorter),
        )
        changed = {"figures": figures, "revision": sheet.revision + 1}
        sheet_store.save_sheet(session, sheet.model_copy(update=changed), "trainer")
    with store() as session:
        row = session.get_one(UnitRow, "tug-21")
        assert not row.dues_known
    assert "Every 900 h" in client.get("/due").text
    with store() as session:
        assert session.get_one(UnitRow, "tug-21").dues_known


def test_what_is_overdue_stands_first(client: TestClient, store: Store) -> None:
    """A span only once its last likely day has passed."""
    sign_in(client, "lead")
    today = datetime.now(UTC).date()
    with store.begin() as session:
        key = select(DueRow.id).where(DueRow.unit_id == "tug-21", DueRow.thing == "plug").limit(1)
        past, ahead = today - timedelta(days=9), today + timedelta(days=9)
        change = {"on": past, "first": past, "until": ahead}
        session.execute(update(DueRow).where(DueRow.id == key.scalar_subquery()).values(change))
    page = client.get("/due").text
    assert "Overdue" not in page
    assert "This week" in page
    with store.begin() as session:
        change = {"on": past, "first": past, "until": past}
        session.execute(update(DueRow).where(DueRow.thing == "plug").values(change))
    page = client.get("/due").text
    assert page.index("Overdue") < page.index("Re-check")
    assert "overdue" in client.get("/floor").text.lower()


def test_the_page_of_a_unit_shows_its_life(client: TestClient, store: Store) -> None:
    """By meter or by date; what is in it since when, with the run that fitted it."""
    sign_in(client, "technician")
    page = client.get("/units/tug-21").text
    assert 'class="unit-life"' in page
    assert "Stands at 2 450 h" in page
    fitted = r"<td>plug</td><td>2</td><td>MP-12L-IR6\s*</td><td>2.450 h</td><td>0 h</td>"
    assert re.search(fitted, page)
    assert 'class="what-is-in"' in page
    assert 'href="?by=date#life"' in page
    run_again(store, "tug-21", 100, 2_250.0)
    dated = client.get("/units/tug-21?by=date").text
    assert "runs 14 h a week, by 2 readings" in dated
    assert "By its meter" in dated
    assert 'class="unit-life"' not in client.get("/units/lantern-1").text
    assert client.get("/units/boat-2").status_code == 200
