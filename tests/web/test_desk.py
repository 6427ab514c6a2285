"""What waits for whoever signs in: each line an act, and nothing where nothing waits."""

import re
from collections.abc import Iterator
from datetime import timedelta

import pytest
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from eldrim.store import edition_store, procedure_store
from eldrim.store.tables import DueRow
from eldrim.web.areas import AREAS
from eldrim.web.filters import today
from tests.web.client import TestClient, asking
from tests.web.test_bay import Bay
from tests.web.test_bay import bay as bay
from tests.web.test_web import sign_in

KINDS = re.compile(r'<h2 id="kind-\d+">(.*?) <span>(\d+)</span>')


def kinds(page: str) -> dict[str, int]:
    """What waits, with how much of it."""
    return {name: int(count) for name, count in KINDS.findall(page)}


def section(page: str, name: str) -> str:
    """The part of the page about one kind."""
    return page.split(f"{name} <span>")[1].split("</section>")[0]


@pytest.fixture
def grown(years: Engine) -> Iterator[TestClient]:
    """The application of a workshop with two years behind it."""
    with asking(years) as made:
        yield made


@pytest.mark.parametrize("role", ["trainer", "lead", "technician"])
def test_everybody_begins_at_what_waits(client: TestClient, role: str) -> None:
    """Also where nothing does; the name of the house leads there."""
    sign_in(client, role)
    page = client.get("/")
    assert str(page.url).endswith("/desk")
    assert page.status_code == 200
    found = kinds(page.text)
    assert ("Nothing waits" in page.text) is (not found)
    main = page.text.split("<main")[1].split("</main>")[0]
    assert main.count('class="btn-line"') == sum(min(n, 6) for n in found.values())


def test_a_trainer_sees_what_needs_a_word(client: TestClient, database: Engine) -> None:
    """Wrenches whose calibration ended, sheets whose sources disagree, drafts, what changed."""
    sign_in(client, "trainer")
    page = client.get("/desk").text
    assert {"Wrenches overdue", "Sheets that lack something"} <= set(kinds(page))
    assert "two sources disagree" in section(page, "Sheets that lack something")
    with Session(database) as db, db.begin():
        row = next(e for e in edition_store.newest_editions(db) if e.engine_id == "marlet-34-v6")
        procedure_store.open_review(db, row.procedure_id, "the sheet changed")
        key = row.procedure_id
    page = client.get("/desk").text
    assert "the sheet changed" in section(page, "Drafts")
    assert f'href="/procedures/{key}"' in section(page, "Drafts")
    assert "marlet-34-v6" not in re.sub(r"<[^>]*>", "", page), "names, never ids"


def test_a_report_waits_until_it_is_answered(grown: TestClient) -> None:
    """What the bays of two years said and nobody answered leads to where it is answered."""
    csrf = sign_in(grown, "trainer")
    page = grown.get("/desk").text
    name = "Reports from the bays, not answered"
    before = kinds(page)[name]
    where = re.findall(r'href="(/procedures/[^"]*/lessons)#([^"]*)"', section(page, name))[0]
    key, step = where[0].split("/")[2], where[1]
    said = {
        "csrf": csrf,
        "id": "00000000-0000-4000-8000-000000000001",
        "step": step,
        "kind": "edit",
        "words": "The wording is another now.",
    }
    answered = grown.post(f"/procedures/{key}/answers", data=said)
    assert answered.status_code == 200, answered.text
    assert kinds(grown.get("/desk").text).get(name, 0) == before - 1


def test_a_lead_sees_the_floor_and_what_is_overdue(bay: Bay, database: Engine) -> None:
    """A run that needs a hand stands first, with what it needs."""
    bay.write("stop", "clean/coils", reason="oil_in_well")
    with Session(database) as db, db.begin():
        db.execute(update(DueRow).values(until=today() - timedelta(days=3)))
    sign_in(bay.client, "lead")
    page = bay.client.get("/desk").text
    found = list(kinds(page))
    assert found[0] == "Needs a hand on the floor"
    assert "1 stopped" in section(page, found[0])
    assert f'href="/floor#bay-{bay.run}"' in page


def test_a_technician_goes_on_with_their_runs(bay: Bay) -> None:
    """With the step in hand and how long it still takes."""
    page = bay.client.get("/desk").text
    mine = section(page, "Your runs")
    assert f'href="/bay/runs/{bay.run}"' in mine
    assert "now: " in mine
    assert "min to go" in mine


def test_the_top_line_says_what_people_do(client: TestClient) -> None:
    """Three words, each to where it begins; inside one of them its places."""
    sign_in(client, "lead")
    page = client.get("/floor").text
    top = page.split('aria-label="What to do"')[1].split("</nav>")[0]
    assert re.findall(r">([A-Z][^<]*)</a>", top) == ["Prepare", "Do", "Look back"]
    assert 'href="/floor" class="on"' in top
    places = page.split('class="areas"')[1].split("</nav>")[0]
    assert 'href="/floor" class="on" aria-current="page"' in places
    for area in AREAS:
        for place, _ in area.places:
            found = client.get(place)
            assert found.status_code == 200, place
            assert 'aria-current="page"' in found.text, place


def test_lists_have_names_filters_and_counts(client: TestClient) -> None:
    """Procedures by engine's name and by how far they are; engines by what they cost to get at."""
    sign_in(client, "trainer")
    page = client.get("/procedures").text
    words = re.sub(r"<[^>]*>", " ", page.split("<tbody>")[1])
    assert "Marlet 3.4 vee six" in words
    assert not re.search(r"\b[a-z]+-\d\d-[a-z0-9-]+\b", words), "names, never ids"
    assert re.search(r"\d+ in all", page)
    assert client.get("/procedures?said=vee six").text.count("Marlet 3.4") >= 1
    assert "No procedure is so." in client.get("/procedures?state=review").text
    assert "edition 1" not in client.get("/procedures?state=draft").text
    assert client.get("/procedures?state=other").status_code == 422
    engines = " ".join(re.sub(r"<[^>]*>", " ", client.get("/engines").text).split())
    assert "Over it: sound cover" in engines
    assert re.search(r"Hole \d takes longest to get at: \d+ min", engines)
