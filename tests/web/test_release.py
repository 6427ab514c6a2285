"""Review, release, withdraw, and what has changed underneath."""

import re
from uuid import UUID, uuid4

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.capture.part_access import part_of, put
from eldrim.core.engine.edit import put_figure
from eldrim.core.engine.model import Figure
from eldrim.core.job import Job, Work
from eldrim.core.procedure.editions.edits import Edit
from eldrim.store import edition_store, procedure_store, sheet_store
from eldrim.store import rules as rules_store
from eldrim.store.tables import EditionRow
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


def of_the_vee_six(session: Session) -> EditionRow:
    """The demo's edition on that engine."""
    return next(e for e in edition_store.newest_editions(session) if e.engine_id == "marlet-34-v6")


@pytest.fixture
def draft(store: Store) -> UUID:
    """A draft nobody has released."""
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        job = Job(cylinders=(2,), work=(Work.COIL, Work.PLUG), variant="late")
        return procedure_store.add_procedure(session, sheet, job, "trainer")


def test_an_own_step_a_hold_point_and_a_step_left_out_are_released(
    client: TestClient, draft: UUID
) -> None:
    """In the draft, on the edition, and put back again."""
    csrf = sign_in(client, "trainer")
    own = {
        "csrf": csrf,
        "after": "torque/plug/2",
        "text": "Wipe the well mouth",
        "proof": "Mouth dry",
        "minutes": "0.5",
    }
    page = client.post(f"/procedures/{draft}/own", data=own).text
    assert 'id="own/wipe-the-well-mouth"' in page
    assert "Mouth dry" in page
    hold = {"csrf": csrf, "base": "{}", "text": "Torque plug 2", "hold": "true"}
    assert "hold point" in client.post(f"/procedures/{draft}/steps/torque/plug/2", data=hold).text
    out = {"csrf": csrf, "base": "{}", "left_out": "no air on the apron"}
    page = client.post(f"/procedures/{draft}/steps/clean/well/2", data=out).text
    assert "no air on the apron" in page
    assert 'id="clean/well/2"' not in page
    never = {"csrf": csrf, "base": "{}", "left_out": "no time"}
    refused = client.post(f"/procedures/{draft}/steps/prove/tools", data=never)
    assert "never left out" in refused.text
    released = client.post(
        f"/procedures/{draft}/release", data={"csrf": csrf, "version": "4", "reason": "first"}
    ).text
    assert "Left out:" in released
    assert "Wipe the well mouth" in released
    assert "hold point" in released
    base = Edit(left_out="no air on the apron").model_dump_json()
    back = {"csrf": csrf, "base": base, "step": "clean/well/2"}
    assert 'id="clean/well/2"' in client.post(f"/procedures/{draft}/drop", data=back).text


def test_where_the_house_wants_it_another_person_approves_first(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """Not the one who releases; and not an older version of the draft."""
    with store.begin() as session:
        now = rules_store.in_force(session)
        rules_store.save(session, now.model_copy(update={"second_person": True}), "trainer", "four")
    csrf = sign_in(client, "trainer")
    form = {"csrf": csrf, "version": "1", "reason": "first"}
    assert client.post(f"/procedures/{draft}/release", data=form).status_code == 422
    own = {"csrf": csrf, "version": "1"}
    client.post(f"/procedures/{draft}/approve", data=own)
    assert client.post(f"/procedures/{draft}/release", data=form).status_code == 422
    assert "Approve the draft" not in client.get(f"/procedures/{draft}").text
    lead = sign_in(client, "lead")
    assert "Approve the draft" in client.get(f"/procedures/{draft}").text
    second = client.post(f"/procedures/{draft}/approve", data={"csrf": lead, "version": "1"})
    assert "Approved by Berit Vance" in second.text
    csrf = sign_in(client, "trainer")
    edit = {"csrf": csrf, "base": "{}", "note": "Look twice"}
    client.post(f"/procedures/{draft}/steps/torque/plug/2", data=edit)
    lead = sign_in(client, "lead")
    approved = client.post(f"/procedures/{draft}/approve", data={"csrf": lead, "version": "2"})
    assert approved.status_code == 200
    csrf = sign_in(client, "trainer")
    assert "Approved by Berit Vance" in client.get(f"/procedures/{draft}").text
    done = client.post(f"/procedures/{draft}/release", data={**form, "csrf": csrf, "version": "2"})
    assert done.status_code == 200


def test_a_withdrawn_edition_starts_no_run_and_tells_those_that_go_on(
    client: TestClient, store: Store
) -> None:
    """With the reason; it cannot be withdrawn twice."""
    sign_in(client, "technician")
    with store.begin() as session:
        edition = of_the_vee_six(session)
        key = edition.id
    run, csrf = uuid4(), sign_in(client, "technician")
    begin = {"csrf": csrf, "run": str(run), "edition": str(key), "unit": "tug-14"}
    assert client.post("/bay/runs", data=begin).status_code == 200
    assert (
        client.post(f"/editions/{key}/withdraw", data={"csrf": csrf, "reason": "x"}).status_code
        == 403
    )
    lead = sign_in(client, "lead")
    assert client.post(f"/editions/{key}/withdraw", data={"csrf": lead}).status_code == 422
    told = client.post(f"/editions/{key}/withdraw", data={"csrf": lead, "reason": "wrong plug"})
    assert "Withdrawn by Berit Vance" in told.text
    again = client.post(f"/editions/{key}/withdraw", data={"csrf": lead, "reason": "wrong plug"})
    assert again.status_code == 409
    csrf = sign_in(client, "technician")
    assert "withdrawn by lead: wrong plug" in client.get(f"/bay/runs/{run}").text
    other = {**begin, "csrf": csrf, "run": str(uuid4())}
    assert client.post("/bay/runs", data=other).status_code == 409
    assert client.post("/bay/runs", data={**begin, "csrf": csrf}).status_code == 200


def test_what_changed_underneath_is_listed_with_what_it_changes(
    client: TestClient, store: Store
) -> None:
    """A figure, and only the procedures it touches."""
    csrf = sign_in(client, "trainer")
    assert "Nothing: every released procedure" in client.get("/changed-underneath").text
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        figure = Figure.model_validate({"value": "14 to 18 N·m", "source": "wm", "page": "6-12"})
        sheet_store.save_sheet(session, put_figure(sheet, "plug-torque", figure, 0), "trainer")
        other = sheet_store.sheet(session, "dunmarl-42-six")
        shield = part_of(other, "manifold").model_copy(update={"note": "seen again"})
        same = put(other, "manifold", shield).model_copy(update={"revision": other.revision + 1})
        sheet_store.save_sheet(session, same, "trainer")
    page = client.get("/changed-underneath").text
    assert "Marlet 3.4 vee six" in page
    assert "14 to 18 N·m" in page
    assert "corvane" not in page
    assert "Manifold" not in page
    assert "dunmarl" not in page, "a new revision alone changes nothing to be done"
    chosen = re.findall(r'name="procedures" value="([^"]+)"', page)
    form = {"csrf": csrf, "procedures": chosen}
    opened = client.post("/changed-underneath", data=form).text
    assert opened.count("sheet revision 8 is 9 now; opened by trainer") == len(chosen)
    assert "Open for review" in client.get("/procedures").text
    assert "Open for review" in client.get(f"/procedures/{chosen[0]}").text
    version = library_version(store, UUID(chosen[0]))
    out = {"csrf": csrf, "version": version, "reason": "new figure", "accepted": "seen"}
    client.post(f"/procedures/{chosen[0]}/release", data=out)
    assert "Open for review" not in client.get(f"/procedures/{chosen[0]}").text


def test_a_newer_edition_is_told_to_runs_on_the_old_one(client: TestClient, store: Store) -> None:
    """The run keeps its own."""
    with store.begin() as session:
        edition = of_the_vee_six(session)
        key, procedure = edition.id, edition.procedure_id
    run, csrf = uuid4(), sign_in(client, "technician")
    begin = {"csrf": csrf, "run": str(run), "edition": str(key), "unit": "tug-14"}
    client.post("/bay/runs", data=begin)
    csrf = sign_in(client, "trainer")
    version = library_version(store, procedure)
    form = {"csrf": csrf, "version": version, "reason": "second"}
    assert client.post(f"/procedures/{procedure}/release", data=form).status_code == 200
    assert "Edition 2 has been released" in client.get(f"/bay/runs/{run}").text


def library_version(store: Store, procedure: UUID) -> str:
    """The version of a draft."""
    with store.begin() as session:
        return str(procedure_store.procedure(session, procedure).version)


@pytest.mark.parametrize(
    ("form", "kind", "starts"),
    [
        ("procedure.json", "application/json", b"{"),
        ("procedure.md", "text/markdown", b"# "),
        ("procedure.steps.csv", "text/csv", b"number,"),
        ("procedure.tools.csv", "text/csv", b"n"),
        ("procedure.parts.csv", "text/csv", b"quantity"),
        ("job-sheet.pdf", "application/pdf", b"%PDF"),
        ("job-sheet.pdf?paper=Letter", "application/pdf", b"%PDF"),
        ("wing-card.pdf", "application/pdf", b"%PDF"),
        ("long-form.pdf", "application/pdf", b"%PDF"),
    ],
)
def test_an_edition_goes_out_in_open_formats(
    client: TestClient, store: Store, form: str, kind: str, starts: bytes
) -> None:
    """As a file with a name."""
    sign_in(client, "technician")
    with store.begin() as session:
        key = of_the_vee_six(session).id
    answer = client.get(f"/editions/{key}/{form}")
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith(kind)
    assert "attachment" in answer.headers["content-disposition"]
    assert answer.content.startswith(starts)
    assert client.get(f"/editions/{key}/procedure.exe").status_code == 422
