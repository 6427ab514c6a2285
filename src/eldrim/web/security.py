"""What every response carries and every request is held to."""

import asyncio
import contextlib
from collections.abc import Callable
from urllib.parse import urlsplit

from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from eldrim.core.words.messages import gettext
from eldrim.web.request_log import note_fault

MAX_BODY = 2_000_000
# A camera's photo over a poor link takes a while; who sends a letter a second does not get on.
BODY_SECONDS = 60
# Photos come as the camera makes them, and a whole procedure carries its photos.
LARGER = {"/photos": 12_500_000, "/take-in": 12_500_000}
# A framed, scripted or styled page can only come from us; nothing inline, nothing evaluated.
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "permissions-policy": "camera=(self), microphone=(), geolocation=()",
    "cross-origin-opener-policy": "same-origin",
}


def sent_from_here(request: Request) -> bool:
    """Whether a form was sent by a page of ours, as far as the browser says."""
    site = request.headers.get("sec-fetch-site", "same-origin")
    origin = request.headers.get("origin")
    ours = origin is None or urlsplit(origin).netloc == request.headers.get("host", "")
    return ours and site in ("same-origin", "none")


class Headers:
    """Adds the security headers; pages are not kept by shared caches."""

    def __init__(self, app: ASGIApp, secure: bool = False) -> None:
        """Wrap ``app``; ``secure``: the browser talks TLS to what stands before us."""
        self.app, self.secure = app, secure

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, adding headers to the response's start."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)

        async def add(message: Message) -> None:
            if message["type"] == "http.response.start":
                said = {k for k, _ in message["headers"]}
                extra = dict(HEADERS)
                if self.secure or scope.get("scheme") == "https":
                    extra["strict-transport-security"] = "max-age=31536000"
                if b"cache-control" not in said:
                    # Their address changes with them.
                    shared = scope["path"].startswith("/static/")
                    extra["cache-control"] = (
                        "public, max-age=31536000, immutable" if shared else "no-store"
                    )
                message["headers"] = [
                    *message["headers"],
                    *((key.encode(), value.encode()) for key, value in extra.items()),
                ]
            await send(message)

        await self.app(scope, receive, add)


class Faults:
    """Answers for what nobody caught, inside the headers every answer carries."""

    def __init__(self, app: ASGIApp, answer: Callable[[Request, Exception], Response]) -> None:
        """Wrap ``app``; ``answer`` is what is said."""
        self.app, self.answer = app, answer

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Log a fault and answer it, where the answer has not begun."""
        begun = False

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await self.app(scope, receive, watched)
        except _RefusedBodyError:
            raise
        except Exception as fault:
            if scope["type"] != "http":
                raise
            note_fault(Request(scope), fault)
            if begun:
                raise
            await self.answer(Request(scope), fault)(scope, receive, send)


class BodyLimit:
    """Refuses a body over the limit, whether it says its length or not, and one without end."""

    def __init__(self, app: ASGIApp, limit: int = MAX_BODY, seconds: float = BODY_SECONDS) -> None:
        """Wrap ``app``."""
        self.app, self.limit, self.seconds = app, limit, seconds

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer 413 instead of passing on too much, 408 instead of waiting for ever."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        stated = dict(scope["headers"]).get(b"content-length", b"0")
        larger = (most for end, most in LARGER.items() if scope["path"].endswith(end))
        limit = next(larger, self.limit)
        if not stated.isdigit() or int(stated) > limit:
            return await _too_large(send, limit)
        body = _Body(receive, limit, self.seconds)

        # Whatever the application makes of the broken-off body, the answer is ours.

        async def watched(message: Message) -> None:
            if not body.refused:
                await send(message)

        with contextlib.suppress(_RefusedBodyError):
            await self.app(scope, body.receive, watched)
        if body.refused == TOO_LARGE:
            await _too_large(send, limit)
        elif body.refused:
            await _answer(
                send, TOO_SLOW, gettext("The request did not arrive in time. Send it again.")
            )


TOO_LARGE, TOO_SLOW = 413, 408


class _Body:
    """A body as it comes in, counted and timed until it is whole."""

    def __init__(self, receive: Receive, limit: int, seconds: float) -> None:
        self._receive, self.limit = receive, limit
        self.seen, self.whole, self.refused = 0, False, 0
        self.until = asyncio.get_running_loop().time() + seconds

    async def receive(self) -> Message:
        """The next piece; what comes after the whole of it may take its time."""
        if self.whole:
            return await self._receive()
        try:
            async with asyncio.timeout_at(self.until):
                message = await self._receive()
        except TimeoutError:
            self.refused = TOO_SLOW
            raise _RefusedBodyError from None
        self.seen += len(message.get("body", b""))
        self.whole = not message.get("more_body")
        if self.seen > self.limit:
            self.refused = TOO_LARGE
            raise _RefusedBodyError
        return message


class _RefusedBodyError(Exception):
    pass


async def _too_large(send: Send, limit: int) -> None:
    said = gettext("The request is too large; the limit is {limit} MB.", limit=limit // 1000000)
    await _answer(send, TOO_LARGE, said)


async def _answer(send: Send, status: int, said: str) -> None:
    headers = [(b"content-type", b"text/plain"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": said.encode()})
