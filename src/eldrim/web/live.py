"""Pages hear that something changed, by server-sent events; then they ask for it as always."""

import asyncio
import contextlib
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response, StreamingResponse

from eldrim.store.notices import EVERYTHING
from eldrim.web.context import SignedIn

router = APIRouter(include_in_schema=False)
# Proxies close what is silent; a beat also finds out who has gone.
BEAT_SECONDS = 10.0
TOPICS = r"^(floor|run:[0-9a-f-]{36})$"
# A page that closes without a word is let go with its next beat.
LONGEST_SECONDS = 3600.0


@dataclass(eq=False)
class Page:
    """One page that listens to a topic."""

    topic: str
    changed: asyncio.Event = field(default_factory=asyncio.Event)


class Live:
    """The pages that listen in this process."""

    def __init__(self) -> None:
        """Nobody listens yet."""
        self._pages: set[Page] = set()
        self._loop: asyncio.AbstractEventLoop | None = None
        self.closing = False

    def begin(self) -> None:
        """Serve the pages of the running loop."""
        self._loop = asyncio.get_running_loop()

    def end(self) -> None:
        """Let every page go, so that the server can stop."""
        self.closing = True
        self._wake([EVERYTHING])

    def heard(self, topics: list[str]) -> None:
        """Something changed; called from another thread."""
        if self._loop is not None and not self._loop.is_closed():
            with contextlib.suppress(RuntimeError):
                self._loop.call_soon_threadsafe(self._wake, topics)

    def _wake(self, topics: list[str]) -> None:
        wanted = set(topics)
        for page in self._pages:
            if page.topic in wanted or EVERYTHING in wanted:
                page.changed.set()

    async def events(self, request: Request, topic: str) -> AsyncIterator[str]:
        """``changed`` each time something did; bundled while the page has not taken the last."""
        page = Page(topic)
        self._pages.add(page)
        until = asyncio.get_running_loop().time() + LONGEST_SECONDS
        try:
            yield "retry: 2000\nevent: here\ndata:\n\n"
            while not self.closing and asyncio.get_running_loop().time() < until:
                try:
                    async with asyncio.timeout(BEAT_SECONDS):
                        await page.changed.wait()
                except TimeoutError:
                    if await request.is_disconnected():
                        return
                    yield ": still here\n\n"
                    continue
                page.changed.clear()
                if not self.closing:
                    yield "event: changed\ndata:\n\n"
        finally:
            self._pages.discard(page)


@router.get("/live")
def live(
    request: Request,
    _: SignedIn,
    topic: Annotated[str, Query(pattern=r"^(floor|run:[0-9a-f-]{36})$")],
) -> Response:
    """Say each time when the floor, or a run, has changed."""
    pages: Live = request.app.state.live
    headers = {"cache-control": "no-store", "x-accel-buffering": "no"}
    events = pages.events(request, topic)
    return StreamingResponse(events, media_type="text/event-stream", headers=headers)
