"""The long form: a released procedure step by step, drawings to scale, source on each page."""

from base64 import b64encode

from markupsafe import Markup

from eldrim.core.base.quantity import format_number
from eldrim.core.engine import Engine
from eldrim.core.procedure.editions.standing_notes import standing_notes
from eldrim.core.procedure.job.minutes import minutes_number
from eldrim.core.procedure.model import Plan, numbered
from eldrim.core.procedure.photos import Photo
from eldrim.core.procedure.whole_job.tool_roll import different_stacks
from eldrim.core.words.language import reading_in
from eldrim.drawing import engine_plan, photo, step_figure, tool_roll, well_section
from eldrim.printing.paper import ink, sheet
from eldrim.printing.press import PRESS


def pdf(plan: Plan, engine: Engine, edition: str, released: str, photos: dict[str, bytes]) -> bytes:
    """Return the long form of an edition as PDF.

    ``edition`` and ``released`` are words for the head of each page: which edition of what, and
    who released it when; ``photos`` are the JPEGs of its photos by digest.
    """
    return PRESS.lay_out(page(plan, engine, edition, released, photos))


def page(plan: Plan, engine: Engine, edition: str, released: str, photos: dict[str, bytes]) -> str:
    """The long form as the HTML it is printed from."""
    with reading_in(plan.job.language):
        return _page(plan, engine, edition, released, photos)


def _page(plan: Plan, engine: Engine, edition: str, released: str, photos: dict[str, bytes]) -> str:
    holes = frozenset(engine.holes_of_all(plan.job.cylinders))
    view = engine_plan.PlanView(chosen=holes, moves=plan.moves, at_towers=plan.job.at_towers)
    drawn = {step.key: ink(d) for step in plan.steps if (d := step_figure.draw(step, plan, engine))}
    return sheet(
        "long_form",
        plan=plan,
        edition=edition,
        released=released,
        phases=numbered(plan),
        drawn=drawn,
        picture=ink(engine_plan.draw(engine, view)),
        roll=ink(tool_roll.draw(plan.roll)),
        sections=[(words, ink(well_section.draw(s))) for words, s in different_stacks(plan.steps)],
        number=lambda v: format_number(v, 3),
        minutes=minutes_number,
        notes=standing_notes(plan),
        photos={
            s.key: [_photo(photo, photos) for photo in s.photos] for s in plan.steps if s.photos
        },
    )


def _photo(shown: Photo, photos: dict[str, bytes]) -> Markup:
    data = b64encode(photos[shown.image]).decode()
    return Markup(photo.draw(shown, f"data:image/jpeg;base64,{data}"))
