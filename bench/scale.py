"""Every page at the size of a large workshop, against the demo's size, in one run.

``bin/bench scale``: fills a database of its own (``var/bench``), once, and prints for each page the
time of its answer at both sizes, their ratio, and how many bytes it has.
"""

import logging
import os
import statistics
import sys
import time

import structlog
from sqlalchemy import Engine, select

from bench.fill import FROM, Size, fill
from eldrim.demo.load import PASSWORD, load
from eldrim.demo.years import load_years
from eldrim.store.cluster import ROOT, Cluster, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions
from eldrim.store.tables import EditionRow, RunRow
from eldrim.web.app import make_app

# The unit whose pages are asked for, at both sizes.
UNIT = "tug-14"
ASKED = int(os.environ.get("ELDRIM_BENCH_ASKED", "9"))
ROW = "{:38} {:>9} {:>9} {:>7} {:>9} {:>9}"


def pages(engine: Engine) -> dict[str, str]:
    """The address of each page measured, by its name."""
    with sessions(engine)() as session:
        signed = session.scalars(
            select(RunRow)
            .where(RunRow.signed_at.is_not(None), RunRow.unit_id == UNIT)
            .order_by(RunRow.signed_at.desc())
            .limit(1)
        ).one()
        going = session.scalar(select(RunRow.id).where(RunRow.signed_at.is_(None)).limit(1))
        edition = session.get_one(EditionRow, signed.edition_id)
    return {
        "engines": "/engines",
        "plan": f"/engines/{edition.engine_id}?c=2&c=4&variant=late",
        "procedures": "/procedures",
        "changed underneath": "/changed-underneath",
        "draft": f"/procedures/{edition.procedure_id}",
        "edition": f"/editions/{edition.id}",
        "rules": "/rules",
        "units": "/units",
        "unit": f"/units/{signed.unit_id}",
        "due": "/due",
        "due.ics": "/due.ics",
        "bay": "/bay",
        "bay, one unit": f"/bay?unit={signed.unit_id}",
        "bay run": f"/bay/runs/{going}",
        "floor": "/floor",
        "open": "/open",
        "log": "/log",
        "log, marked": "/log?marked=yes",
        "log, by a person": "/log?by=technician",
        "log, one unit": f"/log?unit={signed.unit_id}",
        "log, words": "/log?words=boot+seated",
        "log, found": "/log?found=boot_torn",
        "log, a part": "/log?part=CV-BT-204",
        "log, an engine": f"/log?engine={edition.engine_id}",
        "log, stops": "/log?marked=stop",
        "log of a run": f"/log/{signed.id}",
        "lessons": "/lessons",
        "lessons of a procedure": f"/procedures/{edition.procedure_id}/lessons",
        "learnt of an engine": f"/engines/{edition.engine_id}/learnt",
        "parts": "/parts",
        "a part": "/parts/boot?number=CV-BT-204",
        "now or later": f"/engines/{FROM}/along?c=5&work=coil&variant=late&unit={UNIT}",
        "week": "/week",
        "search plug": "/search?q=plug",
        "search a serial": "/search?q=2248",
        "people": "/people",
        "audit": "/audit",
    }


def measure(engine: Engine) -> dict[str, tuple[float, int, int]]:
    """Median milliseconds, bytes and status of each page, asked again and again."""
    from starlette.testclient import TestClient

    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.CRITICAL))
    found = {}
    with TestClient(make_app(engine), raise_server_exceptions=False) as client:
        client.post("/sign-in", data={"name": "lead", "password": PASSWORD})
        for name, address in pages(engine).items():
            times = []
            for _ in range(ASKED):
                begun = time.perf_counter()
                answer = client.get(address)
                times.append(time.perf_counter() - begun)
            middle = 1000 * statistics.median(times[1:])
            found[name] = (middle, len(answer.content), answer.status_code)
    return found


def main() -> None:
    """Fill where nothing is filled yet, then measure both."""
    cluster = Cluster(reachable_home(ROOT / "var" / "bench-scale"), durable=False)
    cluster.start()
    try:
        small, large = cluster.url("small"), cluster.url("large")
        ensure_database(small)
        migrate(connect(small))
        with sessions(connect(small)).begin() as session:
            if load(session):
                load_years(session)
        _one_open(connect(small))
        if "--fill" in sys.argv or not _filled(large):
            print("filling (once):", flush=True)
            print(f"  {fill(large, Size()):.0f} s in all")
        _print(measure(connect(small)), measure(connect(large)))
    finally:
        cluster.stop()


def _filled(url: str) -> bool:
    ensure_database(url)
    engine = connect(url)
    migrate(engine)
    with sessions(engine)() as session:
        return session.scalar(select(RunRow.id).offset(1000).limit(1)) is not None


def _one_open(engine: Engine) -> None:
    """The demo with a run that goes on, as the large one has."""
    from uuid import uuid4

    from eldrim.store import runs

    with sessions(engine).begin() as session:
        if runs.open_count(session) == 0:
            done = session.scalars(select(RunRow).limit(1)).one()
            runs.start(session, uuid4(), done.edition_id, done.unit_id, "technician", "Bay 1")


def _print(
    small: dict[str, tuple[float, int, int]], large: dict[str, tuple[float, int, int]]
) -> None:
    print(ROW.format("page", "demo ms", "large ms", "times", "demo kB", "large kB"))
    for name, (before, size, _) in small.items():
        after, larger, status = large[name]
        print(
            ROW.format(
                name + ("" if status == 200 else f" ({status})"),
                f"{before:.1f}",
                f"{after:.1f}",
                f"{after / before:.1f}",
                f"{size / 1000:.0f}",
                f"{larger / 1000:.0f}",
            )
        )


if __name__ == "__main__":
    main()
