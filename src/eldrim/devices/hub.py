"""Devices as the tablets hear them: a thread listens to each, and each belongs to one tablet."""

import os
import queue
import re
import threading
from dataclasses import dataclass, field
from typing import Literal

import serial

# What each kind of device measures; the names are those of readings in a run.
KINDS = {"wrench": "torque", "gauge": "gap", "meter": "volts", "thermometer": "temperature"}
LINE = re.compile(r"^(PEAK|CLICK|READ) (-?\d+(?:\.\d+)?) (\S+)$")
AGAIN_SECONDS = 2.0
# Windows whose last wish is remembered; the oldest go first.
MAX_ASKERS = 500


def urls_from_environment() -> dict[str, str]:
    """Where real devices are: ``ELDRIM_DEVICES=wrench=/dev/ttyUSB0,meter=socket://…``."""
    said = os.environ.get("ELDRIM_DEVICES", "")
    pairs = (entry.partition("=") for entry in said.split(",") if "=" in entry)
    return {kind.strip(): url.strip() for kind, _, url in pairs}


@dataclass(frozen=True)
class Reading:
    """One value from a device; ``final`` unless it is only the peak so far."""

    device: str
    kind: str
    value: float
    unit: str
    final: bool


@dataclass(frozen=True)
class Notice:
    """What becomes of a device: heard, lost for now, or taken by another tablet; then by whose."""

    device: str
    what: Literal["here", "lost", "taken"]
    by: str = ""


def read_line(device: str, line: str) -> Reading | None:
    """What a line of a device says; None for what it does not understand."""
    found = LINE.match(line.strip())
    if found is None:
        return None
    return Reading(device, KINDS[device], float(found[2]), found[3], found[1] != "PEAK")


@dataclass
class Listener:
    """One tablet: what it is told. ``asker`` is its window, ``turn`` counts what that wished."""

    name: str
    asker: str = ""
    turn: int = 0
    messages: "queue.Queue[Reading | Notice]" = field(default_factory=lambda: queue.Queue(200))

    def tell(self, what: "Reading | Notice") -> None:
        """Tell it something; a tablet that no longer listens is not waited for."""
        try:
            self.messages.put_nowait(what)
        except queue.Full:
            return


class Hub:
    """Listens to devices at pyserial URLs and tells each one's readings to the tablet that took it.

    A device that is lost is tried again; nothing waits for it.
    """

    def __init__(self, urls: dict[str, str]) -> None:
        """``urls`` by device; threads start with the first tablet."""
        self.urls = {key: url for key, url in urls.items() if key in KINDS}
        self.adapter = urls.get("adapter", "")
        # None until it was tried.
        self.present: dict[str, bool | None] = dict.fromkeys(self.urls)
        self._owner: dict[str, Listener] = {}
        self._turns: dict[str, int] = {}
        self._lock = threading.Lock()
        self._stop = threading.Event()
        self._threads: list[threading.Thread] = []

    def take(self, listener: Listener, devices: list[str]) -> None:
        """Give devices to a tablet; the one that had them is told that they are gone.

        A window that asked again meanwhile gets nothing by its older wish.
        """
        with self._lock:
            if self._turns.get(listener.asker, 0) > listener.turn:
                return
            self._remember(listener)
            for device in devices:
                before = self._owner.get(device)
                if before is not None and not self._same(before, listener):
                    before.tell(Notice(device, "taken", listener.name))
                self._owner[device] = listener
                self._tell_presence(device)
            if not self._threads and devices:
                self._start()

    def _remember(self, listener: Listener) -> None:
        if not listener.asker:
            return
        self._turns.pop(listener.asker, None)
        self._turns[listener.asker] = listener.turn
        while len(self._turns) > MAX_ASKERS:
            self._turns.pop(next(iter(self._turns)))

    @staticmethod
    def _same(one: Listener, other: Listener) -> bool:
        return one is other or (one.asker != "" and one.asker == other.asker)

    def owners(self, asker: str) -> dict[str, str]:
        """Whose tablet hears each device, where it is another than the window that asks."""
        with self._lock:
            return {
                device: who.name
                for device, who in self._owner.items()
                if not asker or who.asker != asker
            }

    def leave(self, listener: Listener) -> None:
        """A tablet went away."""
        with self._lock:
            for device in [key for key, who in self._owner.items() if who is listener]:
                del self._owner[device]

    def close(self) -> None:
        """Stop listening."""
        self._stop.set()

    def _start(self) -> None:
        for device, url in self.urls.items():
            thread = threading.Thread(target=self._listen, args=(device, url), daemon=True)
            thread.start()
            self._threads.append(thread)

    def _listen(self, device: str, url: str) -> None:
        while not self._stop.is_set():
            try:
                with serial.serial_for_url(url, timeout=1) as port:
                    self._read(device, port)
            except (serial.SerialException, OSError, ValueError):
                self._now(device, here=False)
                self._stop.wait(AGAIN_SECONDS)

    def _now(self, device: str, *, here: bool) -> None:
        with self._lock:
            if self.present[device] is not here:
                self.present[device] = here
                self._tell_presence(device)

    def _tell_presence(self, device: str) -> None:
        owner, here = self._owner.get(device), self.present[device]
        if owner is not None and here is not None:
            owner.tell(Notice(device, "here" if here else "lost"))

    def _read(self, device: str, port: serial.Serial) -> None:
        rest = b""
        while not self._stop.is_set():
            rest += port.read(1)
            # Only now: a link may open and be closed again at once.
            self._now(device, here=True)
            rest += port.read(port.in_waiting) if port.in_waiting else b""
            *lines, rest = rest.split(b"\n")
            for line in lines:
                said = read_line(device, line.decode("utf-8", "replace"))
                owner = self._owner.get(device)
                if said is not None and owner is not None:
                    owner.tell(said)
