"""A power cut in the middle of a run: what was acknowledged is there, once."""

from collections.abc import Iterator
from uuid import UUID, uuid4

import httpx
import pytest

from eldrim.demo.process import DemoProcess
from eldrim.store import past_runs
from eldrim.store.cluster import ROOT
from eldrim.store.database import connect, sessions
from tests.databases import WORKER

pytestmark = pytest.mark.browser
VICTIMS = ("database", "server", "database")


@pytest.fixture
def doomed() -> Iterator[DemoProcess]:
    """A demo of this test's own, to be killed."""
    process = DemoProcess(ROOT / "var" / f"kill-{WORKER}")
    process.start("--fresh", "--no-years")
    yield process
    process.stop()


class Tablet:
    """Sends readings over HTTP and remembers which were acknowledged."""

    def __init__(self, address: str) -> None:
        """Sign in and start a run on tug 14."""
        self.client = httpx.Client(base_url=address, follow_redirects=True, timeout=30)
        self.client.post("/sign-in", data={"name": "technician", "password": "eldrim-demo"})
        page = self.client.get("/bay").text
        self.csrf = page.split('data-csrf="')[1].split('"')[0]
        self.run = uuid4()
        edition = page.split("Tug 14")[-1].split('name="edition" value="')[1].split('"')[0]
        form = {"csrf": self.csrf, "run": str(self.run), "edition": edition, "unit": "tug-14"}
        assert self.client.post("/bay/runs", data=form).status_code == 200
        self.acknowledged: set[UUID] = set()

    def send(self, key: UUID, value: float) -> bool:
        """Send one reading; True when the server acknowledged it."""
        entry = {
            "id": str(key),
            "kind": "reading",
            "step": "ready/unit",
            "reading": "meter",
            "value": value,
        }
        try:
            answer = self.client.post(
                f"/api/v1/runs/{self.run}/entries", json=entry, headers={"x-csrf-token": self.csrf}
            )
        except httpx.HTTPError:
            return False
        if answer.status_code == 200:
            self.acknowledged.add(key)
        return answer.status_code == 200


def test_killing_loses_no_acknowledged_entry(doomed: DemoProcess) -> None:
    """Kill, start again, send again what was not acknowledged: each is there exactly once."""
    tablet = Tablet(doomed.address)
    sent: list[UUID] = []
    for round_, victim in enumerate(VICTIMS):
        for n in range(8):
            sent.append(uuid4())
            assert tablet.send(sent[-1], 100.0 * round_ + n)
        if victim == "server":
            doomed.kill()
        else:
            doomed.cluster.stop("immediate")
        lost = uuid4()
        assert not tablet.send(lost, 1.0)
        sent.append(lost)
        if victim == "server":
            doomed.start()
        else:
            doomed.cluster.start()
        for n, key in enumerate(sent):
            assert tablet.send(key, _value(n)), "sending again is harmless"
    engine = connect(doomed.cluster.url())
    with sessions(engine)() as session:
        kept = [r.entry.id for r in past_runs.entries(session, tablet.run)]
    engine.dispose()
    assert len(kept) == len(set(kept))
    assert tablet.acknowledged == set(kept) == set(sent)


def _value(n: int) -> float:
    """The value the nth entry was first sent with: eight a round, then the lost one."""
    round_, place = divmod(n, 9)
    return 1.0 if place == 8 else 100.0 * round_ + place
