"""A complaint as it is asked about from outside: the command line and the open interface."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import Dimension, convert, parse, read_number, working_unit
from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import TESTS
from eldrim.core.faults.answer import DiagnosisAnswer, told
from eldrim.core.faults.codes import Code, read_codes
from eldrim.core.faults.complaint import Complaint, Symptom
from eldrim.core.faults.diagnosis import Diagnosis, Weights, WhatIf, diagnose
from eldrim.core.faults.ways import Ways, ways
from eldrim.core.figures.prices import PRICES
from eldrim.core.interval.life import life_of
from eldrim.core.reading.signs import amiss
from eldrim.core.reading.typed_signs import MAX_TEXT, read_signs
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.words.messages import gettext
from eldrim.exchange.gathering import Gathering
from eldrim.exchange.readings import variant_of

Short = Annotated[str, StringConstraints(max_length=400)]
Word = Annotated[str, StringConstraints(max_length=80)]


class ComplaintQuestion(BaseModel):
    """What is complained of, as people say it."""

    codes: Short = Field("", description="P0305, P0355")
    signs: Annotated[str, StringConstraints(max_length=MAX_TEXT)] = Field(
        "", description="Seen at the holes: 5=track; a hole not named was not looked at."
    )
    symptoms: list[Word] = Field([], description=f"Any of: {', '.join(Symptom)}.")
    age: Short = Field("", description="plugs=160000 km; in km, mi or h.")
    without: list[Word] = Field([], description="Tests struck out.")
    lacking: list[Word] = Field([], description="Tools that are missing.")
    prices: Short = Field("", description="coil=180; plug=12: prices that are other than usual.")
    known: Word = Field("", description="A cause taken as known.")
    variant: Word = ""


Proven = Mapping[str, Mapping[str, float]]
FindWays = Callable[[Engine, str, HouseRules, Crib], Ways]


@dataclass(frozen=True)
class Shop:
    """What a complaint is weighed with: rules, tools, the shop's own proven cases by kind.

    ``find_ways`` may know the ways in from before.
    """

    rules: HouseRules
    crib: Crib
    proven: Proven = field(default_factory=dict)
    find_ways: FindWays = ways


def answer_diagnosis(engine: Engine, asked: ComplaintQuestion, shop: Shop) -> DiagnosisAnswer:
    """Weigh a complaint on an engine, in words. Raises :class:`ProblemsError` with all that is
    wrong.
    """
    return told(engine, weigh(engine, asked, shop))


def weigh(engine: Engine, asked: ComplaintQuestion, shop: Shop) -> Diagnosis:
    """Weigh a complaint on an engine. Raises :class:`ProblemsError` with all that is wrong."""
    parts = Gathering()
    codes, signs, symptoms = _said(parts, engine, asked)
    variant = parts.read("", variant_of, engine, asked.variant)
    worn = parts.read(None, plugs_worn, engine, asked.age)
    without = parts.read(frozenset[str](), _known, "without", asked.without, TEST_KEYS)
    lacking = parts.read(frozenset[str](), _known, "lacking", asked.lacking, TOOLS)
    prices = parts.read({}, _prices, asked.prices)
    parts.require_nothing_wrong()
    complaint = Complaint(codes, symptoms, signs, worn, shop.proven)
    what_if = WhatIf(without, lacking, asked.known.strip(), prices)
    weights = Weights(shop.rules.money_per_minute, shop.rules.act_minutes)
    ways_in = shop.find_ways(engine, variant, shop.rules, shop.crib)
    return diagnose(engine, variant, complaint, ways_in, what_if, weights)


def _said(
    parts: Gathering, engine: Engine, asked: ComplaintQuestion
) -> tuple[tuple[Code, ...], dict[str, frozenset[str]], frozenset[Symptom]]:
    return (
        parts.read((), read_codes, engine, asked.codes),
        parts.read({}, _signs, engine, asked.signs),
        parts.read(frozenset[Symptom](), read_symptoms, asked.symptoms),
    )


def complaint_of(engine: Engine, asked: ComplaintQuestion) -> Complaint:
    """What is complained of, as it is read.

    Raises :class:`ProblemsError` with all that is not understood.
    """
    parts = Gathering()
    codes, signs, symptoms = _said(parts, engine, asked)
    parts.require_nothing_wrong()
    return Complaint(codes, symptoms, signs)


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
        fix = (
            gettext("did you mean {near}?", near=near[0])
            if near
            else gettext("use any of: {known}", known=", ".join(known))
        )
        problems.append(
            Problem("symptoms", gettext("'{word}' is no symptom we know", word=word[:40]), fix)
        )
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
            fix = gettext("write it as plugs=160000 km")
            raise ProblemsError(
                [Problem("age", gettext("'{clause}' is not understood", clause=clause[:60]), fix)]
            )
        worn = _past(engine, age.strip())
    return worn


def _past(engine: Engine, age: str) -> bool:
    try:
        value = parse(age[:60])
    except QuantityError as error:
        raise ProblemsError(
            [Problem("age", str(error), gettext("write it as 160000 km or 900 h"))]
        ) from error
    unit = {Dimension.DISTANCE: "km", Dimension.TIME: "h"}.get(value.dimension)
    if unit is None:
        raise ProblemsError(
            [
                Problem(
                    "age",
                    gettext("'{age}' is no age", age=age[:40]),
                    gettext("write 160000 km or 900 h"),
                )
            ]
        )
    life = life_of(engine, next(iter(engine.variants)), "plug", unit)
    assert life is not None, "plugs have a band where the sheet is silent"
    return convert(value.mid, working_unit(value.dimension).symbol, unit) >= life.amount


TEST_KEYS = tuple(row.key for row in TESTS)
TOOLS = tuple(sorted({row.tool for row in TESTS if row.tool}))
_NO = {"without": "no test", "lacking": "no tool of a test"}


def _known(field: str, words: list[str], known: tuple[str, ...]) -> frozenset[str]:
    """Words of a list; what is not on it is refused."""
    said = [word.strip() for word in words if word.strip()]
    wrong = [word for word in said if word not in known]
    if wrong:
        fix = gettext("use any of: {known}", known=", ".join(known))
        raise ProblemsError(
            [Problem(field, gettext("'{w}' is {field}", w=w, field=_NO[field]), fix) for w in wrong]
        )
    return frozenset(said)


def _prices(said: str) -> dict[str, float]:
    """Prices by part, as ``coil=180; plug=12``."""
    found: dict[str, float] = {}
    for clause in filter(None, (part.strip() for part in re.split(r"[;\n]", said))):
        part, equals, price = (word.strip() for word in clause.partition("="))
        if not equals or part not in PRICES:
            fix = gettext("write coil=180; parts are: {prices}", prices=", ".join(PRICES))
            raise ProblemsError(
                [
                    Problem(
                        "prices", gettext("'{clause}' is not understood", clause=clause[:60]), fix
                    )
                ]
            )
        try:
            found[part] = read_number(price)
        except QuantityError as error:
            raise ProblemsError(
                [Problem("prices", str(error), gettext("write coil=180"))]
            ) from error
        if not 0 <= found[part] <= MOST_MONEY:
            raise ProblemsError(
                [
                    Problem(
                        "prices",
                        gettext("'{price}' can hardly be", price=price[:40]),
                        gettext("0 to 100000"),
                    )
                ]
            )
    return found


# No part of a search costs more.
MOST_MONEY = 100_000
