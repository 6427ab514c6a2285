"""The spec sheet, the crib and the sums over HTTP: caught, settled, kept, refused."""

import re
from datetime import date

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.base.errors import JobError, Problem
from eldrim.core.job import Job, Work
from eldrim.core.procedure.model import Plan
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.exchange.crib_table import to_rows, write_csv
from eldrim.store import crib as crib_store
from eldrim.store import drafts, procedure_store, sheet_store
from eldrim.web.figures.routes import PLUG_FIELDS
from eldrim.web.procedures import touched
from tests.web.client import TestClient
from tests.web.test_web import sign_in

TUG = "/engines/marlet-34-v6/figures"


def stating(csrf: str, **more: str) -> dict[str, str]:
    """A figure as the form sends it."""
    plain = {
        "csrf": csrf,
        "revision": "8",
        "variant": "late",
        "key": "coil-bolt",
        "value": "8 to 10 N·m",
        "source": "fleet",
        "page": "51",
    }
    return {**plain, **more}


def test_a_slip_is_held_and_the_picked_reading_is_kept(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """Held with what was meant; nothing is saved until one is picked."""
    csrf = sign_in(client, "trainer")
    held = client.post(TUG, data=stating(csrf, value="85 Nm"))
    assert held.status_code == 422
    assert "Held." in held.text
    assert 'name="picked" value="85 lbf·in"' in held.text
    assert "85 Nm" in held.text
    with store.begin() as session:
        assert sheet_store.sheet(session, "marlet-34-v6").revision == 8
    done = client.post(TUG, data=stating(csrf, value="85 Nm", picked="85 lbf·in"))
    assert done.status_code == 200
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
    assert sheet.revision == 9
    assert [str(f.value) for f in sheet.figures["coil-bolt"]] == ["7 to 9 N·m", "85 lbf·in"]


def test_a_figure_out_of_band_can_be_confirmed_with_a_reason(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """The maker wins, once somebody has looked again."""
    csrf = sign_in(client, "trainer")
    sure = stating(csrf, value="1.2 N·m", confirmed="p. 51, plastic insert, read twice")
    assert client.post(TUG, data=sure).status_code == 200
    with store.begin() as session:
        figure = sheet_store.sheet(session, "marlet-34-v6").figures["coil-bolt"][1]
    assert figure.confirmed == "p. 51, plastic insert, read twice"


def test_what_is_typed_is_looked_at_on_the_way(client: TestClient) -> None:
    """In band, held, or not understood."""
    csrf = sign_in(client, "trainer")
    for typed, said in (
        ("7-9 Nm", "Reads as 7 to 9 N·m"),
        ("15-20 Nm", "this engine&#39;s plug"),
        ("8 mm", "a torque is wanted"),
        ("9 to 7 Nm", "runs backwards"),
        ("", ""),
    ):
        form = {"csrf": csrf, "key": "coil-bolt", "variant": "late", "value": typed}
        answer = client.post(f"{TUG}/look", data=form)
        assert answer.status_code == 200
        assert said in answer.text


def test_two_sources_are_settled_side_by_side(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """With a reason; the other is kept and can be taken away."""
    csrf = sign_in(client, "trainer")
    page = client.post(TUG, data=stating(csrf)).text
    assert "Coil bolt: two sources disagree" in page
    assert page.count("This one holds, because") == 2
    form = {"csrf": csrf, "revision": "9", "variant": "late", "key": "coil-bolt", "index": "1"}
    assert client.post(f"{TUG}/settle", data={**form, "reason": ""}).status_code == 422
    settled = client.post(f"{TUG}/settle", data={**form, "reason": "newer"}).text
    assert "Holds: newer" in settled
    assert "Kept beside, not used" in settled
    gone = client.post(f"{TUG}/take-away", data={**form, "revision": "10", "index": "0"})
    assert "Kept beside" not in gone.text
    with store.begin() as session:
        assert sheet_store.sheet(session, "marlet-34-v6").revision == 11


def test_a_new_source_is_named_with_its_figure(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """Document, edition, kind."""
    csrf = sign_in(client, "trainer")
    new = stating(csrf, source="new", document="Bulletin 7", edition="2", kind="bulletin")
    assert "Bulletin 7, 2, p. 51" in client.post(TUG, data=new).text
    bad = stating(csrf, revision="9", source="new", document="", edition="", value="9 N·m")
    answer = client.post(TUG, data=bad)
    assert answer.status_code == 422
    assert "document" in answer.text
    with store.begin() as session:
        assert sheet_store.sheet(session, "marlet-34-v6").sources["bulletin-7"].kind == "bulletin"


def test_a_figure_changed_meanwhile_is_shown_and_both_are_kept_to_be_settled(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """What somebody else changed elsewhere on the sheet does not matter."""
    csrf = sign_in(client, "trainer")
    client.post(TUG, data=stating(csrf))
    late = client.post(TUG, data=stating(csrf, value="9 N·m", index="0"))
    assert late.status_code == 422
    assert "8 to 10 N·m now, at revision 9" in late.text
    assert 'value="9 N·m"' in late.text
    both = client.post(TUG, data=stating(csrf, value="9 N·m", revision="9"))
    assert both.text.count("This one holds, because") == 3
    elsewhere = stating(csrf, key="plenum-bolt", value="9 N·m")
    assert client.post(TUG, data=elsewhere).status_code == 200
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
    assert len(sheet.figures["coil-bolt"]) == 3
    assert sheet.revision == 11


def test_only_a_trainer_states_figures_or_changes_the_crib(client: TestClient) -> None:
    """Others look."""
    csrf = sign_in(client, "technician")
    assert client.get(TUG).status_code == 200
    assert "State another source" not in client.get(TUG).text
    assert client.post(TUG, data=stating(csrf)).status_code == 403
    assert client.get("/crib").status_code == 200
    assert client.post("/crib", data={"csrf": csrf, "version": "2"}).status_code == 403


def test_another_plug_is_compared_by_every_property(client: TestClient) -> None:
    """Or refused with the field."""
    csrf = sign_in(client, "trainer")
    same = {
        "csrf": csrf,
        "variant": "late",
        "thread": "M12x1.25",
        "reach": "26.5 mm",
        "seat": "gasket",
        "hex": "16 mm",
        "heat_range": "6",
        "resistor": "yes",
        "gap_supplied": "0.8 mm",
    }
    answer = client.post(f"{TUG}/plug", data=same)
    assert "The same plug by every property" in answer.text
    assert "set otherwise" in answer.text
    other = client.post(f"{TUG}/plug", data={**same, "reach": "19 mm"})
    assert "Not the same plug" in other.text
    assert "reach" in client.post(f"{TUG}/plug", data={**same, "reach": "long"}).text
    weighed = {**same, "price": "31", "life": "3000 h"}
    assert "The offered plug costs less to run." in client.post(f"{TUG}/plug", data=weighed).text
    dear = client.post(f"{TUG}/plug", data={**weighed, "price": "4", "life": "300 h"}).text
    assert "The sheet&#39;s plug costs less to run." in dear
    assert "At no price" in dear
    strange = client.post(f"{TUG}/plug", data={**weighed, "reach": "19 mm"}).text
    assert "costs less to run" not in strange
    assert client.post(f"{TUG}/plug", data={**weighed, "life": "long"}).status_code == 422


def test_the_plug_is_described_on_the_sheet(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """With its lengths looked at like any figure."""
    csrf = sign_in(client, "trainer")
    plug = {
        "csrf": csrf,
        "revision": "8",
        "variant": "late",
        "part_number": "MP-12L-IR7",
        "thread": "M12×1.25",
        "reach": "26.5 mm",
        "seat": "gasket",
        "hex": "16 mm",
        "points": "6",
        "height": "50 mm",
        "construction": "fine_wire",
        "plating": "nickel",
        "heat_range": "7",
        "resistor": "yes",
        "gap_supplied": "1.05 mm",
        "adjustable": "no",
        "source": "wm",
        "page": "6-11",
    }
    slip = client.post(f"{TUG}/plug-identity", data={**plug, "reach": "2.65 mm"})
    assert slip.status_code == 422
    assert "26.5 mm (a digit lost: times 10)" in slip.text
    assert 'value="2.65 mm"' in slip.text
    done = client.post(f"{TUG}/plug-identity", data=plug)
    assert "MP-12L-IR7" in done.text
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
    assert (sheet.revision, sheet.plugs[0].heat_range) == (9, "7")


def crib_form(csrf: str, rows: list[dict[str, str]], **more: str) -> dict[str, str]:
    """The whole table as the page sends it."""
    cells = {
        f"{r['kind']}-{n}/{c}": v for n, r in enumerate(rows) for c, v in r.items() if c != "kind"
    }
    return {"csrf": csrf, "version": "2", "reason": "counted", **cells, **more}


def test_the_crib_is_saved_whole_as_a_version(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """A row changed, a row gone, a row new without a key."""
    csrf = sign_in(client, "trainer")
    with store.begin() as session:
        rows = to_rows(crib_store.in_force(session))
    first = f"{rows[0]['kind']}-0"
    new = {
        "extensions-new/drive": "3/8",
        "extensions-new/length": "200 mm",
        "extensions-new/outside": "17 mm",
        "extensions-new/type": "locking",
    }
    form = crib_form(csrf, rows, **{f"{first}/gone": "yes", "sockets-1/count": "3"}, **new)
    assert client.post("/crib", data=form).status_code == 200
    with store.begin() as session:
        crib = crib_store.in_force(session)
        assert crib_store.history(session)[0].reason == "counted"
    assert crib.version == 3
    names = {t.name for t in crib.all()}
    assert "locking extension 200 mm, ⅜ in" in names
    assert rows[0]["id"] not in {t.id for t in crib.all()}
    assert crib.sockets[0].count == 3
    assert client.post("/crib", data=form).status_code == 409


def test_a_wrong_cell_saves_nothing_and_keeps_what_was_typed(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """Row, column, fix; the table as typed."""
    csrf = sign_in(client, "trainer")
    with store.begin() as session:
        rows = to_rows(crib_store.in_force(session))
    rows[0]["length"] = "sixteen"
    answer = client.post("/crib", data=crib_form(csrf, rows, reason="a try"))
    assert answer.status_code == 422
    assert "Nothing was saved" in answer.text
    assert re.search(r"row 1 \(sockets [^)]+\), length", answer.text)
    assert 'value="sixteen"' in answer.text
    assert 'value="a try"' in answer.text
    no_reason = client.post("/crib", data=crib_form(csrf, to_rows(STANDARD_CRIB), reason=""))
    assert "say why the crib changes" in no_reason.text
    with store.begin() as session:
        assert crib_store.in_force(session).version == 2


def test_the_crib_goes_out_and_in_as_csv(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """Whole or not at all."""
    csrf = sign_in(client, "trainer")
    told = client.get("/crib.csv")
    assert told.headers["content-type"].startswith("text/csv")
    bad = {"file": ("crib.csv", b"kind,drive\nhammers,3/8\n", "text/csv")}
    fields = {"csrf": csrf, "version": "2"}
    assert client.post("/crib/file", data=fields, files=bad).status_code == 422
    good = {"file": ("crib.csv", write_csv(STANDARD_CRIB).encode(), "text/csv")}
    assert client.post("/crib/file", data=fields, files=good).status_code == 200
    with store.begin() as session:
        crib = crib_store.in_force(session)
    assert crib.version == 3
    assert {t.id for t in crib.all()} == {t.id for t in STANDARD_CRIB.all()}
    assert client.post("/crib/file", data=fields, files=good).status_code == 409


def test_an_overdue_wrench_bars_a_release_until_it_is_accepted(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """With the reason kept on the edition."""
    csrf = sign_in(client, "trainer")
    with store.begin() as session:
        now = crib_store.in_force(session)
        late = [w.model_copy(update={"due": date(2020, 1, 31)}) for w in now.wrenches]
        aged = type(now).model_validate(
            {**now.model_dump(mode="json"), "wrenches": [w.model_dump(mode="json") for w in late]}
        )
        crib_store.save(session, aged, "trainer", "a long winter")
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        job = Job(cylinders=(2,), work=(Work.COIL, Work.PLUG), variant="late")
        key = procedure_store.add_procedure(session, sheet, job, "trainer")
    page = client.get(f"/procedures/{key}").text
    assert "calibration ran out on 2020-01-31" in page
    form = {"csrf": csrf, "version": "1", "reason": "first"}
    refused = client.post(f"/procedures/{key}/release", data=form)
    assert refused.status_code == 422
    assert "calibration ran out" in refused.text
    done = client.post(
        f"/procedures/{key}/release", data={**form, "accepted": "checked against the bench"}
    )
    assert done.status_code == 200
    assert "accepted: checked against the bench" in done.text


def test_an_unsettled_figure_bars_a_release_whatever_is_said(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """It cannot be accepted away."""
    csrf = sign_in(client, "trainer")
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "sulair-750-triple")
        job = Job(cylinders=(1,), work=(Work.PLUG,), variant=next(iter(sheet.variants)))
        key = procedure_store.add_procedure(session, sheet, job, "trainer")
    assert "Bars the release" in client.get(f"/procedures/{key}").text
    form = {"csrf": csrf, "version": "1", "reason": "first", "accepted": "never mind"}
    assert client.post(f"/procedures/{key}/release", data=form).status_code == 422


def test_sums_are_a_page_a_part_and_an_open_interface(client: TestClient) -> None:
    """The interface needs no sign-in; a fault names its field."""
    told = client.get("/api/v1/sums").json()
    assert told["cooling"]["fields"]["air"]["example"] == "18 °C"
    worked = client.post("/api/v1/sums/torque", json={"value": "18 lbf·ft"}).json()
    assert worked["values"]["N·m"] == pytest.approx(24.4047, rel=1e-4)
    wrong = client.post("/api/v1/sums/torque", json={"value": "18 mm"})
    assert wrong.status_code == 422
    assert wrong.json()["problems"][0]["path"] == "value"
    assert client.post("/api/v1/sums/nothing", json={}).status_code == 404
    sign_in(client, "technician")
    assert "Start 41.4 min after" in client.get("/sums?sum=cooling").text
    asked = client.get("/sums?sum=gap&readings=0.66").text
    assert "nothing is filled in; fill it in" in asked, "a blank is never the example"
    given = {**{k: f["example"] for k, f in told["gap"]["fields"].items()}, "readings": "0.66"}
    part = client.get("/sums", params={"sum": "gap", **given}, headers={"hx-request": "true"}).text
    assert "<html" not in part
    assert "Open it by" in part
    assert "not a quantity" in client.get("/sums?sum=length&value=long").text


def test_a_tool_the_crib_lacks_is_offered_where_it_would_save_minutes(client: TestClient) -> None:
    """With the minutes, and what it costs."""
    sign_in(client, "trainer")
    page = client.get("/engines/brannoch-57-v8?c=7&c=8").text
    assert "With locking extension 100 mm, ⅜ in" in page
    assert "can stay" in page
    without = client.get("/engines/marlet-34-v6?c=2&without=extension+75+mm,+%E2%85%9C+in").text
    assert "without the extension 75 mm" in without


def test_an_edition_whose_engine_is_stated_otherwise_since_is_told_everywhere(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """In the bay, in the list with a count, on the edition."""
    csrf = sign_in(client, "trainer")
    assert "outdated" not in client.get("/procedures").text
    client.post(TUG, data=stating(csrf, key="plug-torque", value="18 to 22 N·m", index="0"))
    told = "lines of this edition would read otherwise"
    page = client.get("/procedures").text
    assert told in page
    assert "outdated" in page
    assert told in client.get("/bay").text
    editions = [rest.split('"')[0] for rest in page.split('href="/editions/')[1:]]
    [key] = [key for key in editions if told in client.get(f"/editions/{key}").text]
    assert "Let it run on as it is" in client.get(f"/editions/{key}").text
    empty = client.post(f"/editions/{key}/let-run", data={"csrf": csrf, "reason": " "})
    assert empty.status_code == 422
    reason = {"csrf": csrf, "reason": "the old torque is inside the new window"}
    said = client.post(f"/editions/{key}/let-run", data=reason).text
    assert "lets it run on: the old torque" in said
    assert "Let it run on as it is" not in said
    assert "0 without a word on it" in client.get("/procedures").text
    assert "the old torque is inside" in client.get("/bay").text
    client.post(
        TUG, data=stating(csrf, key="plug-torque", value="19 to 22 N·m", index="0", revision="9")
    )
    assert "lets it run" not in client.get("/bay").text, "the next change asks again"


def test_an_edition_that_can_no_longer_be_planned_stops_no_page(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is told; bay and list go on for everybody."""
    csrf = sign_in(client, "trainer")
    client.post(TUG, data=stating(csrf, key="plug-torque", value="18 to 22 N·m", index="0"))

    def closed(*_: object) -> Plan:
        raise JobError([Problem("c", "there is no hole 9", "choose another")])

    monkeypatch.setattr(touched, "compiled", closed)
    for page in ("/bay", "/procedures"):
        answer = client.get(page)
        assert answer.status_code == 200
        assert "this job cannot be planned on it" in answer.text


def _captured_four(client: TestClient, store: "sessionmaker[Session]", csrf: str) -> None:
    """An inline four with a plenum on it, kept as a sheet with nothing sourced."""
    begun = {"csrf": csrf, "make": "Tarn", "name": "four", "shape": "inline-four"}
    client.post("/engines/new", data=begun)
    with store() as session:
        number = drafts.current(session, "tarn-four").number
    act = {"csrf": csrf, "number": str(number)}
    client.post("/capture/tarn-four/add", data={**act, "kind": "plenum"})
    for held in ("4 hex bolts 10 mm 9 Nm", "2 nuts hex 13 22 Nm"):
        with store() as session:
            act["number"] = str(drafts.current(session, "tarn-four").number)
        client.post("/capture/tarn-four/joint", data={**act, "part": "plenum", "joint": held})
    with store.begin() as session:
        drafts.keep(session, "tarn-four", drafts.current(session, "tarn-four").number, "trainer")


def test_one_source_is_stated_for_many_figures_and_a_new_one_where_the_plug_is(
    client: TestClient, store: "sessionmaker[Session]"
) -> None:
    """All that is open is listed; a plug's lengths are in millimetres where no unit is said."""
    csrf = sign_in(client, "trainer")
    _captured_four(client, store, csrf)
    home = "/engines/tarn-four/figures"
    page = client.get(home).text
    for words in (
        "plenum bolt 9 N·m: its source is to be stated",
        "plug: its source",
        "part number",
    ):
        assert words in page, words
    places = [rest.split('"')[0] for rest in page.split('name="figure" value="')[1:]]
    assert len(places) == 2
    source = {"source": "new", "document": "Tarn manual", "edition": "1", "kind": "manual"}
    none = client.post(f"{home}/source", data={"csrf": csrf, **source, "page": "4"})
    assert "tick those it is for" in none.text
    assert 'value="Tarn manual"' in none.text
    sent = {"csrf": csrf, **source, "page": "4", "figure": places}
    page = client.post(f"{home}/source", data=sent).text
    assert "bolt 9 N·m: its source is to be stated" not in page
    assert "Tarn manual" in page
    with store() as session:
        sheet = sheet_store.sheet(session, "tarn-four")
    plug = sheet.plugs[0]
    said = {
        **{name: str(getattr(plug, name)) for name in PLUG_FIELDS if name != "index"},
        "csrf": csrf,
        "revision": str(sheet.revision),
        "variant": "all",
        "reach": "26.5",
        "resistor": "yes",
        "adjustable": "no",
        "index": "",
        **source,
        "document": "Plug list",
        "page": "2",
    }
    page = client.post(f"{home}/plug-identity", data=said).text
    assert 'class="refusal"' not in page, page.split('class="refusal"')[1][:300]
    assert "Plug list" in page
    with store() as session:
        kept = sheet_store.sheet(session, "tarn-four").plugs[0]
    assert str(kept.reach) == "26.5 mm"
