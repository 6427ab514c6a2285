"""A large engine is answered at once and looked through for a cheaper job after."""

import re
from collections.abc import Iterator
from html import unescape

import pytest
from bench import synthetic
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.store import sheet_store
from eldrim.web import plans
from eldrim.web.app import make_app
from tests.builders import job
from tests.web.client import TestClient

LARGE = synthetic.engine(40, 1)
ALL = "&".join(f"c={number}" for number in LARGE.cylinders)


@pytest.fixture
def trainer(database: Engine, store: "sessionmaker[Session]") -> Iterator[TestClient]:
    """The trainer, with a large engine on the shelf."""
    plans.forget()
    with store.begin() as session:
        sheet_store.save_sheet(session, LARGE, "trainer")
    client = TestClient(make_app(database), follow_redirects=True)
    with client:
        client.post("/sign-in", data={"name": "trainer", "password": "eldrim-demo"})
        yield client
    plans.forget()


def test_a_first_answer_stands_until_a_cheaper_job_was_looked_for(trainer: TestClient) -> None:
    """What is shown says how far it may be over the least; looking through says what it brought."""
    page = trainer.get(f"/engines/{LARGE.id}?{ALL}").text
    assert "first answer" in page
    assert "Looking for a cheaper job" in page
    [address] = re.findall(r'hx-get="(/engines/[^"]+/least[^"]+)"', page)
    found = trainer.get(unescape(address)).text
    assert "hx-get" not in found
    assert "less" in found or "proven" in found or "best found" in found
    after = trainer.get(f"/engines/{LARGE.id}?{ALL}").text
    assert "first answer" not in after
    assert "Looking for a cheaper job" not in after


def test_what_else_could_be_done_is_told_with_the_plan_looked_through(trainer: TestClient) -> None:
    """A first answer says that it follows; it comes where the plan on the screen stands."""
    page = trainer.get(f"/engines/{LARGE.id}?{ALL}").text
    assert "is told once a cheaper job was looked for" in page
    assert 'class="alternatives"' not in page
    least = f"/engines/{LARGE.id}/least?{ALL}&shown=1"
    found = trainer.get(least).text
    assert 'id="or-else" hx-swap-oob="true"' in found
    assert 'class="alternatives"' in found
    other = trainer.get(f"{least}&moves=0").text
    assert "another way takes as long" in other
    assert "is told with the other job" in other
    assert 'class="alternatives"' not in other
    after = trainer.get(f"/engines/{LARGE.id}?{ALL}").text
    assert 'class="alternatives"' in after
    assert "is told once" not in after


def test_what_is_on_the_screen_is_weighed_against_the_least(trainer: TestClient) -> None:
    """Whoever asked first: a dearer plan on a screen is told so, the least one is not."""
    address = f"/engines/{LARGE.id}/least?{ALL}&shown="
    assert "show the cheaper job" in trainer.get(address + "100000").text
    assert "show the cheaper job" not in trainer.get(address + "1").text
    assert trainer.get(f"/engines/{LARGE.id}/least?shown=5").status_code == 422


def test_a_small_engine_is_answered_whole(trainer: TestClient) -> None:
    """Nothing is left to be looked for."""
    page = trainer.get("/engines/marlet-34-v6?c=1&c=3&c=5").text
    assert "no cheaper job" in page
    assert "Looking for a cheaper job" not in page


def test_a_question_is_worked_out_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """Asked again it comes from memory; another rule, crib or sheet is another question."""
    plans.forget()
    asked: list[object] = []
    monkeypatch.setattr(plans, "compile_plan", lambda *question, **_: asked.append(question))
    sheet, wanted = synthetic.engine(5, 1), job(1)
    for _ in range(2):
        plans.plan_for(sheet, wanted, DEFAULT_RULES, STANDARD_CRIB)
    assert len(asked) == 1
    plans.plan_for(sheet, wanted, DEFAULT_RULES.using(work_by_feel="forbidden"), STANDARD_CRIB)
    plans.plan_for(sheet.model_copy(update={"revision": 9}), wanted, DEFAULT_RULES, STANDARD_CRIB)
    assert len(asked) == 3
    plans.forget()


def test_what_the_sheet_does_not_have_is_said(trainer: TestClient) -> None:
    """A link from before the sheet changed shows nothing of another variant without a word."""
    page = trainer.get("/engines/marlet-34-v6?c=2&c=99&variant=other").text
    assert "This engine has no cylinder 99." in page
    assert "Its sheet has no variant &#39;other&#39;: this is " in page
    assert 'role="status">This engine' not in trainer.get("/engines/marlet-34-v6?c=2").text
