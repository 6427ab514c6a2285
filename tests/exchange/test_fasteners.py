"""A table of fasteners: read as spreadsheets write it, shown row by row, all or nothing."""

import pytest

from eldrim.core.base.errors import EngineError, ProblemsError
from eldrim.demo.load import demo_engines
from eldrim.exchange.fasteners import read_fasteners, with_fasteners

SIX = next(engine for engine in demo_engines() if engine.id == "marlet-34-v6")
TABLE = """Part;Count;Kind;Head;Size;Torque (N·m);One-time;Part number;Note
Sound cover;4;bolts;hex;10;9;;;
plenum;2;studs;;;;;;
"""


def test_columns_of_their_own_mean_a_line_of_shorthand() -> None:
    """A unit in the head of a column holds for it; the note is kept as it is."""
    row = "Intake duct;3;bolts;inner-hex;5;7 to 9;yes;D-9;air box end; first"
    [read] = read_fasteners(SIX, TABLE.split("\n")[0] + "\n" + row.replace("; first", " first"))
    assert read.said is not None
    joint = read.said.joint
    assert (joint.count, str(joint.size), joint.one_time) == (3, "5 mm", True)
    assert (str(read.said.torque), joint.part_number) == ("7 to 9 N·m", "D-9")
    assert joint.note == "air box end first"
    made = with_fasteners(SIX, (read,))
    assert len(made.parts["intake-duct"].joints) == len(SIX.parts["intake-duct"].joints) + 1


def test_a_part_number_may_have_blanks() -> None:
    """It is kept as it is written."""
    [read] = read_fasteners(SIX, "part;kind;part number;note\nplenum;gasket;MG 340 11;dry\n")
    assert read.said is not None
    assert (read.said.joint.part_number, read.said.joint.note) == ("MG 340 11", "dry")


def test_the_shorthand_may_stand_in_one_column() -> None:
    """Commas and tabs between columns do as well."""
    comma = read_fasteners(SIX, "part,held by\nplenum,2 clips\n")
    tabbed = read_fasteners(SIX, "Part\tHeld by\nplenum\t2 clips\n")
    assert comma == tabbed
    assert comma[0].said is not None


def test_a_table_taken_in_twice_adds_nothing_the_second_time() -> None:
    """What is held so already is told and left alone."""
    text = "part,held by\nplenum,2 hex bolts 8 mm 5 N·m\n"
    made = with_fasteners(SIX, read_fasteners(SIX, text))
    again = read_fasteners(made, text)
    assert [row.known for row in again] == [True]
    assert with_fasteners(made, again) == made


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("part,held by\nplenom,2 clips\n", "did you mean"),
        ("part,held by\nplenum,2 frobs\n", "no kind of joint"),
        ("part,count,kind,size,torque\nplenum,2,bolts,10,9\n", "has no unit"),
        ("part,held by\nplenum,bolt\n", "needs its size"),
        ("part,held by\nplenum,99999 clips\n", "60"),
    ],
)
def test_a_row_that_is_wrong_is_named_and_nothing_is_taken_in(text: str, says: str) -> None:
    """The others are read all the same, to be shown."""
    rows = read_fasteners(SIX, text + "plenum,2 clips\n")
    assert says in rows[0].problem
    with pytest.raises(EngineError, match="row 2"):
        with_fasteners(SIX, rows)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no column 'part'"),
        ("part,colour\nplenum,red\n", "'colour' is not known"),
        ("held by\n2 clips\n", "no column 'part'"),
        ("part,held by\n,\n", "no row"),
        ("part,held by\n" + "plenum,clip\n" * 400, "400 rows"),
    ],
)
def test_a_table_that_cannot_be_read_says_why(text: str, says: str) -> None:
    """And what a table looks like."""
    with pytest.raises(ProblemsError, match=says):
        read_fasteners(SIX, text)
