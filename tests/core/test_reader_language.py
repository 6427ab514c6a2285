"""Who reads a page changes nothing that is computed or kept: a procedure has its own language."""

import pytest

from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, possible_work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.words.language import reading_in
from eldrim.demo.load import demo_crib, demo_engines


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
