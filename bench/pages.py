"""What a person waits for, beside a bare answer of the same bytes by the same framework.

``bin/bench pages``: the plan redrawn again and for the first time, papers for the first time and
again. Ratios of one run on one machine; the times alone say little elsewhere.
"""

import gzip
import logging
import statistics
import time
import uuid
from collections.abc import Callable
from functools import partial
from html.parser import HTMLParser

import structlog
from fastapi import FastAPI
from fastapi.responses import HTMLResponse
from sqlalchemy import Engine, select
from starlette.middleware.gzip import GZipMiddleware
from starlette.testclient import TestClient

from eldrim.demo.load import PASSWORD, load
from eldrim.store import runs
from eldrim.store.cluster import ROOT, Cluster, reachable_home
from eldrim.store.database import connect, ensure_database, migrate, sessions
from eldrim.store.tables import EditionRow, EngineRow, RunRow
from eldrim.web import papers, plans
from eldrim.web.app import make_app

ROW = "{:38} {:>9} {:>9} {:>12}"
ASKED = 40


def timed(ask: Callable[[], object], count: int = ASKED) -> list[float]:
    """Milliseconds of each of so many."""
    found = []
    for _ in range(count):
        begun = time.perf_counter()
        ask()
        found.append(1000 * (time.perf_counter() - begun))
    return found


def bare(page: str) -> list[float]:
    """A route that gives these very bytes, packed as ours are."""
    app = FastAPI()
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=5)

    @app.get("/")
    def same() -> HTMLResponse:
        return HTMLResponse(page)

    with TestClient(app) as client:
        return timed(lambda: client.get("/"))


def row(name: str, times: list[float], against: list[float]) -> None:
    """One line: the middle, the slowest twentieth, and how many times the bare one's that is."""
    slow = statistics.quantiles(times, n=20)[-1]
    plain = statistics.quantiles(against, n=20)[-1]
    middle = statistics.median(times)
    print(ROW.format(name, f"{middle:.1f}", f"{slow:.1f}", f"{slow / plain:.1f}"))


def redraws(client: TestClient, engine: Engine) -> None:
    """The plan of each demo engine with two holes chosen, as a click asks for it."""
    with sessions(engine)() as session:
        sheets = session.scalars(select(EngineRow.id).order_by(EngineRow.id)).all()
    head = {"hx-request": "true"}
    for key in sheets:
        address = f"/engines/{key}?c=1&c=2"
        page = client.get(address, headers=head).text
        against = bare(page)

        def again(asked: str = address) -> None:
            client.get(asked, headers=head)

        def first(asked: str = address) -> None:
            plans.forget()
            client.get(asked, headers=head)

        row(f"{key}, again", timed(again), against)

        row(f"{key}, first", timed(first), against)


def sheets_of_paper(client: TestClient, engine: Engine) -> None:
    """Each paper twice, in milliseconds."""
    with sessions(engine)() as session:
        editions = session.scalars(select(EditionRow.id)).all()
        run = session.scalar(select(RunRow.id).where(RunRow.signed_at.is_not(None)))
    addresses = [f"/editions/{key}/job-sheet.pdf" for key in editions] + [f"/log/{run}/run.pdf"]
    # The process that lays out is there already in life.
    client.get(addresses[-1])
    papers.forget()
    print("\npaper, milliseconds: the first time, and again")
    for address in addresses:
        first, again = timed(partial(client.get, address), 2)
        print(
            f"  {address.replace(str(uuid.UUID(address.split('/')[2])), '…'):34} "
            f"{first:8.0f} {again:8.0f}"
        )


class Elements(HTMLParser):
    """Counts the elements of a page, those of its templates apart."""

    def __init__(self, page: str) -> None:
        """Count at once."""
        super().__init__()
        self.count, self._within = 0, 0
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: object) -> None:
        """One more, unless it is of a template."""
        self._within += tag == "template"
        self.count += not self._within

    def handle_endtag(self, tag: str) -> None:
        """Out of a template again."""
        self._within -= tag == "template"


def weights(client: TestClient, engine: Engine) -> None:
    """How heavy the two longest pages are."""
    with sessions(engine)() as session:
        edition = session.scalars(select(EditionRow).limit(1)).one()
        done = session.scalars(select(RunRow).limit(1)).one()
    with sessions(engine).begin() as session:
        run = runs.start(session, uuid.uuid4(), done.edition_id, done.unit_id, "lead").id
    print("\npage: elements, and bytes as they are and packed")
    client.post("/sign-in", data={"name": "trainer", "password": PASSWORD})
    for name, address in (
        ("draft", f"/procedures/{edition.procedure_id}"),
        ("bay run", f"/bay/runs/{run}"),
    ):
        answer = client.get(address)
        packed = len(gzip.compress(answer.content, 5))
        kilo = f"{len(answer.content) / 1000:.0f} kB, {packed / 1000:.0f} kB"
        print(f"  {name:20} {Elements(answer.text).count:6} {kilo:>20}")


def main() -> None:
    """Measure on a demo of its own."""
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.CRITICAL))
    cluster = Cluster(reachable_home(ROOT / "var" / "bench-pages"), durable=False)
    cluster.start()
    try:
        ensure_database(cluster.url("pages"))
        engine = connect(cluster.url("pages"))
        migrate(engine)
        with sessions(engine).begin() as session:
            load(session)
        with TestClient(make_app(engine)) as client:
            client.post("/sign-in", data={"name": "lead", "password": PASSWORD})
            print(ROW.format("redraw of the plan", "p50 ms", "p95 ms", "times bare"))
            redraws(client, engine)
            sheets_of_paper(client, engine)
            weights(client, engine)
    finally:
        cluster.stop()


if __name__ == "__main__":
    main()
