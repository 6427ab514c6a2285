"""No request, whatever it holds, is answered with a fault of ours."""

import os
import random

import pytest
from sqlalchemy import Engine

from tests.sweeps import NUMBER, deep
from tests.web.client import TestClient, asking
from tests.web.fuzz import Fuzz, refused_badly
from tests.web.test_web import sign_in

COUNT = int(os.environ.get("ELDRIM_FUZZ", "1500" if deep() else "150"))
PAGES = 20 if COUNT < 450 else 40 if COUNT < 1000 else 200


@pytest.mark.sweep(1)
@pytest.mark.parametrize("name", ["trainer", "technician", "lead"])
def test_whatever_is_sent_is_taken_or_refused_in_words(database: Engine, name: str) -> None:
    """Forms, queries and the API with junk in them; and after it every page still opens."""
    with asking(database) as client:
        csrf = sign_in(client, name)
        _a_run(client, csrf)
        fuzz = Fuzz(client, random.Random(f"{name} {COUNT} {os.environ[NUMBER]}"))
        fuzz.look_around(PAGES)
        assert len(fuzz.forms) > 5
        assert not refused_badly(fuzz, COUNT // 3)
        assert [page for page in fuzz.pages if client.get(page).status_code >= 500] == []


def _a_run(client: TestClient, csrf: str) -> None:
    page = client.get("/bay").text.split("Tug 14")[-1]
    edition = page.split('name="edition" value="')[1].split('"')[0]
    asked = {"run": "5a1f0c1e-0000-4000-8000-000000000001", "edition": edition, "unit": "tug-14"}
    client.post("/bay/runs", data={"csrf": csrf, "anyway": "yes", **asked})
