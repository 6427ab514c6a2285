"""The log over HTTP: filtered, counted, as files, kept as views, noted on; parts and recall."""

import csv
import io
import re
import uuid
from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, select, text

from eldrim.store import gathered, searches
from eldrim.store.database import sessions
from eldrim.store.lesson_tables import DigestRow, FittedPartRow
from eldrim.store.tables import EntryRow, RunRow
from tests.web.client import TestClient, asking
from tests.web.test_web import sign_in


@pytest.fixture
def client(years: Engine) -> Iterator[TestClient]:
    """The application on two years of history, nobody signed in."""
    with asking(years) as made:
        yield made


@pytest.fixture
def plain(database: Engine) -> Iterator[TestClient]:
    """The application on the demo alone, nobody signed in."""
    with asking(database) as made:
        yield made


def listed(client: TestClient, asked: str) -> list[dict[str, str]]:
    """The runs that fit, as the file has them."""
    answer = client.get(f"/log.csv?{asked}")
    assert answer.status_code == 200, answer.text
    return list(csv.DictReader(io.StringIO(answer.text)))


def counted(client: TestClient, asked: str) -> int:
    """How many the page says there are."""
    found = re.search(r'class="log-sum">(\d+) run', client.get(f"/log?{asked}").text)
    return int(found[1]) if found else 0


def test_each_filter_gives_what_it_asks_for_and_no_more(client: TestClient) -> None:
    """The page counts what the file lists; each line of the file fits."""
    sign_in(client, "technician")
    every = listed(client, "")
    assert len(every) > 250
    checks = {
        "unit=tug-14": lambda row: row["unit"] == "tug-14",
        "engine=corvane-20-turbo-four": lambda row: row["engine"] == "corvane-20-turbo-four",
        "by=mira": lambda row: row["by"] == "Mira Sand",
        "marked=stop": lambda row: "stop" in row["marks"],
        "found=boot_torn": lambda row: "boot_torn" in row["found"].split("; "),
        "found=sooty-black": lambda row: "sooty-black" in row["found"].split("; "),
        "part=cv-bt-204": lambda row: "CV-BT-204" in row["parts"].split("; "),
        "part=CV-14": lambda row: "CV-14T-7" in row["parts"].split("; "),
        "since=2026-06-01&until=2026-06-30": lambda row: row["signed"].startswith("2026-0"),
        "unit=loader&marked=stop&part=CV-BT-204": lambda row: row["unit"].startswith("loader"),
    }
    for asked, fits in checks.items():
        found = listed(client, asked)
        assert found, asked
        assert all(fits(row) for row in found), asked
        assert counted(client, asked) == len(found), asked
    others = [row for row in every if row not in listed(client, "found=boot_torn")]
    assert not any("boot_torn" in row["found"] for row in others)


def test_words_are_found_wherever_they_were_said(client: TestClient) -> None:
    """All of them, each as it begins; nonsense finds nothing and breaks nothing."""
    sign_in(client, "technician")
    torn = listed(client, "found=boot_torn")
    assert {row["run"] for row in listed(client, "words=new+boot+seated")} == {
        row["run"] for row in torn
    }
    assert {row["unit"] for row in listed(client, "words=swee")} == {"sweeper-2"}
    for odd in ("'", "a & | !", "%", "\\", "🔧", "x" * 120, ":*", "()"):
        assert client.get("/log", params={"words": odd}).status_code == 200


def test_pages_of_a_filter_hold_every_run_once(client: TestClient) -> None:
    """From the first to the last, and as many as were counted."""
    sign_in(client, "technician")
    address, seen = "/log?engine=marlet-34-v6", list[str]()
    while address:
        page = client.get(address).text
        seen += re.findall(r'href="/log/([0-9a-f-]{36})"', page)
        older = re.search(r'href="(\?at=older[^"]+)"', page)
        address = f"/log{older[1].replace('&amp;', '&')}" if older else ""
    assert len(seen) == len(set(seen)) == len(listed(client, "engine=marlet-34-v6"))


@pytest.mark.parametrize("sort", ["", "oldest", "unit"])
def test_pages_hold_every_run_once_however_they_are_sorted(client: TestClient, sort: str) -> None:
    """On and back again: the same runs; what is sorted rises, the newest first falls."""
    sign_in(client, "technician")
    on, seen, addresses = f"/log?sort={sort}", list[str](), list[str]()
    while on:
        page, addresses = client.get(on).text, [*addresses, on]
        seen += re.findall(r'href="/log/([0-9a-f-]{36})"', page)
        after = re.search(r'href="(\?at=older[^"]+)"', page)
        on = f"/log{after[1].replace('&amp;', '&')}" if after else ""
    every = {row["run"]: row for row in listed(client, "")}
    assert len(addresses) > 1
    assert sorted(seen) == sorted(every)
    rows = [every[run]["unit" if sort == "unit" else "signed"] for run in seen]
    assert rows == sorted(rows, reverse=not sort)
    back = re.search(r'href="(\?at=newer[^"]+)"', client.get(addresses[1]).text)
    assert back
    first = client.get(f"/log{back[1].replace('&amp;', '&')}").text
    assert re.findall(r'href="/log/([0-9a-f-]{36})"', first) == seen[:50]
    odd = client.get(f"/log?sort={sort}&at=older~nonsense~1").text
    assert re.findall(r'href="/log/([0-9a-f-]{36})"', odd) == seen[:50], "no place: from the start"


def test_the_file_says_what_was_asked(client: TestClient) -> None:
    """JSON: the filter, whether there is more, and a line a run with its minutes and money."""
    sign_in(client, "technician")
    told = client.get("/log.json?unit=tug-14&marked=").json()
    assert told["format"] == "eldrim.log/1"
    assert told["asked"] == {"unit": "tug-14"}
    assert told["more"] is False
    wrong = client.get("/log.json?since=soon")
    assert wrong.status_code == 422
    assert "is no day" in wrong.text
    assert all(one["took_minutes"] > 0 < one["planned_cost"] for one in told["runs"])
    assert all(isinstance(one["marks"], dict) for one in told["runs"])


def test_views_are_kept_by_each_person_for_themselves(plain: TestClient) -> None:
    """Under a name, once; gone when taken away; too many and nameless ones are refused in words."""
    csrf = sign_in(plain, "trainer")
    view = {"csrf": csrf, "name": "Tugs with stops", "unit": "tug", "marked": "stop"}
    for _ in range(2):
        page = plain.post("/log/views", data=view).text
    assert page.count("Tugs with stops</a>") == 1
    assert "/log?unit=tug&amp;marked=stop" in page
    assert plain.post("/log/views", data={**view, "name": " "}).status_code == 422
    assert plain.post("/log/views", data={"csrf": csrf, "name": "all"}).status_code == 422
    for n in range(19):
        assert plain.post("/log/views", data={**view, "name": f"view {n}"}).status_code == 200
    assert "20 views are kept already" in plain.post("/log/views", data={**view, "name": "x"}).text
    dropped = plain.post("/log/views/drop", data={"csrf": csrf, "name": "Tugs with stops"}).text
    assert "Tugs with stops" not in dropped
    sign_in(plain, "lead")
    assert "view 3" not in plain.get("/log").text


def note(client: TestClient, csrf: str, run: object, **form: str) -> str:
    """Note something on a run; the page after it."""
    said = {"csrf": csrf, "id": str(uuid.uuid4()), "kind": "other", **form}
    return client.post(f"/log/{run}/notes", data=said).text


def test_a_signed_run_is_noted_on(plain: TestClient, database: Engine) -> None:
    """By an entry of its own: found again, in the files, once however often it is sent."""
    csrf = sign_in(plain, "technician")
    with sessions(database)() as session:
        run = session.scalars(select(RunRow.id).where(RunRow.unit_id == "tug-15")).first()
    before = plain.get(f"/log/{run}").text
    assert "gap as left" in before
    assert "out of the box" not in before, "asked of nobody, and measured by nobody"
    assert "Since then" not in before
    same = str(uuid.uuid4())
    for _ in range(2):
        page = note(plain, csrf, run, id=same, words="Driver says it idles like new")
    assert page.count("Noted: Driver says it idles like new") >= 1
    assert "Since then" in page
    assert [row["run"] for row in listed(plain, "words=idles+like")] == [str(run)]
    assert [row["run"] for row in listed(plain, "marked=note")] == [str(run)]
    entries = plain.get(f"/log/{run}/run.json").json()["entries"]
    assert sum(one["entry"]["kind"] == "note" for one in entries) == 1
    assert "idles like new" in plain.get(f"/log/{run}/run.csv").text
    assert plain.get(f"/log/{run}/run.pdf").content.startswith(b"%PDF")
    assert "write what is to be noted" in note(plain, csrf, run, words=" ")
    assert "say whether it proved itself" in note(plain, csrf, run, kind="nonsense")


def test_what_came_back_proves_no_cause_any_more(plain: TestClient, database: Engine) -> None:
    """And a watch that passed takes its early look off what is due."""
    csrf = sign_in(plain, "technician")
    with sessions(database)() as session:
        search = session.scalars(select(DigestRow.run_id).where(DigestRow.search != "")).one()
        watched = session.scalars(select(RunRow.id).where(RunRow.unit_id == "tug-15")).one()
        assert searches.proven_causes(session) == {"coil-circuit": {"coil": 1.0}}
    note(plain, csrf, search, kind="came_back")
    assert "Re-check" in plain.get("/due?unit=tug-15").text
    note(plain, csrf, watched, kind="passed")
    assert "Re-check" not in plain.get("/due?unit=tug-15").text
    with sessions(database)() as session:
        assert searches.proven_causes(session) == {}


def test_nothing_is_noted_before_the_signature(plain: TestClient, database: Engine) -> None:
    """It is said why; nothing is kept."""
    csrf = sign_in(plain, "technician")
    with sessions(database).begin() as session:
        row = session.scalars(select(RunRow).where(RunRow.unit_id == "tug-15")).one()
        edition, unit = row.edition_id, row.unit_id
    run = str(uuid.uuid4())
    asked = {"csrf": csrf, "run": run, "edition": str(edition), "unit": unit, "anyway": "yes"}
    plain.post("/bay/runs", data=asked)
    assert "before it is signed" in note(plain, csrf, run, words="early")
    with sessions(database)() as session:
        assert not session.scalars(select(EntryRow).where(EntryRow.run_id == run)).all()


def test_parts_their_lives_and_a_recall(client: TestClient) -> None:
    """What fails most stands first; a number tells its bad batch and every hole it is in now."""
    sign_in(client, "technician")
    page = client.get("/parts").text
    assert page.index("CV-BT-204") < page.index("MP-12L-IR6")
    one = client.get("/parts/boot?number=CV-BT-204").text
    assert "failed; of the" in one
    assert 'class="survival"' in one
    rows = list(
        csv.DictReader(io.StringIO(client.get("/parts/boot/recall.csv?number=CV-BT-204").text))
    )
    places = {(row["unit"], row["hole"]) for row in rows}
    assert places == {(unit, str(h)) for unit in ("loader-6", "loader-9") for h in (1, 2, 3, 4)}
    kind = client.get("/parts/boot").text
    assert "Boot of every number" in kind
    assert 'class="survival"' in kind
    assert "Where it is now" not in kind
    assert "In no unit" in client.get("/parts/plug?number=NO-SUCH").text
    assert "Nothing like this" in client.get("/parts?said=zzz").text
    for odd in ("%", "'", "x" * 119):
        assert client.get("/parts/plug", params={"number": odd}).status_code == 200


def test_one_life_follows_the_other_in_each_hole(years: Engine) -> None:
    """Of each thing at most one is in a hole; each ends when the next is fitted."""
    with sessions(years)() as session:
        rows = session.scalars(select(FittedPartRow).order_by(FittedPartRow.at)).all()
    holes: dict[tuple[str, str, str], list[FittedPartRow]] = {}
    for row in rows:
        holes.setdefault((row.unit_id, row.thing, row.hole), []).append(row)
    assert len(holes) > 40
    for lives in holes.values():
        assert [row.out_at for row in lives[:-1]] == [row.at for row in lives[1:]]
        assert lives[-1].out_at is None
        ran = [row.out_meter - row.meter for row in lives[:-1] if row.out_meter and row.meter]
        assert all(one >= 0 for one in ran)


def test_runs_of_earlier_versions_are_gathered_as_the_log_is_looked_at(database: Engine) -> None:
    """In the order they were signed; what cannot be read is passed over, and once."""
    with sessions(database).begin() as session:
        for table in ("run_digests", "fitted_parts", "part_kinds", "wrench_weeks"):
            session.execute(text(f"DELETE FROM {table}"))
        session.execute(text("UPDATE runs SET gathered = false, parts = '{}', said = ''"))
    with asking(database) as client:
        sign_in(client, "technician")
        assert listed(client, "part=CV-14T-7") == []
        client.get("/log")
        assert len(listed(client, "part=CV-14T-7")) == 2
    with sessions(database).begin() as session:
        gathered.settle(session, 50)
        assert session.scalar(text("SELECT count(*) FROM runs WHERE NOT gathered")) == 0
