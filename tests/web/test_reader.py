"""Who reads chooses the language of pages; a procedure keeps its own."""

import re

import pytest
from sqlalchemy import Engine

from eldrim.web.app import make_app
from tests.web.client import TestClient, asking
from tests.web.test_web import sign_in

PASSWORD = "eldrim-demo"


def page_in(client: TestClient, address: str = "/sign-in", **headers: str) -> str:
    """The language a page is in."""
    found = re.search(r'<html lang="(\w+)"', client.get(address, headers=headers).text)
    assert found
    return found[1]


@pytest.mark.parametrize(
    ("asked", "language"),
    [
        ("de-AT,de;q=0.9,en;q=0.8", "de"),
        ("fr;q=1.0, de;q=0.4, en;q=0.3", "de"),
        ("en-GB,de;q=0.9", "en"),
        ("xx", "en"),
        ("de;q=nonsense", "en"),
        ("", "en"),
    ],
)
def test_the_browser_is_asked_where_nobody_chose(
    database: Engine, asked: str, language: str
) -> None:
    """The first language it wants that there is."""
    with asking(database) as client:
        assert page_in(client, **{"accept-language": asked}) == language


def test_a_choice_is_kept_for_the_person_on_every_device(database: Engine) -> None:
    """And not for the next who signs in at the same one, who chose another."""
    with asking(database) as client:
        sign_in(client, "trainer")
        client.post("/language", data={"language": "de", "next": "/desk"})
        assert page_in(client, "/desk") == "de"
        assert "Was auf Sie wartet" in client.get("/desk").text
    with asking(database) as elsewhere:
        sign_in(elsewhere, "trainer")
        assert page_in(elsewhere, "/engines") == "de"
        elsewhere.post("/language", data={"language": "en", "next": "/"})
        assert page_in(elsewhere, "/engines") == "en"


def test_a_refusal_is_in_the_language_and_no_other_site_chooses_it(database: Engine) -> None:
    """A wrong language, or a form of another site, changes nothing."""
    with asking(database, {"accept-language": "de"}) as client:
        said = client.post("/sign-in", data={"name": "trainer", "password": "wrong"}).text
        assert "Name und Passwort passen nicht zusammen." in said
        assert "Nicht hier" in client.get("/nowhere").text
        assert client.post("/language", data={"language": "xx"}).status_code == 403
        foreign = {"sec-fetch-site": "cross-site"}
        answer = client.post("/language", data={"language": "en"}, headers=foreign)
        assert answer.status_code == 403
        assert page_in(client) == "de"


def test_a_procedure_is_written_in_the_language_it_was_made_in(database: Engine) -> None:
    """German where the trainer reads German; what stands round an English one is German too."""
    with asking(database, {"accept-language": "de"}) as client:
        csrf = sign_in(client, "trainer")
        job = {"csrf": csrf, "engine": "marlet-34-v6", "c": ["3"], "variant": "late"}
        made = client.post("/procedures", data={**job, "work": ["coil", "plug"]})
        assert '<article lang="de"' in made.text
        assert "Dichtring" in made.text
        listed = client.get("/procedures").text
        english = next(
            one
            for one in re.findall(r'href="(/procedures/[0-9a-f-]{36})"', listed)
            if '<article lang="en"' in client.get(one).text
        )
        page = client.get(english).text
        assert '<article lang="en"' in page
        assert "Hausregeln, Version" in page


def test_what_is_kept_for_one_reader_is_not_shown_to_another(database: Engine) -> None:
    """Plans, drawings and pages kept in memory, first asked for in German, then in English."""
    app = make_app(database)
    with (
        TestClient(app, headers={"accept-language": "de"}) as german,
        TestClient(app, headers={"accept-language": "en"}) as english,
    ):
        sign_in(german, "trainer")
        sign_in(english, "trainer")
        listed = german.get("/procedures").text
        drafts = re.findall(r'href="(/procedures/[0-9a-f-]{36})"', listed)[:3]
        editions = re.findall(r'href="(/editions/[0-9a-f-]{36})"', listed)[:2]
        plan = "/engines/marlet-34-v6?c=3&c=5&work=coil&work=plug&variant=late"
        others = [
            "/units/tug-15",
            "/due",
            "/floor",
            "/bay",
            "/rules",
            "/sums?sum=cooling",
            "/lessons",
        ]
        figures = ["/engines/sulair-750-triple/figures", "/engines/fendrake-50-marine-v8/leads"]
        for address in [plan, *drafts, *editions, *others, *figures]:
            first, then = (client.get(address).text for client in (german, english))
            assert first != then
            words = re.sub(r"<script.*?</script>", "", then)
            left = re.findall(r".{0,40}[äöüß].{0,40}|.{0,30}\bSchacht\b.{0,30}", words)
            assert left == [], address
