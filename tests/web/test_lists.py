"""Lists of one pattern: search, filters, sort, how many, pages; names, never ids."""

import re

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.store.tables import UnitRow
from eldrim.web.listing import Choice, Listing
from tests.web.client import TestClient
from tests.web.test_web import sign_in

IDS = re.compile(r">[^<]*\b(marlet-34-v6|corvane-20-turbo-four|tug-1\d|loader-\d)\b[^<]*<")


@pytest.fixture
def lead(client: TestClient) -> TestClient:
    """A lead, who sees everybody."""
    sign_in(client, "lead")
    return client


def names(client: TestClient, address: str) -> list[str]:
    """What stands first in each row of a list."""
    page = client.get(address).text
    if address.startswith("/engines"):
        return re.findall(r"<span><b>([^<]+)</b>", page)
    body = page.split("<tbody>")[-1].split("</tbody>")[0]
    return [
        re.sub(r"<[^>]+>", "", row.split("</td>")[0].split("<td>")[1]).strip()
        for row in body.split("<tr>")[1:]
        if "</td>" in row and "colspan" not in row
    ]


def test_what_leads_to_another_page_asks_for_the_same() -> None:
    """Empty values are left out; the first page needs no number."""
    engine = Choice("engine", "Engine", (("", "all"), ("a", "A")))
    asked = {"said": "tug", "engine": "", "sort": "serial"}
    made = Listing("/units", "Name", asked, 101, filters=(engine,), page=2, size=50)
    assert made.pages == 3
    assert made.on(3) == "/units?said=tug&sort=serial&page=3"
    assert made.on(1) == "/units?said=tug&sort=serial"
    assert made.narrowed
    assert not Listing("/units", "Name", {"sort": "serial"}, 3, size=50).narrowed


def test_units_are_searched_filtered_and_sorted(lead: TestClient) -> None:
    """What is counted is what is shown; nothing found says so."""
    every = names(lead, "/units")
    assert every == sorted(every)
    assert f"{len(every)} in all" in lead.get("/units").text
    tugs = names(lead, "/units?said=tug")
    assert tugs == [one for one in every if "Tug" in one]
    of_engine = names(lead, "/units?engine=corvane-20-turbo-four")
    assert set(of_engine) == {"Belt loader 6", "Belt loader 9"}
    assert sorted(names(lead, "/units?sort=serial")) == every
    assert names(lead, "/units?sort=serial") != every
    assert "No unit has this in its name or serial." in lead.get("/units?said=nowhere").text


def test_a_long_list_comes_in_pages_that_keep_what_was_asked(
    lead: TestClient, store: sessionmaker[Session]
) -> None:
    """Every unit once, whichever page it is on."""
    with store.begin() as session:
        like = session.query(UnitRow).first()
        assert like is not None
        for number in range(120):
            about = {c.name: getattr(like, c.name) for c in UnitRow.__table__.columns}
            about |= {"id": f"cart-{number}", "name": f"Cart {number:03d}", "serial": f"C{number}"}
            session.add(UnitRow(**about))
    first = lead.get("/units?said=cart").text
    assert "120 in all" in first
    assert "Page 1 of 3" in first
    assert "said=cart&amp;page=2" in first
    shown = [one for at in (1, 2, 3) for one in names(lead, f"/units?said=cart&page={at}")]
    assert shown == [f"Cart {number:03d}" for number in range(120)]


def test_engines_by_name_or_by_what_changed_last(lead: TestClient) -> None:
    """The search counts too."""
    every = names(lead, "/engines")
    assert every == sorted(every)
    assert f"{len(every)} in all" in lead.get("/engines").text
    assert sorted(names(lead, "/engines?sort=changed")) == every
    assert names(lead, "/engines?said=vee") == [one for one in every if "vee" in one]


def test_procedures_are_sorted_by_age_or_by_job(lead: TestClient) -> None:
    """And keep their filter on every page."""
    newest = re.findall(r'href="/procedures/([0-9a-f-]{36})"', lead.get("/procedures").text)
    oldest = re.findall(
        r'href="/procedures/([0-9a-f-]{36})"', lead.get("/procedures?sort=oldest").text
    )
    assert list(dict.fromkeys(oldest)) == list(reversed(dict.fromkeys(newest)))
    by_job = lead.get("/procedures?sort=title&state=released").text
    assert 'value="title" selected' in by_job
    assert lead.get("/procedures?sort=colour").status_code == 422


def test_people_by_role_and_whether_they_are_here(lead: TestClient) -> None:
    """Who left stands last, and can be looked for."""
    csrf = re.search(r'data-csrf="([^"]+)"', lead.get("/people").text)
    assert csrf
    lead.post("/people/trainer/left", data={"csrf": csrf[1], "sure": "true"})
    everybody = names(lead, "/people")
    assert everybody[-1] == "Ines Harrow"
    assert names(lead, "/people?here=no") == ["Ines Harrow"]
    assert "Ines Harrow" not in names(lead, "/people?here=yes")
    assert names(lead, "/people?role=trainer&here=yes") == []
    assert names(lead, "/people?said=harrow") == ["Ines Harrow"]


@pytest.mark.parametrize(
    "address",
    [
        "/engines",
        "/units",
        "/procedures",
        "/log",
        "/due",
        "/open",
        "/floor",
        "/week",
        "/desk",
        "/lessons",
        "/parts",
        "/parts/boot?number=CV-BT-204",
        "/parts/plug",
        "/units/tug-14",
        "/search?q=tug",
    ],
)
def test_lists_have_names_never_ids(lead: TestClient, address: str) -> None:
    """No key of ours is read by anybody."""
    assert IDS.findall(lead.get(address).text) == []


@pytest.mark.parametrize("address", ["/units?sort=x", "/engines?page=0", "/people?here=maybe"])
def test_nonsense_is_told_and_not_a_fault(lead: TestClient, address: str) -> None:
    """It names the place."""
    assert lead.get(address).status_code == 422
