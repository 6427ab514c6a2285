"""Plans computed once: the same question asked again is answered from memory.

A plan follows from the sheet, the job, the house rules and the crib alone, so one that is kept
never grows old: whatever changes is another question.
"""

from collections.abc import Callable
from hashlib import blake2b
from threading import Condition

from cachetools import LRUCache, cached
from pydantic import BaseModel

from eldrim.core.access.cost import access_costs
from eldrim.core.base.by_object import ByObject
from eldrim.core.engine import Engine
from eldrim.core.faults.ways import Ways, ways
from eldrim.core.interval.weigh import JobMinutes, minutes_of
from eldrim.core.job import Job
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.shop_capability import capability_for
from eldrim.core.words.language import page_language, spoken

KEPT = 128
_plans: LRUCache[bytes, Plan] = LRUCache(KEPT)
# With a condition, two who ask the same at once wait for one answer.
_turn = Condition()


def _question(engine: Engine, job: Job, rules: HouseRules, crib: Crib) -> bytes:
    digest = blake2b(job.model_dump_json().encode(), digest_size=16)
    for fact in (engine, rules, crib):
        digest.update(_digest_of(fact))
    return digest.digest()


# Sheets, rules and cribs are read once and kept: each is looked through once.
_digests: ByObject[bytes] = ByObject(KEPT)


def _digest_of(fact: BaseModel) -> bytes:
    return _digests.of(
        fact, lambda: blake2b(fact.model_dump_json().encode(), digest_size=16).digest()
    )


@cached(_plans, key=_question, condition=_turn)
def plan_for(engine: Engine, job: Job, rules: HouseRules, crib: Crib) -> Plan:
    """Return what :func:`compile_plan` answers, from memory where it was asked before.

    Raises :class:`JobError` as it does; a refusal is not kept.
    """
    return compile_plan(engine, job, rules, crib)


# Minutes are small: so many are kept, and those of a page's advice with them.
WEIGHED = 4_096


@cached(LRUCache(WEIGHED), key=_question, condition=Condition())
def weighed(engine: Engine, job: Job, rules: HouseRules, crib: Crib) -> JobMinutes:
    """The minutes of a job, from memory where it was asked before; of a large engine by the first
    good answer.
    """
    return minutes_of(compile_plan(engine, job, rules, crib, at_once=True))


def _place(engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> tuple[str | bytes, ...]:
    return (variant, *map(_digest_of, (engine, rules, crib)))


@cached(LRUCache(KEPT), key=_place, condition=Condition())
def kept_ways(engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> Ways:
    """Return what :func:`ways` answers, from memory where it was asked before."""
    return ways(engine, variant, rules, crib)


def first_plan(engine: Engine, job: Job, rules: HouseRules, crib: Crib) -> tuple[Plan, bool]:
    """Return an answer in time, and whether a cheaper one has been looked for.

    A large engine takes seconds to look through: its first answer says how far it may be over the
    least, until :func:`plan_for` was asked the same. Raises :class:`JobError` as it does.
    """
    question = _question(engine, job, rules, crib)
    with _turn:
        kept = _plans.get(question)
    if kept is not None:
        return kept, True
    plan = compile_plan(engine, job, rules, crib, at_once=True)
    if plan.proven_optimal:
        # There is nothing cheaper to look for: it is the answer.
        with _turn:
            _plans[question] = plan
    return plan, plan.proven_optimal


def forget() -> None:
    """Keep nothing of what was asked so far."""
    with _turn:
        _plans.clear()


# What it costs to get at each hole of a sheet alone, whatever is asked of it.
_costs: ByObject[dict[str, float]] = ByObject(KEPT)
# The drawings of a plan.
_drawings: ByObject[str] = ByObject(4 * KEPT)


def costs_of(engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> dict[str, float]:
    """Minutes to get at each hole alone."""
    return _costs.of(
        engine,
        lambda: access_costs(engine, variant, rules, capability_for(engine, variant, rules, crib)),
        *(variant, _digest_of(rules), _digest_of(crib)),
    )


def drawn(what: str, plan: Plan, make: Callable[[], str]) -> str:
    """A drawing of a plan, or what moves one, in the language in use."""
    return _drawings.of(plan, make, what, spoken(), page_language())
