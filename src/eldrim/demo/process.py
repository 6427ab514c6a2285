"""A demo of one's own, as a process: for tests and pictures, apart from the one people use."""

import os
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
from eldrim.store.database import ENVIRONMENT

# A busy machine takes its time to make a database.
PATIENCE_SECONDS = 180
FIRST_PORT = 20_000


class DemoProcess:
    """Starts ``bin/demo``'s program on a free port: with a database folder, or on a database."""

    def __init__(self, home: Path | None = None, url: str = "") -> None:
        """``home`` is the database folder, made when missing; ``url`` a database that is there."""
        self.home, self.database = home, url
        self.port = _free_port(str(home or url))
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where it serves."""
        return f"http://127.0.0.1:{self.port}"

    @property
    def cluster(self) -> Cluster:
        """Its database server, where it has one of its own."""
        assert self.home is not None
        return Cluster(reachable_home(self.home))

    def start(self, *options: str) -> None:
        """Start and wait until it is healthy."""
        command = [sys.executable, "-m", "eldrim.demo.serve", "--port", str(self.port), *options]
        environment = dict(os.environ)
        if self.home is None:
            environment[ENVIRONMENT] = self.database
        else:
            command += ["--home", str(self.home)]
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
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
        """Stop the server; a database server of its own is stopped and removed with it."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(timeout=30)
        if self.home is not None:
            self.cluster.destroy()


def _free_port(place: str) -> int:
    """A free port from a place of this database's own on, below those that connections go out from.

    So two started at once never take the same one, nor does a connection while one is restarted.
    """
    first = FIRST_PORT + crc32(place.encode()) % 10_000
    for port in range(first, first + 100):
        with socket.socket() as probe, suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise RuntimeError(f"no port is free from {first} on")
