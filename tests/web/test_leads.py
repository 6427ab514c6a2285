"""Leads over HTTP: the order tapped at the desk, a heap matched, and both by the open interface."""

import re
from uuid import uuid4

import pytest
import yaml
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from eldrim.exchange.engine_file import write_engine
from eldrim.store.edition_store import plan_of
from eldrim.store.tables import EditionRow
from tests.core.demo_sheets import MARINE, SIX
from tests.web.client import TestClient
from tests.web.test_web import sign_in

PAGE = "/engines/fendrake-50-marine-v8/leads"
CROSSED = "1: 1; 2: 8; 3: 3; 4: 4; 5: 6; 6: 5; 7: 7; 8: 2"


def test_the_order_is_tapped_tower_by_tower(client: TestClient) -> None:
    """Each hole on the plan says where the tower in hand goes; the last one gives the verdict."""
    sign_in(client, "technician")
    page = client.get(PAGE).text
    for tower, hole in (one.split(": ") for one in CROSSED.split("; ")):
        assert f"<b>Tower {tower}</b>: tap the hole" in page
        link = re.search(rf'<a href="([^"]+)"[^>]*data-key="{hole}"', page)
        assert link, hole
        page = client.get(link[1].replace("&amp;", "&")).text
    assert "Leads of 3 and 4 are crossed" in page
    assert "Change over towers 3 and 4: tower 3 then goes to hole 4." in page
    assert page.count("tower-of wrong") == 2
    assert "4 and 8 fire one after the other" in page
    again = client.get(f"{PAGE}?found={CROSSED}&tower=3").text
    link = re.search(r'<a href="([^"]+)"[^>]*data-key="4"', again)
    assert link
    mended = client.get(link[1].replace("&amp;", "&")).text
    assert "Not every tower was looked at" in mended, "the tower that had hole 4 has none now"
    assert "<b>Tower 4</b>: tap the hole" in mended


def test_a_heap_is_matched_beside_the_order(client: TestClient) -> None:
    """Each lead with its slack and the order to take them; what is lacking with what to get."""
    sign_in(client, "trainer")
    heap = "a: 410 mm; b: 16 in; c: 160 mm; d: 60 mm"
    page = client.get(PAGE, params={"found": CROSSED, "heap": heap}).text
    assert "Leads of 3 and 4 are crossed" in page
    assert "for the main coil: 30 mm over its way of 130 mm" in page
    assert "Left over: d." in page
    assert page.count("get ") >= 6
    wrong = client.get(PAGE, params={"heap": "a: 410; b: 2 mm"}).text
    assert "Lead a: &#39;410&#39; has no unit" in wrong
    assert "no length of a lead" in wrong
    assert "as drawn" in wrong, "the ways still stand"


@pytest.mark.parametrize(
    "query",
    [
        "found=9:9",
        "found=;;;",
        "tower=99",
        "tower=x",
        "heap=;",
        "found=" + "1:" * 900,
        "unit=none",
        "heap=%00",
    ],
)
def test_nonsense_is_answered(client: TestClient, query: str) -> None:
    """With what is wrong, never a fault of ours."""
    sign_in(client, "trainer")
    assert client.get(f"{PAGE}?{query}").status_code in (200, 404, 422)


def test_an_engine_without_leads_says_so(client: TestClient) -> None:
    """And its page has no link to them."""
    sign_in(client, "trainer")
    assert "there are no leads" in client.get("/engines/marlet-34-v6/leads").text
    assert "/leads" not in client.get("/engines/marlet-34-v6").text
    assert f'href="{PAGE}"' in client.get("/engines/fendrake-50-marine-v8").text


def test_the_open_interface_matches_a_heap_and_reads_a_ring(client: TestClient) -> None:
    """The engine comes along; what is wrong is refused with every place."""
    document = yaml.safe_load(write_engine(MARINE))
    heap = client.post("/api/v1/leads", json={"engine": document, "heap": "1: 410 mm; 2: 160 mm"})
    assert heap.status_code == 200
    assert {"assignment", "slack", "short", "buy", "left_over"} == set(heap.json())
    strict = {"lead_slack": 0, "lead_over": 10}
    none = {"engine": document, "heap": "1: 410 mm", "rules": strict}
    assert client.post("/api/v1/leads", json=none).json()["assignment"] == []
    ring = client.post("/api/v1/ring", json={"engine": document, "found": CROSSED})
    assert ring.json()["mistake"]["kind"] == "crossed"
    refused = client.post("/api/v1/ring", json={"engine": document, "found": "9: 1; 1: 99"})
    assert refused.status_code == 422
    assert len(refused.json()["problems"]) == 2
    bare = {"engine": yaml.safe_load(write_engine(SIX)), "found": "1: 1"}
    assert client.post("/api/v1/ring", json=bare).status_code == 422


def test_in_the_bay_the_proof_of_order_has_the_cap_and_a_way_to_tap_it(
    client: TestClient, database: Engine
) -> None:
    """Drawn with the hole at each tower, in the page and in the cards a tablet keeps."""
    csrf = sign_in(client, "lead")
    with Session(database) as db:
        rows = db.scalars(select(EditionRow).where(EditionRow.engine_id == "dunmarl-42-six"))
        edition = next(row.id for row in rows if any(_proves_order(row)))
    run = str(uuid4())
    about = {"run": run, "edition": str(edition), "unit": "bowser-3", "anyway": "yes"}
    page = client.post("/bay/runs", data={"csrf": csrf, **about}).text
    kept = re.search(r"/bay/cards/[0-9a-f-]+/[0-9a-f]+", page)
    assert kept
    for shown in (client.get(f"/bay/runs/{run}?step=prove/order").text, client.get(kept[0]).text):
        card = shown.split('data-step="prove/order"')[1].split("step-card")[0]
        assert card.count('class="tower-of"') == 6
        assert 'data-ring href="/engines/dunmarl-42-six/leads' in card


def _proves_order(row: EditionRow) -> list[bool]:
    return [step.key == "prove/order" for step in plan_of(row).steps if step.key == "prove/order"]
