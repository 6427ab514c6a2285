"""A trainer moves a step in the draft; what forbids it is said, what no longer holds is shown."""

from uuid import UUID

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.job import Job, Work
from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.procedure.editions.placement import Placement
from eldrim.store import procedure_store, sheet_store
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]
STAYS = "release/rear-stays/bolts"


@pytest.fixture
def draft(store: Store) -> UUID:
    """A draft that has the plenum off."""
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        job = Job(cylinders=(5,), work=(Work.COIL, Work.PLUG), variant="late")
        return procedure_store.add_procedure(session, sheet, job, "trainer")


def place(page: str, key: str) -> int:
    """Where a step stands on the page."""
    return page.index(f'id="{key}"')


def whole(client: TestClient, draft: UUID) -> str:
    """The draft with every act unfolded."""
    return client.get(f"/procedures/{draft}?forms=all").text


def base_of(store: Store, draft: UUID, step: str) -> str:
    """The edit of a step as a form carries it."""
    with store() as session:
        return procedure_store.edits_of(procedure_store.procedure(session, draft))[
            step
        ].model_dump_json()


def test_a_step_is_moved_worded_and_put_back(client: TestClient, draft: UUID, store: Store) -> None:
    """The move stays when the wording changes, and goes when it stands as computed again."""
    csrf = sign_in(client, "trainer")
    before = whole(client, draft)
    assert place(before, "release/sound-cover/posts") < place(before, STAYS)
    ask = {"csrf": csrf, "step": STAYS, "way": "after", "follows": "nowhere"}
    assert (
        "is not there, or goes with it." in client.post(f"/procedures/{draft}/move", data=ask).text
    )
    for _ in range(20):
        ask = {"csrf": csrf, "step": STAYS, "way": "earlier"}
        page = client.post(f"/procedures/{draft}/move", data=ask)
        if "It stays here." in page.text:
            break
    assert "first or last of its phase" in page.text
    now = whole(client, draft)
    assert place(now, STAYS) < place(now, "release/sound-cover/posts")
    said = {"csrf": csrf, "base": base_of(store, draft, STAYS), "text": "Undo the stays first"}
    assert client.post(f"/procedures/{draft}/steps/{STAYS}", data=said).status_code == 200
    now = whole(client, draft)
    assert place(now, STAYS) < place(now, "release/sound-cover/posts")
    assert '<span class="tag">moved</span>' in now
    back = {"csrf": csrf, "base": base_of(store, draft, STAYS), "step": STAYS}
    assert client.post(f"/procedures/{draft}/drop", data=back).status_code == 200
    now = whole(client, draft)
    assert place(now, "release/sound-cover/posts") < place(now, STAYS)


def test_an_impossible_move_names_the_hindrance_and_keeps_nothing(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """A cover that lies over a fastener is not taken off after it."""
    csrf = sign_in(client, "trainer")
    ask = {"csrf": csrf, "step": "remove/rear-stays", "way": "after", "follows": "remove/plenum"}
    page = client.post(f"/procedures/{draft}/move", data=ask)
    assert page.status_code == 200
    assert client.get(str(page.url)).text.count("It stays here.") == 1, "may be loaded again"
    assert "It stays here." in page.text
    assert "over a fastener of the intake plenum" in page.text
    with store() as session:
        assert procedure_store.edits_of(procedure_store.procedure(session, draft)) == {}


def test_a_move_that_no_longer_holds_is_shown(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """It lies in the tray with what forbids it; the step stands where it was computed."""
    with store.begin() as session:
        edit = Edit(placed=(Placement(order=1, follows="remove/plenum"),))
        procedure_store.save_edit(session, draft, "remove/rear-stays", edit, Edit())
    sign_in(client, "trainer")
    page = client.get(f"/procedures/{draft}").text
    assert "Moves that do not hold now" in page
    assert "over a fastener of the intake plenum" in page


def test_how_minutes_tools_and_readings_of_a_step_are_changed(
    client: TestClient, draft: UUID
) -> None:
    """The trainer's tools are counted with the others; nothing computed about safety goes."""
    csrf = sign_in(client, "trainer")
    at = f"/procedures/{draft}/steps/remove/plug/5"
    said = {"csrf": csrf, "base": "{}", "detail": "Slowly, with the long bar.", "minutes": "2,5"}
    more = {"tools": "small mirror", "readings": "Oil in the well, ml\nSeen from below"}
    page = client.post(at, data={**said, **more}).text
    step = page.split('id="remove/plug/5"')[1].split("</li>")[0]
    assert "Slowly, with the long bar." in step
    assert "2.5 min" in page
    assert "Oil in the well" in page
    assert page.count("small mirror") > 2, "at its step, laid out, and counted back"
    none = client.post(at, data={**said, "minutes": "0"})
    assert (none.status_code, "minutes: a step takes some time" in none.text) == (422, True)
    refused = client.post(at, data={**said, "minutes": "soon"})
    assert refused.status_code == 422
