"""What taking an engine apart tells, and what has to be asked."""

import pytest

from eldrim.core.base.errors import EngineError
from eldrim.core.capture import edits
from eldrim.core.capture.propose import proposals
from eldrim.core.capture.shapes import BY_KEY, Beginning, start
from eldrim.core.capture.teardown import Tap, derive, reply
from eldrim.core.consistency import check
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import PartKind, WayKind
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan


def taps(*said: tuple[str, str, float]) -> tuple[Tap, ...]:
    """Taps in a few words."""
    return tuple(Tap.model_validate({"act": a, "what": w, "at": t}) for a, w, t in said)


def drawn() -> Engine:
    """A vee six with a plenum over the rear bank, a duct beside it, a bracket far away."""
    made = start(BY_KEY["vee-six"], Beginning("tarn-six", "Tarn", "six", "aluminium", "road"))
    made, _ = edits.add_part(made, PartKind.PLENUM, (345, 235))
    made, _ = edits.add_part(made, PartKind.DUCT, (480, 260))
    made, _ = edits.add_part(made, PartKind.BRACKET, (120, 560))
    return made


SEEN = taps(
    ("start", "", 0),
    ("off", "cover", 0.8),
    ("off", "duct", 3.3),
    ("off", "bracket", 5.0),
    ("off", "plenum", 12.0),
    ("open", "1", 12.5),
    ("open", "3", 12.6),
    ("on", "plenum", 22.6),
    ("on", "bracket", 25.0),
    ("on", "duct", 28.0),
    ("on", "cover", 28.9),
)


def test_order_and_plan_give_hindrances_and_minutes() -> None:
    """Off before what it lies over: it blocked its way; open after: it hid the hole."""
    told = derive(drawn(), SEEN)
    made = told.engine
    assert check(made) == []
    pairs = {(h.part, t) for h in made.hindrances for t in h.of}
    assert {
        ("cover", "plenum"),
        ("duct", "plenum"),
        ("plenum", "hole/1"),
        ("plenum", "hole/3"),
    } <= pairs
    assert ("plenum", "hole/2") not in pairs
    assert made.parts["duct"].level > made.parts["plenum"].level
    way = made.parts["plenum"].ways["remove"]
    assert (way.out.mid, way.back.mid, way.estimated) == (7.0, 10.0, False)
    assert "Plenum: 7 min out" in told.said
    moved = [m.part for m in compile_plan(made, Job(cylinders=(1,), work=(Work.PLUG,))).moves]
    assert moved.index("duct") < moved.index("plenum")


def test_only_what_cannot_be_told_is_asked() -> None:
    """The bracket lies over nothing: had it to be off before the plenum?"""
    told = derive(drawn(), SEEN)
    asked = [(q.first, q.then) for q in told.questions]
    assert ("bracket", "plenum") in asked
    assert all(pair not in asked for pair in (("cover", "duct"), ("duct", "plenum")))
    needed = reply(drawn(), "bracket", "plenum", needed=True)
    assert ("bracket", "plenum") not in [(q.first, q.then) for q in derive(needed, SEEN).questions]
    moved = {
        m.part
        for m in compile_plan(
            derive(needed, SEEN).engine, Job(cylinders=(1,), work=(Work.PLUG,))
        ).moves
    }
    assert "bracket" in moved
    free = reply(drawn(), "bracket", "plenum", needed=False)
    assert not [q for q in derive(free, SEEN).questions if q.then == "plenum"]


def test_a_teardown_asks_no_less_than_the_drawing_leaves_open() -> None:
    """What was never touched is still asked on the board."""
    left = {(q.part, q.targets) for q in proposals(derive(drawn(), SEEN).engine)}
    assert ("plenum", ("hole/1",)) not in left
    assert any("hole/5" in targets for _, targets in left)


def test_doing_it_twice_says_it_once() -> None:
    """The same teardown on the sheet it gave adds nothing."""
    once = derive(drawn(), SEEN).engine
    assert derive(once, SEEN).engine.hindrances == once.hindrances


def test_another_order_back_than_the_way_out_turned_round_is_kept() -> None:
    """The bracket went back before the plenum, though it came off before it: the plenum waits."""
    seen = taps(
        ("start", "", 0),
        ("off", "cover", 1),
        ("off", "bracket", 2),
        ("off", "plenum", 6),
        ("on", "bracket", 8),
        ("on", "plenum", 14),
        ("on", "cover", 15),
    )
    told = derive(drawn(), seen)
    assert told.engine.parts["plenum"].refit_after == ("bracket",)
    assert told.engine.parts["cover"].refit_after == ()
    assert "Plenum goes back after bracket" in told.said
    assert check(told.engine) == []
    assert derive(told.engine, seen).engine == told.engine, "said twice, kept once"
    assert derive(drawn(), SEEN).engine.parts["plenum"].refit_after == (), "turned round: nothing"


def test_parts_that_wait_for_each_other_are_not_made_to() -> None:
    """A second teardown the other way round adds no loop."""
    first = taps(
        ("start", "", 0),
        ("off", "bracket", 2),
        ("off", "plenum", 6),
        ("on", "bracket", 8),
        ("on", "plenum", 9),
    )
    other = taps(
        ("start", "", 0),
        ("off", "plenum", 2),
        ("off", "bracket", 6),
        ("on", "plenum", 8),
        ("on", "bracket", 9),
    )
    made = derive(derive(drawn(), first).engine, other).engine
    assert made.parts["plenum"].refit_after == ("bracket",)
    assert made.parts["bracket"].refit_after == ()


def test_a_tap_on_what_is_not_there_is_refused() -> None:
    """With its name."""
    with pytest.raises(EngineError, match="lid"):
        derive(drawn(), taps(("start", "", 0), ("off", "lid", 1)))
    with pytest.raises(EngineError, match="hole 9"):
        derive(drawn(), taps(("start", "", 0), ("open", "9", 1)))


def test_a_pause_is_not_counted_and_what_was_slid_aside_is_timed_as_that() -> None:
    """The duct is swung aside in two minutes, with an hour of rest in between."""
    taps = (
        Tap(act="start", what="", at=0),
        Tap(act="pause", what="", at=1),
        Tap(act="start", what="", at=61),
        Tap(act="aside", what="duct", at=62),
    )
    found = derive(drawn(), taps)
    ways = {way.kind: way for way in found.engine.parts["duct"].ways.values()}
    assert str(ways[WayKind.SWING_ASIDE].out) == "2 min"
    assert not ways[WayKind.SWING_ASIDE].estimated
    assert "Duct: 2 min out" in found.said
