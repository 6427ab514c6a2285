"""Our own link to a diagnostics adapter: read codes and freeze data, clear, a few live values."""

from collections.abc import Iterable
from dataclasses import dataclass
from types import TracebackType

import serial

from eldrim.core.words.messages import gettext
from eldrim.devices.code_frames import code_text, join

PROMPT = b">"


class DeviceError(Exception):
    """A device did not answer, or not as it should; the message is meant for people."""


@dataclass(frozen=True)
class Freeze:
    """What was kept when a code was set: the code, coolant in °C, engine speed per minute."""

    code: str
    coolant: float
    rpm: float


class Adapter:
    """A link to an adapter at a pyserial URL, such as ``socket://127.0.0.1:8415``."""

    def __init__(self, url: str, timeout: float = 3.0) -> None:
        """Open the link and settle how the adapter talks. Raises :class:`DeviceError`."""
        try:
            self._port = serial.serial_for_url(url, timeout=timeout)
        except (serial.SerialException, OSError, ValueError) as error:
            raise DeviceError(gettext("The diagnostics adapter cannot be reached.")) from error
        for command in ("ATZ", "ATE0", "ATH1", "ATL0", "ATSP0"):
            self._send(command)

    def __enter__(self) -> "Adapter":
        """Itself."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """Close the link."""
        self._port.close()

    def _send(self, command: str) -> list[str]:
        try:
            self._port.write(command.encode() + b"\r")
            answer = self._port.read_until(PROMPT)
        except (serial.SerialException, OSError) as error:
            raise DeviceError(gettext("The link to the adapter broke off.")) from error
        if not answer.endswith(PROMPT):
            raise DeviceError(gettext("The adapter does not answer."))
        text = answer[:-1].decode("ascii", "replace")
        return [line.strip() for line in text.split("\r") if line.strip()]

    def _ask(self, request: str) -> bytes:
        """The data of an answer after its service byte; empty where there is none."""
        lines = self._send(request)
        if any("NO DATA" in line or "?" in line for line in lines):
            return b""
        try:
            frames = [bytes.fromhex(line.replace(" ", "")[3:]) for line in lines]
            message = join(frames)
        except ValueError as error:
            raise DeviceError(
                gettext("The adapter's answer makes no sense: {lines}", lines=lines[:2])
            ) from error
        if not message or message[0] != int(request[:2], 16) + 0x40:
            raise DeviceError(gettext("The adapter answered another question."))
        return message[1:]

    def codes(self) -> tuple[str, ...]:
        """The stored trouble codes."""
        data = self._ask("03")
        pairs = data[1 : 1 + 2 * data[0]] if data else b""
        return tuple(code_text(a, b) for a, b in zip(pairs[::2], pairs[1::2], strict=True))

    def freeze(self) -> Freeze | None:
        """The freeze data of the first code; None where there is none."""
        code = self._ask("020200")
        if len(code) < 4 or not any(code[2:4]):
            return None
        coolant, rpm = self._ask("020500"), self._ask("020C00")
        return Freeze(code_text(code[2], code[3]), coolant[2] - 40.0, (rpm[2] << 8 | rpm[3]) / 4)

    def misfires(self, cylinders: Iterable[int]) -> dict[int, int]:
        """What the misfire counter says of each cylinder, counted since the codes were cleared."""
        answers = ((number, self._ask(f"06{number:02X}")) for number in cylinders)
        return {number: said[1] << 8 | said[2] for number, said in answers if len(said) >= 3}

    def clear(self) -> None:
        """Clear codes and freeze data."""
        self._ask("04")

    def coolant(self) -> float:
        """Coolant temperature in °C."""
        return self._ask("0105")[1] - 40.0

    def rpm(self) -> float:
        """Engine speed per minute."""
        data = self._ask("010C")
        return (data[1] << 8 | data[2]) / 4

    def voltage(self) -> float:
        """Voltage at the control unit, in V."""
        data = self._ask("0142")
        return (data[1] << 8 | data[2]) / 1000
