"""The drawing board's acts, without a browser: what a sheet may say can be said there."""

from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import Engine as SqlEngine
from sqlalchemy import event

from eldrim.core.engine import Engine
from eldrim.store import drafts
from tests.web.client import TestClient
from tests.web.test_release import Store
from tests.web.test_web import sign_in

KEY = "tarn-four"
# The engine's own facts as the board sends them.
GROUND = {
    "timing_end": "left",
    "stand": "bottom",
    "bulkhead": "",
    "head": "aluminium",
    "charging": "natural",
    "fuel": "petrol",
    "service": "road",
    "system": "12 V",
    "firing_order": "1 3 4 2",
}


class Board:
    """A trainer at an inline four that was just begun."""

    def __init__(self, client: TestClient, store: Store) -> None:
        """Sign in and begin."""
        self.client, self.store = client, store
        self.csrf = sign_in(client, "trainer")
        begun = {"csrf": self.csrf, "make": "Tarn", "name": "four", "shape": "inline-four"}
        client.post("/engines/new", data=begun)

    def act(self, name: str, part: str = "", /, **fields: str) -> str:
        """Do one act; return the page."""
        with self.store() as session:
            number = drafts.current(session, KEY).number
        form = {"csrf": self.csrf, "number": str(number), "part": part, **fields}
        return self.client.post(f"/capture/{KEY}/{name}", data=form).text

    @property
    def engine(self) -> Engine:
        """What is drawn now."""
        with self.store() as session:
            return drafts.current(session, KEY).engine


@pytest.fixture
def board(client: TestClient, store: Store) -> Board:
    """The board of a fresh application."""
    return Board(client, store)


def test_the_engine_s_own_facts_hold_marks_diagnosis_and_isolation(board: Board) -> None:
    """Marks in the order of the cylinders; too few are refused, with nothing changed."""
    marks = "A, B, , D"
    board.act("ground", **GROUND, marks=marks, diagnosis="none", isolate="always")
    made = board.engine
    assert [cylinder.mark for cylinder in made.cylinders.values()] == ["A", "B", "", "D"]
    assert (made.layout.diagnosis, made.layout.isolate) == ("none", True)
    refused = board.act("ground", **GROUND, marks="A, B")
    assert "2 marks are said" in refused
    assert "write 4, apart by commas" in refused
    assert board.engine == made
    board.act("ground", **GROUND)
    assert not any(cylinder.mark for cylinder in board.engine.cylinders.values())
    assert board.engine.layout.diagnosis is None


def test_the_maker_s_own_codes_are_explained_in_a_line(board: Board) -> None:
    """Kept and shown again; what is not understood changes nothing."""
    said = "P1302 = misfire 2: fuel cut at 2; E-17: oil level"
    assert said.replace("'", "&#39;") in board.act("ground", **GROUND, own_codes=said)
    made = board.engine
    assert made.own_codes["P1302"].cylinder == 2
    for wrong, told in (
        ("P1302 misfire", "is not understood"),
        ("P1302 = misfire 9: x", "cylinder 9 does not exist"),
        ("P1302: " + "long " * 400, "characters"),
    ):
        assert told in board.act("ground", **GROUND, own_codes=wrong), wrong
        assert board.engine == made
    board.act("ground", **GROUND)
    assert board.engine.own_codes == made.own_codes, "not asked about, not changed"
    shared = "; ".join(f"Brake vacuum take-off number {n}: air {n % 4 + 1}" for n in range(12))
    board.act("ground", **GROUND, shared=shared)
    assert len(board.engine.shared) == 12, "a long line is read to its end"


def test_towers_and_ways_are_typed_and_drawn(client: TestClient, store: Store) -> None:
    """On the board of an engine with leads; what cannot be changes nothing."""
    csrf = sign_in(client, "trainer")
    client.post("/engines/ostler-16-flat-four/capture", data={"csrf": csrf})

    def now() -> drafts.Draft:
        with store() as session:
            return drafts.current(session, "ostler-16-flat-four")

    def act(**fields: str) -> str:
        facts = {**GROUND, "firing_order": "1 4 3 2", "system": "24 V", **fields}
        form = {"csrf": csrf, "number": str(now().number), "part": "", **facts}
        return client.post("/capture/ostler-16-flat-four/ground", data=form).text

    towers, ways = "at 300 380; left; tower one 12°", "1: 430 420; 2: 500 mm"
    page = act(towers=towers, lead_runs=ways)
    assert 'class="towers"' in page
    assert page.count('class="lead-way"') == 5, "that of the main coil too"
    made = now().engine
    assert made.ignition.distributor is not None
    assert (made.ignition.distributor.turns, set(made.lead_runs)) == ("left", {"1", "2"})
    for wrong, told in (
        ({"towers": "at 300; left", "lead_runs": ways}, "is not understood"),
        ({"towers": "at 9000 380; left; tower one 12°", "lead_runs": ways}, "off the plan"),
        ({"towers": towers, "lead_runs": "9: 300 mm"}, "is no hole"),
    ):
        assert told in act(**wrong), wrong
        assert now().engine == made
    # What is left of it says which field goes with it; then all of it goes.
    assert "states no distributor" in act(towers="", lead_runs="")
    assert now().engine == made
    text = "cap #OS-C-5: 2 clips; distributor: hex nut 13 mm 12 N·m"
    timing = "pulley 150 mm; marks 0, 8; runs left; vacuum plugged; source wm p. 33"
    act(towers=towers, lead_runs=ways, pieces=text, timing=timing)
    assert now().engine.pieces["cap"].part_number == "OS-C-5"
    assert now().engine.timing.turns == "left"
    assert "is not understood" in act(towers=towers, pieces="lid", timing=timing)
    act(towers="", lead_runs="", pieces="", timing="")
    assert now().engine.ignition.distributor is None
    assert (now().engine.pieces, now().engine.timing) == ({}, None)


def test_some_pieces_of_a_group_are_hindered(board: Board) -> None:
    """A piece there is none of is refused with those there are."""
    board.act("add", kind="plenum")
    board.act("joint", "plenum", joint="4 deep hex bolts 10 mm 9 Nm")
    board.act("add", kind="hose")
    assert board.engine.parts["plenum"].joints["bolt"].socket == "deep"
    refused = board.act("hinder", "hose", target="joint/plenum/bolt", kind="hides", pieces="2, 9")
    assert 'role="alert"' in refused
    before = len(board.engine.hindrances)
    board.act("hinder", "hose", target="joint/plenum/bolt", kind="hides", pieces="2, 3")
    assert board.engine.hindrances[before].of == ("joint/plenum/bolt/2,3",)


def test_a_part_that_never_moves_is_pushed_onto_or_opens(board: Board) -> None:
    """Said in the part's own forms."""
    board.act("add", kind="duct")
    board.act("add", kind="plenum")
    described = {"name": "Plenum", "kind": "plenum", "level": "3", "opens": "ports"}
    board.act("describe", "plenum", **described, pushes_onto="Duct", needed_to_run="yes")
    board.act("way", "plenum", kind="loosen_and_shift", out="2", back="3", opens="inlet")
    plenum = board.engine.parts["plenum"]
    assert plenum.pushes_onto == ("duct",)
    assert plenum.ways["loosen-and-shift"].opens == ("inlet",)
    said = board.act("describe", "plenum", **described, pushes_onto="nowhere")
    assert "is no part" in said
    board.act("describe", "plenum", **described, fixed="yes")
    assert not board.engine.parts["plenum"].ways


def test_a_well_is_noted_for_the_cylinders_chosen(board: Board) -> None:
    """The others keep theirs."""
    board.act("wells", **{"note-2-0": "Wipe first.", "depth-2-0": "95"})
    assert str(board.engine.cylinders[2].wells[0].depth) == "95 mm", "only millimetres fit"
    notes = [cylinder.wells[0].note for cylinder in board.engine.cylinders.values()]
    assert notes == ["", "Wipe first.", "", ""]


def test_a_coil_is_described_like_a_part(board: Board) -> None:
    """How it is held, its number, its boot; never held by nothing."""
    board.act("carrier", place="0", part_number="C-4711", boot_part="B-12")
    [coil] = board.engine.coils
    assert (coil.part_number, coil.boot_part) == ("C-4711", "B-12")
    board.act("carrier-joint", place="0", joint="2 hex bolts 8 mm 6 Nm")
    [coil] = board.engine.coils
    [bolts] = [key for key, joint in coil.joints.items() if joint.count == 2]
    assert coil.joints[bolts].torque in board.engine.figures
    for key in list(coil.joints)[:-1]:
        board.act("carrier-unjoint", place="0", key=key)
    [last] = board.engine.coils[0].joints
    assert "nothing would hold it" in board.act("carrier-unjoint", place="0", key=last)
    assert list(board.engine.coils[0].joints) == [last]


def test_a_firing_order_names_every_cylinder_once(board: Board) -> None:
    """What a file is refused for is not kept on the board either."""
    before = board.engine
    for said in ("1 3 5 2 4", "1 3 4", "1 3 4 4"):
        told = board.act("ground", **{**GROUND, "firing_order": said})
        assert "is no order of this engine" in told
    assert board.engine == before


def refused(board: Board, name: str, part: str = "", /, **fields: str) -> str:
    """Do one act as the page's script does, and return what is put beside its form."""
    with board.store() as session:
        number = drafts.current(session, KEY).number
    form = {"csrf": board.csrf, "number": str(number), "part": part, **fields}
    answer = board.client.post(f"/capture/{KEY}/{name}", data=form, headers={"hx-request": "true"})
    assert answer.headers["hx-retarget"] == "find .form-said"
    assert 'id="capture"' not in answer.text, "the board stays as it is, with all that is typed"
    return answer.text


def test_a_refusal_stands_at_its_form_in_the_shop_s_words(board: Board) -> None:
    """No path of a file, no words of a program; what was typed is not drawn over."""
    said = refused(board, "wells", **{"room_above-1-0": "a hand"})
    assert "cylinder 1, room over" in said
    assert not any(word in said for word in ("Tuple", "Value error", "room_above", "wells."))
    board.act("add", kind="plenum")
    assert "is not a time in minutes" in refused(board, "way", "plenum", kind="remove", out="soon")
    board.act("way", "plenum", kind="remove", out="0,5", back="half a minute")
    way = board.engine.parts["plenum"].ways["remove"]
    assert (str(way.out), str(way.back)) == ("0.5 min", "0.5 min")


def test_the_board_keeps_nothing_that_a_file_may_not_say(board: Board) -> None:
    """One judgement for board, sheet, file and store."""
    before = board.engine
    assert "depth" in refused(board, "wells", **{"depth-1-0": "9000 mm"})
    assert board.engine == before


def test_a_hindrance_is_said_of_any_part_and_the_other_way_round(board: Board) -> None:
    """Also where nothing laps, and of one joint."""
    board.act("add", kind="plenum")
    board.act("add", kind="bracket")
    board.act("hinder", "plenum", target="bracket", kind="blocks_exit")
    board.act("hinder", "plenum", target="bracket", kind="holds_short", turned="yes")
    said = [(h.part, h.of, h.kind.value) for h in board.engine.hindrances][-2:]
    assert said == [
        ("plenum", ("bracket",), "blocks_exit"),
        ("bracket", ("plenum",), "holds_short"),
    ]


def test_a_capture_is_thrown_away_and_enter_picks_no_shape(board: Board) -> None:
    """Typed names stay where no shape was pressed."""
    asked = board.client.post(
        "/engines/new", data={"csrf": board.csrf, "make": "Tarn", "name": "six", "of": "x"}
    )
    assert asked.status_code == 422
    assert 'value="six"' in asked.text
    assert "Press the shape" in asked.text
    with board.store() as session:
        number = drafts.current(session, KEY).number
    form = {"csrf": board.csrf, "number": str(number)}
    assert board.client.post(f"/capture/{KEY}/discard", data=form).status_code == 200
    with board.store() as session:
        assert KEY not in drafts.open_drafts(session)


def test_a_part_met_beside_the_engine_is_placed_and_named_by_a_person(board: Board) -> None:
    """Without a place it is asked for; nothing is told from a place nobody gave."""
    at = f"/capture/{KEY}/teardown"
    form = {"csrf": board.csrf, "id": str(uuid4()), "kind": "hose", "name": "Breather"}
    asked = board.client.post(f"{at}/new", data=form)
    assert asked.status_code == 422
    assert "Where does it lie?" in asked.text
    assert "breather" not in board.engine.parts
    board.client.post(f"{at}/new", data={**form, "x": "120", "y": "80"})
    made = board.engine.parts["breather"]
    assert made.name == "Breather"
    assert min(x for x, _ in made.outline) <= 120 <= max(x for x, _ in made.outline)
    page = board.client.post(
        f"{at}/tap", data={"csrf": board.csrf, "id": str(uuid4()), "act": "pause"}
    ).text
    assert "Paused" in page


def test_the_banks_are_called_as_this_maker_calls_them(board: Board) -> None:
    """And the firing order is said with every cylinder once."""
    [bank] = board.engine.banks
    board.act("ground", **GROUND, **{f"bank-{bank}": "exhaust side"})
    assert board.engine.banks[bank].name == "exhaust side"
    assert "is no order of this engine" in board.act(
        "ground", **{**GROUND, "firing_order": "1 3 5 2 4"}
    )


def test_the_cylinders_are_numbered_as_the_maker_numbers_them(board: Board) -> None:
    """Each keeps its place; what hid a hole hides the same one."""
    board.act("add", kind="plenum")
    board.act("hinder", "plenum", target="hole/1", kind="hides")
    first = board.engine.cylinders[1].wells[0].at
    board.act("ground", **GROUND, numbers="4 3 2 1", marks="A, B, C, D")
    made = board.engine
    assert [c.mark for c in made.cylinders.values()] == ["D", "C", "B", "A"], "each keeps its own"
    assert made.cylinders[4].wells[0].at == first
    assert list(made.cylinders) == [1, 2, 3, 4]
    assert made.ignition.firing_order == (1, 3, 4, 2), "the order is the maker's, as it was said"
    assert ("hole/4",) in [h.of for h in made.hindrances if h.part == "plenum"]
    assert "does not number this engine" in board.act("ground", **GROUND, numbers="1 2 2 4")
    assert board.engine == made


def test_a_panel_with_something_plugged_in_is_needed_to_run_until_stated(board: Board) -> None:
    """A bare one may wait until after the first start; said otherwise, that holds."""
    board.act("add", kind="panel")
    assert not board.engine.parts["panel"].needed_to_run
    board.act("joint", "panel", joint="press-tab connector")
    assert board.engine.parts["panel"].needed_to_run
    board.act("describe", "panel", name="Panel", kind="panel", level="6")
    assert not board.engine.parts["panel"].needed_to_run


def test_a_part_of_another_engine_is_offered_and_taken(board: Board) -> None:
    """By kind, with where it comes from; one undo takes it back."""
    board.act("add", kind="duct")
    page = board.client.get(f"/capture/{KEY}/offers?part=duct").text
    assert "Corvane 2.0 turbo" in page
    assert "Intake duct" in page
    their = {"of": "corvane-20-turbo-four", "theirs": "intake-duct"}
    board.act("offer", "duct", **their, what="all")
    assert "clamps" in board.engine.parts["duct"].joints
    board.act("undo")
    assert not board.engine.parts["duct"].joints
    board.act("offer", "duct", **their, what="joint/clamps")
    assert list(board.engine.parts["duct"].joints) == ["clamps"]
    assert "put it on" in board.client.get(f"/capture/{KEY}/offers").text
    board.act("offer", **their, what="part")
    assert "intake-duct" in board.engine.parts
    assert "no longer there" in board.act("offer", **{**their, "theirs": "gone"}, what="part")


def test_an_offer_is_told_by_its_own_sheet(board: Board) -> None:
    """Its torque, not that of ours under the same name; all sheets are read at once."""
    board.act("add", kind="plenum")
    board.act("joint", "plenum", joint="2 hex bolts 8 mm 7 N·m")
    assert "plenum-bolt" in board.engine.figures
    asked: list[str] = []

    def note(*about: Any) -> None:
        asked.append(str(about[2]))

    event.listen(SqlEngine, "before_cursor_execute", note)
    try:
        page = board.client.get(f"/capture/{KEY}/offers?part=plenum").text
    finally:
        event.remove(SqlEngine, "before_cursor_execute", note)
    assert "tightened to 16 to 20 N·m" in page
    assert "7 N·m" not in page
    assert sum("engine_sheets" in one for one in asked) == 1


def test_a_table_of_fasteners_is_shown_before_it_is_taken_in(board: Board) -> None:
    """Wrong rows are named, mended on the page, and all is taken in at once."""
    board.act("add", kind="duct")

    def send(table: str, **more: str) -> str:
        with board.store() as session:
            number = drafts.current(session, KEY).number
        form = {"csrf": board.csrf, "number": str(number), "table": table} | more
        return board.client.post(f"/capture/{KEY}/fasteners", data=form).text

    before = board.engine
    wrong = send("part,held by\nDuct,2 clips\nDukt,1 clip\n", sure="yes")
    assert "did you mean Duct" in wrong
    assert "Dukt,1 clip" in wrong, "what was typed is there to be mended"
    shown = send("part,held by\nDuct,2 clips\nDuct,hex bolt 10 mm 9 N·m\n")
    assert "Take in 2 joints" in shown
    assert board.engine == before, "only shown"
    send("part,held by\nDuct,2 clips\nDuct,hex bolt 10 mm 9 N·m\n", sure="yes")
    assert list(board.engine.parts["duct"].joints) == ["clip", "bolt"]
    assert "held so already" in send("part,held by\nDuct,2 clips\n")
    overtaken = send("part,held by\nDuct,latch\n", sure="yes", number="1")
    assert "Somebody else drew" in overtaken
    assert "Duct,latch" in overtaken, "what was typed is not lost"
    worse = send("part;held by\nDuct;2 cables at 9000 10, 9000 20\n", sure="yes")
    assert "lies off the plan" in worse, "judged as any act on the board is"
    upload = {"file": ("t.csv", "part;held by\nDuct;latch\n".encode("utf-16"), "text/csv")}
    data = {"csrf": board.csrf, "number": "1"}
    said = board.client.post(f"/capture/{KEY}/fasteners", data=data, files=upload).text
    assert "is not UTF-8" in said


def test_a_way_says_all_it_can_and_what_is_not_sent_stays(board: Board) -> None:
    """Half-said minutes, a level that is none and a part that is none are refused in words."""
    board.act("add", kind="duct")
    stated = {"kind": "remove", "key": "remove", "out": "2", "back": "3", "note": "gently"}
    board.act("way", "duct", **stated, risks="tab: high", good_for_torque="yes")
    way = board.engine.parts["duct"].ways["remove"]
    assert (way.note, way.risks[0].level.value, way.estimated) == ("gently", "high", False)
    board.act("way", "duct", kind="remove", out="4", back="5")
    assert board.engine.parts["duct"].ways["remove"].note == "gently", "not sent, it stays"
    before = board.engine
    for form, said in (
        ({**stated, "back": ""}, "one of two is said"),
        ({**stated, "risks": "tab: dreadful"}, "is no level of a risk"),
        ({**stated, "persons": "9"}, "persons"),
        ({**stated, "kind": "fling"}, "fling"),
    ):
        assert said in board.act("way", "duct", **form), form
        assert board.engine == before
    assert "is no part" in board.act(
        "describe", "duct", name="D", kind="duct", note="", level="1", refit_after="Piano"
    )


def test_a_hindrance_is_said_anew_and_worked_round(board: Board) -> None:
    """Only the ways that clear it, with what goes round; nothing that clears it is refused."""
    board.act("add", kind="duct")
    board.act("way", "duct", kind="swing_aside", out="1", back="1")
    board.act("hinder", "duct", target="hole/2", kind="hides")
    index = str(len(board.engine.hindrances) - 1)
    said = {"index": index, "kind": "hides", "of": "hole/2", "cleared_by": "remove"}
    page = board.act("rehinder", "duct", **said, note="hot")
    assert board.engine.hindrances[-1].cleared_by == ("remove",)
    assert "cleared by off" in page
    page = board.act("round", "duct", index=index, kind="wobble", out="1", back="0.5")
    assert board.engine.hindrances[-1].rounds["wobble"].back.text == "0.5 min"
    assert "1 min more out" in page
    assert "alone clears" in board.act("unway", "duct", key="remove")
    assert "nothing clears it" in board.act("rehinder", "duct", index=index, kind="hides", of="x")
    assert "are not said" in board.act("round", "duct", index=index, kind="wobble")
    board.act("unround", "duct", index=index, key="wobble")
    assert not board.engine.hindrances[-1].rounds
    assert "no longer there" in board.act("rehinder", "duct", **{**said, "index": "99"})
