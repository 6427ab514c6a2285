"""Faults: expected minutes of the strategy beside what others would do, on every demo engine.

For each engine and each complaint the craft has a band for: the strategy's expected minutes as a
share of the usual order (plugs, then coils), of the likeliest for its minutes first, and of the
best fixed order of repairs; and the time a whole search takes as a share of planning the ways in.
"""

from random import Random
from time import perf_counter

from eldrim.core.engine import Engine
from eldrim.core.faults.codes import read_codes
from eldrim.core.faults.complaint import Complaint, Symptom
from eldrim.core.faults.diagnosis import diagnose
from eldrim.core.faults.problem import Repair, Search, Test
from eldrim.core.faults.strategy import solve
from eldrim.core.faults.ways import ways
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.core.tools.stock import STANDARD_CRIB
from eldrim.demo.load import demo_engines


def main() -> None:
    """Print a line a complaint."""
    heads = ("min", "of usual", "of likeliest", "of order", "proven", "search/ways")
    print(f"{'complaint':44}" + "".join(f"{head:>14}" for head in heads))
    for engine in demo_engines():
        variant = list(engine.variants)[-1]
        began = perf_counter()
        found = ways(engine, variant, DEFAULT_RULES, STANDARD_CRIB)
        planned = perf_counter() - began
        for name, complaint in complaints(engine, variant):
            began = perf_counter()
            said = diagnose(engine, variant, complaint, found)
            took = perf_counter() - began
            base, least = said.baselines, said.strategy.expected
            print(
                f"{engine.id + ': ' + name:44}{least:14.1f}{least / base.plugs_then_coils:14.2f}"
                f"{least / base.likeliest_per_minute:14.2f}{least / base.best_fixed_order:14.2f}"
                f"{'yes' if said.strategy.proven else 'no':>14}{took / planned:14.2f}"
            )
    for causes, tests in ((8, 8), (12, 14)):
        _synthetic(causes, tests)
    for widest in (3, 5):
        gaps = sorted(_gap(any_search(12, 14, seed, widest)) for seed in range(8))
        shown = " ".join(f"{gap:.1%}" for gap in gaps)
        print(f"12 causes, 14 tests of any kind, each for up to {widest} causes: gaps {shown}")


def complaints(engine: Engine, variant: str) -> list[tuple[str, Complaint]]:
    """The complaints an engine can have: at its first and last cylinder, and at none."""
    found = []
    for number in (min(engine.cylinders), max(engine.cylinders)):
        hole = engine.holes_of(number)[0]
        if engine.diagnoses_itself(variant):
            misfire = read_codes(engine, f"P03{number:02}")
            found.append((f"misfire {number}", Complaint(codes=misfire)))
            worn = Complaint(codes=misfire, plugs_worn=True)
            found.append((f"misfire {number}, worn", worn))
            if engine.ignition.kind == "coil_on_plug":
                both = read_codes(engine, f"P03{number:02},P035{number}")
                found.append((f"coil circuit {number}", Complaint(codes=both)))
        else:
            found.append((f"sooty {number}", Complaint(signs={hole: frozenset({"soot"})})))
        wet = Complaint(signs={hole: frozenset({"track"})}, symptoms=frozenset({Symptom.WET}))
        found.append((f"track {number}, wet", wet))
    several = Complaint(symptoms=frozenset({Symptom.IDLE}))
    return [*found, ("several, at idle", several)]


def _synthetic(causes: int, tests: int) -> None:
    """A search of so many causes and tests, each test for one cause: its time and gap."""
    weights = [(causes - n) ** 2 for n in range(causes)]
    prior = tuple(weight / sum(weights) for weight in weights)
    every = tuple(
        Test(
            f"test{n}",
            tuple(0.9 if cause == n % causes else 0.05 for cause in range(causes)),
            3.0 + n % 4,
            frozenset({"abc"[n % 3]}),
        )
        for n in range(tests)
    )
    repairs = tuple(
        Repair(f"mend{n}", frozenset({n}), 12.0 + 5 * (n % 3), frozenset({"abc"[n % 3]}))
        for n in range(causes)
    )
    began = perf_counter()
    found = solve(Search(prior, every, repairs, {"a": 0.0, "b": 12.0, "c": 42.0}))
    took = perf_counter() - began
    gap = found.expected / found.bound - 1
    print(f"{causes} causes, {tests} tests: {took:.2f} s, {found.expected:.1f} min, gap {gap:.1%}")


def _gap(search: Search) -> float:
    found = solve(search)
    return found.expected / found.bound - 1


def any_search(causes: int, tests: int, seed: int, widest: int = 3) -> Search:
    """A search of any kind: tests for one to so many causes, ways in that are shared."""
    rnd = Random(seed)
    weights = [rnd.gammavariate(0.8, 1) + 0.02 for _ in range(causes)]
    things = {name: rnd.choice([2.0, 6.0, 12.0, 25.0, 45.0]) for name in "abcd"}
    needs = [frozenset(name for name in things if rnd.random() < 0.35) for _ in range(causes)]
    acts = []
    for n in range(tests):
        meant = rnd.sample(range(causes), rnd.choice([1, 1, 1, 2, 2, 3, widest]))
        other = rnd.choice([0.02, 0.05, 0.1])
        yes = tuple(rnd.choice([0.6, 0.75, 0.9]) if c in meant else other for c in range(causes))
        inside = needs[min(meant)] if rnd.random() < 0.6 else frozenset[str]()
        acts.append(Test(f"test{n:02}", yes, float(rnd.randint(2, 12)), inside))
    mends = tuple(
        Repair(f"mend{n:02}", frozenset({n}), float(rnd.randint(10, 90)), needs[n])
        for n in range(causes)
    )
    return Search(tuple(w / sum(weights) for w in weights), tuple(acts), mends, things)


if __name__ == "__main__":
    main()
