"""Pages and the open interface: who may do what, and how refusals are said."""

import re
from html import unescape

import pytest
import yaml
from sqlalchemy import Engine

from eldrim.core.engine.parts import WayKind
from eldrim.web import files
from eldrim.web.capture.stated import WAYS
from tests.builders import document, part, tug
from tests.web.client import TestClient


def sign_in(client: TestClient, name: str) -> str:
    """Sign in and return the CSRF token."""
    form = {"name": name, "password": "eldrim-demo"}
    client.post("/sign-in", data=form, follow_redirects=False)
    page = client.get("/sums").text
    return page.split('data-csrf="')[1].split('"')[0]


def test_health_answers_with_the_database_s_state(client: TestClient, database: Engine) -> None:
    """Up, it says so."""
    assert client.get("/healthz").json() == {"status": "ok", "database": "answers"}


def test_every_page_carries_a_strict_policy(client: TestClient) -> None:
    """No unsafe source, no framing, no sniffing, on pages, files and errors alike."""
    for address in ("/sign-in", f"{files.address()}/css/base.css", "/nowhere"):
        headers = client.get(address).headers
        policy = headers["content-security-policy"]
        assert "unsafe" not in policy
        assert "default-src 'none'" in policy
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["x-frame-options"] == "DENY"


@pytest.mark.parametrize("address", ["/engines", "/procedures", "/bay", "/log", "/"])
def test_pages_ask_for_a_sign_in(client: TestClient, address: str) -> None:
    """Nobody gets in without one."""
    answer = client.get(address, follow_redirects=False)
    assert answer.status_code == 303
    assert answer.headers["location"] == "/sign-in"


def test_wrong_passwords_are_refused_then_throttled(client: TestClient) -> None:
    """The ninth try is not even looked at."""
    wrong = {"name": "lead", "password": "guess"}
    for _ in range(8):
        assert client.post("/sign-in", data=wrong).status_code == 401
    right = {"name": "lead", "password": "eldrim-demo"}
    answer = client.post("/sign-in", data=right)
    assert answer.status_code == 429
    assert "Too many wrong tries" in answer.text


def test_a_write_without_the_token_is_refused(client: TestClient) -> None:
    """CSRF on every write."""
    sign_in(client, "trainer")
    form = {"engine": "marlet-34-v6", "c": ["1"], "work": ["plug"], "variant": "late"}
    for extra in ({}, {"csrf": "made up"}):
        assert client.post("/procedures", data={**form, **extra}).status_code == 403


def test_roles_are_kept_apart(client: TestClient) -> None:
    """A technician neither uploads, edits nor releases."""
    token = sign_in(client, "technician")
    form = {"csrf": token, "engine": "marlet-34-v6", "c": "1", "work": "plug", "variant": "late"}
    answer = client.post("/procedures", data=form)
    assert answer.status_code == 403
    assert "Only a trainer may do this" in answer.text
    files = {"file": ("x.yaml", b"")}
    assert client.post("/take-in", data={"csrf": token}, files=files).status_code == 403


def test_errors_are_friendly_and_say_what_to_do(client: TestClient) -> None:
    """404 and 422 as pages in our own words."""
    sign_in(client, "trainer")
    assert "nothing at this address" in client.get("/nowhere").text
    missing = client.get("/engines/ghost")
    assert missing.status_code == 404
    assert "There is no engine" in missing.text
    assert client.get("/log/not-an-id").status_code == 422


def test_too_large_a_body_is_refused(client: TestClient) -> None:
    """Stated or not, over two megabytes is too much."""
    assert client.post("/sign-in", content=b"x" * 2_100_000).status_code == 413
    chunks = (b"y" * 100_000 for _ in range(25))
    assert client.post("/api/v1/plan", content=chunks).status_code == 413


def test_the_plan_page_swaps_only_its_part(client: TestClient) -> None:
    """A click answers with the board alone, small enough for a slow link."""
    sign_in(client, "trainer")
    address = "/engines/marlet-34-v6?c=5&work=plug&work=coil&variant=late"
    whole, part = client.get(address), client.get(address, headers={"hx-request": "true"})
    assert "Intake plenum" in whole.text
    assert part.text.startswith('<div id="way-in"')
    packed = int(part.headers.get("content-length", 0))
    assert 0 < packed < 30_000


def test_a_job_apart_is_asked_hole_by_hole_and_becomes_a_procedure(client: TestClient) -> None:
    """Coil 5 and plugs 1, 3 and 5: chosen link by link, kept in the form and in the draft."""
    token = sign_in(client, "trainer")
    page = client.get("/engines/marlet-34-v6?c=1&c=3&c=5&work=coil&work=plug&variant=late").text
    for number in (1, 3):
        at_hole = page.partition(f'aria-label="Hole {number}"')[2]
        link = re.search(r'href="([^"]*)"[^>]*>plug<', at_hole)
        assert link
        page = client.get(unescape(link[1])).text
    assert "<h1>Plug, holes 1, 3 and 5; coil, hole 5</h1>" in page
    assert 'name="carriers" value="5"' in page
    assert 'name="plugs"' not in page
    form = {"csrf": token, "engine": "marlet-34-v6", "c": ["1", "3", "5"], "work": ["coil", "plug"]}
    made = client.post("/procedures", data={**form, "carriers": "5", "variant": "late"})
    assert "Plug, holes 1, 3 and 5; coil, hole 5" in made.text
    wrong = client.post("/procedures", data={**form, "carriers": "2", "variant": "late"})
    assert wrong.status_code == 422
    assert "cylinder 2 is not in the job" in wrong.text


def test_the_plan_interface_answers_as_the_command_line_does(client: TestClient) -> None:
    """Same computation; a bad document is listed by path."""
    plain = tug().model_dump(mode="json")
    job = {"cylinders": [1, 3], "work": ["coil", "plug"]}
    answer = client.post("/api/v1/plan", json={"engine": plain, "job": job})
    assert answer.status_code == 200
    assert answer.json()["moves"][-1]["part"] == "plenum"
    plain["layout"]["head"] = "wood"
    refused = client.post("/api/v1/plan", json={"engine": plain, "job": job})
    assert refused.status_code == 422
    assert refused.json()["problems"][0]["path"] == "layout.head"
    plain["layout"]["head"] = "iron"
    plain["banks"] = {}
    assert client.post("/api/v1/plan", json={"engine": plain, "job": job}).status_code == 422


def test_the_interface_describes_itself(client: TestClient) -> None:
    """The schema names the plan's contract, and the page is built from it."""
    schema = client.get("/openapi.json").json()
    assert set(schema["components"]["schemas"]["Plan"]["required"]) >= {"moves", "tool_changes"}
    assert "POST /api/v1/plan" in client.get("/api").text


def test_a_conflict_shows_both_and_loses_neither(client: TestClient) -> None:
    """The second save sees the first and its own."""
    token = sign_in(client, "trainer")
    page = client.get("/procedures").text
    key = page.split('href="/procedures/')[1].split('"')[0]
    form = {"csrf": token, "base": "{}", "text": "First wording", "note": "Cold engine"}
    assert client.post(f"/procedures/{key}/steps/ready/unit", data=form).status_code == 200
    again = {**form, "text": "Second wording", "hold": "true"}
    answer = client.post(f"/procedures/{key}/steps/ready/unit", data=again)
    assert answer.status_code == 409
    assert "First wording" in answer.text
    assert "Second wording" in answer.text
    assert "Cold engine" not in answer.text.split("<fieldset>", 1)[1], "both agree"
    fields = dict(
        re.findall(r'type="hidden" name="(base|theirs|mine)" value="([^"]*)"', answer.text)
    )
    kept = {k: unescape(v) for k, v in fields.items()}
    settled = {**kept, "csrf": token, "step": "ready/unit", "text": "mine"}
    page = client.post(f"/procedures/{key}/settle", data=settled).text
    assert "Second wording" in page
    assert "First wording" not in page.split('id="ready/codes"')[0]
    assert "hold point" in page.split('id="ready/codes"')[0]
    other = {"csrf": token, "base": "{}", "note": "Nobody else is here"}
    assert client.post(f"/procedures/{key}/steps/ready/codes", data=other).status_code == 200
    stale = client.post(
        f"/procedures/{key}/release", data={"csrf": token, "version": "2", "reason": "x"}
    )
    assert stale.status_code == 409


def test_what_a_file_calls_things_cannot_break_out_of_a_page(client: TestClient) -> None:
    """Names are text, in pages, drawings and attributes alike."""
    token = sign_in(client, "trainer")
    bad = '"><script>alert(1)</script>'
    made = document(
        name=bad,
        parts={"lid": {**part(), "name": bad}},
        hindrances=[{"part": "lid", "of": ["hole/1"], "kind": "hides"}],
    )
    files = {"file": (f"{bad}.yaml", yaml.safe_dump(made).encode())}
    shown = client.post("/take-in", data={"csrf": token}, files=files)
    assert "<script>alert" not in shown.text
    assert client.post(str(shown.url), data={"csrf": token}).status_code == 200
    for address in ("/engines", "/engines/test-engine?c=1"):
        page = client.get(address).text
        assert "<script>alert" not in page
        assert "&lt;script&gt;alert" in page


def test_the_first_page_is_light(client: TestClient) -> None:
    """Page, styles, scripts and fonts together under 350 KB as sent."""
    sign_in(client, "trainer")
    address = "/engines/marlet-34-v6?c=5"
    own = set(re.findall(r'(?:src|href)="(/static/[^"]+)"', client.get(address).text))
    fonts = ("atkinson-next.woff2", "atkinson-next-ext.woff2")
    own |= {f"{files.address()}/vendor/{name}" for name in fonts}
    assert len(own) >= 8
    assert sum(_sent(client, a) for a in [address, *own]) < 350_000


def _sent(client: TestClient, address: str) -> int:
    """The bytes of an answer as they go over the wire."""
    with client.stream("GET", address) as answer:
        assert answer.status_code == 200
        return len(b"".join(answer.iter_raw()))


def test_the_drawing_board_has_a_word_for_every_way() -> None:
    """A sheet may have any of them, drawn here or not."""
    assert set(WAYS) == set(WayKind)


def test_an_address_with_nonsense_is_refused_as_the_page_calls_its_fields(
    client: TestClient,
) -> None:
    """No place of a program in what a person reads; its path for a program."""
    sign_in(client, "trainer")
    said = client.get("/engines/marlet-34-v6?c=abc")
    assert said.status_code == 422
    assert "cylinder: &#39;abc&#39; is not a whole number" in said.text
    assert "c.0" not in said.text
