"""A complaint as it is asked about from outside: the command line and the open interface."""

import re
from collections.abc import Callable
from difflib import get_close_matches
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from eldrim.core.engine.model import Engine
from eldrim.core.errors import Problem, ProblemsError, QuantityError
from eldrim.core.faults.acts import TESTS
from eldrim.core.faults.answer import DiagnosisAnswer, told
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint, Symptom
from eldrim.core.faults.diagnosis import WhatIf, diagnose
from eldrim.core.faults.ways import Ways, ways
from eldrim.core.quantity import Dimension, convert, parse
from eldrim.core.reading.signs import amiss
from eldrim.core.reading.typed_signs import MAX_TEXT, read_signs
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.exchange.gathering import Gathering
from eldrim.exchange.readings import variant_of

Short = Annotated[str, StringConstraints(max_length=400)]
Word = Annotated[str, StringConstraints(max_length=80)]
# Plug life where the sheet is silent, by construction (docs/craft.md §18), in km and h: lower end.
LIFE = {
    "nickel": (30_000.0, 500.0),
    "multi_ground": (30_000.0, 500.0),
    "fine_wire": (80_000.0, 1_200.0),
    "surface_gap": (30_000.0, 500.0),
}


class ComplaintQuestion(BaseModel):
    """What is complained of, as people say it."""

    codes: Short = Field("", description="P0305, P0355")
    signs: Annotated[str, StringConstraints(max_length=MAX_TEXT)] = Field(
        "", description="Seen at the holes: 5=track; a hole not named was not looked at."
    )
    symptoms: list[Word] = Field([], description=f"Any of: {', '.join(Symptom)}.")
    age: Short = Field("", description="plugs=160000 km; in km, mi or h.")
    without: list[Word] = Field([], description="Tests struck out.")
    known: Word = Field("", description="A cause taken as known.")
    variant: Word = ""


def answer_diagnosis(
    engine: Engine,
    asked: ComplaintQuestion,
    rules: HouseRules,
    crib: Crib,
    find_ways: Callable[[Engine, str, HouseRules, Crib], Ways] = ways,
) -> DiagnosisAnswer:
    """Weigh a complaint on an engine; ``find_ways`` may know the ways in from before.

    Raises :class:`ProblemsError` with all that is wrong.
    """
    parts = Gathering()
    codes = parts.read((), read_codes, engine, asked.codes)
    signs = parts.read({}, _signs, engine, asked.signs)
    symptoms = parts.read(frozenset[Symptom](), read_symptoms, asked.symptoms)
    variant = parts.read("", variant_of, engine, asked.variant)
    worn = parts.read(None, plugs_worn, engine, asked.age)
    without = parts.read(frozenset[str](), _without, asked.without)
    parts.require_nothing_wrong()
    complaint = Complaint(codes=codes, symptoms=symptoms, signs=signs, plugs_worn=worn)
    what_if = WhatIf(without, asked.known.strip())
    found = diagnose(engine, variant, complaint, find_ways(engine, variant, rules, crib), what_if)
    return told(engine, found)


def _signs(engine: Engine, said: str) -> dict[str, frozenset[str]]:
    """What is amiss at each hole that shows something."""
    if not said.strip():
        return {}
    seen = read_signs(engine, f"{said}; rest=?").seen
    return {hole: found for hole, signs in seen.items() if (found := amiss(signs))}


def read_symptoms(words: list[str]) -> frozenset[Symptom]:
    """The symptoms people picked; what is none is refused with the nearest."""
    known = [one.value for one in Symptom]
    found, problems = set(), []
    for word in filter(None, (w.strip().lower().replace(" ", "-") for w in words)):
        if word in known:
            found.add(Symptom(word))
            continue
        near = get_close_matches(word[:40], known, n=1)
        fix = f"did you mean {near[0]}?" if near else f"use any of: {', '.join(known)}"
        problems.append(Problem("symptoms", f"'{word[:40]}' is no symptom we know", fix))
    if problems:
        raise ProblemsError(problems)
    return frozenset(found)


def plugs_worn(engine: Engine, said: str) -> bool | None:
    """Whether plugs of this age are past their interval; None where no age was said.

    The interval is the sheet's, else the lower end of the band of their construction.
    """
    worn: bool | None = None
    for clause in filter(None, (part.strip() for part in re.split(r"[;\n]", said))):
        what, equals, age = clause.partition("=")
        if not equals or what.strip().lower() not in ("plugs", "plug"):
            fix = "write it as plugs=160000 km"
            raise ProblemsError([Problem("age", f"'{clause[:60]}' is not understood", fix)])
        worn = _past(engine, age.strip())
    return worn


def _past(engine: Engine, age: str) -> bool:
    try:
        value = parse(age[:60])
    except QuantityError as error:
        raise ProblemsError(
            [Problem("age", str(error), "write it as 160000 km or 900 h")]
        ) from error
    km, hours = LIFE[engine.plugs[0].construction]
    if value.dimension is Dimension.DISTANCE:
        return value.mid >= _stated(engine, "interval", Dimension.DISTANCE, km)
    if value.dimension is Dimension.TIME:
        most = convert(hours, "h", "min")
        return value.mid >= _stated(engine, "interval-hours", Dimension.TIME, most)
    raise ProblemsError([Problem("age", f"'{age[:40]}' is no age", "write 160000 km or 900 h")])


def _stated(engine: Engine, key: str, dimension: Dimension, band: float) -> float:
    """The interval the sheet states, in the working unit; the band where it is silent."""
    figures = [f.value for f in engine.figures.get(key, ()) if f.value.dimension is dimension]
    return min((value.low for value in figures), default=band)


def _without(words: list[str]) -> frozenset[str]:
    known = [row.key for row in TESTS]
    wrong = [w for w in words if w.strip() and w.strip() not in known]
    if wrong:
        fix = f"use any of: {', '.join(known)}"
        raise ProblemsError([Problem("without", f"'{w}' is no test", fix) for w in wrong])
    return frozenset(w.strip() for w in words if w.strip())
