"""Start the stand-ins as processes, and play them."""

import contextlib
import socket
import subprocess
import sys
from dataclasses import dataclass, field

from eldrim.core.words.messages import gettext
from eldrim.devices.adapter import DeviceError
from eldrim.devices.standins import KINDS


@dataclass
class StandIns:
    """The running stand-ins: where each is linked to, and where it is played."""

    urls: dict[str, str] = field(default_factory=dict)
    controls: dict[str, int] = field(default_factory=dict)
    processes: list[subprocess.Popen[str]] = field(default_factory=list)

    def start(self) -> "StandIns":
        """Start every kind, each as a process of its own."""
        for kind in KINDS:
            command = [sys.executable, "-m", "eldrim.devices.standins", kind]
            process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            link, control = process.stdout.readline().split()
            self.urls[kind] = f"socket://127.0.0.1:{link}"
            self.controls[kind] = int(control)
            self.processes.append(process)
        return self

    def play(self, kind: str, line: str) -> str:
        """Have a stand-in do something. Raises :class:`DeviceError`."""
        try:
            with socket.create_connection(("127.0.0.1", self.controls[kind]), 3) as link:
                link.sendall(f"{line}\n".encode())
                said = link.makefile().readline().strip()
        except (OSError, KeyError) as error:
            raise DeviceError(gettext("There is no {kind} to play.", kind=kind)) from error
        if said.startswith("error "):
            raise DeviceError(said.removeprefix("error "))
        return said

    def stop(self) -> None:
        """End them."""
        for process in self.processes:
            with contextlib.suppress(ProcessLookupError):
                process.terminate()
            process.wait(timeout=5)
