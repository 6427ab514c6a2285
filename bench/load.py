"""Fifty technicians writing readings through the real interface, and servers killed under them.

``bin/bench load`` prints rate and times beside bare inserts of the same rows in the same run;
``bin/bench kill`` kills two servers behind a proxy, and their database, in turn under that load,
twenty times, and looks for every acknowledged entry.
"""

import asyncio
import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from statistics import quantiles
from uuid import UUID, uuid4

import httpx
import psycopg
from sqlalchemy import select
from tests.own import Proxy, Server

from bench import bare
from eldrim.demo.load import PASSWORD
from eldrim.demo.process import DemoProcess
from eldrim.store.cluster import ROOT
from eldrim.store.database import connect, sessions
from eldrim.store.tables import EntryRow

PEOPLE = 50
BARE_PORT = 19_731
EACH = int(os.environ.get("ELDRIM_BENCH_EACH", "40"))
KILLS = int(os.environ.get("ELDRIM_BENCH_KILLS", "20"))
ROW = "{:34} {:>9} {:>10} {:>9} {:>9} {:>9}"


@dataclass
class Technician:
    """One tablet with a run of its own: every entry is sent until it is acknowledged."""

    client: httpx.AsyncClient
    token: str = ""
    run: UUID = field(default_factory=uuid4)
    acknowledged: list[UUID] = field(default_factory=list)
    times: list[float] = field(default_factory=list)
    errors: Counter[str] = field(default_factory=Counter)

    async def start(self) -> None:
        """Sign in and start a run on tug 14."""
        form = {"name": "technician", "password": PASSWORD}
        await self.client.post("/sign-in", data=form)
        page = (await self.client.get("/bay")).text
        self.token = page.split('data-csrf="')[1].split('"')[0]
        edition = page.split("Tug 14")[-1].split('name="edition" value="')[1].split('"')[0]
        begin = {"csrf": self.token, "run": str(self.run), "edition": edition, "unit": "tug-14"}
        begin["anyway"] = "yes"
        answer = await self.client.post("/bay/runs", data=begin)
        answer.raise_for_status()

    async def write(self, count: int, *, stubborn: bool = False) -> None:
        """Write so many readings; ``stubborn`` sends each again until it is taken."""
        for _ in range(count):
            key = uuid4()
            entry = {
                "id": str(key),
                "kind": "reading",
                "step": "ready/unit",
                "reading": "meter",
                "value": 5000.0,
            }
            while not await self._send(entry):
                if not stubborn:
                    break
                await asyncio.sleep(0.2)
            else:
                self.acknowledged.append(key)

    async def _send(self, entry: dict[str, object]) -> bool:
        begun = time.perf_counter()
        try:
            answer = await self.client.post(
                f"/api/v1/runs/{self.run}/entries", json=entry, headers={"x-csrf-token": self.token}
            )
        except httpx.HTTPError as error:
            self.errors[type(error).__name__] += 1
            return False
        if answer.status_code != 200:
            self.errors[str(answer.status_code)] += 1
            return False
        self.times.append(time.perf_counter() - begun)
        return True


async def _people(address: str) -> list[Technician]:
    limits = httpx.Limits(max_connections=1, max_keepalive_connections=1)
    made = [
        Technician(
            httpx.AsyncClient(
                base_url=address, timeout=60, limits=limits, follow_redirects=True, verify=False
            )
        )
        for _ in range(PEOPLE)
    ]
    for person in made:
        await person.start()
    return made


async def load(demo: DemoProcess) -> None:
    """All at once, without a pause between two readings."""
    people = await _people(demo.address)
    begun = time.perf_counter()
    await asyncio.gather(*(p.write(EACH) for p in people))
    took = time.perf_counter() - begun
    errors = sum((p.errors for p in people), Counter())
    times = [t for p in people for t in p.times]
    print(ROW.format("", "entries", "per second", "p50 ms", "p95 ms", "errors"))
    _row(f"{PEOPLE} technicians, HTTP", times, took, errors.total())
    plain, lasted = await _bare_endpoint(demo.cluster.url(), people[0].run)
    _row("a bare endpoint, same insert", plain, lasted, 0)
    _share(len(times) / took, len(plain) / lasted)
    two = await _two(demo.cluster.url())
    plain, lasted = await _bare_endpoint(demo.cluster.url(), people[0].run, processes=2)
    _row("bare, two processes and proxy", plain, lasted, 0)
    _share(two, len(plain) / lasted)
    rows, spent = _bare(demo.cluster.url(), len(times), people[0].run)
    _row("bare inserts, one connection", rows, spent, 0)
    rates = (len(rows) / spent, len(times) / took)
    print(f"ratio of the rates, bare to HTTP: {rates[0] / rates[1]:.1f}; errors: {dict(errors)}")
    await _close(people)
    if errors:
        sys.exit(1)


def _share(ours: float, bare_rate: float) -> None:
    print(f"share of the bare endpoint's rate: {100 * ours / bare_rate:.0f} %")


def _row(name: str, times: list[float], took: float, errors: int) -> None:
    cuts = quantiles(times, n=100)
    print(
        ROW.format(
            name,
            len(times),
            f"{len(times) / took:.0f}",
            f"{cuts[49] * 1000:.1f}",
            f"{cuts[94] * 1000:.1f}",
            errors,
        )
    )


async def _two(url: str) -> float:
    """The same with two servers behind the proxy; its own time is in it. Entries a second."""
    folder = Path(tempfile.mkdtemp(prefix="eldrim-bench-"))
    servers = [Server(url, folder, "--trusted-proxy", "127.0.0.1") for _ in range(2)]
    proxy = Proxy(folder, [server.port for server in servers])
    for server in servers:
        server.start()
    proxy.start()
    people = await _people(proxy.address)
    begun = time.perf_counter()
    await asyncio.gather(*(p.write(EACH) for p in people))
    took = time.perf_counter() - begun
    times = [t for p in people for t in p.times]
    _row("two servers and proxy", times, took, sum(p.errors.total() for p in people))
    await _close(people)
    proxy.stop()
    for server in servers:
        server.kill()
    shutil.rmtree(folder)
    return len(times) / took


async def _bare_endpoint(url: str, run: UUID, processes: int = 1) -> tuple[list[float], float]:
    """The same rows through FastAPI and the same pool, without any rule of ours; several processes
    stand behind the proxy.
    """
    ports = [BARE_PORT + place for place in range(processes)]
    servers = [_bare_server(url, run, port) for port in ports]
    folder = Path(tempfile.mkdtemp(prefix="eldrim-bench-"))
    proxy = Proxy(folder, ports) if processes > 1 else None
    if proxy:
        proxy.start()
    address, times = proxy.address if proxy else f"http://127.0.0.1:{BARE_PORT}", []

    async def one(client: httpx.AsyncClient) -> None:
        for _ in range(EACH):
            begun = time.perf_counter()
            (await client.post("/", json={"id": str(uuid4())})).raise_for_status()
            times.append(time.perf_counter() - begun)

    clients = [httpx.AsyncClient(base_url=address, timeout=60, verify=False) for _ in range(PEOPLE)]
    try:
        for port in ports:
            await _until_up(clients[0], f"http://127.0.0.1:{port}/")
        begun = time.perf_counter()
        await asyncio.gather(*map(one, clients))
        return times, time.perf_counter() - begun
    finally:
        for client in clients:
            await client.aclose()
        if proxy:
            proxy.stop()
        for server in servers:
            server.terminate()
            server.wait()
        shutil.rmtree(folder)


def _bare_server(url: str, run: UUID, port: int) -> "subprocess.Popen[bytes]":
    arguments = ["uvicorn", "bench.bare:app", "--port", str(port), "--factory"]
    return subprocess.Popen(
        [sys.executable, "-m", *arguments, "--log-level", "error"],
        env=os.environ | {bare.URL: url, bare.RUN: str(run)},
        cwd=ROOT,
    )


async def _until_up(client: httpx.AsyncClient, address: str) -> None:
    for _ in range(200):
        with contextlib.suppress(httpx.HTTPError):
            await client.get(address)
            return
        await asyncio.sleep(0.1)


def _bare(url: str, count: int, run: UUID) -> tuple[list[float], float]:
    """The same rows, each committed alone, past all of our code."""
    plain = url.replace("postgresql+psycopg://", "postgresql://")
    body = '{"kind": "reading", "step": "ready/unit", "reading": "meter", "value": 1.0}'
    times = []
    with psycopg.connect(plain, autocommit=True) as link:
        begun = time.perf_counter()
        for _ in range(count):
            one = time.perf_counter()
            link.execute(
                "INSERT INTO entries (id, run_id, body, by, role) VALUES (%s, %s, %s, 'bench', "
                "'technician')",
                (uuid4(), run, body),
            )
            times.append(time.perf_counter() - one)
        return times, time.perf_counter() - begun


async def kill(demo: DemoProcess) -> None:
    """Two servers and their database killed in turn while everybody writes, by way of the proxy;
    then every acknowledged entry must be there, once.
    """
    folder = Path(tempfile.mkdtemp(prefix="eldrim-bench-"))
    servers = [Server(demo.cluster.url(), folder, "--trusted-proxy", "127.0.0.1") for _ in range(2)]
    proxy = Proxy(folder, [server.port for server in servers])
    for server in servers:
        server.start()
    proxy.start()
    people = await _people(proxy.address)
    writing = [asyncio.create_task(p.write(1_000_000, stubborn=True)) for p in people]
    for n in range(KILLS):
        await asyncio.sleep(0.7)
        if n % 3 == 2:
            await asyncio.to_thread(demo.cluster.stop, "immediate")
            await asyncio.to_thread(demo.cluster.start)
        else:
            await asyncio.to_thread(servers[n % 3].kill)
            await asyncio.sleep(0.7)
            await asyncio.to_thread(servers[n % 3].start)
    await asyncio.sleep(3)
    for task in writing:
        task.cancel()
    await asyncio.gather(*writing, return_exceptions=True)
    lost, doubled = _lost_and_doubled(demo.cluster.url(), people)
    proxy.stop()
    for server in servers:
        server.stop()
    shutil.rmtree(folder)
    await _close(people)
    if lost or doubled:
        sys.exit(1)


def _lost_and_doubled(url: str, people: list[Technician]) -> tuple[int, int]:
    """What was acknowledged and is not there, and what is there twice; printed too."""
    acknowledged = [k for p in people for k in p.acknowledged]
    engine = connect(url)
    with sessions(engine)() as session:
        runs = [p.run for p in people]
        kept = list(session.scalars(select(EntryRow.id).where(EntryRow.run_id.in_(runs))))
    engine.dispose()
    lost = len(set(acknowledged) - set(kept))
    doubled = len(acknowledged) - len(set(acknowledged)) + len(kept) - len(set(kept))
    errors = sum((p.errors for p in people), Counter())
    print(
        f"kills {KILLS}, acknowledged {len(acknowledged)}, kept {len(kept)}, lost {lost}, "
        f"doubled {doubled}, refused or broken off on the way {dict(errors)}"
    )
    return lost, doubled


async def _close(people: list[Technician]) -> None:
    for person in people:
        await person.client.aclose()


def main() -> None:
    """Run what is asked for on a demo of its own."""
    demo = DemoProcess(ROOT / "var" / "bench")
    demo.start("--fresh")
    try:
        asyncio.run({"load": load, "kill": kill}[sys.argv[1]](demo))
    finally:
        demo.stop()


if __name__ == "__main__":
    main()
