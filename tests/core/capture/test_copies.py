"""A copy under another make carries no figure as a fact."""

import pytest

from eldrim.core.capture.copies import copied
from eldrim.core.engine import Engine
from eldrim.core.engine.model import TO_BE_STATED, TO_STATE
from eldrim.core.job import Work, carrier
from eldrim.core.procedure.compile import compile_plan
from eldrim.demo.load import demo_engines
from tests.builders import job

ENGINES = {engine.id: engine for engine in demo_engines()}


@pytest.mark.parametrize("key", sorted(ENGINES))
def test_under_another_make_everything_read_is_to_be_stated(key: str) -> None:
    """The old value stands as a hint; what is drawn is kept; releases are barred."""
    known = ENGINES[key]
    made = copied(known, "tarn-copy", "Tarn", "copy")
    assert set(made.figures) == set(known.figures)
    for stated in made.figures.values():
        assert {figure.source for figure in stated} == {TO_STATE}
        assert all(known.name in figure.page or "as on" in figure.page for figure in stated)
        assert not any(figure.settled for figure in stated)
    assert {plug.part_number for plug in made.plugs} == {TO_BE_STATED}
    assert {c.part_number for c in (*made.coils, *made.leads)} <= {TO_BE_STATED}
    assert made.hindrances == known.hindrances
    assert [part.outline for part in made.parts.values()] == [
        part.outline for part in known.parts.values()
    ]
    assert Engine.model_validate(made.model_dump(mode="json")) == made
    variant = next(iter(made.variants))
    plan = compile_plan(
        made, job(min(made.cylinders), work=(carrier(made), Work.PLUG), variant=variant)
    )
    assert any(point.bars for point in plan.open_points)


def test_a_sister_of_the_same_make_keeps_its_figures() -> None:
    """Its manual is the same one."""
    known = ENGINES["marlet-34-v6"]
    made = copied(known, "sister", known.make.upper(), "3.0 vee six")
    assert made.figures == known.figures
    assert (made.id, made.revision) == ("sister", 1)
