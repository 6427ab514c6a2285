"""Two servers on one database behind a proxy: either may go, and nothing acknowledged is lost."""

import threading
import time
from collections.abc import Iterator
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from eldrim.demo.load import PASSWORD
from eldrim.devices.play import StandIns
from eldrim.store.cluster import Cluster
from eldrim.store.tables import EntryRow, RunRow
from tests import databases
from tests.conftest import copied
from tests.own import Proxy, Server

WRITERS, EACH = 6, 25


@pytest.fixture(scope="module")
def played() -> Iterator[StandIns]:
    """Devices to play."""
    made = StandIns().start()
    yield made
    made.stop()


@pytest.fixture(scope="module")
def several(cluster: Cluster) -> Iterator[Engine]:
    """A database of this module's own, copied from the demo."""
    with copied(cluster, databases.demo_template(cluster), "several") as engine:
        yield engine


@pytest.fixture(scope="module")
def pair(
    several: Engine, played: StandIns, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[list[Server], Proxy]]:
    """Two servers on the demo's data with the same devices, and the proxy before them."""
    folder, url = tmp_path_factory.mktemp("several"), several.url
    devices, believed = f"wrench={played.urls['wrench']}", ("--trusted-proxy", "127.0.0.1")
    address = url.render_as_string(hide_password=False)
    servers = [Server(address, folder, *believed, devices=devices) for _ in range(2)]
    proxy = Proxy(folder, [server.port for server in servers])
    proxy.start()
    yield servers, proxy
    proxy.stop()
    for server in servers:
        server.kill()


@pytest.fixture
def both(pair: tuple[list[Server], Proxy]) -> tuple[list[Server], Proxy]:
    """The two, alive."""
    for server in pair[0]:
        if not server.alive:
            server.start()
    return pair


class Tablet:
    """One tablet with a run of its own: it sends each entry until that is acknowledged."""

    def __init__(self, address: str) -> None:
        """Sign in and start a run."""
        self.client = httpx.Client(
            base_url=address, verify=False, timeout=30, follow_redirects=True
        )
        self.acknowledged: list[str] = []
        self.client.post("/sign-in", data={"name": "technician", "password": PASSWORD})
        page = self.client.get("/bay").text
        self.head = {"x-csrf-token": page.split('data-csrf="')[1].split('"')[0]}
        edition = page.split("Tug 14")[-1].split('name="edition" value="')[1].split('"')[0]
        self.run = str(uuid4())
        begin = {"run": self.run, "edition": edition, "unit": "tug-14", "anyway": "yes"}
        started = self.client.post("/bay/runs", data=begin, headers=self.head)
        assert started.url.path == f"/bay/runs/{self.run}"

    def write(self) -> None:
        """Write readings down, one after the other."""
        for _ in range(EACH):
            entry = {"id": str(uuid4()), "kind": "reading", "step": "ready/unit"}
            entry |= {"reading": "meter", "value": 5000.0}
            while not self._taken(entry):
                time.sleep(0.1)
            self.acknowledged.append(str(entry["id"]))

    def _taken(self, entry: dict[str, object]) -> bool:
        try:
            address = f"/api/v1/runs/{self.run}/entries"
            return self.client.post(address, json=entry, headers=self.head).status_code == 200
        except httpx.HTTPError:
            return False


def test_either_server_may_go_and_come_back(
    both: tuple[list[Server], Proxy], several: Engine
) -> None:
    """Killed in turn while everybody writes; every acknowledged entry is there once."""
    servers, proxy = both
    tablets = [Tablet(proxy.address) for _ in range(WRITERS)]
    writing = [threading.Thread(target=tablet.write) for tablet in tablets]
    for thread in writing:
        thread.start()
    for server in servers:
        time.sleep(0.5)
        server.kill()
        time.sleep(0.5)
        server.start()
    for thread in writing:
        thread.join()
    sent = [key for tablet in tablets for key in tablet.acknowledged]
    assert len(sent) == WRITERS * EACH
    with Session(several) as session:
        runs = [tablet.run for tablet in tablets]
        kept = session.scalars(select(EntryRow.id).where(EntryRow.run_id.in_(runs))).all()
        assert sorted(map(str, kept)) == sorted(sent)
        assert session.scalar(select(func.count()).where(RunRow.id.in_(runs))) == WRITERS


def lines_of(client: httpx.Client, address: str, found: list[str], last: str) -> None:
    """What is told at an address, until that is."""
    with client.stream("GET", address) as answer:
        for line in answer.iter_lines():
            found.append(line)
            if line == last:
                return


def test_one_server_tells_what_the_other_took(both: tuple[list[Server], Proxy]) -> None:
    """A page that listens at one hears of an entry written at the other, and of nothing else."""
    servers, proxy = both
    tablet = Tablet(f"http://127.0.0.1:{servers[0].port}")
    other = Tablet(proxy.address)
    heard: list[str] = []
    listening = httpx.Client(
        base_url=f"http://127.0.0.1:{servers[1].port}", cookies=tablet.client.cookies, timeout=30
    )
    address = f"/live?topic=run:{tablet.run}"
    thread = threading.Thread(target=lines_of, args=(listening, address, heard, "event: changed"))
    thread.start()
    while "event: here" not in heard:
        time.sleep(0.05)
    other.write()
    assert "event: changed" not in heard
    tablet.write()
    thread.join(timeout=30)
    assert "event: changed" in heard


def test_what_stands_before_us_is_believed_as_far_as_it_goes(
    both: tuple[list[Server], Proxy],
) -> None:
    """The browser talks TLS, so the cookie is for TLS; counts do not go through."""
    servers, proxy = both
    client = httpx.Client(base_url=proxy.address, verify=False, timeout=30)
    signed = client.post("/sign-in", data={"name": "technician", "password": PASSWORD})
    assert "Secure" in signed.headers["set-cookie"]
    assert "max-age" in signed.headers["strict-transport-security"]
    assert client.get("/metrics").status_code == 404
    counts = httpx.get(f"http://127.0.0.1:{servers[0].port}/metrics", timeout=30)
    assert "eldrim_answers_total" in counts.text
    logs = "".join(server.log.read_text() for server in servers)
    assert signed.headers["x-request-id"] in logs


class Heard(threading.Thread):
    """A tablet's window that took the wrench at a server, and what it is told."""

    def __init__(self, server: Server, tablet: Tablet, asker: str, turn: int = 1) -> None:
        """Begin to listen."""
        super().__init__(daemon=True)
        self.said: list[str] = []
        self.client = httpx.Client(
            base_url=f"http://127.0.0.1:{server.port}", cookies=tablet.client.cookies, timeout=60
        )
        self.address = f"/api/v1/devices/stream?take=wrench&asker={asker}&turn={turn}"
        self.start()

    def run(self) -> None:
        """Until the server goes."""
        try:
            with self.client.stream("GET", self.address) as answer:
                for line in answer.iter_lines():
                    self.said.append(line)
        except httpx.HTTPError:
            return

    def hears(self, what: str) -> None:
        """Wait until that is told."""
        for _ in range(300):
            if any(what in line for line in list(self.said)):
                return
            time.sleep(0.1)
        raise AssertionError(f"{what} not among {self.said}")


def test_a_device_is_one_tablet_s_whichever_server_it_listens_at(
    both: tuple[list[Server], Proxy], played: StandIns
) -> None:
    """One server opens it; readings go to who took it last; with it gone, the other opens it."""
    servers, _proxy = both
    tablet = Tablet(f"http://127.0.0.1:{servers[0].port}")
    first = Heard(servers[0], tablet, "one")
    first.hears("event: here")
    played.play("wrench", "17.6 N·m")
    first.hears('"value": 17.6')
    second = Heard(servers[1], tablet, "two")
    second.hears("event: here")
    first.hears("event: taken")
    played.play("wrench", "18.1 N·m")
    second.hears('"value": 18.1')
    assert not any("18.1" in line for line in first.said)
    servers[0].kill()
    while httpx.get(f"http://127.0.0.1:{servers[1].port}/readyz", timeout=30).status_code != 200:
        time.sleep(0.1)
    for _ in range(60):
        played.play("wrench", "19.2 N·m")
        if any('"value": 19.2' in line for line in second.said):
            break
        time.sleep(0.5)
    second.hears('"value": 19.2')
