"""A demo of one's own, as a process: for tests and pictures, apart from the one people use."""

import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path
from urllib.error import URLError
from urllib.request import urlopen
from zlib import crc32

from eldrim.store.cluster import Cluster, reachable_home

# A busy machine takes its time to make a database.
PATIENCE_SECONDS = 180
FIRST_PORT = 20_000


class DemoProcess:
    """Starts ``bin/demo``'s program on a free port with a database folder of its own."""

    def __init__(self, home: Path) -> None:
        """``home`` is the database folder, made when missing."""
        self.home, self.port = home, _free_port(home)
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
        self.kill()
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


def _free_port(home: Path) -> int:
    """A free port from a place of this folder's own on, below those that connections go out from.

    So two started at once never take the same one, nor does a connection while one is restarted.
    """
    first = FIRST_PORT + crc32(str(home).encode()) % 10_000
    for port in range(first, first + 100):
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise RuntimeError(f"no port is free from {first} on")
