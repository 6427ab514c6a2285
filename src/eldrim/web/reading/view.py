"""What a set of plugs tells, as pages show it: the answer beside the plan, letter by letter."""

from collections.abc import Mapping
from dataclasses import dataclass

from eldrim.core.engine.model import Engine
from eldrim.core.reading.answer import ReadingAnswer, ToldVerdict, strength, told
from eldrim.core.reading.observed import PlugSet
from eldrim.core.reading.verdict import HEALTHY, WAITS, SetVerdict
from eldrim.core.run.entries import Recorded
from eldrim.core.run.state import Place
from eldrim.core.run.verdicts import STOPS
from eldrim.drawing import engine_plan

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# Hatches there are, from wide to narrow.
HATCHES = 3


@dataclass(frozen=True)
class Shown:
    """One verdict on a page: its letter on the plan, and in a run what may be said of it."""

    told: ToldVerdict
    letter: str
    place: Place | None = None
    said: Recorded | None = None

    @property
    def stop(self) -> str:
        """The stop its act asks for; empty where it asks for none."""
        return STOPS.get(self.told.act, "")

    @property
    def reasons(self) -> tuple[tuple[str, str, str], ...]:
        """Each sign for it: hole, words, how strongly."""
        return tuple((s.hole, s.words, strength(s.weight)) for s in self.told.told_for)


@dataclass(frozen=True)
class ReadingView:
    """A whole answer: the verdicts, the plan with holes hatched by them, what else is said."""

    answer: ReadingAnswer
    verdicts: tuple[Shown, ...]
    picture: str
    since: str = ""


def reading_view(
    engine: Engine,
    found: SetVerdict,
    plugs: PlugSet,
    places: Mapping[str, tuple[Place | None, Recorded | None]] | None = None,
    since: str = "",
) -> ReadingView:
    """Lay an answer out, in the language in use. ``places`` are by the name of a verdict."""
    answer, known = told(found, plugs), places or {}
    shown = tuple(
        Shown(one, LETTERS[n % len(LETTERS)], *known.get(name_of(one), (None, None)))
        for n, one in enumerate(answer.verdicts)
    )
    return ReadingView(answer, shown, _picture(engine, shown), since)


def name_of(one: ToldVerdict) -> str:
    """What a verdict of a set is told by."""
    return f"{one.cause} {' '.join(one.holes)}"


def _picture(engine: Engine, shown: tuple[Shown, ...]) -> str:
    """The plan, each hole hatched by the first cause that acts there, with the letters of all."""
    levels: dict[str, int] = {}
    letters: dict[str, str] = {}
    amiss = [one for one in shown if one.told.cause != HEALTHY and one.told.cause not in WAITS]
    for number, one in enumerate(amiss):
        for hole in one.told.holes:
            levels.setdefault(hole, number % HATCHES)
            letters[hole] = letters.get(hole, "") + one.letter
    view = engine_plan.PlanView(levels=levels, letters=letters, compact=True)
    return engine_plan.draw(engine, view)
