"""The second language in the interface: a draft of its own, the sheet's words, paper and page."""

from uuid import UUID

from eldrim.core.procedure.editions.edits import Edit
from eldrim.store import procedure_store, sheet_store
from tests.web.client import TestClient
from tests.web.test_move import draft
from tests.web.test_release import Store
from tests.web.test_web import sign_in

__all__ = ["draft"]


def test_a_draft_is_written_in_german_released_and_printed(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """Its edits come along, to be said anew; asking twice is the same draft."""
    with store.begin() as session:
        said = Edit(text="Mind the plug", computed="Take out plug 5", note="Hose is close.")
        procedure_store.save_edit(session, draft, "remove/plug/5", said, Edit())
    csrf = sign_in(client, "trainer")
    made = client.post(f"/procedures/{draft}/in/de", data={"csrf": csrf})
    again = client.post(f"/procedures/{draft}/in/de", data={"csrf": csrf})
    assert made.url == again.url
    assert "Ansaugsammler abnehmen" in made.text
    assert "Changed under your wording" in made.text
    assert "Kerze 5 herausdrehen" in made.text
    back = client.post(f"{made.url}/in/en", data={"csrf": csrf})
    assert str(back.url).endswith(str(draft))
    form = {"csrf": csrf, "version": "2", "reason": "erste", "accepted": "bekannt"}
    page = client.post(f"{made.url}/release", data=form).text
    assert "Vorsicht" in page
    assert "Stelle <b>" not in page
    assert "<b>17,5 N·m</b> einstellen am Drehmomentschlüssel" in page
    assert "Caution" not in page
    edition = page.split("/editions/")[1].split("/")[0]
    text = client.get(f"/editions/{edition}/procedure.md").text
    assert "## Freilegen" in text
    assert "**Vorsicht:**" in text
    assert client.get(f"/editions/{edition}/job-sheet.pdf").content.startswith(b"%PDF")


def test_the_words_of_a_sheet_are_given_in_a_table(client: TestClient, store: Store) -> None:
    """And lacking ones counted; two people do not overwrite each other."""
    csrf = sign_in(client, "trainer")
    address = "/engines/kestwick-900-twin/words/de"
    page = client.get(address).text
    assert "Sentences, tools, cautions and checks are in Deutsch already" in page
    with store() as session:
        revision = str(sheet_store.sheet(session, "kestwick-900-twin").revision)
    form = {"csrf": csrf, "revision": revision, "w0": "Erstes Wort"}
    assert "Erstes Wort" in client.post(address, data=form).text
    assert client.post(address, data={**form, "w0": "Anderes"}).status_code == 409
    assert client.get("/engines/kestwick-900-twin/words/xx").status_code == 422
