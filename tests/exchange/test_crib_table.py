"""The crib as a table: out and in again the same, and every fault by row and column."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.base.errors import ProblemsError
from eldrim.core.tools.crib import Crib, Tool
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.demo.load import demo_crib
from eldrim.exchange.crib_table import COLUMNS, read_csv, write_csv

EVERY = tuple(STANDARD_CRIB.all())


@given(st.lists(st.sampled_from(EVERY), unique_by=lambda t: t.id), st.integers(0, 20))
def test_out_and_in_again_is_the_same(chosen: list[Tool], count: int) -> None:
    """Whatever tools there are, and however many."""
    crib = Crib().plus(*(t.model_copy(update={"count": count, "note": "a, b; c"}) for t in chosen))
    assert read_csv(write_csv(crib).encode()) == crib


def test_a_spreadsheet_s_way_of_writing_is_understood() -> None:
    """Semicolons, a byte order mark, decimal commas, a percent sign, no key."""
    text = (
        "\ufeffKind;Drive;Size;Length;Outside;Full scale;Graduation;Tolerance;Head;Due\n"
        "sockets;3/8;16 mm;62 mm;22,5 mm;;;;;\n"
        "wrenches;3/8;;320 mm;;50;0,5;3 %;36 mm;2027-03-01\n;;;;;;;;;\n"
    )
    crib = read_csv(text.encode())
    assert crib.sockets[0].outside.mid == 22.5
    assert crib.sockets[0].id
    assert crib.wrenches[0].share == 0.03
    assert crib.wrenches[0].graduation == 0.5


@pytest.mark.parametrize(
    ("row", "place", "says"),
    [
        ("hammers,x,,,", "row 2, kind", "no kind of tool"),
        ("sockets,a,16 mm,,22 mm", "row 2 (sockets a), length", "missing"),
        ("sockets,a,16 kg,62 mm,22 mm", "row 2 (sockets a), size", "measures mass"),
        ("sockets,a,16,62 mm,22 mm", "row 2 (sockets a), size", "no unit"),
        ("sockets,s,16 mm,62 mm,22 mm", "crib", "two tools have the key 's'"),
    ],
)
def test_a_fault_is_named_by_row_and_column(row: str, place: str, says: str) -> None:
    """And nothing is taken in."""
    text = f"kind,id,size,length,outside,drive\nsockets,s,10 mm,20 mm,15 mm,3/8\n{row},3/8\n"
    with pytest.raises(ProblemsError) as caught:
        read_csv(text.encode())
    assert [p for p in caught.value.problems if p.path == place and says in p.message], (
        caught.value.problems
    )


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"size,length\n1,2\n", "no column 'kind'"),
        (b"kind,colour\n", "column 'colour'"),
        (b"kind\n\xff\n", "not UTF-8"),
        (b"kind\n" + b"sockets\n" * 60_000, "over 400 kB"),
        (b"kind\n" + b"sockets\n" * 2_000, "2000 rows"),
    ],
)
def test_what_is_no_crib_is_refused(data: bytes, says: str) -> None:
    """With what to do instead."""
    with pytest.raises(ProblemsError, match=says):
        read_csv(data)


def test_the_demo_crib_is_realistic_and_lacks_a_few_things() -> None:
    """Most of what is usual is there; not everything."""
    owned = {t.name for t in demo_crib().all()}
    usual = {t.name for t in STANDARD_CRIB.all()}
    assert len(usual - owned) >= 8
    assert len(owned & usual) > 50
    assert set(write_csv(demo_crib()).split("\n", 1)[0].split(",")) == set(COLUMNS)


def test_no_cell_of_it_is_run_by_a_spreadsheet() -> None:
    """And what was marked for that is read back as it was."""
    tool = STANDARD_CRIB.sockets[0].model_copy(update={"mark": "=1+1", "note": "+ the old one"})
    text = write_csv(STANDARD_CRIB.model_copy(update={"sockets": (tool,)}))
    assert "'=1+1" in text
    assert "'+ the old one" in text
    [back] = read_csv(text.encode()).sockets
    assert (back.mark, back.note) == (tool.mark, tool.note)
