"""How the server stands towards the outside: cookies, names it answers to, who may read metrics."""

from dataclasses import dataclass

from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from eldrim.core.words.messages import gettext

# Where the clock on the wall is, unless a workshop says otherwise.
DEFAULT_ZONE = "Europe/Dublin"


@dataclass(frozen=True)
class Front:
    """``secure``: TLS ends before us, so cookies are for TLS alone; ``hosts``: names answered to,
    empty for any; ``metrics_token``: with it metrics are read from anywhere.
    """

    secure: bool = False
    hosts: tuple[str, ...] = ()
    metrics_token: str = ""


def is_secure(request: Request) -> bool:
    """Whether the browser talks TLS, to us or to what stands before us."""
    return request.url.scheme == "https" or bool(request.app.state.front.secure)


def set_cookie(request: Request, answer: Response, name: str, value: str, seconds: int) -> None:
    """Give the browser a secret: scripts and other sites never see it."""
    answer.set_cookie(
        name, value, httponly=True, samesite="strict", secure=is_secure(request), max_age=seconds
    )


class OwnNames:
    """Answers only to names that are ours: a page elsewhere must not reach us by one of its own."""

    def __init__(self, app: ASGIApp, hosts: tuple[str, ...]) -> None:
        """Wrap ``app``; ``hosts`` are names without ports. What asks for our health may use any."""
        self.app, self.hosts = app, frozenset(host.lower() for host in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Refuse a request under another name, in words."""
        if scope["type"] == "http" and scope["path"] not in ("/healthz", "/readyz"):
            given = dict(scope["headers"]).get(b"host", b"").decode("latin-1").lower()
            name = given.rpartition(":")[0] if given.rpartition(":")[2].isdigit() else given
            if name not in self.hosts:
                said = gettext(
                    "This server has another name. Ask who looks after it for the address."
                )
                return await PlainTextResponse(said, 421)(scope, receive, send)
        await self.app(scope, receive, send)
