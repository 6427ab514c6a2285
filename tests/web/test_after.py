"""After the run and around it: papers, files, the floor, labels, devices."""

import csv
import io
import json
import re
from uuid import uuid4

import pytest
from sqlalchemy import Engine, select

from eldrim.core.run.unit_label import unit_code
from eldrim.devices.play import StandIns
from eldrim.printing import labels
from eldrim.store import dues
from eldrim.store.tables import EntryRow, RunRow
from eldrim.web import files
from eldrim.web.app import make_app
from tests.web.client import TestClient, asking
from tests.web.test_bay import Bay, bay
from tests.web.test_release import Store
from tests.web.test_web import sign_in

__all__ = ["bay"]


def test_a_signed_run_goes_out_as_paper_and_files(client: TestClient) -> None:
    """PDF, every entry as JSON, one row a reading as CSV."""
    sign_in(client, "technician")
    run = client.get("/log").text.split('href="/log/')[1].split('"')[0]
    paper = client.get(f"/log/{run}/run.pdf")
    assert paper.content.startswith(b"%PDF")
    whole = client.get(f"/log/{run}/run.json").json()
    assert whole["format"] == "eldrim.run/2"
    assert whole["plan"]["title"].startswith("Plug and coil")
    readings = [e for e in whole["entries"] if e["entry"]["kind"] == "reading"]
    rows = list(csv.DictReader(io.StringIO(client.get(f"/log/{run}/run.csv").text)))
    assert sum(bool(r["reading"]) for r in rows) == len(readings)
    torque = next(r for r in rows if r["step"] == "torque/plug/2")
    assert torque["window"] == "15 to 20 N·m"
    meters = [row for row in rows if row["reading"] in ("meter", "Meter", "Next due, meter")]
    assert len(meters) == 2
    assert {row["unit"] for row in meters} == {"hours"}
    assert re.search(r"Meter</th> <td[^>]*> *\d+ hours", client.get(f"/log/{run}").text)
    assert client.get(f"/log/{run}/run.exe").status_code == 422


def test_the_floor_puts_first_what_needs_a_hand(bay: Bay) -> None:
    """A stop before a deviation before a quiet run; a silent tablet is said to be silent."""
    first = bay.run
    bay.start_on("tug-15")
    quiet = bay.client.get("/floor").text
    assert quiet.index("Tug 14") < quiet.index("Tug 15")
    assert "tablet silent" in quiet
    bay.write("stop", "clean/coils", reason="oil_in_well")
    bay.run = first
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="stays so")
    bay.client.get(f"/api/v1/runs/{first}/state?tablet=t1&unsent=3")
    floor = bay.client.get("/floor", headers={"hx-request": "true"}).text
    assert floor.startswith('<div id="bays"')
    assert floor.index("Tug 15") < floor.index("Tug 14"), "a stop is more urgent"
    assert "Oil in the well" in floor
    assert "3 unsent" in floor
    bay.client.get(f"/api/v1/runs/{first}/state?tablet=t1&unsent=0&refused=1")
    floor = bay.client.get("/floor", headers={"hx-request": "true"}).text
    assert "tablet heard, nothing unsent" in floor
    assert "1 refused" in floor
    assert 'value="accept"' not in floor, "only a lead accepts"
    bay.csrf = sign_in(bay.client, "lead")
    form = bay.client.get("/floor").text.split("To accept")[1]
    names = form.split('name="refers_to" value="')[1].split('"')[0]
    done = {"csrf": bay.csrf, "id": str(uuid4()), "kind": "accept", "refers_to": names}
    assert "To accept" not in bay.client.post(f"/bay/runs/{first}/lead", data=done).text


def test_findings_and_deviations_are_found_by_the_search(bay: Bay) -> None:
    """By their words or their unit; they lead to the run."""
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="twice")
    bay.write("stop", "clean/coils", reason="oil_in_well", note="from the breather")
    for typed in ("oil in the well", "breather", "battery 11.8", "tug 14 breath"):
        found = bay.client.get("/search", params={"q": typed}).text
        assert f'href="/log/{bay.run}"' in found, typed
        assert "finding" in found


def test_the_log_is_narrowed_and_says_what_was_marked(client: TestClient) -> None:
    """By unit, person, day and mark; a day that is none is said and nothing is lost."""
    sign_in(client, "lead")
    runs = client.get("/log").text.count('href="/log/')
    assert runs > 1
    one = client.get("/log?unit=tug-15").text
    assert 0 < one.count('href="/log/') < runs
    assert "Nothing in the log" in client.get("/log?until=2001-01-01").text
    assert client.get("/log?since=2001-01-01&by=technician").text.count('href="/log/')
    wrong = client.get("/log?since=soon&unit=tug-14")
    assert wrong.status_code == 200
    assert "is no day" in wrong.text
    assert 'value="soon"' in wrong.text
    assert client.get("/log?job=nonsense").status_code == 200


def test_what_is_open_stands_on_one_page(bay: Bay) -> None:
    """Over all units; a lead judges there, with a word for anything but yes."""
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="twice")
    bay.write("stop", "clean/coils", reason="oil_in_well")
    bay.client.get(f"/api/v1/runs/{bay.run}/state?tablet=t1&unsent=3")
    page = bay.client.get("/open").text
    for words in ("Stopped", "To accept", "3 not sent", "window", "Parts to get", "Going on"):
        assert words in page, words
    assert "Do it again" not in page, "only a lead judges"
    bay.csrf = sign_in(bay.client, "lead")
    form = bay.client.get("/open").text.split("To accept:")[1]
    about = {
        name: form.split(f'name="{name}" value="')[1].split('"')[0]
        for name in ("refers_to", "step")
    }
    sent = {"csrf": bay.csrf, "id": str(uuid4()), "kind": "again", "back": "/open", **about}
    address = f"/bay/runs/{bay.run}/lead"
    refused = bay.client.post(address, data=sent)
    assert refused.status_code == 409
    assert "what is to be done again" in refused.text
    assert "What is open" in refused.text
    done = bay.client.post(address, data={**sent, "note": "charge it first"}).text
    assert "To accept:" not in done
    assert "ready/battery|volts" not in bay.state()["values"]


def test_a_stopped_run_is_marked_in_every_list(bay: Bay) -> None:
    """Bay, floor, what is open, the unit, before another starts; in the log once it is ended."""
    bay.write("stop", "clean/coils", reason="oil_in_well")
    page = bay.client.get("/bay").text.split("Tug 14")[-1]
    edition = page.split('name="edition" value="')[1].split('"')[0]
    started = {"csrf": bay.csrf, "run": str(uuid4()), "edition": edition, "unit": "tug-14"}
    again = bay.client.post("/bay/runs", data=started).text
    assert "somebody was here" in again
    for page in (again, *(bay.client.get(at).text for at in ("/bay", "/floor", "/open"))):
        assert "topped" in page
    assert "stopped" in bay.client.get("/units/tug-14").text
    bay.csrf = sign_in(bay.client, "lead")
    ended = {"csrf": bay.csrf, "id": str(uuid4()), "kind": "end", "reason": "repair"}
    bay.client.post(f"/bay/runs/{bay.run}/lead", data=ended)
    assert "1 stop" in bay.client.get("/log?unit=tug-14").text


def test_paper_log_and_files_tell_what_was_used_and_typed(bay: Bay) -> None:
    """Tools and settings of the edition, the value as it was typed, what a lead said of it."""
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="twice")
    open_ = bay.state()["deviations"]
    bay.csrf = sign_in(bay.client, "lead")
    [key] = open_
    judged = {"csrf": bay.csrf, "id": str(uuid4()), "kind": "accept", "refers_to": key}
    bay.client.post(f"/bay/runs/{bay.run}/lead", data={**judged, "note": "charged since"})
    rows = list(csv.DictReader(io.StringIO(bay.client.get(f"/log/{bay.run}/run.csv").text)))
    [battery] = [r for r in rows if r["step"] == "ready/battery"]
    assert battery["tools"] == "multimeter"
    assert battery["said of it"] == "accepted by the lead: Berit Vance (charged since)"
    torque = next(r for r in rows if r["step"] == "torque/plug/2")
    assert "17.5 N·m" in torque["settings"]
    page = bay.client.get(f"/log/{bay.run}").text
    assert "Every step: tools, settings, proofs" in page
    assert "charged since" in page
    whole = bay.client.get(f"/log/{bay.run}/run.json").json()
    assert whole["called"]["lead"] == "Berit Vance"


def test_a_value_that_deviated_stays_beside_the_one_that_stands(bay: Bay) -> None:
    """It is not written away by a later one within the window, nor when a lead accepts it."""
    bay.write("deviation", "ready/battery", reading="volts", value="11.8", reason="twice")
    bay.write("reading", "ready/battery", reading="volts", value="12.6")
    page = bay.client.get(f"/log/{bay.run}").text
    assert '12.6 V; <small>before:</small> <b class="off">11.8 V</b>' in page


def test_labels_carry_what_a_scan_must_say(bay: Bay) -> None:
    """A unit's label passes the gate; each thing that comes off has one."""
    assert bay.client.get("/labels/units.pdf").content.startswith(b"%PDF")
    assert bay.client.get("/labels/units.pdf?unit=tug-14").content.startswith(b"%PDF")
    assert bay.client.get("/labels/units.pdf?unit=ghost").status_code == 404
    assert bay.client.get(f"/labels/bags/{bay.run}.pdf").content.startswith(b"%PDF")
    scanned = unit_code("tug-14", "2231")
    assert bay.write("reading", "ready/unit", reading="serial", value=scanned).status_code == 200
    assert "<svg" in labels.Label("Tug 14", "2231", scanned).picture


def test_a_photo_of_what_differs_reaches_the_trainer(bay: Bay) -> None:
    """Kept without what the camera wrote, named by the entry, shown beside the step."""
    from tests.web.test_photos import picture

    head = {"x-csrf-token": bay.csrf, "content-type": "image/jpeg"}
    kept = bay.client.post("/api/v1/photos", content=picture(), headers=head).json()["photo"]
    entry = {
        "id": str(uuid4()),
        "kind": "differs",
        "step": "clean/coils",
        "reason": "damaged",
        "photo": kept,
    }
    answer = bay.client.post(
        f"/api/v1/runs/{bay.run}/entries", json=entry, headers={"x-csrf-token": bay.csrf}
    )
    assert answer.status_code == 200
    state = bay.state()
    assert [m["photo"] for m in state["marks"].values()] == [kept]
    assert state["parts"] == [
        {
            "name": "coils",
            "why": "Part is damaged: Clean round coils 2, 4 and 6",
            "number": "MC-340-21",
        }
    ]
    assert f"/images/{kept}.jpg" in bay.client.get(f"/log/{bay.run}").text
    bad = bay.client.post("/api/v1/photos", content=b"nothing", headers=head)
    assert bad.status_code == 422


def test_the_gap_adviser_answers_in_the_bay(bay: Bay) -> None:
    """By the plug of this engine; where there is no gap, it says nothing."""
    address = f"/api/v1/runs/{bay.run}/gap-advice"
    far = bay.client.get(
        address, params={"step": "gap/plug/2", "reading": "gap_left", "value": 1.3}
    )
    assert "Return it" in far.json()["words"]
    fine = bay.client.get(
        address, params={"step": "gap/plug/2", "reading": "gap_left", "value": 1.05}
    )
    assert "fit it" in fine.json()["words"]
    limit = {"step": "gap/plug/2", "reading": "gap_left", "value": 0.99}
    at_limit = bay.client.get(address, params=limit).json()["words"]
    assert "fit it" in at_limit
    assert at_limit.startswith("At the limit")
    none = bay.client.get(address, params={"step": "ready/unit", "reading": "meter", "value": 1})
    assert none.json() == {"words": ""}


def test_devices_are_played_and_asked_over_the_web(database: Engine) -> None:
    """Codes read and cleared; a wrong line is said; without stand-ins, that is said."""
    standins = StandIns().start()
    try:
        with TestClient(make_app(database, standins), raise_server_exceptions=False) as client:
            csrf = sign_in(client, "technician")
            form = {"csrf": csrf, "line": "codes P0301"}
            assert "adapter: codes P0301" in client.post("/devices/adapter", data=form).text
            assert client.get("/api/v1/devices/codes").json()["value"].startswith("P0301; freeze")
            cleared = client.post("/api/v1/devices/clear", headers={"x-csrf-token": csrf}).json()
            assert cleared == {"value": "none"}
            wrong = client.post("/devices/adapter", data={**form, "line": "sing"})
            assert wrong.status_code == 422
            assert "not something to play" in wrong.text
    finally:
        standins.stop()
    with asking(database) as client:
        csrf = sign_in(client, "technician")
        assert "No stand-ins run here" in client.get("/devices").text
        assert client.get("/api/v1/devices/codes").status_code == 503
        assert (
            client.post("/devices/wrench", data={"csrf": csrf, "line": "1 N·m"}).status_code == 422
        )


@pytest.mark.parametrize("address", ["/sw.js", f"{files.address()}/bay/main.js"])
def test_the_tablet_s_helper_is_ours_and_from_here(client: TestClient, address: str) -> None:
    """Served by us, under the policy."""
    answer = client.get(address)
    assert answer.status_code == 200
    assert "javascript" in answer.headers["content-type"]
    assert "worker-src 'self'" in answer.headers["content-security-policy"]


def test_the_run_page_s_data_cannot_break_out_of_it(bay: Bay) -> None:
    """It parses, and nothing in it ends the element it stands in."""
    page = bay.client.get(f"/bay/runs/{bay.run}").text
    data = page.split('id="run-data">')[1].split("</script>")[0]
    assert "<" not in data
    parsed = json.loads(data)
    assert parsed["run"] == bay.run
    assert parsed["tray"]["1"] == [1, 1]
    assert parsed["tray"]["6"] == [3, 2]


def test_a_lead_ends_a_run_unfinished_and_what_is_open_stays_open(bay: Bay) -> None:
    """Only a lead, with a reason; told on the log and the unit; what was due is due still."""
    bay.start_on("tug-15")
    bay.write("stop", "clean/coils", reason="oil_in_well")
    refused = bay.client.get(f"/floor/end/{bay.run}")
    assert refused.status_code == 403
    assert "20 May 2027" in bay.client.get("/units/tug-15").text
    page = bay.client.get(f"/bay/runs/{bay.run}").text
    steps = json.loads(page.split('id="run-data">')[1].split("</script>")[0])["steps"]
    bay.csrf = sign_in(bay.client, "lead")
    asked = bay.client.get(f"/floor/end/{bay.run}").text
    assert "Oil in the well" in asked
    assert f"{len(steps) - 1} steps still open" in asked, "all but the signature"
    form = {"csrf": bay.csrf, "id": str(uuid4()), "kind": "end", "note": "head comes off"}
    assert "say from the list" in bay.client.post(f"/bay/runs/{bay.run}/lead", data=form).text
    form |= {"reason": "repair"}
    assert bay.client.post(f"/bay/runs/{bay.run}/lead", data=form).status_code == 200
    assert bay.run not in bay.client.get("/floor").text
    log = bay.client.get(f"/log/{bay.run}").text
    assert "A repair comes first: head comes off" in log
    assert "The unit is not proven" in log
    unit = bay.client.get("/units/tug-15").text
    assert "ended unfinished" in unit
    assert "20 May 2027" in unit
    assert "ended unfinished" in bay.client.get("/log").text
    assert bay.client.get(f"/log/{bay.run}/run.pdf").content.startswith(b"%PDF")
    late = bay.write("reading", "ready/unit", reading="meter", value="1")
    assert "nothing can be added" in late.text


def test_a_run_says_in_which_bay_it_is_done(bay: Bay) -> None:
    """Bays are named and taken away by a lead; a run keeps the name."""
    bay.csrf = sign_in(bay.client, "lead")
    named = bay.client.post("/bays", data={"csrf": bay.csrf, "bay": "  Wash   bay "})
    assert "Wash bay" in named.text
    none = bay.client.post("/bays", data={"csrf": bay.csrf, "bay": " "})
    assert none.status_code == 422
    assert "no name for a bay" in none.text
    assert "Wash bay" in bay.start_on("tug-14", bay="Wash bay").text
    bay.client.post("/bays/away", data={"csrf": bay.csrf, "bay": "Wash bay"})
    assert "Wash bay: " in bay.client.get("/floor").text
    assert 'value="Wash bay"' not in bay.client.get("/bay").text


def test_overdue_units_stand_on_the_floor(client: TestClient, store: Store) -> None:
    """By the day set at the last signing; those that have time left do not."""
    sign_in(client, "lead")
    assert "Overdue" not in client.get("/floor").text
    long_ago = {"step": "prove/sign", "reading": "next_due", "kind": "reading"}
    with store.begin() as session:
        signed = session.scalar(select(RunRow.id).where(RunRow.unit_id == "tug-15"))
        body = {**long_ago, "id": str(uuid4()), "value": "2026-01-09"}
        session.add(EntryRow(id=uuid4(), run_id=signed, body=body, by="lead", role="lead"))
        session.flush()
        dues.work_out(session, "tug-15")
    floor = client.get("/floor").text
    assert '9 Jan 2026 <b class="off">overdue</b>' in floor
    assert "Tug 15" in floor
    assert "Tug 21" not in floor


def test_a_unit_shows_its_past_hole_by_hole(client: TestClient) -> None:
    """Values of each signed run, with the meter then."""
    sign_in(client, "lead")
    page = client.get("/units/tug-15").text
    assert "Hole by hole" in page
    assert "1840 hours" in page
    assert page.count("plug: gap as found") == 3


def test_the_bay_compares_with_the_last_run_on_the_unit(client: TestClient) -> None:
    """How the gap was left, and how fast it grew; a unit without a past says nothing."""
    bay = Bay(client)
    assert 'class="last"' not in client.get(f"/bay/runs/{bay.run}").text
    bay.start_on("tug-15")
    assert "Left at 1.0" in client.get(f"/bay/runs/{bay.run}").text
    asked = {"step": "read/plug/2", "reading": "gap_found", "value": 1.09}
    address = f"/api/v1/runs/{bay.run}/gap-advice"
    assert "It grew" not in client.get(address, params=asked).json()["words"]
    bay.write("reading", "ready/unit", reading="meter", value="2340")
    words = client.get(address, params=asked).json()["words"]
    assert "It grew by 0.0" in words
    assert "in a thousand hours" in words


def test_a_tablet_says_what_it_has_still_to_send(bay: Bay) -> None:
    """With each entry; two tablets on one run are counted together."""
    head = {"x-csrf-token": bay.csrf}
    entry = {
        "id": str(uuid4()),
        "kind": "reading",
        "step": "ready/codes",
        "reading": "codes",
        "value": "none",
    }
    address = f"/api/v1/runs/{bay.run}"
    assert (
        bay.client.post(
            f"{address}/entries?tablet=one&unsent=4", json=entry, headers=head
        ).status_code
        == 200
    )
    bay.client.get(f"{address}/state?tablet=two&unsent=1")
    assert "5 unsent" in bay.client.get("/floor").text
