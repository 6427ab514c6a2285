"""The sets of holes a cause can act over on one engine."""

from collections.abc import Iterator
from itertools import pairwise

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.reading.causes import Scope

MANY = 3


class Place(Frozen):
    """One set of holes: of which scope, what it is called, what it shares with a cause.

    ``key`` names the bank or the shared thing; empty where the holes say it all. ``brings`` is
    what comes from the shared thing.
    """

    scope: Scope
    holes: tuple[str, ...]
    key: str = ""
    name: str = ""
    brings: str = ""


def places(engine: Engine) -> tuple[Place, ...]:
    """Every place on the engine, the smallest first."""
    return (
        *(Place(scope=Scope.ONE, holes=(hole,)) for hole in engine.holes),
        *(Place(scope=Scope.CYLINDER, holes=engine.holes_of(n)) for n in engine.cylinders),
        *_neighbours(engine),
        *_pairs(engine),
        *_shared(engine),
        *_banks(engine),
        *_ends(engine),
        Place(scope=Scope.ALL, holes=tuple(engine.holes)),
    )


def rows(engine: Engine) -> dict[str, list[int]]:
    """The cylinders of each bank, from the timing end."""
    return {
        key: sorted(
            (n for n, cylinder in engine.cylinders.items() if cylinder.bank == key),
            key=lambda n: engine.cylinders[n].place,
        )
        for key in engine.banks
    }


def _neighbours(engine: Engine) -> Iterator[Place]:
    for row in rows(engine).values():
        for pair in pairwise(row):
            yield Place(scope=Scope.NEIGHBOURS, holes=engine.holes_of_all(pair))


def _pairs(engine: Engine) -> Iterator[Place]:
    for pair in engine.ignition.waste_spark_pairs:
        yield Place(scope=Scope.PAIR, holes=engine.holes_of_all(pair))


def _shared(engine: Engine) -> Iterator[Place]:
    for key, shared in engine.shared.items():
        holes = engine.holes_of_all(shared.cylinders)
        yield Place(
            scope=Scope.SHARED, holes=holes, key=key, name=shared.name, brings=shared.brings
        )


def _banks(engine: Engine) -> Iterator[Place]:
    found = {key: row for key, row in rows(engine).items() if row}
    if len(found) < 2:
        return
    for key, row in found.items():
        holes = engine.holes_of_all(row)
        if len(row) > 1:
            yield Place(scope=Scope.BANK, holes=holes, key=key, name=engine.banks[key].name)


def _ends(engine: Engine) -> Iterator[Place]:
    """First and last of every row, where something lies between."""
    long = [row for row in rows(engine).values() if len(row) >= MANY]
    if long:
        ends = [number for row in long for number in (row[0], row[-1])]
        yield Place(scope=Scope.ENDS, holes=engine.holes_of_all(sorted(ends)))
