"""One box finds engines, parts, figures, numbers, steps and units, as they are typed."""

import pytest
from sqlalchemy.orm import Session, sessionmaker

from eldrim.core.engine.edit import put_figure
from eldrim.core.engine.model import Figure
from eldrim.store import search, sheet_store
from tests.web.client import TestClient
from tests.web.test_web import sign_in

Store = sessionmaker[Session]


@pytest.mark.parametrize(
    ("typed", "kind", "title"),
    [
        ("marlet", "engine", "Marlet 3.4 vee six, across"),
        ("plen", "part", "Intake plenum"),
        ("MP-12L", "part number", "MP-12L-IR6"),
        ("MG-340-11", "part", "Intake plenum"),
        ("marlet coil bolt", "figure", "coil bolt"),
        ("tug 14", "unit", "Tug 14"),
        ("2231", "unit", "Tug 14"),
        ("torque plug 4", "step", "Torque plug 4"),
        ("dunmarl plug", "procedure", "Plug, holes 4, 5 and 6"),
    ],
)
def test_what_is_begun_is_found(store: Store, typed: str, kind: str, title: str) -> None:
    """The last word need not be finished."""
    with store.begin() as session:
        found = [(f.kind, f.title) for f in search.find(session, typed)]
    assert (kind, title) in found


@pytest.mark.parametrize("typed", ["", "   ", "&|!()", "'; drop table users", ":*"])
def test_signs_are_no_commands(store: Store, typed: str) -> None:
    """Whatever is typed is looked for, or nothing is."""
    with store.begin() as session:
        assert search.find(session, typed) == [] or typed.strip("'; ")


def test_a_changed_sheet_is_found_by_its_new_words(store: Store) -> None:
    """And no more by the old ones."""
    with store.begin() as session:
        sheet = sheet_store.sheet(session, "marlet-34-v6")
        figure = Figure.model_validate(
            {"value": "8 to 9 N·m", "source": "wm", "page": "6-14", "note": "zebrawood insert"}
        )
        sheet_store.save_sheet(session, put_figure(sheet, "coil-bolt", figure, 0), "trainer")
    with store.begin() as session:
        assert [f.title for f in search.find(session, "zebraw")] == ["coil bolt"]
        again = put_figure(
            sheet_store.sheet(session, "marlet-34-v6"),
            "coil-bolt",
            figure.model_copy(update={"note": ""}),
            0,
        )
        sheet_store.save_sheet(session, again, "trainer")
        assert search.find(session, "zebraw") == []


def test_the_box_answers_as_a_page_and_as_a_part(client: TestClient) -> None:
    """Links go to the place."""
    sign_in(client, "technician")
    page = client.get("/search?q=coil+bolt")
    assert "found for" in page.text
    assert "/engines/marlet-34-v6/figures#coil-bolt" in page.text
    part = client.get("/search?q=xyzzy", headers={"hx-request": "true"}).text
    assert "<html" not in part
    assert "Nothing has these words" in part
