"""From a complaint to what to do next: beliefs, the priced acts, and the tree that costs least."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.faults.acts import PROOF_MINUTES, REPAIRS, TESTS, RepairRow, TestRow
from eldrim.core.faults.beliefs import Belief, beliefs
from eldrim.core.faults.codes import TELLING, Code, Consequence, consequences, leading, pointing
from eldrim.core.faults.complaint import Complaint, Where, where_of
from eldrim.core.faults.problem import Repair, Search, Test
from eldrim.core.faults.strategy import Strategy, best_order, greedy_order, order_minutes, solve
from eldrim.core.faults.ways import Ways
from eldrim.core.figures.prices import PRICES, repair_prices
from eldrim.core.words.messages import gettext

# The order many take: what is cheap to buy first, whatever it costs to get at.
USUAL = ("plug", "plugs", "lead", "boot", "coil", "pair-coil", "main-coil", "tower")


@dataclass(frozen=True)
class WhatIf:
    """What is asked otherwise: tests struck out, tools missing, a cause taken as known, prices.

    ``prices`` are those of parts that are other than usual, in the money of the house.
    """

    without: frozenset[str] = frozenset()
    lacking: frozenset[str] = frozenset()
    known: str = ""
    prices: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Weights:
    """What a house weighs with: money a minute of work costs, minutes of acts it knows better."""

    money_per_minute: float = 1.2
    minutes: Mapping[str, float] = field(default_factory=dict)


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
    engine: Engine,
    variant: str,
    complaint: Complaint,
    ways: Ways,
    asked: WhatIf = WhatIf(),
    weights: Weights = Weights(),
) -> Diagnosis:
    """Weigh a complaint. Raises :class:`ProblemsError` where nothing was said at all."""
    _require_said(complaint)
    where, first = where_of(engine, complaint), leading(complaint.codes)
    causes = beliefs(engine, variant, complaint, where)
    if asked.known:
        causes = _known(causes, asked.known)
    prices = {**repair_prices(engine, variant), **asked.prices}
    priced = replace(asked, prices=prices)
    search, partners = make_search(causes, where, ways, priced, weights)
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


def _require_said(complaint: Complaint) -> None:
    """Raise :class:`ProblemsError` where nothing was said that points anywhere."""
    if not (complaint.codes or complaint.symptoms or complaint.signs):
        fix = gettext("say codes, signs or symptoms")
        raise ProblemsError([Problem("complaint", gettext("says nothing"), fix)])
    telling = [code for code in complaint.codes if code.kind in TELLING]
    if complaint.codes and not (telling or complaint.symptoms or complaint.signs):
        codes = ", ".join(code.text for code in complaint.codes)
        said = gettext("{said} alone: no misfire, coil, injector or mixture", said=codes)
        fix = gettext("say what was noticed or seen too")
        raise ProblemsError([Problem("codes", said, fix)])


def _known(causes: list[Belief], key: str) -> list[Belief]:
    """One cause taken as known."""
    chosen = [one for one in causes if key in (one.key, one.name)]
    if not chosen:
        fix = gettext("use one of: {causes}", causes=", ".join(one.key for one in causes))
        raise ProblemsError(
            [Problem("known", gettext("'{key}' is no cause of it", key=key[:40]), fix)]
        )
    return [chosen[0].model_copy(update={"probability": 1.0})]


def make_search(
    causes: list[Belief],
    where: Where,
    ways: Ways,
    asked: WhatIf = WhatIf(),
    weights: Weights = Weights(),
) -> tuple[Search, dict[str, int]]:
    """The search for the cause as numbers, and the partners of what is changed over."""
    at = where.cylinders[0] if where.cylinders else min(ways.over)
    keys = [one.key for one in causes]
    partners: dict[str, int] = {}
    tests = []
    for row in TESTS:
        struck_out = row.key in asked.without or row.tool in asked.lacking
        if struck_out or not set(row.yes) & set(keys):
            continue
        partner = ways.partner(row.needs, at) if row.swaps else 0
        if row.swaps and not partner:
            continue
        test = _test(row, keys, ways, at, partner)
        if test is not None:
            tests.append(replace(test, minutes=weights.minutes.get(row.key, test.minutes)))
            partners |= {row.key: partner} if partner else {}
    repairs = [
        _repair(row, keys, ways.needs(row.needs, at), asked, weights)
        for row in REPAIRS
        if set(row.cures) <= set(keys) and not (row.key in asked.without and len(row.cures) > 1)
    ]
    acts: list[Test | Repair] = [*tests, *repairs]
    needed = frozenset[str]().union(*(act.opens for act in acts))
    opening = {thing: ways.opening[thing] for thing in sorted(needed)}
    prior = tuple(one.probability for one in causes)
    return _merged(Search(prior, tuple(tests), tuple(repairs), opening)), partners


def _test(row: TestRow, keys: list[str], ways: Ways, at: int, partner: int) -> Test | None:
    """A test as numbers; None where it asks for a running engine that is open."""
    needs = ways.needs(row.needs, at)
    if partner:
        needs |= ways.needs(row.needs, partner)
    yes = tuple(row.yes.get(key, row.otherwise) for key in keys)
    shut = ways.shut(needs) if row.runs else frozenset[str]()
    if shut and not row.swaps:
        return None
    return Test(row.key, yes, row.minutes, needs - shut, shut)


def _repair(
    row: RepairRow, keys: list[str], needs: frozenset[str], asked: WhatIf, weights: Weights
) -> Repair:
    """A repair as numbers: own minutes, its parts as minutes, and its proof."""
    cures = frozenset(keys.index(key) for key in row.cures)
    price = sum(asked.prices.get(part, PRICES[part]) for part in row.parts)
    own = weights.minutes.get(row.key, row.minutes)
    minutes = round(own + price / weights.money_per_minute + PROOF_MINUTES, 2)
    return Repair(row.key, cures, minutes, needs)


def _merged(search: Search) -> Search:
    """Things that every act opens together cost what they cost together."""
    acts: tuple[Test | Repair, ...] = (*search.tests, *search.repairs)
    groups: dict[tuple[int, ...], list[str]] = {}
    for thing in search.opening:
        alike = tuple((thing in act.needs) + 2 * (thing in act.opens) for act in acts)
        groups.setdefault(alike, []).append(thing)
    named = {thing: "+".join(things) for things in groups.values() for thing in things}

    def opened(needs: frozenset[str]) -> frozenset[str]:
        return frozenset(named[thing] for thing in needs)

    return Search(
        search.prior,
        tuple(replace(t, needs=opened(t.needs), shut=opened(t.shut)) for t in search.tests),
        tuple(replace(r, needs=opened(r.needs)) for r in search.repairs),
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
