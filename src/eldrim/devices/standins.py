"""Stand-ins for devices: each its own small process on loopback, played from the devices page.

Started as ``python -m eldrim.devices.standins KIND``: it prints the port of the device's link and
the port it is played through. A wrench is pulled (``17.6 N·m``: the peak rises, then it clicks),
a gauge, meter or thermometer shows a value (``0.76 mm``), a lamp shows speed and advance of an
engine that is played (``speed 1800``, ``turn 1.5 left``, ``advance tired``, ``dial 20``). An
adapter is given what the engine is like (``codes P0303 P0353``, ``coolant 82``, ``rpm 850``,
``volts 14.1``), or something is broken on it and it is run (``break coil 5``, ``run``, ``swap coil
5 3``, ``renew coil 3``). ``off`` and ``on`` lose the device and bring it back. It ends when its
standard input does.
"""

import argparse
import asyncio
import sys

from eldrim.devices.code_frames import code_bytes, cut
from eldrim.devices.played_engine import PlayedEngine
from eldrim.devices.timed_engine import TimedEngine

KINDS = ("wrench", "gauge", "meter", "thermometer", "adapter", "lamp")
PULL_STEPS = 8
# The lamp flashes so often that what it shows is said anew.
FLASH_SECONDS = 0.4


class Speaker:
    """A device that says what it measures to whoever is linked."""

    def __init__(self, kind: str) -> None:
        """Nobody linked yet."""
        self.kind, self.on = kind, True
        self._linked: set[asyncio.StreamWriter] = set()

    async def link(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Somebody links up; kept until they go, or until the device is lost."""
        if self.on:
            self._linked.add(writer)
            await reader.read()
            self._linked.discard(writer)
        writer.close()

    async def play(self, line: str) -> str:
        """Do what a person does with it."""
        if line in ("off", "on"):
            self.on = line == "on"
            for writer in self._linked if not self.on else ():
                writer.close()
            return line
        value, _, unit = line.partition(" ")
        if self.kind == "wrench":
            for n in range(3, PULL_STEPS):
                self._say(f"PEAK {float(value) * n / PULL_STEPS:.1f} {unit}")
                await asyncio.sleep(0.05)
            return self._say(f"CLICK {float(value):g} {unit}")
        return self._say(f"READ {float(value):g} {unit}")

    def _say(self, line: str) -> str:
        for writer in self._linked:
            writer.write(f"{line}\n".encode())
        return line


class LampStandIn:
    """A timing lamp on an engine that runs: it says speed and advance as long as it is linked."""

    def __init__(self) -> None:
        """At idle, its timing some degrees too early."""
        self.on, self.engine = True, TimedEngine()

    async def link(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Flash until the other side goes, or the lamp is lost."""
        try:
            while self.on and not writer.is_closing():
                writer.write("".join(f"{line}\n" for line in self.engine.lines()).encode())
                await writer.drain()
                await asyncio.sleep(FLASH_SECONDS)
        except ConnectionError:
            pass
        writer.close()

    async def play(self, line: str) -> str:
        """Do what a person does at the engine, or with the lamp."""
        if line in ("off", "on"):
            self.on = line == "on"
            return line
        self.engine.play(line.split())
        return self.engine.told()


class AdapterStandIn:
    """A diagnostics adapter with an engine behind it: commands in text, answers in hexadecimal."""

    def __init__(self) -> None:
        """An engine with two codes, warm and idling."""
        self.on, self.echo = True, True
        self.codes = ["P0303", "P0353"]
        self.coolant, self.rpm, self.volts = 82.0, 850.0, 14.1
        self.engine = PlayedEngine()

    async def link(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Answer commands until the other side goes."""
        self.echo = True
        while self.on:
            try:
                command = (await reader.readuntil(b"\r")).decode("ascii", "replace")
            except (asyncio.IncompleteReadError, ConnectionError):
                break
            said = "".join(c for c in command.upper() if c.isalnum())
            echo = f"{command.strip()}\r" if self.echo else ""
            writer.write(f"{echo}{self.answer(said)}\r\r>".encode())
            await writer.drain()
        writer.close()

    def answer(self, said: str) -> str:
        """The answer to one command without its blanks."""
        if said.startswith("AT"):
            return self._setting(said)
        # A digit after whole bytes says how many answers are waited for.
        said = said[: len(said) // 2 * 2]
        data = self._service(said)
        if data is None:
            return "NO DATA" if said else "?"
        return "\r".join(f"7E8 {' '.join(f'{b:02X}' for b in f)}" for f in cut(data))

    def _setting(self, said: str) -> str:
        if said in ("ATZ", "ATWS", "ATI"):
            self.echo = True if said == "ATZ" else self.echo
            return "ELDRIM STAND-IN 1"
        if said == "ATRV":
            return f"{self.volts:.1f}V"
        if said == "ATDPN":
            return "A6"
        self.echo = {"ATE0": False, "ATE1": True}.get(said, self.echo)
        return "OK"

    def _service(self, said: str) -> bytes | None:
        if not said or any(c not in "0123456789ABCDEF" for c in said):
            return None
        request = bytes.fromhex(said)
        service = request[0]
        if service in (3, 7):
            codes = self.codes if service == 3 else []
            return bytes((service + 0x40, len(codes))) + b"".join(map(code_bytes, codes))
        if service == 4:
            self.codes = []
            self.engine.clear()
            return b"\x44"
        if service == 6 and len(request) > 1:
            return bytes((0x46, request[1])) + self.engine.counts.get(request[1], 0).to_bytes(
                2, "big"
            )
        if service == 1 and len(request) > 1:
            data = self._live(request[1])
            return None if data is None else bytes((0x41, request[1])) + data
        if service == 2 and len(request) > 1:
            return self._frozen(request[1], request[2:3])
        return None

    def _live(self, pid: int) -> bytes | None:
        if pid in (0x00, 0x20, 0x40):
            wanted = [p for p in (0x01, 0x05, 0x0C, 0x20, 0x40, 0x42) if pid < p <= pid + 0x20]
            return sum(1 << (32 - (p - pid)) for p in wanted).to_bytes(4, "big")
        if pid == 0x01:
            return bytes(((0x80 if self.codes else 0) | len(self.codes), 0x07, 0, 0))
        if pid == 0x05:
            return bytes((max(0, min(255, round(self.coolant) + 40)),))
        if pid == 0x0C:
            return round(self.rpm * 4).to_bytes(2, "big")
        return round(self.volts * 1000).to_bytes(2, "big") if pid == 0x42 else None

    def _frozen(self, pid: int, frame: bytes) -> bytes | None:
        """Freeze data; asked for without the number of a frame, it is answered without one."""
        if not self.codes:
            return None
        data = code_bytes(self.codes[0]) if pid == 0x02 else self._live(pid)
        return None if data is None or pid == 0x01 else bytes((0x42, pid)) + frame + data

    async def play(self, line: str) -> str:
        """Change what the engine is like."""
        what, *rest = line.split()
        if what in ("off", "on"):
            self.on = what == "on"
        elif what == "codes":
            for code in rest:
                code_bytes(code)
            self.codes = [c.upper() for c in rest]
        elif what in ("coolant", "rpm", "volts"):
            setattr(self, what, float(rest[0]))
        elif what == "run":
            self.codes = list(dict.fromkeys([*self.codes, *self.engine.run()]))
        else:
            self.engine.play([what, *rest])
        return line


def _made(kind: str) -> Speaker | LampStandIn | AdapterStandIn:
    if kind == "adapter":
        return AdapterStandIn()
    return LampStandIn() if kind == "lamp" else Speaker(kind)


async def serve(kind: str) -> None:
    """Play one device until the process ends."""
    device = _made(kind)

    async def control(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        line = (await reader.readline()).decode().strip()
        try:
            said = await device.play(line)
        except (ValueError, IndexError) as error:
            said = f"error {error}"
        writer.write(f"{said}\n".encode())
        await writer.drain()
        writer.close()

    answers = (device.link, control)
    links = [await asyncio.start_server(answer, "127.0.0.1", 0) for answer in answers]
    print(*(link.sockets[0].getsockname()[1] for link in links), flush=True)
    for server in links:
        await server.start_serving()
    # Whoever started it holds the other end: gone, however it went, there is nobody to play for.
    await asyncio.to_thread(sys.stdin.buffer.read)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("kind", choices=KINDS)
    asyncio.run(serve(parser.parse_args().kind))
