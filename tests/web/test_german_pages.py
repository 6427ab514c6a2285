"""Every page in German: nothing is left in English but what people wrote themselves."""

import re
from collections.abc import Iterator
from itertools import chain

import pytest
from sqlalchemy import Engine, inspect, text

from tests.pages import PAGES
from tests.sweeps import deep
from tests.web.client import TestClient, asking
from tests.web.german_walk import english_left, leaves
from tests.web.test_web import sign_in

# So many pages are looked at of each kind.
EACH = 4 if deep() else 2
# Addresses that are no page, or that the walk must not follow.
SKIPPED = re.compile(r"\.(pdf|csv|json|ics|md|svg|jpg|png|yaml)\b|^/static|^/sw|^/api/|^/sign-out")
HREF = re.compile(r'(?:href|hx-get)="(/[^"#]*)')
# Engines that are being drawn, so that their boards are pages too.
ON_THE_BOARD = ("marlet-34-v6", "ostler-16-flat-four")
BEGIN = {
    "trainer": (
        *PAGES,
        "/api",
        "/engines/marlet-34-v6/plugs?hole-1=sooty-black&hole-3=ok",
        "/engines/fendrake-50-marine-v8/leads?found=1: 1; 2: 8",
        "/capture/marlet-34-v6?part=plenum",
        "/capture/marlet-34-v6?part=loom",
        "/capture/marlet-34-v6/offers?part=plenum",
        "/capture/marlet-34-v6/offers",
        "/capture/ostler-16-flat-four?part=lead/1",
        "/capture/ostler-16-flat-four/teardown",
    ),
    "lead": ("/desk", "/floor", "/open", "/people", "/audit"),
    "technician": ("/desk", "/bay"),
}


def kind_of(address: str) -> str:
    """What a page is a page of: its address without what it is about."""
    path, _, asked = address.partition("?")
    parts = [
        "*" if re.search(r"\d|-", part) and place != 1 else part
        for place, part in enumerate(path.split("/"))
    ]
    return "/".join(parts) + ("?" if asked else "")


def everything_kept(database: Engine) -> set[str]:
    """Every text that somebody's data holds, and that the demo keeps in English."""
    found: set[str] = set()
    with database.connect() as connection:
        for table in inspect(database).get_table_names():
            for row in connection.execute(text(f'SELECT * FROM "{table}"')):
                found.update(chain.from_iterable(leaves(value) for value in row))
    found = {re.sub(r"\s+", " ", one.strip()) for one in found}
    return {
        one
        for whole in found
        for one in (whole, f"{whole[:1].lower()}{whole[1:]}", f"{whole[:1].upper()}{whole[1:]}")
    }


def walked(client: TestClient, begin: tuple[str, ...]) -> Iterator[tuple[str, str]]:
    """Every page that is to be come to from where somebody begins, some of each kind."""
    waiting, seen, counts = list(begin), set[str](), dict[str, int]()
    while waiting:
        address = waiting.pop(0)
        kind = kind_of(address)
        if address in seen or SKIPPED.search(address) or counts.get(kind, 0) >= EACH:
            continue
        seen.add(address)
        answer = client.get(address)
        if not answer.headers.get("content-type", "").startswith("text/html"):
            continue
        counts[kind] = counts.get(kind, 0) + 1
        yield address, answer.text
        waiting += [one.replace("&amp;", "&") for one in HREF.findall(answer.text)]


@pytest.mark.sweep(1)
@pytest.mark.parametrize("role", sorted(BEGIN))
def test_no_page_has_a_sentence_of_english_in_german(database: Engine, role: str) -> None:
    """Whatever links lead to, for each role."""
    with asking(database, {"accept-language": "de-AT,de;q=0.9"}) as client:
        csrf = sign_in(client, role)
        if role == "trainer":
            for engine in ON_THE_BOARD:
                client.post(f"/engines/{engine}/capture", data={"csrf": csrf})
        pages = list(walked(client, BEGIN[role]))
    # What is due is kept when it is first looked at: the data is read when all was seen.
    data, left = everything_kept(database), dict[str, str]()
    for address, page in pages:
        for one in english_left(page, data):
            left.setdefault(one, address)
    assert not left, "\n".join(f"{at}: {one}" for one, at in left.items())


# What is the same word in both languages.
ALIKE = {"Tank", "tank"}


def test_what_is_chosen_on_the_board_is_german(database: Engine) -> None:
    """Each choice of kinds, ways, shapes and the like: a single word is no sentence to be found."""
    with asking(database) as client:
        csrf = sign_in(client, "trainer")
        client.post("/engines/marlet-34-v6/capture", data={"csrf": csrf})
        english, german = (
            set(OPTION.findall(client.get(BOARD, headers={"accept-language": language}).text))
            for language in ("en", "de")
        )
    left = {one.strip() for one in english & german} - everything_kept(database) - ALIKE
    assert {one for one in left if re.search("[a-z]{3}", one)} == set()


OPTION = re.compile(r'<option value="[a-z_]*"[^>]*>([^<]+)<')
BOARD = "/capture/marlet-34-v6?part=plenum"
