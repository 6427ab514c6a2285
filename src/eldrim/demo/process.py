"""A demo of one's own, as a process: for tests and pictures, apart from the one people use."""

import socket
import subprocess
import sys
import time
from pathlib import Path
from urllib.error import URLError
from urllib.request import urlopen

from eldrim.store.cluster import Cluster, reachable_home

# A busy machine takes its time to make a database.
PATIENCE_SECONDS = 180


class DemoProcess:
    """Starts ``bin/demo``'s program on a free port with a database folder of its own."""

    def __init__(self, home: Path) -> None:
        """``home`` is the database folder, made when missing."""
        self.home, self.port = home, _free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where it serves."""
        return f"http://127.0.0.1:{self.port}"

    @property
    def cluster(self) -> Cluster:
        """Its database."""
        return Cluster(reachable_home(self.home))

    def start(self, *options: str) -> None:
        """Start and wait until it is healthy."""
        command = [sys.executable, "-m", "eldrim.demo.serve", "--home", str(self.home)]
        self.process = subprocess.Popen(
            [*command, "--port", str(self.port), *options], stdout=subprocess.DEVNULL
        )
        for _ in range(PATIENCE_SECONDS * 10):
            if self.process.poll() is not None:
                raise RuntimeError(f"the demo ended with code {self.process.returncode}")
            try:
                with urlopen(f"{self.address}/healthz", timeout=2):
                    return
            except (URLError, OSError):
                time.sleep(0.1)
        raise RuntimeError(f"the demo did not become healthy in {PATIENCE_SECONDS} s")

    def kill(self) -> None:
        """End the server as a power cut would, leaving the database running."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """Stop server and database, and remove the database."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(timeout=30)
        self.cluster.destroy()


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
