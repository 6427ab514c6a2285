"""A week laid out over HTTP: chosen, laid out, moved by hand, what clashes said, two at once."""

import re

import pytest

from eldrim.web.due.week import days_of, read_people, week_of
from tests.web.client import TestClient
from tests.web.test_web import sign_in

# Both tugs have a re-check in it.
WEEK = "2026-W51"


def form(client: TestClient, csrf: str, **more: object) -> dict[str, object]:
    """What the page would send: all that is due, all bays."""
    page = client.get(f"/week?week={WEEK}").text
    version = re.search(r'name="version" value="(\d+)"', page)
    assert version is not None
    jobs = re.findall(r'name="job" value="([^"]+)"', page)
    plain = {"csrf": csrf, "week": WEEK, "version": version[1], "job": jobs}
    hands = {"people": "Tam Okely\nBerit: gas", "bay": ["Bay 1", "Bay 2"]}
    return {**plain, **hands, "opens": "8:00", "closes": "16:00", **more}


def keys(page: str) -> list[str]:
    """The jobs that can be moved, as the table has them."""
    return re.findall(r'name="key" value="([^"]+)"', page)


def test_what_is_due_is_laid_out_and_kept(client: TestClient) -> None:
    """Proven not to be late; a technician reads it and moves nothing."""
    csrf = sign_in(client, "lead")
    page = client.get(f"/week?week={WEEK}").text
    assert "<b>Tug 15</b>: Plug and coil, holes 2, 4 and 6" in page
    made = client.post("/week", data=form(client, csrf))
    assert "2 jobs laid out." in made.text
    assert "Nothing is late." in made.text
    assert 'class="week-bars"' in made.text
    csrf = sign_in(client, "technician")
    seen = client.get(f"/week?week={WEEK}").text
    assert "2 jobs laid out." in seen
    assert "Put it there" not in seen
    assert client.post("/week", data={"csrf": csrf, "week": WEEK}).status_code == 403
    assert "This week was not laid out." in client.get("/week?week=2027-W02").text


def test_what_is_moved_by_hand_says_what_clashes(client: TestClient) -> None:
    """It goes where it is put; one bay, one person and one wrench are named; out and in again."""
    csrf = sign_in(client, "lead")
    page = client.post("/week", data=form(client, csrf)).text
    first, second = keys(page)
    place = {"day": "2026-12-15", "bay": "Bay 1", "person": "Berit", "start": "600"}
    for version, key in ((1, first), (2, second)):
        moved = {"csrf": csrf, "week": WEEK, "version": str(version), "key": key, **place}
        page = client.post("/week/move", data=moved).text
    assert "This clashes" in page
    assert "are in Bay 1 at once" in page
    assert "Berit is to do" in page
    assert "torque wrench" in page
    assert "Moved by hand since" in page
    assert 'class="clash"' in page
    out = {"csrf": csrf, "week": WEEK, "version": "3", "key": second, "day": ""}
    page = client.post("/week/move", data=out).text
    assert "This clashes" not in page
    assert "1 without a place" in page
    old = client.post("/week/move", data={**out, "key": first})
    assert old.status_code == 409
    assert "Somebody else changed this week" in old.text
    assert client.post("/week", data=form(client, csrf, version="0")).status_code == 409


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"opens": "early"}, "is no time"),
        ({"closes": "8:30"}, "less than an hour"),
        ({"bay": []}, "no bay"),
        ({"people": " "}, "names nobody"),
        ({"job": []}, "no job is chosen"),
        ({"week": "2026-W77"}, "is no week"),
    ],
)
def test_a_week_that_cannot_be_is_refused(
    client: TestClient, more: dict[str, object], told: str
) -> None:
    """With the field and how it is written; nothing is kept."""
    csrf = sign_in(client, "lead")
    made = client.post("/week", data=form(client, csrf, **more))
    assert made.status_code == 422
    assert told in made.text
    assert "jobs laid out" not in client.get(f"/week?week={WEEK}").text


def test_a_move_that_cannot_be_is_refused(client: TestClient) -> None:
    """A job that is not in it, a day that is not, a week nobody laid out."""
    csrf = sign_in(client, "lead")
    page = client.post("/week", data=form(client, csrf)).text
    first = keys(page)[0]
    plain = {"csrf": csrf, "week": WEEK, "version": "1", "key": first, "day": "2026-12-15"}
    for wrong in ({"key": "x|y"}, {"day": "2026-01-01"}, {"week": "2026-W20"}, {"week": "soon"}):
        assert client.post("/week/move", data={**plain, **wrong}).status_code == 422
    assert client.post("/week/move", data={**plain, "start": "99999"}).status_code == 422


def test_weeks_and_people_are_read_as_they_are_written() -> None:
    """Skills behind a colon; the same name once."""
    assert [one.name for one in read_people("Tam\nIlse: Gas, coding; Tam: gas")] == ["Tam", "Ilse"]
    assert read_people("Ilse: Gas, coding")[0].skills == {"gas", "coding"}
    monday = days_of("2026-W53")[0]
    assert week_of(monday) == "2026-W53"
    assert week_of(days_of("2027-W01")[0]) == "2027-W01"
