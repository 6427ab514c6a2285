"""HTTP that does not wait for ever: who opens a connection says what is wanted, or is let go."""

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADER_SECONDS = 15


class PatientProtocol(HttpToolsProtocol):
    """Closes a connection whose request line and headers are not there in time."""

    _too_slow: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """Begin to wait: also for who says nothing at all."""
        super().connection_made(transport)
        self._wait()

    def on_message_begin(self) -> None:
        """Begin to wait again, for the next request on the same connection."""
        super().on_message_begin()
        if self._too_slow is None:
            self._wait()

    def on_headers_complete(self) -> None:
        """The headers are here."""
        self._stop()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nobody is waited for any more."""
        self._stop()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._too_slow = self.loop.call_later(HEADER_SECONDS, self.transport.close)

    def _stop(self) -> None:
        if self._too_slow is not None:
            self._too_slow.cancel()
            self._too_slow = None
