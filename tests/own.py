"""Servers of one's own as people run them, and the documented proxy before them."""

import os
import re
import shutil
import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

import httpx

from eldrim.store.cluster import ROOT

CONFIG = ROOT / "docs" / "deploy" / "nginx.conf"
PATIENCE_SECONDS = 120


def free_port() -> int:
    """A port nobody has."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """One server on a database."""

    def __init__(self, url: str, folder: Path, *options: str, devices: str = "") -> None:
        """``folder`` is where its log goes; ``devices`` where real ones are."""
        self.url, self.port, self.options = url, free_port(), options
        self.more = {"ELDRIM_DEVICES": devices} if devices else {}
        self.log = folder / f"server-{self.port}.log"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start and wait until it serves."""
        command = [sys.executable, "-m", "eldrim.cli", "serve", "--port", str(self.port)]
        environment = os.environ | {
            "ELDRIM_DATABASE_URL": self.url,
            "PYTHONUNBUFFERED": "1",
            **self.more,
        }
        with self.log.open("ab") as out:
            self.process = subprocess.Popen(
                [*command, *self.options], stdout=out, stderr=out, env=environment, cwd=ROOT
            )
        for _ in range(PATIENCE_SECONDS * 10):
            assert self.process.poll() is None, self.log.read_text()[-2000:]
            with suppress(httpx.HTTPError):
                if httpx.get(f"http://127.0.0.1:{self.port}/readyz", timeout=5).status_code == 200:
                    return
            time.sleep(0.1)
        raise AssertionError(self.log.read_text()[-2000:])

    @property
    def code(self) -> str:
        """The code of the first start, as it was printed."""
        found = re.findall(r"^  (\S{5}-\S{5}-\S{5}-\S{5})$", self.log.read_text(), re.MULTILINE)
        return str(found[-1])

    @property
    def alive(self) -> bool:
        """Whether its process runs."""
        return self.process is not None and self.process.poll() is None

    def kill(self) -> None:
        """As a power cut would."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """As a service manager does."""
        if self.alive:
            assert self.process is not None
            self.process.terminate()
            self.process.wait(timeout=20)


class Proxy:
    """nginx with TLS, by the documented configuration with other names, ports and paths."""

    def __init__(self, folder: Path, ports: list[int]) -> None:
        """The certificate is made on the spot."""
        self.folder, self.port = folder, free_port()
        cert, key = folder / "cert.pem", folder / "key.pem"
        subprocess.run(
            [
                "openssl",
                "req",
                "-x509",
                "-newkey",
                "rsa:2048",
                "-nodes",
                "-days",
                "2",
                "-subj",
                "/CN=localhost",
                "-addext",
                "subjectAltName=DNS:localhost",
                "-keyout",
                str(key),
                "-out",
                str(cert),
            ],
            check=True,
            capture_output=True,
        )
        site = CONFIG.read_text()
        lines = [f"    server 127.0.0.1:{port} max_fails=1 fail_timeout=2s;" for port in ports]
        site = re.sub(
            r"( +server 127\.0\.0\.1:\d+ [^\n]+\n)+", "\n".join(lines) + "\n", site, count=1
        )
        for old, new in (
            ("listen 443 ssl", f"listen 127.0.0.1:{self.port} ssl"),
            ("server_name workshop.example", "server_name localhost"),
            ("/etc/ssl/eldrim/fullchain.pem", str(cert)),
            ("/etc/ssl/eldrim/key.pem", str(key)),
        ):
            assert old in site, old
            site = site.replace(old, new)
        kinds = ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        paths = "".join(f"    {kind}_temp_path {folder}/{kind};\n" for kind in kinds)
        user = "user root;\n" if os.geteuid() == 0 else ""
        (folder / "nginx.conf").write_text(
            f"{user}daemon off;\npid {folder}/nginx.pid;\nerror_log {folder}/nginx.log;\n"
            f"events {{ worker_connections 512; }}\nhttp {{\n    access_log off;\n{paths}{site}}}\n"
        )
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"https://localhost:{self.port}"

    def start(self) -> None:
        """Start, and wait until it answers."""
        binary = shutil.which("nginx", path=f"{os.environ['PATH']}:/usr/sbin")
        assert binary, "nginx is not installed: apt-get install nginx-light"
        self.process = subprocess.Popen(
            [binary, "-p", str(self.folder), "-c", str(self.folder / "nginx.conf")],
            stderr=subprocess.PIPE,
        )
        for _ in range(200):
            assert self.process.poll() is None, self.process.communicate()[1].decode()
            with suppress(OSError), socket.create_connection(("127.0.0.1", self.port), 1):
                return
            time.sleep(0.05)
        raise AssertionError("the proxy did not start")

    def stop(self) -> None:
        """Stop it."""
        if self.process is not None:
            self.process.terminate()
            self.process.wait(timeout=20)
