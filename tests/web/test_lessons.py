"""What the bays teach, on its page; what a bay reports is answered, and told back."""

import re
import uuid

from sqlalchemy import Engine, select

from eldrim.store.database import sessions
from eldrim.store.tables import EditionRow, ProcedureRow, RunRow
from tests.web.client import TestClient, asking
from tests.web.test_web import sign_in

TUG = "marlet-34-v6"


def test_the_page_says_what_was_planted_and_nothing_more(years: Engine) -> None:
    """Wrench, boots, hole and duct, each with its cases; by anybody who is signed in."""
    with asking(years) as client:
        assert client.get("/lessons", follow_redirects=False).status_code == 303
        sign_in(client, "technician")
        page = client.get("/lessons").text
        assert re.search(r"shows <b>\+[4-8]\.\d %</b> against what it is set to", page)
        assert page.count('class="drift"') == 1
        assert page.count("boots CV-BT-204 fitted between") == 1
        assert len(re.findall(r"wears its plug|</b> wears <b>", page)) == 1
        assert "No reading often ends at a limit." in page
        assert "duct ends of the intake duct" in page
        assert "no trend under three" in page, "one search is no trend"


def test_an_empty_shop_is_told_so(client: TestClient, database: Engine) -> None:
    """Of the demo alone nothing is a trend."""
    sign_in(client, "trainer")
    page = client.get("/lessons").text
    assert "To look at first" not in page
    assert "None, of three runs or more." in page


def begun(client: TestClient, csrf: str, database: Engine) -> tuple[str, str]:
    """A run begun on the front bank of a tug: its id and its procedure's."""
    with sessions(database)() as session:
        row = session.scalars(select(RunRow).where(RunRow.unit_id == "tug-15")).one()
        edition, procedure = str(row.edition_id), str(row.edition.procedure_id)
    run = str(uuid.uuid4())
    asked = {"csrf": csrf, "run": run, "edition": edition, "unit": "tug-15", "anyway": "yes"}
    client.post("/bay/runs", data=asked)
    return run, procedure


def report(client: TestClient, csrf: str, run: str, step: str, reason: str) -> None:
    """Say in the bay that something differed."""
    entry = {"id": str(uuid.uuid4()), "kind": "differs", "step": step, "reason": reason}
    head = {"x-csrf-token": csrf}
    answer = client.post(f"/api/v1/runs/{run}/entries", json=entry, headers=head)
    assert answer.status_code in (200, 201), answer.text


def test_a_report_is_answered_and_told_back(client: TestClient, database: Engine) -> None:
    """From a run that goes on; read once; in the next edition; on the run's page."""
    csrf = sign_in(client, "technician")
    run, procedure = begun(client, csrf, database)
    report(client, csrf, run, "ready/unit", "longer")
    assert "Answers to what you reported" not in client.get("/bay").text
    csrf = sign_in(client, "trainer")
    lessons = f"/procedures/{procedure}/lessons"
    page = client.get(lessons).text
    assert "Takes longer" in page or "longer" in page
    assert "A case, no trend." in page
    said = {"csrf": csrf, "id": str(uuid.uuid4()), "step": "ready/unit", "kind": "as_is"}
    refused = client.post(f"/procedures/{procedure}/answers", data={**said, "words": " "})
    assert refused.status_code == 422
    assert "the bay reads it" in refused.text
    wrong = {**said, "words": "x", "kind": "shrug"}
    assert client.post(f"/procedures/{procedure}/answers", data=wrong).status_code == 422
    gone = {**said, "words": "x", "step": "torque/plug/2"}
    assert client.post(f"/procedures/{procedure}/answers", data=gone).status_code == 404
    words = "The plate sits behind the step: two minutes are right."
    for _ in range(2):
        page = client.post(f"/procedures/{procedure}/answers", data={**said, "words": words}).text
    assert page.count(f"as it is, because: {words}") == 2, "at its step and in the list, once each"
    assert "Tam Okely not yet" in page
    assert "answered since edition 1: 1" in client.get(f"/procedures/{procedure}").text
    csrf = sign_in(client, "technician")
    bay = client.get("/bay").text
    assert words in bay
    key = re.findall(r"/answers/([0-9a-f-]{36})/read", bay)[0]
    assert words not in client.post(f"/answers/{key}/read", data={"csrf": csrf}).text
    assert words in client.get(f"/log/{run}").text
    csrf = sign_in(client, "lead")
    assert client.post(f"/answers/{key}/read", data={"csrf": csrf}).status_code == 404


def test_the_answer_stands_in_the_next_edition(client: TestClient, database: Engine) -> None:
    """And in no other."""
    csrf = sign_in(client, "technician")
    run, procedure = begun(client, csrf, database)
    report(client, csrf, run, "ready/unit", "other_size")
    csrf = sign_in(client, "trainer")
    said = {"csrf": csrf, "id": str(uuid.uuid4()), "step": "ready/unit", "kind": "edit"}
    client.post(f"/procedures/{procedure}/answers", data={**said, "words": "Reworded."})
    with sessions(database)() as session:
        row = session.get_one(ProcedureRow, uuid.UUID(procedure))
        form = {"csrf": csrf, "version": row.version, "reason": "The bays asked", "accepted": "x"}
        first = row.editions[0].id
    released = client.post(f"/procedures/{procedure}/release", data=form)
    assert released.status_code == 200, released.text[:2000]
    assert "What it answers to the bays" in released.text
    assert "the step is edited: <b>Reworded.</b>" in released.text
    assert "What it answers" not in client.get(f"/editions/{first}").text
    with sessions(database)() as session:
        newest = session.scalars(
            select(EditionRow.number).where(EditionRow.procedure_id == uuid.UUID(procedure))
        ).all()
        assert max(newest) == 2


def test_only_a_trainer_answers(client: TestClient, database: Engine) -> None:
    """A technician and a lead read."""
    csrf = sign_in(client, "technician")
    run, procedure = begun(client, csrf, database)
    report(client, csrf, run, "ready/unit", "longer")
    assert "<summary>Answer</summary>" not in client.get(f"/procedures/{procedure}/lessons").text
    said = {"id": str(uuid.uuid4()), "step": "ready/unit", "kind": "as_is", "words": "so"}
    for role in ("technician", "lead"):
        csrf = sign_in(client, role)
        answer = client.post(f"/procedures/{procedure}/answers", data={"csrf": csrf, **said})
        assert answer.status_code == 403
