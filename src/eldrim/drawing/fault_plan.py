"""The engine beside a tree of tests: where the complaint is, and what each letter opens."""

from eldrim.core.engine import Engine
from eldrim.core.faults.answer import DiagnosisAnswer
from eldrim.drawing import engine_plan

# The hatch of holes the complaint is about.
SUSPECT = 1
# It stands small, so that its letters are large.
BALLOON = 22


def draw(engine: Engine, answer: DiagnosisAnswer) -> str:
    """Return the plan as an SVG element: letters at parts, and at holes where something is off."""
    parts: dict[str, str] = {}
    holes: dict[str, str] = {}
    for group in answer.opened:
        for thing in group.things:
            _, slash, cylinder = thing.key.partition("/")
            if not slash:
                parts[thing.key] = group.letter
            for hole in engine.holes_of(int(cylinder)) if slash else ():
                holes[hole] = holes.get(hole, "") + group.letter
    suspects = engine.holes_of_all(answer.cylinders)
    view = engine_plan.PlanView(
        levels=dict.fromkeys(suspects, SUSPECT), letters=holes, opened=parts, balloon=BALLOON
    )
    return engine_plan.draw(engine, view)
