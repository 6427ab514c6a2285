"""Two people at one step: nothing of either is lost, and only a clash is asked about."""

from hypothesis import given
from hypothesis import strategies as st

from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.procedure.editions.merge import FIELDS, merge

words = st.sampled_from(["", "Turn it away", "Mind the hose"])
edits = st.builds(
    Edit,
    text=words,
    note=words,
    left_out=words,
    hold=st.booleans(),
    cautions=st.lists(words.filter(bool), max_size=2, unique=True).map(tuple),
)


@given(edits, edits, edits)
def test_each_field_is_theirs_or_mine_and_a_clash_is_said(
    base: Edit, theirs: Edit, mine: Edit
) -> None:
    """Three-way: one changed, that one; both alike, that; both otherwise, a clash."""
    merged, clashes = merge(base, theirs, mine)
    said = {c.field for c in clashes}
    for name in FIELDS:
        was, one, other = (getattr(e, name) for e in (base, theirs, mine))
        got = getattr(merged, name)
        if name in said:
            assert one != was
            assert other != was
            assert one != other
        else:
            assert got == (other if one == was else one)
            assert other in (was, got), "what I changed is there"


@given(edits, edits)
def test_with_nobody_in_between_it_is_mine_and_the_other_way_round(base: Edit, mine: Edit) -> None:
    """No clash with oneself."""
    assert merge(base, base, mine) == (mine.model_copy(update={"computed": base.computed}), ())
    assert merge(base, mine, base)[0] == mine


def test_two_notes_can_both_be_kept_but_two_wordings_cannot() -> None:
    """A step says one thing; a note may say two."""
    _, (text, note) = merge(
        Edit(), Edit(text="Lift it", note="Mind the hose."), Edit(text="Raise it", note="Cold.")
    )
    assert (text.both, note.both) == (None, "Mind the hose. Cold.")


def test_a_wording_taken_from_me_brings_what_it_was_made_on() -> None:
    """Else the step would be marked as changed under it."""
    base, theirs = Edit(), Edit(note="Cold.")
    mine = Edit(text="Lift it", computed="Lift off the cover")
    merged, clashes = merge(base, theirs, mine)
    assert (merged.text, merged.computed, merged.note) == ("Lift it", "Lift off the cover", "Cold.")
    assert clashes == ()
    kept, _ = merge(base, Edit(text="Raise it", computed="Lift"), Edit(note="Mind."))
    assert (kept.text, kept.computed, kept.note) == ("Raise it", "Lift", "Mind.")


def test_more_than_a_step_can_carry_is_not_joined() -> None:
    """Five cautions of one's own, no more."""
    three, other = ("a", "b", "c"), ("d", "e")
    _, [fits] = merge(Edit(), Edit(cautions=three), Edit(cautions=other))
    assert fits.both == (*three, *other)
    _, [over] = merge(Edit(), Edit(cautions=three), Edit(cautions=(*other, "f")))
    assert over.both is None
    _, [same] = merge(Edit(), Edit(cautions=three), Edit(cautions=("c", "d")))
    assert same.both == ("a", "b", "c", "d")
