"""The bay, the log and the desk over HTTP: every refusal says why and keeps what was typed."""

import json
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, select

from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.run.entries import Entry, EntryKind, Role
from eldrim.store import dues, edition_store, procedure_store, runs, sheet_store
from eldrim.store.database import sessions
from eldrim.store.tables import EditionRow, RunRow
from eldrim.web.bay.cards import change_of_tool
from eldrim.web.context import Db
from eldrim.web.floor import bays as floor_bays
from tests.core.demo_sheets import GAS
from tests.web.client import TestClient
from tests.web.test_web import sign_in


class Bay:
    """A technician with a run on tug 14."""

    def __init__(self, client: TestClient) -> None:
        """Sign in and start."""
        self.client, self.csrf = client, sign_in(client, "technician")
        self.run = ""
        assert self.start_on("tug-14").status_code == 200

    def start_on(self, unit: str, **more: str):  # type: ignore[no-untyped-def]
        """Start another run, of the same edition, on this tug."""
        page = self.client.get("/bay").text.split("Tug 14")[-1]
        edition = page.split('name="edition" value="')[1].split('"')[0]
        self.run = str(uuid4())
        about = {"run": self.run, "edition": edition, "unit": unit, "anyway": "yes"}
        form = {"csrf": self.csrf, **about, **more}
        return self.client.post("/bay/runs", data=form)

    def write(self, kind: str, step: str, **more: object):  # type: ignore[no-untyped-def]
        """Send one entry as the form does."""
        form = {"csrf": self.csrf, "id": str(uuid4()), "kind": kind, "step": step, **more}
        return self.client.post(f"/bay/runs/{self.run}/entries", data=form)

    def state(self):  # type: ignore[no-untyped-def]
        """What the tablet is told."""
        return self.client.get(f"/api/v1/runs/{self.run}/state").json()


@pytest.fixture
def bay(client: TestClient) -> Bay:
    """A run just started."""
    return Bay(client)


def test_the_first_step_is_on_the_screen(bay: Bay) -> None:
    """With what is next, and the statement every procedure carries."""
    page = bay.client.get(f"/bay/runs/{bay.run}").text
    assert "Confirm the unit" in page
    assert "Read the fault codes" in page
    assert "maker&#39;s manual" in page


def test_a_reading_is_kept_and_a_later_one_stands_beside_it(bay: Bay) -> None:
    """A correction is a new entry; a comma is a point."""
    assert (
        "Written: <b>1840.5"
        in bay.write("reading", "ready/unit", reading="meter", value="1840,5").text
    )
    assert (
        "Written: <b>1841" in bay.write("reading", "ready/unit", reading="meter", value="1841").text
    )
    log = bay.client.get(f"/log/{bay.run}").text
    assert "All 2 entries" in log


@pytest.mark.parametrize(
    ("step", "reading", "value", "says"),
    [
        ("ready/unit", "meter", "lots", "is not a number"),
        ("ready/battery", "volts", "11.8", "At rest 11.8 V is under 12.3 V"),
        ("ready/temperature", "temperature", "85", "Head 85 °C is over 40 °C"),
        ("ready/codes", "codes", " ", "nothing was entered"),
    ],
)
def test_a_refused_value_stays_on_the_screen_with_its_reason(
    bay: Bay, step: str, reading: str, value: str, says: str
) -> None:
    """Refused with 409; nothing was kept."""
    answer = bay.write("reading", step, reading=reading, value=value)
    assert answer.status_code == 409
    assert says in answer.text
    assert f'value="{value}"' in answer.text
    assert "All 0 entries" in bay.client.get(f"/log/{bay.run}").text


def test_a_step_is_not_done_with_a_check_open_nor_before_its_time(bay: Bay) -> None:
    """The open thing is named."""
    assert "still open here" in bay.write("done", "ready/unit").text
    assert "First: Confirm the unit" in bay.write("done", "torque/plug/4").text
    assert (
        "Cannot be signed yet; still open: Confirm the unit" in bay.write("sign", "prove/sign").text
    )


def test_a_technician_cannot_accept_a_deviation_and_a_lead_can(bay: Bay) -> None:
    """By role, checked by the server."""
    bay.write(
        "deviation",
        "ready/battery",
        reading="volts",
        value="11.8",
        reason="Measured twice, stays so",
    )
    [open_one] = bay.state()["deviations"].values()
    assert open_one["reason"] == "Measured twice, stays so"
    assert "only a lead" in bay.write("accept", "", refers_to=open_one["id"]).text
    bay.csrf = sign_in(bay.client, "lead")
    bay.write("accept", "", refers_to=open_one["id"])
    assert bay.state()["deviations"] == {}
    assert open_one["id"] in bay.state()["accepted"]


def test_the_plate_must_say_what_the_card_says(bay: Bay) -> None:
    """Typed or scanned; another one is refused, and kept only as a deviation for the lead."""
    wrong = bay.write("reading", "ready/unit", reading="serial", value="2248")
    assert wrong.status_code == 409
    assert "The plate says 2248, the card of this unit says 2231" in wrong.text
    longer = bay.write("reading", "ready/unit", reading="serial", value="mv 22-31")
    assert longer.status_code == 409
    assert bay.write("reading", "ready/unit", reading="serial", value="22-31").status_code == 200
    assert bay.state()["values"]["ready/unit|serial"]["value"] == "22-31"


@pytest.mark.parametrize(
    ("typed", "is_"),
    [("1,234", 1234.0), ("1 234", 1234.0), ("1234 h", 1234.0), ("1.234 h", 1234.0), ("77", 77.0)],
)
def test_a_meter_is_read_as_people_mean_it(bay: Bay, typed: str, is_: float) -> None:
    """Whole hours, grouped or with their unit."""
    assert bay.write("reading", "ready/unit", reading="meter", value=typed).status_code == 200
    assert bay.state()["values"]["ready/unit|meter"]["value"] == is_


def test_a_meter_in_another_unit_is_refused(bay: Bay) -> None:
    """The card says what it counts."""
    said = bay.write("reading", "ready/unit", reading="meter", value="1234 km")
    assert said.status_code == 409
    assert "The meter counts hours" in said.text


def test_a_hold_point_is_released_by_the_lead_s_pin_on_this_screen(client: TestClient) -> None:
    """A wrong one is counted, and the right one is the lead's own entry."""
    bay = Bay(client)
    step = held_step(client, bay)
    asked = {"entry": {"id": str(uuid4()), "kind": "release", "step": step}, "lead": "lead"}
    address, head = f"/api/v1/runs/{bay.run}/by-lead", {"x-csrf-token": bay.csrf}
    wrong = client.post(address, json={**asked, "pin": "1111"}, headers=head)
    assert wrong.status_code == 403
    assert (
        client.post(
            address, json={**asked, "lead": "trainer", "pin": "246813"}, headers=head
        ).status_code
        == 403
    )
    more = {**asked["entry"], "kind": "skip", "reason": "told"}
    assert (
        client.post(
            address, json={**asked, "entry": more, "pin": "246813"}, headers=head
        ).status_code
        == 409
    )
    assert client.post(address, json={**asked, "pin": "246813"}, headers=head).status_code == 200
    assert list(bay.state()["released"]) == [step]
    assert "Berit Vance, by PIN beside Tam Okely</td>" in client.get(f"/log/{bay.run}").text
    for _ in range(8):
        client.post(address, json={**asked, "pin": "0000"}, headers=head)
    assert client.post(address, json={**asked, "pin": "246813"}, headers=head).status_code == 429


def held_step(client: TestClient, bay: "Bay") -> str:
    """Release an edition with a hold point and start a run on it; the step that is held."""
    csrf = sign_in(client, "trainer")
    key = client.get("/procedures").text.split('href="/procedures/')[1].split('"')[0]
    step = "ready/battery"
    client.post(
        f"/procedures/{key}/steps/{step}", data={"csrf": csrf, "base": "{}", "hold": "true"}
    )
    version = client.get(f"/procedures/{key}").text.split('name="version" value="')[1].split('"')[0]
    form = {"csrf": csrf, "version": version, "reason": "held", "accepted": "known"}
    edition = str(client.post(f"/procedures/{key}/release", data=form).url).rsplit("/", 1)[1]
    unit = {"dunmarl-42-six": "bowser-3", "corvane-20-turbo-four": "loader-9"}
    page = client.get(f"/procedures/{key}").text
    name = next((u for e, u in unit.items() if e.split("-")[0].capitalize() in page), "tug-14")
    bay.csrf, bay.run = sign_in(client, "technician"), str(uuid4())
    begin = {"csrf": bay.csrf, "run": bay.run, "edition": edition, "unit": name}
    begin["anyway"] = "yes"
    assert client.post("/bay/runs", data=begin).status_code == 200
    return step


def test_a_signed_run_leads_to_the_log(client: TestClient) -> None:
    """And takes nothing more."""
    csrf = sign_in(client, "technician")
    signed = client.get("/log").text.split('href="/log/')[1].split('"')[0]
    answer = client.get(f"/bay/runs/{signed}", follow_redirects=False)
    assert answer.headers["location"] == f"/log/{signed}"
    entry = {
        "id": str(uuid4()),
        "kind": "reading",
        "step": "ready/unit",
        "reading": "meter",
        "value": 1.0,
    }
    late = client.post(f"/api/v1/runs/{signed}/entries", json=entry, headers={"x-csrf-token": csrf})
    assert late.status_code == 409
    assert "this run is signed" in late.json()["error"]


def test_the_log_shows_every_reading_by_hole(client: TestClient) -> None:
    """One row a hole, with units, and the edition it was done by."""
    sign_in(client, "lead")
    signed = client.get("/log").text.split('href="/log/')[1].split('"')[0]
    page = client.get(f"/log/{signed}").text
    assert page.count("N·m") >= 3
    assert "plug: gap as left" in page
    assert 'href="/editions/' in page


def test_the_interface_asks_for_a_sign_in_to_write(client: TestClient) -> None:
    """In JSON, to a caller that speaks JSON."""
    answer = client.post(f"/api/v1/runs/{uuid4()}/entries", json={})
    assert answer.status_code == 401
    assert answer.json() == {"error": "Sign in first."}


def test_a_release_needs_its_reason(client: TestClient) -> None:
    """Nothing is released without one."""
    token = sign_in(client, "trainer")
    key = client.get("/procedures").text.split('href="/procedures/')[1].split('"')[0]
    answer = client.post(
        f"/procedures/{key}/release", data={"csrf": token, "version": "3", "reason": " "}
    )
    assert answer.status_code == 422
    assert "say why" in answer.text


def test_a_departure_needs_a_reason_and_an_allowed_school(client: TestClient) -> None:
    """Feel stays refused here too."""
    token = sign_in(client, "trainer")
    key = client.get("/procedures").text.split('href="/procedures/')[1].split('"')[0]
    form = {"csrf": token, "version": "2", "topic": "tightening", "school": "feel"}
    assert "needs its reason" in client.post(f"/procedures/{key}/departures", data=form).text
    refused = client.post(f"/procedures/{key}/departures", data={**form, "reason": "habit"})
    assert "No one can check it" in refused.text
    good = {**form, "school": "low_third", "reason": "soft threads"}
    assert "soft threads" in client.post(f"/procedures/{key}/departures", data=good).text


def test_rules_are_previewed_saved_and_guarded(client: TestClient) -> None:
    """A number that is none, a stale version, a refused school: nothing is saved."""
    token = sign_in(client, "trainer")
    procedure = client.get("/rules").text.split('<option value="')[1].split('"')[0]
    form = {"csrf": token, "version": "1", "procedure": procedure, "tightening": "low_third"}
    assert "set 16.5 N·m" in client.post("/rules/preview", data=form).text
    bad = client.post("/rules/preview", data={**form, "risk_low": "some"})
    assert "is not a number" in bad.text
    assert client.post("/rules", data={**form, "reason": "less"}).status_code == 200
    stale = client.post("/rules", data={**form, "reason": "again"})
    assert stale.status_code == 409
    assert "Version 2 in force" in client.get("/rules").text


def test_what_ifs_live_in_the_address(client: TestClient) -> None:
    """So a plan can be sent to a colleague; nonsense in it is left out or explained."""
    sign_in(client, "trainer")
    rear = "/engines/marlet-34-v6?c=5"
    assert "more than the best" not in client.get(rear).text
    forced = client.get(f"{rear}&forbid=throttle-body/swing").text
    assert "more than the best" in forced
    assert "That does not open it" in client.get(f"{rear}&forbid=plenum").text
    assert "is not a way" in client.get(f"{rear}&forbid=wings").text
    assert client.get("/engines/marlet-34-v6?c=77").status_code == 200
    turbo = client.get("/engines/corvane-20-turbo-four?c=4&variant=early").text
    assert "serial to 4199" in turbo


def test_a_hot_head_is_kept_and_waited_for_where_no_script_runs(bay: Bay) -> None:
    """The refusal offers to wait; the page then says when, and when to read again."""
    hot = bay.write("reading", "ready/temperature", reading="temperature", value="80").text
    assert "Keep it and wait" in hot
    page = bay.write("watch", "ready/temperature", reading="temperature", value="80").text
    assert "two readings tell when to start" in page
    page = bay.write("watch", "ready/temperature", reading="temperature", value="75").text
    assert "two readings tell when to start" in page, "seconds apart they tell nothing"
    before = {"made": (datetime.now(UTC) - timedelta(minutes=12)).isoformat(), "id": str(uuid4())}
    hot_then = {"kind": "watch", "step": "ready/temperature", "reading": "temperature", "value": 90}
    answer = bay.client.post(
        f"/api/v1/runs/{bay.run}/entries",
        json={**before, **hot_then},
        headers={"x-csrf-token": bay.csrf},
    )
    assert answer.status_code == 200
    page = bay.write("watch", "ready/temperature", reading="temperature", value="70").text
    assert "Read the air too" in page
    page = bay.write("reading", "ready/temperature", reading="air", value="20").text
    assert "it is at 40 °C then" in page
    drawn = bay.client.get(f"/api/v1/runs/{bay.run}/cooling?step=ready/temperature").json()
    assert "start at" in drawn["drawing"]
    nothing = bay.client.get(f"/api/v1/runs/{bay.run}/cooling?step=ready/battery").json()
    assert nothing == {"drawing": ""}


def test_a_scanned_label_brings_up_its_unit(bay: Bay) -> None:
    """What is no label of a unit says so."""
    page = bay.client.get("/bay?label=ELDRIM UNIT tug-14 2231").text
    assert "Tug 14" in page
    assert "Tug 15" not in page
    assert "is not the label of a unit" in bay.client.get("/bay?label=MILK 1 L").text


def test_a_step_is_opened_again_by_naming_what_closed_it(bay: Bay) -> None:
    """The tablet is told what closed each step; the log tells that it was opened."""
    bay.write("skip", "ready/codes", reason="tool")
    closing = bay.state()["closings"]["ready/codes"]["id"]
    assert bay.write("reopen", "ready/codes", refers_to=str(uuid4())).status_code == 409
    assert bay.write("reopen", "ready/codes", refers_to=closing).status_code == 200
    state = bay.state()
    assert state["closings"] == {}
    assert state["deviations"] == {}
    assert "opened again later" in bay.client.get(f"/log/{bay.run}").text


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("68 °F", "Written: <b>20 °C"),
        ("20 °C", "Written: <b>20 °C"),
        ("20 V", "V does not measure this; it is asked for in °C"),
        ("20 spans", "is not a number in °C"),
    ],
)
def test_a_value_may_be_typed_with_its_unit(bay: Bay, typed: str, says: str) -> None:
    """Converted to the unit asked for; what measures something else is refused."""
    assert says in bay.write("reading", "ready/temperature", reading="air", value=typed).text


def test_signing_in_leads_back_to_where_one_was(bay: Bay) -> None:
    """To an address of ours and to no other."""
    who = {"name": "technician", "password": "eldrim-demo"}
    here = f"/bay/runs/{bay.run}"
    assert f'value="{here}"' in bay.client.get("/sign-in", params={"next": here}).text
    for asked, led in [
        (here, here),
        ("//elsewhere.test", "/"),
        ("https://elsewhere.test", "/"),
        ("/\\elsewhere.test", "/"),
    ]:
        answer = bay.client.post("/sign-in", data={**who, "next": asked}, follow_redirects=False)
        assert answer.headers["location"] == led


def test_a_run_that_goes_on_is_told_before_another_starts(bay: Bay) -> None:
    """And one started by mistake is dropped by who started it, while nothing is written."""
    first = bay.run
    told = bay.start_on("tug-14", anyway="")
    assert told.status_code == 200
    assert bay.client.get(f"/bay/runs/{bay.run}").status_code == 404
    assert f"/bay/runs/{first}" in told.text
    assert "Start another run all the same" in told.text
    assert bay.start_on("tug-14").status_code == 200
    mine, form = bay.run, {"csrf": bay.csrf}
    assert bay.client.post(f"/bay/runs/{mine}/drop", data=form).status_code == 200
    assert bay.client.get(f"/bay/runs/{mine}").status_code == 404
    bay.run = first
    bay.write("reading", "ready/unit", reading="meter", value="1900")
    assert bay.client.post(f"/bay/runs/{first}/drop", data=form).status_code == 409
    other = {"csrf": sign_in(bay.client, "lead")}
    assert bay.client.post(f"/bay/runs/{first}/drop", data=other).status_code in (403, 409)


def test_what_is_due_is_withdrawn_only_with_a_reason(client: TestClient) -> None:
    """By a trainer or a lead; then it is due no more."""
    form = {"csrf": sign_in(client, "lead")}
    pages = (client.get(f"/units/{unit}").text for unit in ("tug-14", "tug-15", "tug-21"))
    page = next(page for page in pages if 'action="/due/' in page)
    address = page.split('action="/due/')[1].split('"')[0]
    assert client.post(f"/due/{address}", data=form).status_code == 422
    gone = client.post(f"/due/{address}", data={**form, "reason": "unit is sold"})
    assert gone.status_code == 200
    assert f"/due/{address}" not in gone.text


def kept_at(page: str) -> str:
    """Where the page of a run finds the cards of its edition."""
    return page.split('data-kept="')[1].split('"')[0]


def test_the_cards_of_an_edition_are_the_same_for_all_its_runs(bay: Bay) -> None:
    """Whoever asks, and whatever was written: nothing of a run or a person is in them."""
    first = bay.client.get(f"/bay/runs/{bay.run}").text
    cards = bay.client.get(kept_at(first))
    assert cards.status_code == 200
    assert "immutable" in cards.headers["cache-control"]
    for one in (bay.csrf, bay.run, "technician", "csrf"):
        assert one not in cards.text
    steps = json.loads(first.split('id="run-data">')[1].split("</script>")[0])["steps"]
    kept = re.findall('<template data-card="([^"]+)"', cards.text)
    assert kept == [step["key"] for step in steps]
    assert bay.write("reading", "ready/unit", reading="meter", value="19000").status_code == 200
    bay.start_on("tug-14")
    sign_in(bay.client, "lead")
    second = bay.client.get(f"/bay/runs/{bay.run}").text
    assert kept_at(second) == kept_at(first)
    other = kept_at(first)[:-1] + ("0" if kept_at(first)[-1] != "0" else "1")
    assert bay.client.get(other).status_code == 404


def jobs_of(page: str, unit: str) -> list[str]:
    """What is offered on a unit in the bay's list, button by button."""
    item = page.split(f'id="unit-{unit}"')[1].split("</details>")[0]
    return [one.split(">", 1)[1] for one in item.split('<button class="btn-big"')[1:]]


def test_two_procedures_for_one_job_are_told_apart(client: TestClient, database: Engine) -> None:
    """By when and by whom each was released; where a title stands once it says enough."""
    sign_in(client, "technician")
    before = jobs_of(client.get("/bay").text, "tug-14")
    assert not any("released " in one for one in before)
    with sessions(database).begin() as session:
        first = session.scalars(select(EditionRow).where(EditionRow.engine_id == "marlet-34-v6"))
        again = next(one for one in first if one.title.startswith("Plug and coil"))
        plan = edition_store.plan_of(again)
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        key = procedure_store.add_procedure(session, sheet, plan.job, "trainer")
        edition_store.release(session, key, plan, "trainer", "For the new tugs")
    both = [one for one in jobs_of(client.get("/bay").text, "tug-14") if again.title in one]
    assert len(both) == 2
    assert all("released " in one and "by Ines Harrow" in one for one in both)


def test_what_stays_in_hand_is_no_change_of_tool() -> None:
    """The tray is put away, the gauge is kept: there is nothing to change to."""
    job = Job(cylinders=(4,), work=(Work.PLUG,), variant=next(iter(GAS.variants)))
    steps = {str(step.key): (step, after) for step, after in pairwise(compile_plan(GAS, job).steps)}
    here, after = steps["read/plug/4"]
    assert [tool.name for tool in here.tools] == ["wire gauge", "plug tray"]
    assert change_of_tool(here, after) == "next: keep wire gauge in hand"
    assert change_of_tool(after, after) == "next: the same in hand"
    assert change_of_tool(*steps["gap/plug/4"]).startswith("then change to plug socket")


def test_the_page_of_a_run_is_small(bay: Bay) -> None:
    """Of every edition of the demo: the page itself under 150 kB, before it is packed."""
    units = bay.client.get("/bay").text
    editions = {part.split('"')[0] for part in units.split('name="edition" value="')[1:]}
    machines = {part.split('"')[0] for part in units.split('name="unit" value="')[1:]}
    seen = 0
    for edition in editions:
        for unit in machines:
            run = str(uuid4())
            about = {"csrf": bay.csrf, "run": run, "edition": edition, "unit": unit, "anyway": "y"}
            if bay.client.post("/bay/runs", data=about).status_code != 200:
                continue
            seen += 1
            assert len(bay.client.get(f"/bay/runs/{run}").content) < 150_000
    assert seen >= 5


def test_the_floor_makes_anew_only_the_run_that_changed(
    bay: Bay, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of many runs that go on, an entry in one leaves the others as they are."""
    first = bay.run
    bay.start_on("tug-14")
    assert bay.client.get("/floor").status_code == 200
    made: list[str] = []
    real = floor_bays.bay_of

    def noting(db: Db, row: RunRow) -> floor_bays.Bay:
        made.append(str(row.id))
        return real(db, row)

    monkeypatch.setattr(floor_bays, "bay_of", noting)
    assert bay.write("reading", "ready/unit", reading="meter", value="19000").status_code == 200
    for _ in range(2):
        page = bay.client.get("/floor").text
    assert first in page
    assert made == [bay.run]


def until(holds: Callable[[], bool]) -> None:
    """Wait until something holds that is told after a commit."""
    for _ in range(100):
        if holds():
            return
        time.sleep(0.05)
    raise AssertionError("never told")


def test_the_floor_shows_what_was_committed_after_a_newer_entry(bay: Bay) -> None:
    """Of two that write at once, the one with the older number may be there last."""
    about = {"kind": EntryKind.STOP, "step": "clean/coils", "reason": "oil_in_well"}
    factory = bay.client.app.state.sessions  # type: ignore[attr-defined]
    first = UUID(bay.run)
    bay.start_on("tug-14")
    slow = factory()
    runs.add(slow, first, Entry(id=uuid4(), **about), "technician", Role.TECHNICIAN)
    with factory.begin() as quick:
        entry = Entry(id=uuid4(), **about)
        runs.add(quick, UUID(bay.run), entry, "technician", Role.TECHNICIAN)
    once = bay.client.get("/floor").text.count("Oil in the well")
    slow.commit()
    slow.close()
    until(lambda: bay.client.get("/floor").text.count("Oil in the well") == 2 * once > 0)


def test_the_calendar_drops_what_is_due_no_more(bay: Bay) -> None:
    """Also where nothing newer comes in its place."""
    factory = bay.client.app.state.sessions  # type: ignore[attr-defined]
    assert "Tug 15" in bay.client.get("/due.ics").text
    with factory.begin() as session:
        for row in session.scalars(select(RunRow).where(RunRow.unit_id == "tug-15")):
            row.unfinished = True
        session.flush()
        dues.work_out(session, "tug-15")
    until(lambda: "Tug 15" not in bay.client.get("/due.ics").text)
