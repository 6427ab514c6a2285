"""The second language is a table: complete, with the same steps, figures formatted as it writes."""

import re
import string

import pytest

from eldrim.core.engine import Engine
from eldrim.core.engine.glossary import lacking, own_words, translated
from eldrim.core.job import Job, Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.tools.stock import catalogue
from eldrim.core.words import all_sentences, printed
from eldrim.core.words.language import speaking
from eldrim.demo.load import demo_crib, demo_engines
from tests.builders import job, tug

ENGLISH_WORDS = re.compile(
    r"\b(the|and|of|with|to|is|are|not|for|its|each|every|before|once|off|plug|socket|wrench|bolts?)\b"
)


def slots(pattern: str) -> set[str]:
    """The names of what is filled in."""
    return {field for _, field, _, _ in string.Formatter().parse(pattern) if field}


def test_both_tables_have_the_same_sentences_and_no_slot_of_their_own() -> None:
    """A sentence that one language lacks fails here, not in the bay."""
    english, german = all_sentences(), all_sentences("de")
    assert sorted(german.keys() ^ english.keys()) == []
    for name, pattern in german.items():
        assert slots(pattern) <= slots(english[name]), name


def everything(made: Plan) -> list[str]:
    """All a technician reads on a plan."""
    said = [made.title, made.defers_to, *made.notes, *(t.name for t in made.tools)]
    for s in made.steps:
        said += [s.text, s.detail, s.object, *(t.name for t in s.tools), *s.because]
        said += [x.text for group in (s.cautions, s.checks) for x in group]
        said += [w for r in s.readings for w in (r.label, r.why_limit, r.unit, *r.shown)]
        said += [w for f in s.figures for w in (f.name, f.printed, f.converted, *f.sum, *f.against)]
        said += [f.setting.wrench for f in s.figures if f.setting]
        said += [w for k in s.stacks for w in (*(t.name for t in k.tools), *k.cautions)]
    said += [w for m in made.moves for w in (m.name, m.what, m.why)]
    said += [w for p in made.parts for w in (p.name, p.why)]
    said += [w for s in made.stays for w in (s.name, s.why)]
    return said + [a.words for a in made.alternatives]


@pytest.mark.parametrize("engine", demo_engines(), ids=lambda e: e.id)
def test_a_german_procedure_is_the_same_work_and_has_no_english_left(engine: Engine) -> None:
    """Step for step; once the sheet's own words are given, nothing is left in English."""
    work = (carrier(engine), Work.PLUG)
    asked = Job(cylinders=tuple(engine.cylinders), work=work, variant=next(iter(engine.variants)))
    known = {"de": {t: f"Wort{i}" for i, t in enumerate(own_words(engine))}}
    worded = engine.model_copy(update={"words": known})
    english = compile_plan(engine, asked, crib=demo_crib())
    german = compile_plan(worded, asked.model_copy(update={"language": "de"}), crib=demo_crib())
    assert [s.key for s in german.steps] == [s.key for s in english.steps]
    assert [s.minutes for s in german.steps] == [s.minutes for s in english.steps]
    assert [s.setup for s in german.steps] == [s.setup for s in english.steps]
    assert not [p for p in german.open_points if p.key == "words"]
    told = [t for t in everything(german) if ENGLISH_WORDS.search(t)]
    assert told == []
    assert any(ENGLISH_WORDS.search(t) for t in everything(english)), "the search can fail"


def test_figures_and_numbers_are_written_as_germans_write_them() -> None:
    """A comma, bis, Zoll; and English again afterwards."""
    made = compile_plan(tug(), job(2, variant="late", language="de"), crib=demo_crib())
    gap = next(f for s in made.steps for f in s.figures if f.key == "plug-gap")
    assert gap.printed == "1,0 bis 1,1 mm"
    torque = next(f for s in made.steps for f in s.figures if f.key == "plug-torque")
    assert torque.setting is not None
    with speaking("de"):
        assert torque.setting.text == "17,5 N·m"
        assert printed("−5 to 40.5 °C") == "−5 bis 40,5 °C"
    assert torque.setting.text == "17.5 N·m"
    assert torque.converted == "11,1 bis 14,8 lbf·ft"


def test_every_tool_that_is_sold_has_its_german_name() -> None:
    """Sizes stay; the word changes."""
    with speaking("de"):
        said = {t.name: t.shown for t in catalogue()}
    assert len(set(said.values())) == len(said)
    for name, german in said.items():
        assert not re.search(r"\b(in|to|plug|socket|extension|wrench|bit)\b", german), german
        assert german != name or name == "multimeter"


def test_what_a_sheet_lacks_is_said_and_stays_as_written() -> None:
    """The tug has all its words; one taken away is an open point, not a hole."""
    sheet = tug()
    assert lacking(sheet, "de") == ()
    assert translated(sheet, "en") == sheet
    less = dict(sheet.words["de"])
    del less["Intake plenum"]
    thin = sheet.model_copy(update={"words": {"de": less}})
    assert lacking(thin, "de") == ("Intake plenum",)
    made = compile_plan(thin, job(5, variant="late", language="de"))
    assert any(p.key == "words" and "Intake plenum" in p.text for p in made.open_points)
    assert any(s.text == "Intake plenum abnehmen" for s in made.steps)


def test_a_sheet_is_translated_once_and_anew_when_its_words_change() -> None:
    """What is found of a translated sheet can be kept as long as the sheet is the same."""
    sheet = next(engine for engine in demo_engines() if engine.words.get("de"))
    once = translated(sheet, "de")
    assert translated(sheet, "de") is once
    part, named = next((k, p.name) for k, p in sheet.parts.items() if sheet.words["de"].get(p.name))
    words = {"de": {**sheet.words["de"], named: "Anders genannt"}}
    other = translated(sheet.model_copy(update={"words": words}), "de")
    assert other.parts[part].name == "Anders genannt"
    assert once.parts[part].name == sheet.words["de"][named]
