"""Texts that are texts: no control characters, no halves of characters, in whatever is sent.

PostgreSQL keeps no NUL, and what a terminal or a spreadsheet takes for a command is nobody's word.
"""

import json
import re
from collections.abc import Iterator
from urllib.parse import unquote_plus

from fastapi import Request
from starlette.datastructures import FormData
from starlette.types import ASGIApp, Receive, Scope, Send

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext, gettext_lazy

# Tab and line ends are typed; the rest of the controls and lone surrogates are not.
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")
SAID = gettext_lazy("holds a character that is no text")
FIX = gettext_lazy("type it again, without what was pasted with it")


async def require_plain(request: Request, form: FormData | None = None) -> None:
    """Raise :class:`ProblemsError` where a form or JSON holds what is no text, naming the field."""
    kind = request.headers.get("content-type", "")
    if form is not None:
        said: Iterator[tuple[str, str]] = (
            (name, value) for name, value in form.multi_items() if isinstance(value, str)
        )
    elif kind.startswith("application/json"):
        said = _texts("", _loaded(await request.body()))
    else:
        return
    for name, value in said:
        if _NO_TEXT.search(name):
            raise ProblemsError([Problem("", gettext("a name {said}", said=SAID), FIX)])
        if _NO_TEXT.search(value):
            raise ProblemsError([Problem(name, SAID, FIX)])


def _loaded(body: bytes) -> object:
    try:
        return json.loads(body)
    except (ValueError, RecursionError):
        return None


def _texts(name: str, value: object) -> Iterator[tuple[str, str]]:
    """Every text in what was loaded from JSON, with the name it stands under."""
    waiting = [(name, value)]
    while waiting:
        name, value = waiting.pop()
        if isinstance(value, str):
            yield name, value
        elif isinstance(value, dict):
            waiting.extend((str(key), inner) for key, inner in value.items())
        elif isinstance(value, list):
            waiting.extend((name, inner) for inner in value)


class PlainAddress:
    """Refuses an address that holds what is no text."""

    def __init__(self, app: ASGIApp) -> None:
        """Wrap ``app``."""
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer 422 instead of passing such an address on."""
        if scope["type"] == "http":
            asked = unquote_plus(scope["query_string"].decode("latin-1"))
            if _NO_TEXT.search(scope["path"]) or _NO_TEXT.search(asked):
                headers = [(b"content-type", b"text/plain")]
                await send({"type": "http.response.start", "status": 422, "headers": headers})
                body = gettext("The address {said}.", said=SAID).encode()
                return await send({"type": "http.response.body", "body": body})
        return await self.app(scope, receive, send)
