"""How long a plan takes, how it grows, and how the choice compares with CP-SAT in the same run."""

import time
from collections.abc import Callable
from typing import Any

from bench import cpsat, synthetic
from eldrim.core.access import build, solve
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier, settle_job
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.demo.load import demo_engines

BUDGET_S = 10.0
SIZES = (50, 60, 100, 200, 400, 800)
ROW = "{:26} {:>6} {:>10} {:>10} {:>10} {:>8} {:>12} {:>12} {:>8}"


def main() -> None:
    """Print one row an engine."""
    print(
        ROW.format(
            "engine",
            "parts",
            "plan ms",
            "choice ms",
            "CP-SAT ms",
            "ratio",
            "our cost",
            "CP-SAT cost",
            "proven",
        )
    )
    for engine in [*demo_engines(), *map(synthetic.engine, SIZES)]:
        print(_row(engine), flush=True)


def _row(engine: Engine) -> str:
    asked = Job(
        cylinders=tuple(engine.cylinders),
        work=(carrier(engine), Work.PLUG),
        variant=next(iter(engine.variants)),
    )
    job = settle_job(asked, engine)
    whole, made = _timed(lambda: compile_plan(engine, job))
    choice, found = _timed(lambda: solve(build(engine, job, DEFAULT_RULES)))
    problem = build(engine, job, DEFAULT_RULES)
    other, (cost, proven) = _timed(lambda: cpsat.solve(problem, BUDGET_S), least=1)
    gap = (found.cost - found.bound) / 100 + made.order_gap
    verdict = "yes" if made.proven_optimal else f"≤{gap:.1f} min"
    worse = cost is not None and found.cost > cost
    return ROW.format(
        engine.id,
        len(engine.parts),
        f"{whole:.1f}",
        f"{choice:.1f}",
        f"{other:.1f}",
        f"{choice / other:.2f}",
        f"{found.cost}{' WORSE' if worse else ''}",
        f"{cost}{'' if proven else ' (time)'}",
        verdict,
    )


def _timed(work: Callable[[], Any], least: int = 3) -> tuple[float, Any]:
    """Run a few times; the best time in milliseconds, and what came out."""
    times, result = [], None
    for _ in range(least):
        start = time.perf_counter()
        result = work()
        times.append(time.perf_counter() - start)
        if times[-1] > 2:
            break
    return min(times) * 1000, result


if __name__ == "__main__":
    main()
