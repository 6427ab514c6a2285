"""Lays pages out as PDF in a process of its own, so that nobody else waits for it meanwhile.

Run as a module it is that process: it takes pages on its standard input and gives PDFs back, each
with its length before it, until the input ends.
"""

import atexit
import struct
import subprocess
import sys
from contextlib import suppress
from threading import Lock
from typing import IO

LENGTH = struct.Struct(">q")
# How a page that cannot be laid out comes back: a length that none has.
FAILED = -1


class PrintError(RuntimeError):
    """A page could not be laid out."""


class Press:
    """One process that lays out one page after the other; started when first needed."""

    def __init__(self) -> None:
        """Nothing runs yet."""
        self._lock = Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def lay_out(self, page: str) -> bytes:
        """The page as PDF. Raises :class:`PrintError` where that fails twice."""
        with self._lock:
            for _ in range(2):
                try:
                    return self._ask(page.encode())
                except (OSError, EOFError):
                    # It was ended from outside; a new one takes the page again.
                    self._end()
        raise PrintError("the page could not be laid out")

    def _ask(self, page: bytes) -> bytes:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE
            )
        process = self._process
        assert process.stdin is not None
        assert process.stdout is not None
        _write(process.stdin, page)
        return _read(process.stdout)

    def close(self) -> None:
        """End the process."""
        with self._lock:
            self._end()

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            with suppress(OSError):
                process.kill()
            process.wait()


def _write(out: IO[bytes], data: bytes) -> None:
    out.write(LENGTH.pack(len(data)))
    out.write(data)
    out.flush()


def _read(source: IO[bytes]) -> bytes:
    (length,) = LENGTH.unpack(_exactly(source, LENGTH.size))
    if length == FAILED:
        raise PrintError("the page could not be laid out")
    return _exactly(source, length)


def _exactly(source: IO[bytes], count: int) -> bytes:
    data = source.read(count)
    if len(data) < count:
        raise EOFError
    return data


PRESS = Press()
atexit.register(PRESS.close)


def _work() -> None:
    from weasyprint import HTML

    source, out = sys.stdin.buffer, sys.stdout.buffer
    # What a library prints must not come between.
    sys.stdout = sys.stderr
    while head := source.read(LENGTH.size):
        page = _exactly(source, LENGTH.unpack(head)[0]).decode()
        try:
            made = bytes(HTML(string=page, base_url=None).write_pdf())
        except Exception as fault:
            print(f"a page was not laid out: {type(fault).__name__}", file=sys.stderr)
            out.write(LENGTH.pack(FAILED))
            out.flush()
        else:
            _write(out, made)


if __name__ == "__main__":
    with suppress(KeyboardInterrupt):
        _work()
