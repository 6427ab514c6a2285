"""Cap, rotor, timing, battery over HTTP: asked for at the plan, made a procedure, followed."""

import re
from uuid import uuid4

import yaml

from eldrim.demo.load import ENGINES
from tests.web.client import TestClient
from tests.web.test_web import sign_in

EIGHT, FOUR = "/engines/fendrake-50-marine-v8", "/engines/ostler-16-flat-four"
BESIDES = re.compile(r'<p class="choose-more">.*?</p>', re.S)


def links(page: str) -> dict[str, tuple[str, bool]]:
    """The work offered besides the holes: words to address, and whether it is asked for."""
    found = BESIDES.search(page)
    assert found
    each = re.findall(r'<a href="([^"]+)"[^>]*?(aria-current="true")?>([^<]+)</a>', found[0])
    return {words: (href.replace("&amp;", "&"), bool(on)) for href, on, words in each}


def test_work_at_no_hole_is_asked_for_by_a_tap_and_let_go_by_another(client: TestClient) -> None:
    """Alone or beside holes; what the sheet cannot answer is not offered."""
    sign_in(client, "trainer")
    offered = links(client.get(EIGHT).text)
    assert {"distributor cap", "rotor", "timing", "battery", "charging"} <= set(offered)
    assert "coil pack" not in offered
    page = client.get(offered["distributor cap"][0]).text
    assert "<h1>Distributor cap</h1>" in page
    page = client.get(links(page)["rotor"][0]).text
    assert "<h1>Distributor cap and rotor</h1>" in page
    assert links(page)["rotor"][1]
    page = client.get(links(page)["rotor"][0]).text
    assert "<h1>Distributor cap</h1>" in page
    both = client.get(f"{EIGHT}?c=1&c=2&work=lead&work=plug&work=cap").text
    assert "<h1>Plug and lead, holes 1 and 2; distributor cap</h1>" in both
    strange = client.get("/engines/marlet-34-v6?c=1&work=plug&work=cap").text
    assert "Its sheet says too little for: distributor cap." in strange


def test_a_job_without_a_hole_becomes_a_procedure(client: TestClient) -> None:
    """Its steps stand on the page of the draft, the timing among them."""
    csrf = sign_in(client, "trainer")
    asked = {"csrf": csrf, "engine": "ostler-16-flat-four", "work": "timing", "variant": "all"}
    made = client.post("/procedures", data=asked)
    assert "Timing" in made.text
    assert "Turn the engine to the mark" in made.text
    nothing = client.post("/procedures", data={**asked, "work": "plug"})
    assert nothing.status_code == 422
    assert "names no cylinder" in nothing.text


def _begin(client: TestClient, unit: str, words: str) -> str:
    """Start a released procedure on a unit; the run's address."""
    page = client.get(f"/bay?unit={unit}").text
    forms = re.findall(r"<form.*?</form>", page, re.S)
    form = next(one for one in forms if words in one and 'name="unit"' in one)
    fields = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form))
    action = re.search(r'action="([^"]+)"', form)
    assert action
    found = client.post(action[1], data=fields)
    return str(found.url).split("?")[0]


def test_a_crossed_pair_found_in_a_run_is_kept_with_it(client: TestClient) -> None:
    """The page of the order was opened from the run's step; it says so and goes back there."""
    csrf = sign_in(client, "technician")
    run = _begin(client, "launch-1", "distributor cap and rotor")
    key = run.rsplit("/", 1)[1]
    found = "1: 1; 2: 8; 3: 3; 4: 4; 5: 6; 6: 5; 7: 7; 8: 2"
    page = client.get(f"{EIGHT}/leads", params={"run": key, "found": found}).text
    assert "Keep this with the" in page
    kept = re.search(r'name="value" value="([^"]+)"', page)
    assert kept
    assert kept[1] == "Leads of 3 and 4 are crossed (3: 3; 4: 4)"
    assert f"run={key}" in page, "the next tap stays with the run"
    elsewhere = client.get("/engines/dunmarl-42-six/leads", params={"run": key}).text
    assert "Keep this with the" not in elsewhere, "another engine's page has nothing to say to it"
    early = client.post(
        f"/bay/runs/{key}/entries",
        data={
            "csrf": csrf,
            "id": str(uuid4()),
            "kind": "reading",
            "step": "prove/order",
            "reading": "order",
            "value": kept[1],
        },
    )
    assert early.status_code == 409, "the step waits for those before it"


def test_a_dial_is_added_and_a_timing_out_of_its_window_is_kept_as_found(
    client: TestClient,
) -> None:
    """By plain forms, without a script: refused with the choice to keep it and turn."""
    csrf = sign_in(client, "technician")
    run = _begin(client, "power-4", "Timing")

    def send(step: str, reading: str, value: str, kind: str = "reading") -> str:
        about = {"csrf": csrf, "id": str(uuid4()), "kind": kind}
        return client.post(
            f"{run}/entries", data={**about, "step": step, "reading": reading, "value": value}
        ).text

    early = send("time/idle", "advance_idle", "5 + 2.5")
    assert "first" in early.lower()
    page = client.get(f"{run}?step=time/idle").text
    assert "Read the timing at idle" in page


def test_the_open_interface_plans_work_at_no_hole(client: TestClient) -> None:
    """With the engine's document; what its sheet cannot answer is told with its place."""
    document = yaml.safe_load((ENGINES / "tarrel-28-six.engine.yaml").read_text())
    asked = {"engine": document, "job": {"work": ["cap", "battery"]}}
    answer = client.post("/api/v1/plan", json=asked)
    assert answer.status_code == 200
    assert answer.json()["title"] == "Distributor cap and battery"
    refused = client.post("/api/v1/plan", json={**asked, "job": {"work": ["pack"]}})
    assert refused.status_code == 422
    assert refused.json()["problems"][0]["path"] == "job.work"
