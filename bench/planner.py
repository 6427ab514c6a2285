"""How long a plan takes, how it grows, and how it compares with plain methods in the same run.

The choice is given to a plain CP-SAT model, the order on the way out to a plain beam search. The
machine's speed is in no row by itself: ratios are of the same run.
"""

import time
from collections.abc import Callable, Sequence
from typing import Any

from bench import beam, cpsat, synthetic
from eldrim.core.access import build, solve
from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work, carrier, settle_job
from eldrim.core.order import chain
from eldrim.core.order.entries import Change, SetUp
from eldrim.core.order.sequence import Ordered, Task, sequence
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.demo.load import demo_engines

BUDGET_S = 10.0
SIZES = (20, 40, 60, 100, 200, 400, 800)
# A plain beam takes minutes past this many tasks.
BEAM_UP_TO = 700
ROW = "{:24} {:>5} {:>8} {:>8} {:>8} {:>9} {:>9} {:>7} {:>9} {:>9} {:>10} {:>14}"
HEAD = ("engine", "parts", "cold ms", "warm ms", "first ms", "choice ms", "CP-SAT ms", "ratio",
        "choice", "CP-SAT", "out/beam", "whole job")  # fmt: skip


def main() -> None:
    """Print one row an engine."""
    print(ROW.format(*HEAD))
    for engine in [*demo_engines(), *map(synthetic.engine, SIZES)]:
        print(_row(engine), flush=True)


def _row(engine: Engine) -> str:
    asked = Job(
        cylinders=tuple(engine.cylinders),
        work=(carrier(engine), Work.PLUG),
        variant=next(iter(engine.variants)),
    )
    job = settle_job(asked, engine)
    cold, _ = _timed(lambda: compile_plan(engine, job), most=1)
    warm, made = _timed(lambda: compile_plan(engine, job))
    first, _ = _timed(lambda: compile_plan(engine, job, at_once=True))
    problem = build(engine, job, DEFAULT_RULES)
    choice, found = _timed(lambda: solve(problem))
    other, (cost, proven) = _timed(lambda: cpsat.solve(problem, BUDGET_S))
    over = made.access_minutes + made.change_minutes - made.least_sum
    worse = cost is not None and found.cost > cost
    return ROW.format(
        engine.id,
        len(engine.parts),
        f"{cold:.0f}",
        f"{warm:.1f}",
        f"{first:.1f}",
        f"{choice:.2f}",
        f"{other:.2f}",
        f"{other / choice:.1f}×",
        f"{found.cost}{' WORSE' if worse else ''}",
        f"{cost}{'' if proven else ' (time)'}",
        _against_beam(engine, job),
        "proven" if made.proven_optimal else f"≤ {over:.1f} min over",
    )


def _against_beam(engine: Engine, job: Job) -> str:
    """Our set-up changes on the way out beside those of the beam, in minutes."""
    stretches: list[tuple[Sequence[Task], SetUp, Change, Ordered]] = []

    def kept(tasks: Sequence[Task], in_hand: SetUp, change: Change, *effort: int) -> Ordered:
        done = sequence(tasks, in_hand, change, *effort)
        stretches.append((tasks, in_hand, change, done))
        return done

    setattr(chain, "sequence", kept)  # noqa: B010 - its own import of it
    try:
        compile_plan(engine, job)
    finally:
        setattr(chain, "sequence", sequence)  # noqa: B010
    tasks, in_hand, change, done = stretches[0]
    if len(tasks) > BEAM_UP_TO:
        return f"{done.cost:.2f}/–"
    plain = beam.least_changes(tasks, in_hand, change)
    return f"{done.cost:.2f}/{plain:.2f}{' WORSE' if done.cost > plain + 1e-9 else ''}"


def _timed(work: Callable[[], Any], most: int = 5) -> tuple[float, Any]:
    """Run a few times; the best time in milliseconds, and what came out."""
    times, result = [], None
    for _ in range(most):
        start = time.perf_counter()
        result = work()
        times.append(time.perf_counter() - start)
        if sum(times) > 3:
            break
    return min(times) * 1000, result


if __name__ == "__main__":
    main()
