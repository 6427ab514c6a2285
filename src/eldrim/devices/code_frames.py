"""On-board diagnostics in hexadecimal: trouble codes, and messages cut into frames of eight bytes.

Sources: ISO 15031-5 (services and their data), ISO 15765-2 (segments).
"""

from eldrim.core.words.messages import gettext

LETTERS = "PCBU"
FIRST_ALONE = 7


def code_bytes(code: str) -> bytes:
    """The two bytes of a trouble code such as ``P0303``. Raises ValueError for what is none."""
    letter, digits = code[:1].upper(), code[1:]
    if letter not in LETTERS or len(digits) != 4 or digits[0] not in "0123":
        raise ValueError(gettext("'{code}' is no trouble code", code=code))
    first = LETTERS.index(letter) << 6 | int(digits[0]) << 4 | int(digits[1], 16)
    return bytes((first, int(digits[2:], 16)))


def code_text(first: int, second: int) -> str:
    """The trouble code of two bytes."""
    return f"{LETTERS[first >> 6]}{first >> 4 & 3}{first & 15:X}{second:02X}"


def cut(message: bytes) -> list[bytes]:
    """A message as frames: alone where it fits, else a first and consecutive ones."""
    if len(message) <= FIRST_ALONE:
        return [bytes((len(message),)) + message]
    frames = [bytes((0x10 | len(message) >> 8, len(message) & 0xFF)) + message[:6]]
    rest = message[6:]
    for n in range(0, len(rest), FIRST_ALONE):
        frames.append(bytes((0x20 | (n // FIRST_ALONE + 1) & 15,)) + rest[n : n + FIRST_ALONE])
    return frames


def join(frames: list[bytes]) -> bytes:
    """The message of some frames, in whatever order the later ones came.

    Raises ValueError when one is missing.
    """
    first = next((f for f in frames if f[0] >> 4 in (0, 1)), None)
    if first is None:
        raise ValueError(gettext("the first frame is missing"))
    if first[0] >> 4 == 0:
        return first[1 : 1 + (first[0] & 15)]
    length = (first[0] & 15) << 8 | first[1]
    message = first[2:]
    later = sorted((f for f in frames if f[0] >> 4 == 2), key=lambda f: f[0] & 15)
    for index, frame in enumerate(later, 1):
        if frame[0] & 15 != index & 15:
            raise ValueError(gettext("a frame is missing"))
        message += frame[1:]
    if len(message) < length:
        raise ValueError(gettext("a frame is missing"))
    return message[:length]
