"""Leads as they are asked about from outside: the command line and the open interface."""

import re
from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from eldrim.core.base.errors import Problem, ProblemsError, QuantityError
from eldrim.core.base.quantity import Dimension, parse
from eldrim.core.engine.model import Engine
from eldrim.core.leads.answer import HeapAnswer, RingAnswer, told_heap, told_ring
from eldrim.core.leads.heap import MAX_HEAP, BenchLead, assign
from eldrim.core.leads.ring import read_ring
from eldrim.core.rules.house import HouseRules
from eldrim.core.words.messages import gettext

MAX_TEXT = 2_000
Text = Annotated[str, StringConstraints(max_length=MAX_TEXT)]
_LEAD = re.compile(r"\s*(?P<name>[^:;]{1,40}?)\s*:\s*(?P<length>[^:;]{1,40})")
_TOWER = re.compile(
    r"\s*(?:(?:tower|turm)\s*)?(?P<tower>\d{1,3})\s*[:=]\s*(?P<hole>\d{1,3}[ab]?)\s*", re.I
)
# Longer or shorter than this in mm is no ignition lead, but a slip of the unit.
SHORTEST, LONGEST = 40.0, 3_000.0


class HeapQuestion(BaseModel):
    """What lies on the bench."""

    heap: Text = Field(description="1: 410 mm; 2: 380 mm: what each is called there, its length.")


class RingQuestion(BaseModel):
    """What was found on the cap or the pack."""

    found: Text = Field(description="tower 1: 1; tower 2: 3: the hole each tower's lead goes to.")


def answer_heap(engine: Engine, asked: HeapQuestion, rules: HouseRules) -> HeapAnswer:
    """Which lead goes where. Raises :class:`ProblemsError` with all that is not understood."""
    return told_heap(assign(engine, read_heap(asked.heap), rules))


def answer_ring(engine: Engine, asked: RingQuestion) -> RingAnswer:
    """What is wrong with an order. Raises :class:`ProblemsError` with all that is wrong with it."""
    return told_ring(read_ring(engine, read_found(asked.found)))


def read_heap(said: str) -> list[BenchLead]:
    """Leads apart by semicolons or lines, each with its name and length."""
    found: list[BenchLead] = []
    problems: list[Problem] = []
    for clause in filter(str.strip, re.split(r"[;\n]", said)):
        fits = _LEAD.fullmatch(clause)
        if fits is None:
            fix = gettext("write each as 1: 410 mm, apart by semicolons")
            problems.append(
                Problem(
                    "heap", gettext("'{clause}' is not understood", clause=clause.strip()[:40]), fix
                )
            )
            continue
        name = " ".join(fits["name"].split())
        if name in (lead.name for lead in found):
            problems.append(
                Problem(
                    "heap",
                    gettext("lead {name} stands twice", name=name),
                    gettext("call each otherwise"),
                )
            )
        try:
            found.append(BenchLead(name, _length(name, fits["length"])))
        except (QuantityError, ProblemsError) as error:
            problems += _told(error, name)
    if len(found) > MAX_HEAP:
        problems.append(_too_many(len(found)))
    if not found and not problems:
        problems.append(
            Problem("heap", gettext("says nothing"), gettext("say the leads: 1: 410 mm; 2: 380 mm"))
        )
    if problems:
        raise ProblemsError(problems)
    return found


def _too_many(found: int) -> Problem:
    most = gettext("at most {max_heap}", max_heap=MAX_HEAP)
    return Problem("heap", gettext("are {found} leads", found=found), most)


def _length(name: str, said: str) -> float:
    length = parse(said, Dimension.LENGTH).mid
    if not SHORTEST <= length <= LONGEST:
        fix = gettext(
            "leads are {shortest} to {longest} mm long; is the unit right?",
            shortest=f"{SHORTEST:g}",
            longest=f"{LONGEST:g}",
        )
        raise ProblemsError(
            [
                Problem(
                    f"heap.{name}",
                    gettext("{length} mm is no length of a lead", length=f"{length:g}"),
                    fix,
                )
            ]
        )
    return length


def _told(error: Exception, name: str) -> list[Problem]:
    if isinstance(error, ProblemsError):
        return list(error.problems)
    return [Problem(f"heap.{name}", str(error), gettext("write a length, as 410 mm"))]


def read_found(said: str) -> dict[int, str]:
    """The hole by tower, apart by semicolons or lines."""
    found: dict[int, str] = {}
    problems = []
    for clause in filter(str.strip, re.split(r"[;\n,]", said)):
        fits = _TOWER.fullmatch(clause)
        if fits is None:
            fix = gettext("write each as tower 1: 8, apart by semicolons")
            problems.append(
                Problem(
                    "found",
                    gettext("'{clause}' is not understood", clause=clause.strip()[:40]),
                    fix,
                )
            )
            continue
        tower, hole = int(fits["tower"]), fits["hole"].lower()
        if tower in found:
            problems.append(
                Problem(
                    "found",
                    gettext("tower {tower} stands twice", tower=tower),
                    gettext("say each once"),
                )
            )
        found[tower] = hole
    if problems:
        raise ProblemsError(problems)
    return found
