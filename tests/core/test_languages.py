"""The language changes sentences and nothing else: no rule reads a text."""

from collections.abc import Iterator
from datetime import date
from typing import Any

import pytest

from eldrim.core.engine import Engine
from eldrim.core.engine.glossary import own_words
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.procedure.model import Plan, Reading
from eldrim.core.procedure.open_points import overdue
from eldrim.core.rules.house import HouseRules
from eldrim.core.run.readings import shown
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.core.words import all_sentences
from eldrim.core.words.catalogs import CATALOGS, Catalog
from eldrim.core.words.language import LANGUAGES, LanguageFacts, day_words, speaking
from eldrim.demo.load import demo_crib, demo_engines

SCRAMBLED = "scrambled"


@pytest.fixture(autouse=True)
def scrambled(monkeypatch: pytest.MonkeyPatch) -> None:
    """A language in which every sentence is its own key and says nothing of its slots."""
    facts = LanguageFacts("Scrambled", ";", lower_nouns=False)
    monkeypatch.setitem(LANGUAGES, SCRAMBLED, facts)
    scrambled = {key: f"<{key}>" for key in all_sentences()}
    monkeypatch.setitem(CATALOGS, SCRAMBLED, Catalog(scrambled))


def bare(plan: Plan) -> dict[str, Any]:
    """What a plan says without its words: ids, order, minutes, cautions, checks, open points."""
    return {
        "minutes": plan.minutes,
        "tool_changes": plan.tool_changes,
        "phases": [(p.phase, p.minutes) for p in plan.phases],
        "moves": [(m.part, m.minutes) for m in plan.moves],
        "steps": [
            (
                str(s.key),
                s.phase,
                s.minutes,
                s.after,
                s.setup,
                tuple(t.id for t in s.tools),
                tuple(c.key for c in s.cautions),
                tuple(c.key for c in s.checks),
                tuple(r.key for r in s.readings),
                tuple((f.key, f.min, f.max, f.aim, f.unit) for f in s.figures),
                s.hold,
            )
            for s in plan.steps
        ],
        "parts": [(p.part_number, p.quantity) for p in plan.parts],
        "roll": [i.id for i in plan.roll],
        "open": [(o.key, o.bars) for o in plan.open_points],
    }


def worded(engine: Engine) -> Engine:
    """The sheet with words of its own in every language: backwards, so that none is the same."""
    backwards = {text: text[::-1] for text in own_words(engine)}
    return engine.model_copy(update={"words": {"de": backwards, SCRAMBLED: backwards}})


def jobs(engine: Engine) -> Iterator[Job]:
    """One cylinder, a bank and all of an engine, on its last variant."""
    variant = sorted(engine.variants)[-1]
    carrier = Work.COIL if engine.ignition.kind == "coil_on_plug" else Work.LEAD
    first = min(engine.cylinders)
    bank = engine.cylinders[first].bank
    for numbers in (
        (first,),
        tuple(n for n in engine.cylinders if engine.cylinders[n].bank == bank),
        tuple(engine.cylinders),
    ):
        yield Job(cylinders=tuple(sorted(numbers)), work=(carrier, Work.PLUG), variant=variant)


@pytest.mark.parametrize("engine", demo_engines(), ids=lambda e: e.id)
def test_a_plan_is_the_same_in_every_language(engine: Engine) -> None:
    """English, German and scrambled: the same ids, order, minutes, cautions, checks, points."""
    engine = worded(engine)
    for job in jobs(engine):
        said = {
            language: bare(
                compile_plan(
                    engine,
                    job.model_copy(update={"language": language}),
                    HouseRules(),
                    STANDARD_CRIB,
                )
            )
            for language in ("en", "de", SCRAMBLED)
        }
        assert said["de"] == said["en"]
        assert said[SCRAMBLED] == said["en"]


@pytest.mark.parametrize("language", ["en", "de", SCRAMBLED])
def test_lapsed_wrenches_are_an_open_point_in_every_language(language: str) -> None:
    """With every wrench overdue the same points are open, whoever reads them."""
    engine = next(e for e in demo_engines() if e.id == "marlet-34-v6")
    [*_, job] = jobs(engine)
    said = job.model_copy(update={"language": language})
    crib = demo_crib()
    made = compile_plan(engine, said, HouseRules(), crib)
    with speaking(language):
        points = overdue(made, crib, date(2099, 1, 1))
    assert [p.key for p in points] == ["overdue/t-14-20", "overdue/t-38-50"]
    assert all(p.steps for p in points)


def test_two_editions_differ_alike_in_english_and_in_german() -> None:
    """What is the same at several holes is one line, whatever the nouns of the language."""
    engine = next(e for e in demo_engines() if e.id == "marlet-34-v6")
    schools = {"tightening": "low_third", "retrieval": "magnet"}
    before, after = (
        [
            compile_plan(
                engine,
                Job(
                    cylinders=(1, 3, 5),
                    work=(Work.PLUG,),
                    variant=sorted(engine.variants)[0],
                    language=code,
                ),
                rules,
                STANDARD_CRIB,
            )
            for code in ("en", "de")
        ]
        for rules in (HouseRules(), HouseRules(schools=schools))
    )
    english, german = (difference(one, two) for one, two in zip(before, after, strict=True))
    assert len(english.changed) == len(german.changed)
    assert len(english.removed) == len(german.removed)
    assert len(english.added) == len(german.added)


@pytest.mark.parametrize(
    ("language", "said"), [("en", "26 Nov 2026"), ("de", "26. Nov. 2026"), ("xx", "26 Nov 2026")]
)
def test_a_day_is_written_with_its_month_in_words(
    language: str, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """So that no day is read as a month; a language that is not known writes as the base does."""
    monkeypatch.setitem(LANGUAGES, language, LANGUAGES.get(language, LANGUAGES["en"]))
    reading = Reading(key="next_due", label="Next due, day", kind="date")
    with speaking(language):
        assert day_words(date(2026, 11, 26)) == said
        assert shown(reading, "2026-11-26") == said
        assert shown(reading, "soon") == "soon"
