"""Who reads a page changes nothing that is computed or kept: a procedure has its own language."""

import pytest

from eldrim.core.base.errors import ProblemsError
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.reading.typed_signs import read_signs
from eldrim.core.words.language import reading_in
from eldrim.core.words.messages import all_of, either
from eldrim.demo.load import demo_crib, demo_engines
from tests.builders import tug


@pytest.mark.sweep(6)
@pytest.mark.parametrize("language", ["en", "de"])
@pytest.mark.parametrize("engine", demo_engines(), ids=lambda engine: engine.id)
def test_a_plan_is_the_same_whoever_asks_for_it(engine: Engine, language: str) -> None:
    """Word for word: it is kept in memory for all, and released."""
    variant = next(iter(engine.variants))
    works = tuple(w for w in possible_work(engine, variant) if w is not Work.CHARGING)
    job = Job(cylinders=tuple(engine.cylinders), work=works, variant=variant, language=language)
    with reading_in("en"):
        here = compile_plan(engine, job, crib=demo_crib())
    with reading_in("de"):
        there = compile_plan(engine, job, crib=demo_crib())
    assert there.model_dump() == here.model_dump()


def test_joins_and_what_is_not_known_are_in_the_language_of_the_page() -> None:
    """Of several words one, or all; a sign that nobody knows."""
    with reading_in("de"):
        assert either(["a", "b"]) == "a oder b"
        assert all_of(["a", "b"]) == "a und b"
        with pytest.raises(ProblemsError) as refused:
            read_signs(tug(), "2=sooti")
        [problem] = refused.value.problems
        assert problem.message == "„sooti“ ist kein Zeichen, das wir kennen"
        assert problem.fix.endswith("gemeint?")
