"""What plugs tell, over HTTP: at the desk, in a run, in the log and by the open interface."""

from uuid import UUID, uuid4

import yaml
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from eldrim.core.procedure.model import Reading, Step
from eldrim.core.run.due import DueKind
from eldrim.core.run.unit_label import plug_of
from eldrim.exchange.engine_file import write_engine
from eldrim.printing.labels import plug_labels
from eldrim.store import dues, runs
from eldrim.store.edition_store import plan_of
from eldrim.store.tables import RunRow
from tests.builders import tug, typical
from tests.web.client import TestClient
from tests.web.test_bay import Bay
from tests.web.test_web import sign_in


def as_document() -> dict[str, object]:
    """The tug's engine as a plain document."""
    found = yaml.safe_load(write_engine(tug()))
    assert isinstance(found, dict)
    return found


def test_the_interface_tells_what_a_set_says(client: TestClient) -> None:
    """The documented fields, ids beside words; a hole in a list alone is read alone."""
    asked = {"engine": as_document(), "signs": "4=blister; 5=black,wet,oily", "since": "320 km"}
    answer = client.post("/api/v1/readings", json=asked)
    assert answer.status_code == 200
    oil, hot = answer.json()["verdicts"]
    assert (oil["cause"], oil["scope"], oil["holes"]) == ("oil-up", "one", ["5"])
    assert (oil["confidence"], hot["confidence"]) == ("clear", "likely")
    assert {"hole": "5", "sign": "oily", "words": "oily", "weight": 3.0} in oil["for"]
    assert set(oil) >= {"against", "tell_apart", "now", "recheck"}
    listed = client.post("/api/v1/readings", json={**asked, "signs": {"5": ["wet", "oily"]}})
    assert listed.json()["not_read"] == ["1", "2", "3", "4", "6"]
    last = client.post("/api/v1/readings", json={**asked, "last": answer.json()["signs"]})
    assert [c["change"] for c in last.json()["over_time"]] == ["same", "same"]


def test_what_the_interface_does_not_understand_is_listed(client: TestClient) -> None:
    """Everything at once, each with its place and its fix; nothing is guessed."""
    asked = {
        "engine": as_document(),
        "signs": "4=blster; 9=wet",
        "since": "5 N·m",
        "known": ["odd"],
        "variant": "none",
    }
    answer = client.post("/api/v1/readings", json=asked)
    assert answer.status_code == 422
    paths = [problem["path"] for problem in answer.json()["problems"]]
    assert paths == ["known", "signs.4", "signs.9", "since", "variant"]
    too_long = client.post("/api/v1/readings", json={**asked, "signs": "x" * 5000})
    assert too_long.status_code == 422


def test_a_set_is_told_at_the_desk_and_what_is_not_understood_stays(client: TestClient) -> None:
    """The verdict beside the plan; a slip named at its hole, with what was typed kept."""
    sign_in(client, "trainer")
    page = client.get("/engines/marlet-34-v6/plugs?hole-5=black, wet, oily&hole-2=ok").text
    assert "Oil past a ring or a guide (hole 5)" in page
    assert "Not read: 1, 3, 4, 6" in page
    wrong = client.get("/engines/marlet-34-v6/plugs?hole-5=blster&since=long").text
    assert "did you mean blister" in wrong
    assert 'value="blster"' in wrong
    for nonsense in (
        "hole-5=;;;",
        "hole-5=" + "x" * 3000,
        "known=odd",
        "hole-5=5=5",
        "since=9e99 km",
    ):
        answer = client.get(f"/engines/marlet-34-v6/plugs?{nonsense}")
        assert answer.status_code in (200, 422), nonsense


def read_plugs(bay: Bay, **seen: str) -> None:
    """Follow the run through its reading; ``p2`` is what is picked at plug 2."""
    with bay_session(bay) as session:
        row = session.get_one(RunRow, bay.run)
        plan, serial = plan_of(row.edition), row.serial
    for step in plan.steps:
        if step.phase.name not in ("READY", "UNCOVER", "CLEAN", "PULL", "READ"):
            break
        for reading in (r for r in step.readings if r.required):
            value = serial if reading.key == "serial" else typical(reading)
            if reading.key == "condition" and step.key.startswith("read/plug/"):
                value = seen.get(f"p{step.hole}", "tan-dry")
            elif reading.key == "condition":
                value = "sound"
            send(
                bay,
                kind="reading",
                step=step.key,
                reading=reading.key,
                value=value,
                unit=reading.unit,
            )
        send(bay, kind="done", step=step.key, checks=[check.key for check in step.checks])


def write(bay: Bay, step: Step, reading: Reading, value: float | str) -> None:
    """Write one value down."""
    about = {"step": step.key, "reading": reading.key, "unit": reading.unit}
    send(bay, kind="reading", value=value, **about)


def bay_session(bay: Bay) -> Session:
    """A session on the database of the application."""
    return bay.client.app.state.sessions()  # type: ignore[attr-defined, no-any-return]


def send(bay: Bay, **entry: object) -> None:
    """Send one entry as the tablet does."""
    answer = bay.client.post(
        f"/api/v1/runs/{bay.run}/entries",
        json={"id": str(uuid4()), **entry},
        headers={"x-csrf-token": bay.csrf},
    )
    assert answer.status_code == 200, answer.text


def test_a_run_s_plugs_tell_once_all_are_read_and_are_taken_up(client: TestClient) -> None:
    """Not before; taken up it is on the list of parts and in the log, and is found."""
    bay = Bay(client)
    assert client.get(f"/bay/runs/{bay.run}/verdict").status_code == 204
    read_plugs(bay, p2="wet-oily,well-oil")
    told = client.get(f"/bay/runs/{bay.run}/verdict").text
    assert "Oil past a ring or a guide (hole 2)" in told
    assert 'data-reading="oil-in-well@2"' in told
    about = {"kind": "verdict", "step": "read/plug/2", "reading": "oil-in-well@2"}
    send(bay, **about, value="taken")
    assert "Taken up by" in client.get(f"/bay/runs/{bay.run}/verdict").text
    assert [part["name"] for part in bay.state()["parts"]] == ["cover gasket", "coil boot"]
    with bay_session(bay) as session:
        state = runs.state(session, UUID(bay.run))
        kept = state.verdicts[about["step"], about["reading"]].entry
        assert kept.value == "taken"
    log = client.get(f"/log/{bay.run}").text
    assert "What the plugs tell" in log
    assert "Taken up by" in log
    found = client.get("/search?q=oil gets into this well").text
    assert "Tug 14" in found


def test_plugs_fitted_before_a_repair_are_told_so(client: TestClient) -> None:
    """Ticked on the tablet, the verdict waits for new plugs."""
    bay = Bay(client)
    read_plugs(bay, p2="sooty-black", p4="sooty-black", p6="sooty-black")
    assert "Tells the old story" in client.get(f"/bay/runs/{bay.run}/verdict?repaired=true").text


def test_what_was_taken_up_is_due_after_the_signing(client: TestClient) -> None:
    """A follow-up stands on the unit's page until the plugs are read again."""
    bay = Bay(client)
    read_plugs(bay, p2="wet-oily,well-oil")
    for said in ("oil-up@2", "oil-in-well@2"):
        send(bay, kind="verdict", step="read/plug/2", reading=said, value="taken")
    finish(bay)
    with bay_session(bay) as session:
        kinds = {(one.kind, one.what.partition(":")[0]) for one in dues.of_unit(session, "tug-14")}
    assert (DueKind.FOLLOW_UP, "Follow up") in kinds
    unit = client.get("/units/tug-14").text
    assert "Follow up: Oil past a ring" in unit
    assert "Follow up: Oil gets into this well" in unit, "two at one plug both stay"


def finish(bay: Bay) -> None:
    """Close whatever is left of the run, and sign it."""
    with bay_session(bay) as session:
        row = session.get_one(RunRow, bay.run)
        plan, state = plan_of(row.edition), runs.state(session, row.id)
    for step in (s for s in plan.steps if s.key not in state.closings):
        for reading in (r for r in step.readings if r.required):
            send(
                bay,
                kind="reading",
                step=step.key,
                reading=reading.key,
                value=typical(reading),
                unit=reading.unit,
            )
        closing = "sign" if step is plan.steps[-1] else "done"
        send(bay, kind=closing, step=step.key, checks=[check.key for check in step.checks])


def test_the_interface_weighs_a_complaint(client: TestClient) -> None:
    """With house rules and a crib; everything wrong at once."""
    asked = {"engine": as_document(), "codes": "P0305, P0355", "symptoms": ["wet"]}
    answer = client.post("/api/v1/diagnoses", json=asked)
    assert answer.status_code == 200
    said = answer.json()
    assert (said["kind"], said["causes"][0]["key"]) == ("coil-circuit", "coil")
    assert said["tree"]["outcomes"]
    wrong = {**asked, "codes": "P0309 x", "symptoms": ["odd"], "age": "plugs=1", "signs": "9=wet"}
    refused = client.post("/api/v1/diagnoses", json=wrong)
    assert refused.status_code == 422
    paths = [problem["path"] for problem in refused.json()["problems"]]
    assert paths == ["age", "codes", "codes", "signs.9", "symptoms"]
    nothing = client.post("/api/v1/diagnoses", json={"engine": as_document()})
    assert nothing.status_code == 422


def test_a_complaint_is_weighed_at_the_desk(client: TestClient) -> None:
    """The causes, the drawn tree, the sums beside it, and what if."""
    sign_in(client, "trainer")
    page = client.get("/engines/marlet-34-v6/fault?codes=P0305,P0355,P0015").text
    assert "<b>P0305</b> leads: misfire of a cylinder" in page
    assert "<b>P0015</b> follows until proven otherwise" in page
    assert 'class="fault-tree"' in page
    assert "expected to cured and proven" in page
    assert "Ignition high voltage" in page, "cautions come from what an act does"
    without = client.get("/engines/marlet-34-v6/fault?codes=P0305&without=swap-coil").text
    assert "without changing coils" in without
    known = client.get("/engines/marlet-34-v6/fault?codes=P0305&known=boot").text
    assert "New boot at 5, then prove" in known
    assert "/engines/marlet-34-v6?c=5&amp;work=coil" in known, "the repair is planned from here"
    wrong = client.get("/engines/marlet-34-v6/fault?codes=P0309&symptoms=odd").text
    assert "the engine has cylinders 1, 2, 3, 4, 5, 6" in wrong
    assert 'value="P0309"' in wrong
    for query in (
        "codes=%00",
        "signs=;;;",
        "age=x",
        "without=" + "y" * 39,
        "known=moon&codes=P0305",
    ):
        assert client.get(f"/engines/marlet-34-v6/fault?{query}").status_code in (200, 422), query


def test_what_the_log_knows_of_a_unit_is_begun_with(client: TestClient) -> None:
    """The signs of its last plugs and that a job was done lately; what is typed then stands."""
    sign_in(client, "trainer")
    page = client.get("/engines/marlet-34-v6/fault?unit=tug-21").text
    assert "What the log knows" in page
    assert 'value="4=black,wet,oily"' in page
    assert "That is lately" in page
    assert "They told: Oil past a ring or a guide (hole 4), clear." in page
    typed = client.get("/engines/marlet-34-v6/fault?unit=tug-21&codes=P0302&signs=").text
    assert 'value="4=black' not in typed
    assert "Misfire of one cylinder, plugs not past their interval: 2" in typed
    assert "What the log knows" not in client.get("/engines/marlet-34-v6/fault?unit=tug-14").text


def test_old_plugs_are_kept_by_label(database: Engine, client: TestClient) -> None:
    """A label a plug where the house keeps them; scanned, it leads to the run that took it out."""
    bay = Bay(client)
    with Session(database) as db:
        row = runs.run(db, UUID(bay.run))
        made = plug_labels(plan_of(row.edition), "Tug 14", row.id, "2026-11-27")
    assert [label.large for label in made] == [f"Plug of hole {n}" for n in (2, 4, 6)]
    assert client.get(f"/labels/bags/{bay.run}.pdf").content.startswith(b"%PDF")
    assert plug_of(made[0].code) == row.id
    scanned = client.get("/bay", params={"label": made[0].code})
    assert str(scanned.url).endswith(f"/log/{bay.run}")
    gone = client.get("/bay", params={"label": f"ELDRIM PLUG {uuid4()} 2"})
    assert gone.status_code == 404


def test_a_verdict_leads_to_the_search_for_its_cause(client: TestClient) -> None:
    """With the signs of the run filled in."""
    bay = Bay(client)
    read_plugs(bay, p4="wet-oily")
    panel = client.get(f"/bay/runs/{bay.run}/verdict").text
    link = panel.split('href="')[1].split('"')[0].replace("&amp;", "&")
    assert "unit=tug-14" in link
    assert "4=black,wet,oily" in client.get(link).text


def test_what_is_taken_up_and_told_no_more_can_be_taken_back(client: TestClient) -> None:
    """A corrected reading leaves no part and no follow-up that nothing shows any more."""
    bay = Bay(client)
    read_plugs(bay, p4="wet-oily")
    step = "read/plug/4"
    send(bay, kind="verdict", step=step, reading="oil-up@4", value="taken", how="tapped")
    panel = f"/bay/runs/{bay.run}/verdict"
    assert "told no more" not in client.get(panel).text
    parts = bay.state()["parts"]
    closed = bay.state()["closings"][step]["id"]
    send(bay, kind="reopen", step=step, refers_to=closed)
    send(bay, kind="reading", step=step, reading="condition", value="tan-dry")
    with bay_session(bay) as session:
        plan = plan_of(session.get_one(RunRow, bay.run).edition)
    checks = [c.key for s in plan.steps if s.key == step for c in s.checks]
    send(bay, kind="done", step=step, checks=checks)
    told = client.get(panel).text
    assert "Taken up before, and told no more:" in told
    assert 'data-reading="oil-up@4"' in told
    why = "the reading it rests on was corrected"
    send(bay, kind="verdict", step=step, reading="oil-up@4", value="doubted", note=why)
    assert "told no more" not in client.get(panel).text
    assert len(bay.state()["parts"]) <= len(parts)
