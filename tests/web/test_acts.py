"""A draft's acts: changed for all holes at once, or at one; folded, and unfolded when asked."""

import re
from urllib.parse import quote
from uuid import UUID

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.job import Job, Work
from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.procedure.editions.fold import chapters
from eldrim.printing.codes import Codes
from eldrim.store import edition_store, procedure_store, sheet_store
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]
TORQUE = "torque/plug/*"
ENGINE = "marlet-34-v6"


@pytest.fixture
def draft(store: Store) -> UUID:
    """A draft of three holes."""
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        job = Job(cylinders=(2, 4, 6), work=(Work.COIL, Work.PLUG), variant="late")
        return procedure_store.add_procedure(session, sheet, job, "trainer")


def edits(store: Store, draft: UUID) -> dict[str, Edit]:
    """What is kept of the draft."""
    with store() as session:
        return procedure_store.edits_of(procedure_store.procedure(session, draft))


def heading(page: str, place: str) -> str:
    """The heading of the step or act of this id."""
    found = re.search(rf'id="{re.escape(place)}".*?<h3[^>]*>(.*?)</h3>', page, re.S)
    assert found is not None, place
    return " ".join(re.sub(r"<[^>]*>", " ", found[1]).split())


def csrf_of(client: TestClient, draft: UUID) -> str:
    """The token of the trainer who is signed in, or signs in now."""
    page = client.get(f"/procedures/{draft}").text
    found = re.search(r'name="csrf" value="([^"]+)"', page)
    return found[1] if found and "Sign out" in page else sign_in(client, "trainer")


def change(client: TestClient, draft: UUID, step: str, **fields: str) -> str:
    """Change a step or an act as its form does, with what is kept of it as the base."""
    said = {"csrf": csrf_of(client, draft), "base": "{}", **fields}
    page = client.post(f"/procedures/{draft}/steps/{step}", data=said)
    assert page.status_code == 200, page.text
    return client.get(f"/procedures/{draft}?forms=all").text


def test_a_draft_shows_acts_and_their_steps_when_asked(client: TestClient, draft: UUID) -> None:
    """One entry for three wells, in the page and in what leads through it."""
    sign_in(client, "trainer")
    page = client.get(f"/procedures/{draft}").text
    assert heading(page, "act/torque/plug/2") == "Torque plug 2, 4, 6"
    assert 'id="torque/plug/4"' not in page
    nav = page.split('class="act-links"')[1].split("</nav>")[0]
    assert nav.count("Torque plug") == 1
    part = client.get(f"/procedures/{draft}/steps", params={"act": "act/torque/plug/2"}).text
    assert [heading(part, f"torque/plug/{hole}") for hole in "246"] == [
        f"Torque plug {hole}" for hole in "246"
    ]
    gone = client.get(f"/procedures/{draft}/steps", params={"act": "act/torque/plug/5"})
    assert gone.status_code == 404


def test_one_wording_for_all_and_an_exception(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """Kept once, shown at each; the hole with a wording of its own keeps it when all change."""
    change(client, draft, TORQUE, text="Click plug {hole} home", note="Head held.")
    page = change(client, draft, "torque/plug/6", text="Plug 6, short extension", note="Head held.")
    assert heading(page, "torque/plug/2") == "Click plug 2 home reworded"
    assert heading(page, "torque/plug/6") == "Plug 6, short extension reworded"
    kept = edits(store, draft)
    assert set(kept) == {TORQUE, "torque/plug/6"}
    assert kept["torque/plug/6"].note == "", "the note of all is not copied to one"
    base = kept[TORQUE].model_dump_json()
    page = change(client, draft, TORQUE, base=base, text="Plug {hole} at {setting}", note="")
    assert heading(page, "torque/plug/4") == "Plug 4 at 17.5 N·m reworded"
    assert heading(page, "torque/plug/6") == "Plug 6, short extension reworded"


def test_what_all_have_can_be_taken_from_one(client: TestClient, draft: UUID, store: Store) -> None:
    """An emptied note or a hold point unticked: the hole goes by itself, with all else."""
    change(client, draft, TORQUE, note="Head held.", hold="true", cautions="Mind the hose")
    change(client, draft, "torque/plug/4", text="Torque plug 4", note="", hold="true")
    one = edits(store, draft)["torque/plug/4"]
    assert one.apart
    assert (one.note, one.hold, one.cautions) == ("", True, ("Mind the hose",))
    page = client.get(f"/procedures/{draft}?forms=all").text
    at = {h: page.split(f'id="torque/plug/{h}"')[1].split('class="edit-step')[0] for h in "246"}
    assert ["Head held." in at[h] for h in "246"] == [True, False, True]
    assert all("Mind the hose" in text for text in at.values())


def test_left_out_at_all_holes_and_put_back_at_one(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """Said once among what is left out; one hole can be done all the same."""
    page = change(client, draft, "read/coil/*", left_out="the coils are new")
    assert "Look over coil 2, 4, 6: the coils are new" in re.sub(r"\s+", " ", page)
    assert 'id="read/coil/4"' not in page
    csrf = csrf_of(client, draft)
    ask = {"csrf": csrf, "step": "read/coil/4", "base": "{}", "apart": "true"}
    assert client.post(f"/procedures/{draft}/drop", data=ask).status_code == 200
    page = client.get(f"/procedures/{draft}?forms=all").text
    assert 'id="read/coil/4"' in page
    assert "Look over coil 2, 6: the coils are new" in re.sub(r"\s+", " ", page)
    back = {
        "csrf": csrf,
        "step": "read/coil/*",
        "base": edits(store, draft)["read/coil/*"].model_dump_json(),
    }
    assert client.post(f"/procedures/{draft}/drop", data=back).status_code == 200
    assert 'id="read/coil/2"' in client.get(f"/procedures/{draft}?forms=all").text


def test_a_wording_is_shown_filled_while_it_is_typed(client: TestClient, draft: UUID) -> None:
    """For each hole; what stands for nothing is said, and refused when it is kept."""
    csrf = csrf_of(client, draft)
    ask = {"act": TORQUE, "text": "Click {hole} at {setting}"}
    said = client.get(f"/procedures/{draft}/filled", params=ask).text
    assert [f"Click {hole} at 17.5 N·m" in said for hole in "246"] == [True] * 3
    wrong = client.get(f"/procedures/{draft}/filled", params={**ask, "text": "At {torque}"}).text
    assert "{torque} stands for nothing here" in wrong
    assert client.get(f"/procedures/{draft}/filled", params={"act": "x"}).status_code == 422
    kept = {"csrf": csrf, "base": "{}", "text": "At {torque}"}
    refused = client.post(f"/procedures/{draft}/steps/{TORQUE}", data=kept)
    assert refused.status_code == 422
    assert "write {hole} or {setting} or {figure} or {tools}" in refused.text


def test_an_act_is_moved_at_all_holes(client: TestClient, draft: UUID, store: Store) -> None:
    """Later, and refused against the craft with the reason at the act."""
    csrf = csrf_of(client, draft)
    ask = {"csrf": csrf, "step": "read/plug/*", "way": "later"}
    page = client.post(f"/procedures/{draft}/move", data=ask).text
    assert page.index('id="act/read/coil/2"') < page.index('id="act/read/plug/2"')
    assert heading(page, "act/read/plug/2").endswith("moved")
    wrong = {"csrf": csrf, "step": TORQUE, "way": "earlier"}
    page = client.post(f"/procedures/{draft}/move", data=wrong).text
    assert page.count("It stays here.") == 1
    assert "comes before" in page
    assert set(edits(store, draft)) == {"read/plug/*"}


def test_two_trainers_at_one_act_settle_it(client: TestClient, draft: UUID) -> None:
    """The second is shown both."""
    change(client, draft, TORQUE, text="Click {hole}")
    csrf = csrf_of(client, draft)
    said = {"csrf": csrf, "base": "{}", "text": "Tighten {hole}"}
    page = client.post(f"/procedures/{draft}/steps/{TORQUE}", data=said)
    assert page.status_code == 409
    assert "Both of you changed this step" in page.text
    assert "Click {hole}" in page.text


def test_the_released_edition_says_acts_once(client: TestClient, draft: UUID) -> None:
    """With every step in it still, and differences told by act."""
    csrf = csrf_of(client, draft)
    for number, wording in enumerate(("", "Click {hole}"), 1):
        if wording:
            change(client, draft, TORQUE, text=wording)
        version = client.get(f"/procedures/{draft}").text
        found = re.search(r'name="version" value="(\d+)"', version)
        assert found is not None
        ask = {"csrf": csrf, "version": found[1], "reason": f"edition {number}", "accepted": "ok"}
        page = client.post(f"/procedures/{draft}/release", data=ask)
        assert page.status_code == 200, page.text
    assert heading(page.text, "act/torque/plug/2") == "Click 2, 4, 6"
    assert page.text.count('id="torque/plug/4"') == 1
    change(
        client,
        draft,
        TORQUE,
        base='{"text": "Click {hole}", "computed": "Torque plug {hole}"}',
        text="Press {hole}",
    )
    since = client.get(f"/procedures/{draft}").text.split("Since edition 2")[1].split("</dl>")[0]
    assert "Press 2, 4, 6: wording" in since


def test_a_code_on_paper_leads_to_the_edition_and_its_acts(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """As it stands on the sheet, in capitals; what is no code is told so."""
    sign_in(client, "technician")
    with store() as session:
        row = next(e for e in edition_store.newest_editions(session) if e.engine_id == ENGINE)
        codes = Codes(str(client.base_url), row.id)
        plan = edition_store.plan_of(row)
    act = next(one for chapter in chapters(plan.steps) for one in chapter.acts if one.act.every)
    for address, lands in (
        (codes.address, f"/editions/{row.id}"),
        (f"{codes.address}/{act.numbers[0]}", f"/editions/{row.id}#{quote(act.key)}"),
    ):
        path = address.split("//", 1)[1].split("/", 1)[1]
        answer = client.get(f"/{path}", follow_redirects=False)
        assert answer.status_code == 303, path
        assert answer.headers["location"] == lands
    assert client.get("/E/ZZZZZZZZ").status_code == 404
    with TestClient(client.app, raise_server_exceptions=False) as stranger:
        code = codes.address.split("//", 1)[1].split("/", 1)[1]
        asked = stranger.get(f"/{code}")
        assert f'name="next" value="/{code}"' in asked.text, "signed in, one is there"
    assert client.get("/E/0000000000").status_code == 404
    assert client.get("/E/%25/1").status_code == 404
