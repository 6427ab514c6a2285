"""Files taken in: what they would change is shown first; then all of it, or nothing."""

import csv
import io
import json
import re
from uuid import UUID

import yaml
from httpx import Response

from eldrim.core.procedure.editions.edits import Edit
from eldrim.exchange.engine_file import read_engine, write_engine
from eldrim.store import procedure_store, sheet_store
from tests.builders import document, tug
from tests.core.shape_engines import SHAPES
from tests.web.client import TestClient
from tests.web.test_move import draft
from tests.web.test_photos import picture, put_on
from tests.web.test_release import Store
from tests.web.test_web import sign_in

__all__ = ["draft"]


def send(client: TestClient, csrf: str, data: bytes, name: str, **more: str) -> Response:
    """Choose a file."""
    files = {"file": (name, data)}
    return client.post("/take-in", data={"csrf": csrf, **more}, files=files)


def test_an_engine_file_is_shown_and_taken_in_or_refused_whole(client: TestClient) -> None:
    """Every problem by its path; a good file is there only once it is confirmed."""
    csrf = sign_in(client, "trainer")
    bad = document()
    bad["plugs"][0]["hex"] = "16"
    bad["wings"] = 2
    refused = send(client, csrf, yaml.safe_dump(bad).encode(), "my.engine.yaml")
    assert refused.status_code == 422
    assert "plugs[0].hex" in refused.text
    assert "wings" in refused.text
    shown = send(client, csrf, yaml.safe_dump(document()).encode(), "my.engine.yaml")
    assert "this is new here" in shown.text
    assert client.get("/engines/test-engine").status_code == 404
    assert "Which holes?" in client.post(str(shown.url), data={"csrf": csrf}).text
    assert client.get(str(shown.url)).status_code == 404, "taken in once"


def test_a_changed_sheet_says_what_changes_and_becomes_the_next_revision(
    client: TestClient, store: Store
) -> None:
    """Line by line, by the path inside the file."""
    csrf = sign_in(client, "trainer")
    same = send(client, csrf, write_engine(tug()).encode(), "tug.engine.yaml")
    assert "nothing would change" in same.text
    plain = yaml.safe_load(write_engine(tug()))
    plain["layout"]["head"] = "iron"
    shown = send(client, csrf, yaml.safe_dump(plain).encode(), "tug.engine.yaml")
    cells = re.findall(r"<td>(.*?)</td>", shown.text)
    at = cells.index("<code>layout.head</code>")
    assert cells[at + 1 : at + 3] == ["aluminium", "iron"]
    assert "It becomes revision 9; the file says 8" in shown.text
    client.post(str(shown.url), data={"csrf": csrf})
    with store() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
    assert (sheet.revision, sheet.layout.head) == (9, "iron")


def test_a_whole_procedure_goes_out_and_comes_in_again(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """With its photo, its edits and its departures; into the draft of the same job."""
    csrf = sign_in(client, "trainer")
    put_on(client, draft, csrf, picture(size=(60, 40)))
    note = {"csrf": csrf, "base": "{}", "note": "Mind the hose"}
    client.post(f"/procedures/{draft}/steps/remove/plug/5", data=note)
    away = {"csrf": csrf, "topic": "old_plugs", "school": "scrap", "reason": "fouled"}
    client.post(f"/procedures/{draft}/departures", data=away)
    out = client.get(f"/procedures/{draft}/procedure.json").content
    with store.begin() as session:
        kept = procedure_store.edits_of(procedure_store.procedure(session, draft))
        procedure_store.replace_draft(session, draft, {}, {})
    shown = send(client, csrf, out, "procedure.json")
    assert "Mind the hose" in shown.text
    assert "1 photos come with it" in shown.text
    with store() as session:
        assert procedure_store.edits_of(procedure_store.procedure(session, draft)) == {}, (
            "only shown so far"
        )
    client.post(str(shown.url), data={"csrf": csrf})
    with store() as session:
        row = procedure_store.procedure(session, draft)
        assert procedure_store.edits_of(row) == kept
        assert procedure_store.departures_of(row)["old_plugs"].school == "scrap"
    assert client.get(f"/procedures/{draft}/procedure.json").content == out


def test_a_procedure_of_an_engine_nobody_knows_here_is_refused(
    client: TestClient, draft: UUID
) -> None:
    """And one whose photo is not the one it names."""
    csrf = sign_in(client, "trainer")
    put_on(client, draft, csrf, picture(size=(60, 40)))
    plain = json.loads(client.get(f"/procedures/{draft}/procedure.json").content)
    other = {**plain, "plan": {**plain["plan"], "engine": "ghost"}}
    refused = send(client, csrf, json.dumps(other).encode(), "p.json")
    assert "take in its engine file first" in refused.text
    digest = next(iter(plain["photos"]))
    broken = {**plain, "photos": {digest: "AAAA"}}
    refused = send(client, csrf, json.dumps(broken).encode(), "p.json")
    assert "is missing or another photo" in refused.text


def test_a_table_of_steps_changes_words_and_nothing_that_is_computed(
    client: TestClient, draft: UUID, store: Store
) -> None:
    """A wrong line names itself and nothing is taken in."""
    csrf = sign_in(client, "trainer")
    rows = list(csv.DictReader(io.StringIO(client.get(f"/procedures/{draft}/steps.csv").text)))
    told = {"remove/plug/5": ("text", "=Out with plug 5"), "torque/plug/5": ("hold", "yes")}
    for row in rows:
        if row["key"] in told:
            column, value = told[row["key"]]
            row[column] = value
        row["minutes"] = "99"

    def table() -> bytes:
        out = io.StringIO()
        writer = csv.DictWriter(out, list(rows[0]))
        writer.writeheader()
        writer.writerows(rows)
        return out.getvalue().encode()

    assert "for one procedure" in send(client, csrf, table(), "steps.csv").text
    shown = send(client, csrf, table(), "steps.csv", procedure=str(draft))
    assert "=Out with plug 5" in shown.text
    client.post(str(shown.url), data={"csrf": csrf})
    with store() as session:
        edits = procedure_store.edits_of(procedure_store.procedure(session, draft))
    assert set(edits) == set(told)
    assert edits["torque/plug/5"] == Edit(hold=True)
    assert edits["remove/plug/5"].text == "=Out with plug 5"
    rows[2]["key"] = "remove/moon"
    refused = send(client, csrf, table(), "steps.csv", procedure=str(draft))
    assert "line 4" in refused.text
    assert "remove/moon" in refused.text


def test_what_somebody_else_chose_is_theirs(client: TestClient) -> None:
    """The lead cannot take in the trainer's file."""
    csrf = sign_in(client, "trainer")
    shown = send(client, csrf, yaml.safe_dump(document()).encode(), "my.engine.yaml")
    sign_in(client, "lead")
    assert client.get(str(shown.url)).status_code == 404


def test_every_shape_is_taken_in_planned_and_goes_out_as_it_came(
    client: TestClient, store: Store
) -> None:
    """Whatever a sheet may say: nothing of it is lost on the way through."""
    csrf = sign_in(client, "trainer")
    for shape in SHAPES:
        engine = shape().model_copy(update={"id": shape.__name__.replace("_", "-")})
        shown = send(client, csrf, write_engine(engine).encode(), "shape.engine.yaml")
        assert "this is new here" in shown.text, shape
        client.post(str(shown.url), data={"csrf": csrf})
        with store() as session:
            assert sheet_store.sheet(session, engine.id) == engine
        out = client.get(f"/engines/{engine.id}.engine.yaml").content
        assert read_engine(out) == engine
        carrier = "coil" if engine.coils else "lead"
        page = client.get(f"/engines/{engine.id}?c=1&work={carrier}&work=plug&variant=all")
        assert "no cheaper job" in page.text, shape
