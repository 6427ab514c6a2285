"""While you are there, over HTTP: at the plan, at the draft, by unit, over the open interface."""

import re

import yaml

from eldrim.demo.load import ENGINES
from tests.web.client import TestClient
from tests.web.test_web import sign_in

TUG = "/engines/marlet-34-v6"
PLUG_5 = "c=5&work=plug&variant=late"
SWAP = {"hx-request": "true"}


def test_the_plan_says_what_else_is_worth_doing(client: TestClient) -> None:
    """With its sums; one click makes it part of the job."""
    sign_in(client, "trainer")
    plan = client.get(f"{TUG}?{PLUG_5}").text
    assert f"{TUG}/along?{PLUG_5.replace('&', '&amp;')}" in plan
    found = client.get(f"{TUG}/along?{PLUG_5}&meter=3180+h&fitted=2000+h", headers=SWAP).text
    assert "<b>Plugs of the rear bank:</b>" in found
    assert "Now: 24.4 min" in found
    add = re.search(
        r'<a class="add" href="([^"]+)"[^>]*>Add<span\s+class="visually-hidden"> plugs of the',
        found,
    )
    assert add is not None
    more = client.get(add[1].replace("&amp;", "&")).text
    assert "<h1>Plug, holes 1, 3 and 5</h1>" in more
    along = re.search(r'href="([^"]+companions=air-filter[^"]*)"', found)
    assert along is not None
    assert "<h1>Plug, hole 5; air filter</h1>" in client.get(along[1].replace("&amp;", "&")).text


def test_the_way_without_script_is_a_page(client: TestClient) -> None:
    """Whole, with the way back; readings that are not understood keep what was typed."""
    sign_in(client, "technician")
    page = client.get(f"{TUG}/along?{PLUG_5}&meter=3180+h&fitted=4000+h").text
    assert "<title>" in page
    assert "would be fitted after 3180 h" in page
    assert 'value="4000 h"' in page
    nothing = client.get(f"{TUG}/along?variant=late")
    assert nothing.status_code == 422


def test_companions_are_asked_for_besides_and_let_go(client: TestClient) -> None:
    """Alone or with holes; one the sheet has no more is said."""
    sign_in(client, "trainer")
    page = client.get(f"{TUG}?companions=air-filter&variant=late").text
    assert "<h1>Air filter</h1>" in page
    assert (
        "Its sheet has no companion work &#39;gone&#39;."
        in client.get(f"{TUG}?c=5&work=plug&companions=gone").text
    )
    csrf = re.search(r'name="csrf" value="([^"]+)"', page)
    assert csrf is not None
    asked = {
        "csrf": csrf[1],
        "engine": "marlet-34-v6",
        "companions": "air-filter",
        "variant": "late",
    }
    made = client.post("/procedures", data=asked)
    assert made.status_code == 200
    assert "Wipe the housing out" in made.text


def draft(client: TestClient, csrf: str) -> tuple[str, str]:
    """A draft of plug 5: its address, and the version of it that was looked at."""
    asked = {"csrf": csrf, "engine": "marlet-34-v6", "c": "5", "work": "plug", "variant": "late"}
    made = client.post("/procedures", data=asked)
    version = re.search(r'name="version" value="(\d+)"', made.text)
    assert version is not None
    return str(made.url).split("//", 1)[1].split("/", 1)[1], version[1]


def test_the_draft_takes_more_with_one_click(client: TestClient) -> None:
    """Its edits stay; the same click from a second window is told that the draft changed."""
    csrf = sign_in(client, "trainer")
    path, version = draft(client, csrf)
    edit = {"csrf": csrf, "base": "{}", "text": "Take plug 5 out gently"}
    assert client.post(f"/{path}/steps/remove/plug/5", data=edit).status_code == 200
    version = str(int(version) + 1)
    panel = client.get(f"/{path}/along?meter=3180+h&fitted=2000+h", headers=SWAP).text
    assert f'name="version" value="{version}"' in panel
    more = {"csrf": csrf, "version": version, "more": "plug", "cylinders": ["1", "3"]}
    page = client.post(f"/{path}/along", data=more)
    assert "<h1>Plug, holes 1, 3 and 5</h1>" in page.text
    assert "Take plug 5 out gently" in page.text
    again = client.post(f"/{path}/along", data={**more, "more": "air-filter", "cylinders": []})
    assert again.status_code == 409
    assert "changed meanwhile" in again.text
    strange = {**more, "version": str(int(version) + 1), "more": "wobble", "cylinders": []}
    assert client.post(f"/{path}/along", data=strange).status_code == 422
    sign_in(client, "technician")
    assert client.post(f"/{path}/along", data=more).status_code == 403


def test_what_was_released_stays_and_the_larger_job_is_a_draft_of_its_own(
    client: TestClient,
) -> None:
    """The edition is not touched."""
    csrf = sign_in(client, "trainer")
    path, version = draft(client, csrf)
    why = {"csrf": csrf, "version": version, "reason": "first", "accepted": "for the test"}
    assert client.post(f"/{path}/release", data=why).status_code == 200
    now = re.search(r'name="version" value="(\d+)"', client.get(f"/{path}").text)
    assert now is not None
    more = {"csrf": csrf, "version": now[1], "more": "air-filter"}
    made = client.post(f"/{path}/along", data=more)
    assert "<h1>Plug, hole 5; air filter</h1>" in made.text
    assert path not in str(made.url)
    assert "<h1>Plug, hole 5</h1>" in client.get(f"/{path}").text


def test_a_unit_brings_its_readings_and_its_own_stop(client: TestClient) -> None:
    """Where its meter stands, when what was fitted; severe use; nonsense is refused."""
    csrf = sign_in(client, "trainer")
    page = client.get(f"{TUG}/along?{PLUG_5}&unit=tug-21", headers=SWAP).text
    assert 'name="meter" value="2450 h"' in page
    assert "plug/2=2450 h" in page
    unit = {"csrf": csrf, "key": "tug-21", "name": "Tug 21", "engine": "marlet-34-v6"}
    plate = {"serial": "MV34L-2641", "letters": "MV34L", "meter": "hours"}
    serial = re.search(
        r'name="serial"[^>]*value="([^"]*)"|value="([^"]*)"[^>]*name="serial"',
        client.get("/units/tug-21").text,
    )
    assert serial is not None
    plate["serial"] = serial[1] or serial[2]
    kept = client.post("/units", data={**unit, **plate, "stop_cost": "1250", "use": "severe"})
    assert "1250 €" in kept.text
    assert "severe use" in kept.text
    page = client.get(f"{TUG}/along?{PLUG_5}&unit=tug-21", headers=SWAP).text
    assert "1250 €" in page
    assert re.search(r'name="severe" value="true" checked', page)
    wrong = client.post("/units", data={**unit, **plate, "stop_cost": "-5"})
    assert wrong.status_code == 422


def test_the_house_says_what_waste_it_accepts(client: TestClient) -> None:
    """A rule like any other: kept as a version, and followed at once."""
    csrf = sign_in(client, "trainer")
    version = re.search(r'name="version" value="(\d+)"', client.get("/rules").text)
    assert version is not None
    said = {"csrf": csrf, "version": version[1], "waste_of_life": "at_interval", "reason": "stock"}
    page = client.post("/rules", data={**said, "stop_cost": "700"})
    assert page.status_code == 200
    found = client.get(f"{TUG}/along?{PLUG_5}&meter=3180+h&fitted=2000+h", headers=SWAP).text
    assert "house rule: not before its interval" in found
    assert "700 €" in found
    wrong = client.post("/rules", data={**said, "waste_of_life": "sometimes"})
    assert wrong.status_code == 422


def test_the_open_interface_advises(client: TestClient) -> None:
    """The same as the command line; what is wrong is named with its fix."""
    document = yaml.safe_load((ENGINES / "marlet-34-v6.engine.yaml").read_text())
    asked = {
        "engine": document,
        "job": {"cylinders": [5], "work": ["plug"]},
        "meter": "160000 km",
        "fitted": "0 km",
    }
    answer = client.post("/api/v1/advice", json=asked)
    assert answer.status_code == 200
    items = answer.json()["items"]
    assert {one["work"] for one in items} >= {"plug", "coil", "air-filter"}
    refused = client.post("/api/v1/advice", json={**asked, "meter": "far", "fitted": "zip=1 km"})
    assert refused.status_code == 422
    assert {one["path"] for one in refused.json()["problems"]} == {"meter", "fitted"}
    strange = {**asked, "job": {"cylinders": [5], "work": ["wobble"]}}
    assert "no work this sheet knows" in client.post("/api/v1/advice", json=strange).text
    plan = {"engine": document, "job": {"work": ["air-filter"]}}
    assert client.post("/api/v1/plan", json=plan).json()["job"]["companions"] == ["air-filter"]


def test_the_board_keeps_what_is_done_along(client: TestClient) -> None:
    """Typed, refused with the line named, kept; a hindrance may name it."""
    csrf = sign_in(client, "trainer")
    board = client.post(f"{TUG}/capture", data={"csrf": csrf})
    number = re.search(r'name="number" value="(\d+)"', board.text)
    assert number is not None
    assert "- Wipe the housing out | 1 min" in board.text
    assert (
        '<option value="work/air-filter">' in client.get("/capture/marlet-34-v6?part=plenum").text
    )
    base = {"csrf": csrf, "number": number[1], "part": ""}
    text = "Cabin filter\n- Change it | 2 min"
    wrong = {**base, "companions": "Cabin filter", "intervals": "", "prices": ""}
    refused = client.post("/capture/marlet-34-v6/upkeep", data=wrong, headers=SWAP)
    assert "has no step" in refused.text
    # What hinders work that would be gone keeps it there.
    gone = {**base, "companions": text, "intervals": "", "prices": ""}
    refused = client.post("/capture/marlet-34-v6/upkeep", data=gone, headers=SWAP)
    assert "breather-hose" in refused.text
    from eldrim.core.capture.companions import companions_text
    from tests.builders import tug

    whole = f"{companions_text(tug())}\n\n{text}"
    kept = {**base, "companions": whole, "intervals": "cabin-filter: 500 h", "prices": "#C-1 9"}
    done = client.post("/capture/marlet-34-v6/upkeep", data=kept, headers=SWAP)
    assert "Cabin filter" in done.text
    assert "cabin-filter: 500 h" in done.text
