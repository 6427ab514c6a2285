"""Who may do what: the table of the documentation is what the server holds to."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine

from eldrim.web.app import AREAS, make_app
from eldrim.web.roles import table
from tests.web.client import TestClient
from tests.web.test_web import sign_in

TABLE = Path(__file__).parents[2] / "docs" / "roles.md"
ROW = re.compile(r"\| `(\S+)` \| (\w+) \| (.) \| (.) \| (.) \| (.) \|")
ROWS = ROW.findall(TABLE.read_text())
COLUMNS = {"": 2, "technician": 3, "trainer": 4, "lead": 5}


@pytest.fixture
def client(database: Engine) -> Iterator[TestClient]:
    """Nobody signed in."""
    app = make_app(database)
    with TestClient(app, raise_server_exceptions=False, follow_redirects=False) as made:
        yield made


def test_the_table_is_what_the_routes_say() -> None:
    """``python -m eldrim.web.roles`` writes it anew."""
    assert TABLE.read_text() == table(AREAS)
    assert len(ROWS) > 100


@pytest.mark.parametrize("name", list(COLUMNS))
def test_what_a_role_may_not_is_refused(client: TestClient, name: str) -> None:
    """Every address, with the token of a form and nothing else right."""
    headers = {}
    if name:
        client.follow_redirects = True
        headers["x-csrf-token"] = sign_in(client, name)
        client.follow_redirects = False
    refused = 0
    for row in ROWS:
        address = re.sub(r"\{\w+(:\w+)?\}", "x", row[0])
        if row[COLUMNS[name]] != "–":
            continue
        status = client.request(row[1], address, headers=headers).status_code
        assert status in ((403,) if name else (303, 401)), (row, status)
        refused += 1
    assert refused > (3 if name else 80)


def test_a_write_without_the_token_is_refused_everywhere(client: TestClient) -> None:
    """Whoever is signed in."""
    client.follow_redirects = True
    sign_in(client, "lead")
    client.follow_redirects = False
    writes = [row for row in ROWS if row[5] == "w"]
    assert len(writes) > 20
    for row in writes:
        address = re.sub(r"\{\w+(:\w+)?\}", "x", row[0])
        assert client.request(row[1], address).status_code == 403, row
