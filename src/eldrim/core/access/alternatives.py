"""What else could be done: the next-best ways in, and what saved each part that stays."""

from collections.abc import Iterator

from eldrim.core.access.explain import active_hindrances
from eldrim.core.access.problem import AccessProblem, Option, risk_minutes
from eldrim.core.access.search import Answer, Search
from eldrim.core.access.solve import MAX_OPTIONS, WayIn
from eldrim.core.base.frozen import Frozen
from eldrim.core.engine import Engine, Way, WorkRound
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import listed, say, the

MAX_ALTERNATIVES = 4
# Alternatives are a help, not the answer: each may take so many branches of our own search; so
# many are asked of CP-SAT, each with so much work.
NODE_LIMIT = 60
MAX_ASKED = 4
WORK_LIMIT = 0.1


class Stay(Frozen):
    """A part that stays where it is, and what saved it."""

    part: str
    name: str
    why: str


class Alternative(Frozen):
    """A next-best way in: what differs, and by how much against the chosen one.

    ``forbid`` is what to forbid in the job to get it; ``minutes`` and ``risk`` are differences in
    minutes; ``tools`` are special tools it needs more, ``spared`` those it does without.
    """

    words: str
    forbid: tuple[str, ...]
    minutes: float
    risk: float
    tools: tuple[str, ...]
    spared: tuple[str, ...]
    parts: tuple[str, ...]


def alternatives(
    engine: Engine,
    problem: AccessProblem,
    way_in: WayIn,
    rules: HouseRules,
    most: int = MAX_ALTERNATIVES,
) -> tuple[Alternative, ...]:
    """Return the next-best ways in, cheapest first.

    Each is the optimum once one chosen way or work-round, or one moved part altogether, is ruled
    out; sets that come out equal are one alternative.
    """
    found: dict[frozenset[Option], tuple[int, tuple[str, ...]]] = {}
    for option, other in _others(problem, way_in):
        if other.chosen != way_in.chosen:
            names = (f"{option.part}/{option.way or option.round}",)
            found.setdefault(other.chosen, (other.value, names))
    ranked = sorted(found.items(), key=lambda item: (item[1][0], sorted(item[0])))[:most]
    return tuple(_alternative(engine, way_in.chosen, c, names, rules) for c, (_, names) in ranked)


def _others(problem: AccessProblem, way_in: WayIn) -> Iterator[tuple[Option, Answer]]:
    """The proven optimum without each chosen option in turn, as far as the limits reach."""
    ruled_out = [o for o in sorted(way_in.chosen) if o not in problem.forced]
    if len(problem.cost) > MAX_OPTIONS:
        yield from _asked(problem, way_in, ruled_out)
        return
    search, hard = Search(problem, 0), []
    for option in ruled_out:
        search.left = NODE_LIMIT
        searched = search.least(frozenset({option}))
        if searched.bound is not None:
            hard.append(option)
        elif searched.answers:
            yield option, searched.answers[0]
    if hard:
        yield from _asked(problem, way_in, hard)


def _asked(
    problem: AccessProblem, way_in: WayIn, ruled_out: list[Option]
) -> Iterator[tuple[Option, Answer]]:
    """The same by CP-SAT, for the dearest options first."""
    # Only hard problems come here; the import takes longer than most whole plans.
    from eldrim.core.access.cp_sat import CpSatModel

    model = CpSatModel(problem)
    dearest = sorted(ruled_out, key=lambda option: (-problem.cost[option], option))
    for option in dearest[:MAX_ASKED]:
        asked = model.ask(way_in.chosen, WORK_LIMIT, without=option)
        if asked.chosen is not None and asked.bound == asked.value:
            yield option, Answer(asked.value, asked.chosen)


def _alternative(
    engine: Engine,
    base: frozenset[Option],
    other: frozenset[Option],
    forbid: tuple[str, ...],
    rules: HouseRules,
) -> Alternative:
    more, less = sorted(other - base), sorted(base - other)

    def total(nodes: list[Option]) -> float:
        return sum(w.out.mid + w.back.mid for w in map(lambda n: option_facts(engine, n), nodes))

    def risk(nodes: list[Option]) -> float:
        return sum(risk_minutes(option_facts(engine, node).risks, rules) for node in nodes)

    needed = {tool for option in more for tool in option_facts(engine, option).tools}
    spared = {t for n in less for t in option_facts(engine, n).tools}
    return Alternative(
        words=_difference_words(engine, more, less),
        forbid=forbid,
        minutes=round(total(more) - total(less), 1),
        risk=round(risk(more) - risk(less), 1),
        tools=tuple(sorted(needed - spared)),
        spared=tuple(sorted(spared - needed)),
        parts=tuple(sorted(n.part for n in other if n.is_way)),
    )


def option_facts(engine: Engine, node: Option) -> Way | WorkRound:
    """The way or work-round a node stands for."""
    if node.is_way:
        return engine.parts[node.part].ways[node.way]
    return engine.hindrances[node.hindrance].rounds[node.round]


def _difference_words(engine: Engine, more: list[Option], less: list[Option]) -> str:
    moved = {option.part for option in more if option.is_way}
    said = [
        say("doing.leave", part=the(engine.parts[n.part].name))
        for n in less
        if n.is_way and n.part not in moved
    ]
    for node in (n for n in more if n.is_way):
        way = engine.parts[node.part].ways[node.way]
        said.append(say(f"doing.{way.kind.value}", part=the(engine.parts[node.part].name)))
    for part in dict.fromkeys(n.part for n in more if not n.is_way):
        how = [_how(engine, n) for n in more if n.part == part and not n.is_way]
        name = the(engine.parts[part].name)
        said.append(say("doing.round", part=name, how="; ".join(how)))
    words = listed(list(dict.fromkeys(said)))
    return words[:1].upper() + words[1:]


def _how(engine: Engine, node: Option) -> str:
    """How a work-round is done, in words."""
    work = engine.hindrances[node.hindrance].rounds[node.round]
    return work.note or say(f"round.{work.kind.value}")


def stays(
    engine: Engine, problem: AccessProblem, way_in: WayIn, present: list[str]
) -> tuple[Stay, ...]:
    """For each part that does not move, what saved it."""
    moved = {option.part for option in way_in.chosen if option.is_way}
    rounds = {n.part: n for n in sorted(way_in.chosen) if not n.is_way}
    reached = {hindrance.part for hindrance in active_hindrances(problem, way_in)}
    found = []
    for key in present:
        if key in moved:
            continue
        part, node = engine.parts[key], rounds.get(key)
        if node is not None:
            why = say("stays.round", how=_how(engine, node))
        elif any(n.part == key for n in problem.cost) and key not in reached:
            why = say("stays.needless")
        else:
            why = say("stays.not_in_way")
        found.append(Stay(part=key, name=part.name, why=why))
    return tuple(found)
