"""One voice: sentences, cautions and reasons are tables, and the tables are whole."""

import re
import string

import pytest

from eldrim.core.engine.joints import JOINT_RULES, JointKind
from eldrim.core.engine.parts import HindranceKind, WayKind
from eldrim.core.operations import MOVES_BY_WAY, CautionCause
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.job.cautions import cautions
from eldrim.core.procedure.job.minutes import share
from eldrim.core.rules.topics import TOPICS
from eldrim.core.words import all_sentences, listed, say, the
from tests.builders import job, tug
from tests.tables import table

MADE = compile_plan(tug(), job(1, 2))


def test_every_act_has_its_caution_in_a_fixed_order() -> None:
    """Asked for in any order, said in one."""
    assert all(say(f"caution.{act.value}") for act in CautionCause)
    some = {CautionCause.MARINE, CautionCause.AIR, CautionCause.FUEL}
    assert [c.key for c in cautions(some)] == [a.value for a in CautionCause if a in some]
    assert cautions(set()) == ()


def test_every_kind_of_joint_hindrance_and_way_has_its_words() -> None:
    """A new kind without words fails here, not in the bay."""
    assert set(JOINT_RULES) == set(JointKind)
    assert all(say(f"hinders.{kind}", things="it") for kind in HindranceKind)
    assert set(MOVES_BY_WAY) == set(WayKind)
    for kind in WayKind:
        assert say(f"move.{kind}", part="it")
        assert say(f"move.{kind}.detail")


@table("name", sorted(all_sentences()))
def test_every_sentence_can_be_filled_and_is_clean(name: str) -> None:
    """No stray brace, no double blank, no unnamed slot."""
    slots = {field for _, field, _, _ in string.Formatter().parse(all_sentences()[name]) if field}
    assert all(re.fullmatch(r"[a-z_]+", slot) for slot in slots)
    filled = say(name, **dict.fromkeys(slots, "x"))
    assert filled
    assert "{" not in filled
    assert "  " not in filled


def test_no_step_carries_an_unfilled_or_untidy_sentence() -> None:
    """What a technician reads is whole."""
    for step in MADE.steps:
        for words in (step.text, step.detail):
            assert "{" not in words
            assert "  " not in words
            assert words == words.strip()
        assert step.text[0].isupper()
        assert not step.text.endswith(".")


def test_the_statement_is_on_every_plan() -> None:
    """Maker's manual, local rules, licensed persons."""
    for word in ("maker's manual", "local rules", "licensed persons"):
        assert word in MADE.defers_to


def test_topics_and_schools_are_named_once_and_explained() -> None:
    """Keys are unique, defaults exist, refusals have a reason."""
    keys = [t.key for t in TOPICS]
    assert len(keys) == len(set(keys))
    for topic in TOPICS:
        schools = [s.key for s in topic.schools]
        assert len(schools) == len(set(schools)) >= 2
        assert not topic.school(topic.default).refused
        assert topic.why.endswith(".")


def test_people_s_lists_and_articles() -> None:
    """1, 3 and 5; the intake plenum."""
    assert listed(("1", "3", "5")) == "1, 3 and 5"
    assert listed(["1"]) == "1"
    assert listed([]) == ""
    assert the("Intake plenum") == "the intake plenum"


@pytest.mark.parametrize(
    ("total", "weights"), [(3, [1, 1, 1]), (0.7, [4, 1]), (6, [2, 1]), (0.3, [1, 1, 1])]
)
def test_minutes_are_shared_without_loss(total: float, weights: list[int]) -> None:
    """Tenths that add up to the whole."""
    parts = share(total, weights)
    assert sum(parts) == pytest.approx(total)
    assert min(parts) >= 0.1


def test_no_share_is_nothing_even_where_there_is_too_little() -> None:
    """A tenth each, and the sum is larger."""
    assert share(0.1, [1, 1, 1]) == [0.1, 0.1, 0.1]
