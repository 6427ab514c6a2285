"""Devices as the tablets hear them: a thread listens to each, and each belongs to one tablet."""

import json
import os
import queue
import re
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal
from uuid import uuid4

import serial

# What each kind of device measures; the names are those of readings in a run.
KINDS = {
    "wrench": "torque",
    "gauge": "gap",
    "meter": "volts",
    "thermometer": "temperature",
    "lamp": "timing",
}
# PEAK is what a wrench went to so far, LIVE what a lamp shows just now, DIAL what its dial stands
# at: shown, and written only by whoever reads it.
LINE = re.compile(r"^(PEAK|CLICK|READ|LIVE|DIAL) (-?\d+(?:\.\d+)?) (\S+)$")
Passing = Literal["", "peak", "live", "dial"]
PASSING: dict[str, Passing] = {"PEAK": "peak", "LIVE": "live", "DIAL": "dial"}
AGAIN_SECONDS = 2.0
STALE_SECONDS = 10.0
# What a lamp goes on showing is said again so often: whoever takes it up late hears it too.
SAID_AGAIN_SECONDS = 1.5
# Windows whose last wish is remembered; the oldest go first.
MAX_ASKERS = 500


def urls_from_environment() -> dict[str, str]:
    """Where real devices are: ``ELDRIM_DEVICES=wrench=/dev/ttyUSB0,meter=socket://…``."""
    said = os.environ.get("ELDRIM_DEVICES", "")
    pairs = (entry.partition("=") for entry in said.split(",") if "=" in entry)
    return {kind.strip(): url.strip() for kind, _, url in pairs}


@dataclass(frozen=True)
class Reading:
    """One value from a device; ``passing`` is empty unless it is only the peak so far, what is
    shown just now, or a dial.
    """

    device: str
    kind: str
    value: float
    unit: str
    passing: Passing = ""


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
    passing = PASSING.get(found[1], "")
    return Reading(device, KINDS[device], float(found[2]), found[3], passing)


@dataclass
class Listener:
    """One tablet: what it is told. ``asker`` is its window, ``turn`` counts what that wished."""

    name: str
    asker: str = ""
    turn: int = 0
    devices: tuple[str, ...] = ()
    messages: "queue.Queue[Reading | Notice]" = field(default_factory=lambda: queue.Queue(200))

    def tell(self, what: "Reading | Notice") -> None:
        """Tell it something; a tablet that no longer listens is not waited for."""
        try:
            self.messages.put_nowait(what)
        except queue.Full:
            return


@dataclass(frozen=True)
class Owner:
    """Whose window a device belongs to, in whichever process that listens."""

    asker: str
    name: str
    turn: int


class Hub:
    """Listens to devices at pyserial URLs and tells each one's readings to the tablet that took it.

    Several processes may each have one. What happens is said on a line that all of them hear in the
    same order, this one too; so all agree on whose a device is, and the tablet that took it is told
    by the process it listens at. One of them opens the devices. A device that is lost is tried
    again; nothing waits for it.
    """

    def __init__(
        self,
        urls: dict[str, str],
        line: Callable[[str], None] | None = None,
        opens: Callable[[], bool] = lambda: True,
    ) -> None:
        """``urls`` by device; threads start with the first tablet. ``line`` says something to all,
        whose :meth:`heard` is called then; None for one process alone. ``opens`` says whether the
        devices are this process's to open.
        """
        self.urls = {key: url for key, url in urls.items() if key in KINDS}
        self.adapter = urls.get("adapter", "")
        # None until it was tried.
        self.present: dict[str, bool | None] = dict.fromkeys(self.urls)
        self._line, self._opens = line or self.heard, opens
        self._owner: dict[str, Owner] = {}
        self._here: dict[str, Listener] = {}
        self._turns: dict[str, int] = {}
        self._lock = threading.RLock()
        self._stop, self._again = threading.Event(), threading.Event()
        self._threads: list[threading.Thread] = []
        self._opened = False
        self._passing: dict[tuple[str, str], tuple[str, float]] = {}

    def take(self, listener: Listener, devices: list[str]) -> None:
        """Give devices to a tablet; the one that had them is told that they are gone.

        A window that asked again meanwhile gets nothing by its older wish.
        """
        listener.asker = listener.asker or uuid4().hex
        listener.devices = tuple(devices)
        with self._lock:
            if self._turns.get(listener.asker, 0) > listener.turn:
                return
            self._here[listener.asker] = listener
        self._take(listener)

    def _take(self, listener: Listener) -> None:
        about = {"asker": listener.asker, "name": listener.name, "turn": listener.turn}
        self._say("take", **about, devices=listener.devices)

    def leave(self, listener: Listener) -> None:
        """A tablet went away."""
        with self._lock:
            if self._here.get(listener.asker) is listener:
                del self._here[listener.asker]
        self._say("leave", asker=listener.asker, turn=listener.turn)

    def owners(self, asker: str) -> dict[str, str]:
        """Whose tablet hears each device, where it is another than the window that asks."""
        with self._lock:
            return {
                device: who.name
                for device, who in self._owner.items()
                if not asker or who.asker != asker
            }

    def close(self) -> None:
        """Stop listening."""
        self._stop.set()

    def begin_again(self) -> None:
        """The line was broken: say again what holds here, and ask anew whose the devices are."""
        self._again.set()
        with self._lock:
            listeners = list(self._here.values())
        for listener in listeners:
            self._take(listener)

    def _say(self, what: str, **about: object) -> None:
        self._line(json.dumps({"do": what, "at": time.time(), **about}))

    def heard(self, said: str) -> None:
        """Take in what was said on the line, by whichever process."""
        about = json.loads(said)
        with self._lock:
            getattr(self, f"_on_{about.pop('do')}")(**about)

    def _on_take(self, at: float, asker: str, name: str, turn: int, devices: list[str]) -> None:
        if self._turns.get(asker, 0) > turn:
            return
        self._remember(asker, turn)
        for device in (key for key in devices if key in self.urls):
            before = self._owner.get(device)
            if before is not None and before.asker != asker:
                self._tell(before, Notice(device, "taken", name))
            self._owner[device] = Owner(asker, name, turn)
            self._tell_presence(device)
        if devices and not self._threads:
            self._start()
        elif devices and self._opened:
            # A process that has just come does not know what is here.
            for device, here in self.present.items():
                if here is not None and self._line != self.heard:
                    self._say("presence", device=device, here=here)

    def _remember(self, asker: str, turn: int) -> None:
        self._turns.pop(asker, None)
        self._turns[asker] = turn
        while len(self._turns) > MAX_ASKERS:
            self._turns.pop(next(iter(self._turns)))

    def _on_leave(self, at: float, asker: str, turn: int) -> None:
        gone = [k for k, who in self._owner.items() if (who.asker, who.turn) == (asker, turn)]
        for device in gone:
            del self._owner[device]

    def _on_presence(self, at: float, device: str, here: bool) -> None:
        if device in self.present and self.present[device] is not here:
            self.present[device] = here
            self._tell_presence(device)

    def _on_read(self, at: float, device: str, line: str) -> None:
        said, owner = read_line(device, line), self._owner.get(device)
        # Held up on the line for so long, it would be written at another step than it was meant.
        if said is not None and owner is not None and abs(time.time() - at) < STALE_SECONDS:
            self._tell(owner, said)

    def _tell(self, owner: Owner, what: Reading | Notice) -> None:
        listener = self._here.get(owner.asker)
        if listener is not None:
            listener.tell(what)

    def _tell_presence(self, device: str) -> None:
        owner, here = self._owner.get(device), self.present[device]
        if owner is not None and here is not None:
            self._tell(owner, Notice(device, "here" if here else "lost"))

    def _start(self) -> None:
        for device, url in self.urls.items():
            thread = threading.Thread(target=self._listen, args=(device, url), daemon=True)
            thread.start()
            self._threads.append(thread)

    def _listen(self, device: str, url: str) -> None:
        while not self._stop.is_set():
            self._opened = self._opens()
            if not self._opened:
                self._stop.wait(AGAIN_SECONDS)
                continue
            self._again.clear()
            try:
                with serial.serial_for_url(url, timeout=1) as port:
                    self._read(device, port)
            except (serial.SerialException, OSError, ValueError):
                self._now(device, here=False)
                self._stop.wait(AGAIN_SECONDS)

    def _now(self, device: str, *, here: bool) -> None:
        if self.present[device] is not here:
            self._say("presence", device=device, here=here)

    def _read(self, device: str, port: serial.Serial) -> None:
        rest = b""
        while not self._stop.is_set() and not self._again.is_set():
            rest += port.read(1)
            # Only now: a link may open and be closed again at once.
            self._now(device, here=True)
            rest += port.read(port.in_waiting) if port.in_waiting else b""
            *lines, rest = rest.split(b"\n")
            for line in lines:
                text = line.decode("utf-8", "replace").strip()
                said = read_line(device, text)
                if said is not None and not self._just_said(said, text):
                    self._say("read", device=device, line=text)

    def _just_said(self, said: Reading, text: str) -> bool:
        """Whether a lamp only says again what it said a moment ago."""
        if said.passing in ("", "peak"):
            return False
        place, now = (said.device, said.unit), time.monotonic()
        before, at = self._passing.get(place, ("", 0.0))
        if before == text and now - at < SAID_AGAIN_SECONDS:
            return True
        self._passing[place] = (text, now)
        return False
