"""The language of who reads: as they chose it, else as their browser asks."""

from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Receive, Scope, Send

from eldrim.core.words.language import BASE_LANGUAGE, LANGUAGES, reading_in

LANGUAGE_COOKIE = "eldrim_language"
# A choice stays until another is made.
LANGUAGE_SECONDS = 365 * 24 * 3600


class Reader:
    """Answers each request in the language of who reads it (ASGI middleware)."""

    def __init__(self, app: ASGIApp) -> None:
        """Wrap ``app``."""
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on in that language; threads that answer take it along."""
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        with reading_in(language_of(HTTPConnection(scope))):
            await self.app(scope, receive, send)


def language_of(asked: HTTPConnection) -> str:
    """The language kept at this browser, else the first it asks for that we know, else English."""
    chosen = asked.cookies.get(LANGUAGE_COOKIE, "")
    if chosen in LANGUAGES:
        return chosen
    wanted = asked.headers.get("accept-language", "")
    ranked = sorted(map(_ranked, wanted[:200].split(",")), reverse=True)
    return next((code for share, code in ranked if share > 0 and code in LANGUAGES), BASE_LANGUAGE)


def _ranked(one: str) -> tuple[float, str]:
    """How much a language is wanted, of ``de-AT;q=0.8``."""
    code, _, weight = one.partition(";")
    try:
        share = float(weight.strip().removeprefix("q=")) if weight else 1.0
    except ValueError:
        share = 0.0
    return share, code.strip().lower().partition("-")[0]
