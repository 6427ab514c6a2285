"""Lays pages out as PDF in a process of its own, so that nobody else waits for it meanwhile.

Run as a module it is that process: it takes questions on its standard input and gives PDFs back,
each with its length before it, until the input ends. A question is JSON: ``pages``, the same paper
laid out more and more closely, and ``sides``, how many it is to have at most.
"""

import atexit
import json
import struct
import subprocess
import sys
from collections.abc import Sequence
from contextlib import suppress
from threading import Lock
from typing import IO, Any

from eldrim.core.words.messages import gettext

LENGTH = struct.Struct(">q")
# How a page that cannot be laid out comes back: a length that none has.
FAILED = -1
# The same for pages of which each takes too many sides.
NONE_FITS = -2


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
        made = self.lay_out_within([page])
        assert made is not None, "a page without a limit is always laid out"
        return made

    def lay_out_within(self, pages: Sequence[str], sides: int = 0) -> bytes | None:
        """The first of the pages, each set more closely than the one before, that takes no more
        sides than ``sides``; None where none does. 0: as many as it takes.

        Raises :class:`PrintError` where that fails twice.
        """
        question = json.dumps({"pages": list(pages), "sides": sides}).encode()
        with self._lock:
            for _ in range(2):
                try:
                    return self._ask(question)
                except (OSError, EOFError):
                    # It was ended from outside; a new one takes the page again.
                    self._end()
        raise PrintError(gettext("the page could not be laid out"))

    def _ask(self, question: bytes) -> bytes | None:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE
            )
        process = self._process
        assert process.stdin is not None
        assert process.stdout is not None
        _write(process.stdin, question)
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


def _say(out: IO[bytes], code: int) -> None:
    out.write(LENGTH.pack(code))
    out.flush()


def _read(source: IO[bytes]) -> bytes | None:
    (length,) = LENGTH.unpack(_exactly(source, LENGTH.size))
    if length == NONE_FITS:
        return None
    if length == FAILED:
        raise PrintError(gettext("the page could not be laid out"))
    return _exactly(source, length)


def _exactly(source: IO[bytes], count: int) -> bytes:
    data = source.read(count)
    if len(data) < count:
        raise EOFError
    return data


PRESS = Press()
atexit.register(PRESS.close)


def _made(question: dict[str, Any]) -> bytes | None:
    """The first page that has no more sides than it may, as PDF; None where each has more."""
    from weasyprint import HTML

    for page in question["pages"]:
        laid_out = HTML(string=page, base_url=None).render()
        if not question["sides"] or len(laid_out.pages) <= question["sides"]:
            return bytes(laid_out.write_pdf())
    return None


def _work() -> None:
    source, out = sys.stdin.buffer, sys.stdout.buffer
    # What a library prints must not come between.
    sys.stdout = sys.stderr
    while head := source.read(LENGTH.size):
        question = json.loads(_exactly(source, LENGTH.unpack(head)[0]))
        try:
            made = _made(question)
        except Exception as fault:
            print(f"a page was not laid out: {type(fault).__name__}", file=sys.stderr)
            _say(out, FAILED)
        else:
            if made is None:
                _say(out, NONE_FITS)
            else:
                _write(out, made)


if __name__ == "__main__":
    with suppress(KeyboardInterrupt):
        _work()
