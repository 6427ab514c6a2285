"""From a complaint to what to do next: beliefs, the priced acts, and the tree that costs least."""

from dataclasses import dataclass

from eldrim.core.engine.model import Engine
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.faults.acts import PROOF_MINUTES, REPAIRS, TESTS, RepairRow, TestRow
from eldrim.core.faults.beliefs import Belief, beliefs
from eldrim.core.faults.codes import TELLING, Code, Consequence, consequences, leading, pointing
from eldrim.core.faults.complaint import Complaint, Where, where_of
from eldrim.core.faults.problem import Repair, Search, Test
from eldrim.core.faults.strategy import Strategy, best_order, greedy_order, order_minutes, solve
from eldrim.core.faults.ways import Ways
from eldrim.core.frozen import Frozen

# The order many take: what is cheap to buy first, whatever it costs to get at.
USUAL = ("plug", "plugs", "lead", "boot", "coil", "pair-coil", "main-coil", "tower")


@dataclass(frozen=True)
class WhatIf:
    """What is asked otherwise: acts struck out, a cause taken as known."""

    without: frozenset[str] = frozenset()
    known: str = ""


class Baselines(Frozen):
    """The expected minutes of what others would do, for the same beliefs and ways."""

    likeliest_per_minute: float
    best_fixed_order: float
    plugs_then_coils: float


@dataclass(frozen=True)
class Diagnosis:
    """A complaint weighed: which code leads, what it comes from, and the strategy to find out.

    ``pointing`` are codes that name a part of the cylinder whose misfire leads.

    ``partners`` are the cylinders that things are changed over with, by test.
    """

    where: Where
    codes: tuple[Code, ...]
    leading: Code | None
    pointing: tuple[Code, ...]
    consequences: tuple[Consequence, ...]
    causes: tuple[Belief, ...]
    search: Search
    strategy: Strategy
    baselines: Baselines
    partners: dict[str, int]


def diagnose(
    engine: Engine, variant: str, complaint: Complaint, ways: Ways, asked: WhatIf = WhatIf()
) -> Diagnosis:
    """Weigh a complaint. Raises :class:`ProblemsError` where nothing was said at all."""
    if not (complaint.codes or complaint.symptoms or complaint.signs):
        fix = "say codes, signs or symptoms"
        raise ProblemsError([Problem("complaint", "says nothing", fix)])
    telling = [code for code in complaint.codes if code.kind in TELLING]
    if complaint.codes and not (telling or complaint.symptoms or complaint.signs):
        said = ", ".join(code.text for code in complaint.codes)
        fix = "say what was noticed or seen too"
        raise ProblemsError(
            [Problem("codes", f"{said} alone: no misfire, coil, injector or mixture", fix)]
        )
    where, first = where_of(engine, complaint), leading(complaint.codes)
    causes = beliefs(engine, variant, complaint, where)
    if asked.known:
        causes = _known(causes, asked.known)
    search, partners = make_search(causes, where, ways, asked.without)
    found = solve(search)
    return Diagnosis(
        where=where,
        codes=complaint.codes,
        leading=first,
        pointing=pointing(complaint.codes, first) if first else (),
        consequences=tuple(consequences(complaint.codes, first)) if first else (),
        causes=tuple(causes),
        search=search,
        strategy=found,
        baselines=_baselines(search, causes),
        partners=partners,
    )


def _known(causes: list[Belief], key: str) -> list[Belief]:
    """One cause taken as known."""
    chosen = [one for one in causes if key in (one.key, one.name)]
    if not chosen:
        fix = f"use one of: {', '.join(one.key for one in causes)}"
        raise ProblemsError([Problem("known", f"'{key[:40]}' is no cause of it", fix)])
    return [chosen[0].model_copy(update={"probability": 1.0})]


def make_search(
    causes: list[Belief], where: Where, ways: Ways, without: frozenset[str] = frozenset()
) -> tuple[Search, dict[str, int]]:
    """The search for the cause as numbers, and the partners of what is changed over."""
    at = where.cylinders[0] if where.cylinders else min(ways.over)
    keys = [one.key for one in causes]
    partners: dict[str, int] = {}
    tests = []
    for row in TESTS:
        if row.key in without or not set(row.yes) & set(keys):
            continue
        if row.partner:
            partners[row.key] = ways.partner(row.needs, at)
            if not partners[row.key]:
                del partners[row.key]
                continue
        tests.append(_test(row, keys, ways, at, partners.get(row.key, 0)))
    repairs = [
        _repair(row, keys, ways, at)
        for row in REPAIRS
        if set(row.cures) <= set(keys) and not (row.key in without and len(row.cures) > 1)
    ]
    acts: list[Test | Repair] = [*tests, *repairs]
    needed = frozenset[str]().union(*(act.needs for act in acts))
    opening = {thing: ways.opening[thing] for thing in sorted(needed)}
    prior = tuple(one.probability for one in causes)
    return _merged(Search(prior, tuple(tests), tuple(repairs), opening)), partners


def _test(row: TestRow, keys: list[str], ways: Ways, at: int, partner: int) -> Test:
    needs = ways.needs(row.needs, at)
    if partner:
        needs |= ways.needs(row.needs, partner)
    yes = tuple(row.yes.get(key, row.otherwise) for key in keys)
    return Test(row.key, yes, row.minutes, needs)


def _repair(row: RepairRow, keys: list[str], ways: Ways, at: int) -> Repair:
    cures = frozenset(keys.index(key) for key in row.cures)
    minutes = row.minutes + row.part_minutes + PROOF_MINUTES
    return Repair(row.key, cures, minutes, ways.needs(row.needs, at))


def _merged(search: Search) -> Search:
    """Things that every act opens together cost what they cost together."""
    acts: tuple[Test | Repair, ...] = (*search.tests, *search.repairs)
    groups: dict[tuple[bool, ...], list[str]] = {}
    for thing in search.opening:
        groups.setdefault(tuple(thing in act.needs for act in acts), []).append(thing)
    named = {thing: "+".join(things) for things in groups.values() for thing in things}

    def opened(needs: frozenset[str]) -> frozenset[str]:
        return frozenset(named[thing] for thing in needs)

    return Search(
        search.prior,
        tuple(Test(t.key, t.yes, t.minutes, opened(t.needs)) for t in search.tests),
        tuple(Repair(r.key, r.cures, r.minutes, opened(r.needs)) for r in search.repairs),
        {
            "+".join(things): round(sum(search.opening[thing] for thing in things), 2)
            for things in groups.values()
        },
    )


def _baselines(search: Search, causes: list[Belief]) -> Baselines:
    usual = [
        next(n for n, one in enumerate(causes) if one.key == key)
        for key in USUAL
        if any(one.key == key for one in causes)
    ]
    rest = [n for n in range(len(causes)) if n not in usual]
    order = [search.single(n) for n in (*usual, *rest)]
    return Baselines(
        likeliest_per_minute=round(order_minutes(search, greedy_order(search)), 2),
        best_fixed_order=round(best_order(search)[1], 2),
        plugs_then_coils=round(order_minutes(search, order), 2),
    )
