"""What every response carries and every request is held to."""

import contextlib
import logging
from collections.abc import Callable

from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = logging.getLogger(__name__)

MAX_BODY = 2_000_000
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


class Headers:
    """Adds the security headers; pages are not kept by shared caches."""

    def __init__(self, app: ASGIApp) -> None:
        """Wrap ``app``."""
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, adding headers to the response's start."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)

        async def add(message: Message) -> None:
            if message["type"] == "http.response.start":
                said = {k for k, _ in message["headers"]}
                extra = dict(HEADERS)
                if scope.get("scheme") == "https":
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
        except _TooLargeError:
            raise
        except Exception as fault:
            if scope["type"] != "http" or begun:
                raise
            log.exception("unexpected fault at %s", scope["path"])
            await self.answer(Request(scope), fault)(scope, receive, send)


class BodyLimit:
    """Refuses a body over the limit, whether it says its length or not."""

    def __init__(self, app: ASGIApp, limit: int = MAX_BODY) -> None:
        """Wrap ``app``."""
        self.app, self.limit = app, limit

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer 413 instead of passing on too much."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        stated = dict(scope["headers"]).get(b"content-length", b"0")
        larger = (most for end, most in LARGER.items() if scope["path"].endswith(end))
        limit = next(larger, self.limit)
        if not stated.isdigit() or int(stated) > limit:
            return await _too_large(send, limit)
        seen = 0

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > limit:
                raise _TooLargeError
            return message

        # Whatever the application makes of the broken-off body, the answer is ours.

        async def watched(message: Message) -> None:
            if seen <= limit:
                await send(message)

        with contextlib.suppress(_TooLargeError):
            await self.app(scope, counted, watched)
        if seen > limit:
            await _too_large(send, limit)


class _TooLargeError(Exception):
    pass


async def _too_large(send: Send, limit: int) -> None:
    body = f"The request is too large; the limit is {limit // 1_000_000} MB.".encode()
    headers = [(b"content-type", b"text/plain"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body})
