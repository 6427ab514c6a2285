"""What a route is given: the transaction, who asks, and how a page is rendered."""

import asyncio
import json
import os
import secrets
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager, suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, HTTPException, Request
from fastapi.responses import HTMLResponse
from jinja2 import (
    Environment,
    FileSystemBytecodeCache,
    PackageLoader,
    StrictUndefined,
    pass_context,
    select_autoescape,
)
from jinja2.runtime import Context
from markupsafe import Markup, escape
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from sqlalchemy.orm import Session

from eldrim.core.base.by_object import ByObject
from eldrim.core.procedure.editions.standing_notes import standing_notes
from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.run.entries import Role
from eldrim.core.tools.crib import Crib
from eldrim.core.words import printed, say
from eldrim.core.words.language import LANGUAGES, day_words, page_language, spoken
from eldrim.core.words.messages import all_of, either, gettext, ngettext
from eldrim.store import accounts, at_once, crib
from eldrim.store.accounts import Person
from eldrim.store.at_once import Sender
from eldrim.store.database import WAIT_SECONDS
from eldrim.store.paging import counted
from eldrim.web import files, filters
from eldrim.web.areas import AREAS
from eldrim.web.page_words import PageWords, attribute_words, page_words
from eldrim.web.plain_text import require_plain
from eldrim.web.script_words import every_script_text

COOKIE = "eldrim_session"
# The crib is one form of many cells; the size of a body is limited besides.
MAX_FIELDS = 30_000
FORM_KINDS = ("application/x-www-form-urlencoded", "multipart/form-data")


def _compiled() -> FileSystemBytecodeCache | None:
    """Where compiled templates are kept from one start to the next: the user's own cache folder.

    None where there is no place for it; templates are then compiled at each start. What is kept
    counts for one source of a template and one way of finding its words.
    """
    base = Path(os.environ.get("XDG_CACHE_HOME") or "~/.cache").expanduser()
    way = sha256(Path(__file__).with_name("page_words.py").read_bytes()).hexdigest()[:12]
    folder = base / "eldrim" / f"templates-{way}"
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    except (OSError, RuntimeError):
        return None
    owner = folder.stat()
    safe = owner.st_uid == os.getuid() and not owner.st_mode & 0o022
    return FileSystemBytecodeCache(str(folder)) if safe and os.access(folder, os.W_OK) else None


templates = Environment(
    bytecode_cache=_compiled(),
    loader=PackageLoader("eldrim.web", "."),
    autoescape=select_autoescape(["jinja"], default=True),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
    extensions=[PageWords],
)
templates.filters.update(
    all_of=all_of,
    svg=Markup,
    minutes=filters.minutes,
    when=filters.when,
    hour=filters.hour,
    number=filters.number,
    counted=counted,
    day=day_words,
)


def script_words() -> Markup:
    """What scripts say in the language of the page, as JSON that ends no element."""
    known = {text: gettext(text) for text in every_script_text()}
    return Markup(json.dumps(known, ensure_ascii=False).replace("<", "\\u003c"))


@pass_context
def who(page: Context, name: str) -> str:
    """How a person is called who signs in as ``name``."""
    return str(page["request"].app.state.called.get(name, name))


@pass_context
def csrf_field(page: Context) -> Markup:
    """The field every form that writes carries, so that no other site can send it."""
    return hidden(csrf=page["csrf"])


def entry_id() -> Markup:
    """The field with an entry's id, so that a form sent twice is kept once."""
    return Markup(f'<input type="hidden" name="id" value="{filters.new_id()}" data-client-id>')


def hidden(**fields: object) -> Markup:
    """Fields of a form that are not shown, by name."""
    # Hundreds of them stand on a page of forms: put together as text, each part escaped.
    made = (
        f'<input type="hidden" name="{escape(name)}" value="{escape(value)}">'
        for name, value in fields.items()
    )
    return Markup("".join(made))


templates.filters["who"] = who
templates.filters.update(translated=gettext, worded=filters.worded, printed=printed)
templates.filters["metered"] = filters.metered
templates.globals.update(
    _page=page_words,
    _attribute=attribute_words,
    _words=gettext,
    ngettext=ngettext,
    script_words=script_words,
    page_language=page_language,
    languages=LANGUAGES,
    csrf_field=csrf_field,
    entry_id=entry_id,
    hidden=hidden,
    standing_notes=standing_notes,
    areas=AREAS,
    new_id=filters.new_id,
    say=say,
    spoken=spoken,
    tool_words=tool_words,
    static=files.address(),
)


class SignInNeededError(Exception):
    """Nobody is signed in."""


async def whole_body(request: Request) -> bytes:
    """The body, all of it: who sends it slowly must not hold a connection to the store meanwhile.

    Empty where the route has a form of its own, which was read before this.
    """
    with suppress(RuntimeError):
        return await request.body()
    return b""


WholeBody = Annotated[bytes, Depends(whole_body)]


async def turn(request: Request, _: WholeBody) -> AsyncIterator[None]:
    """Wait until a connection to the store is to be had, without a thread: those who have one
    need threads to go on. Raises :class:`~sqlalchemy.exc.TimeoutError` where it takes too long.
    """
    async with one_of(request.app.state.turns):
        yield


async def secret_turn(request: Request, _: WholeBody) -> AsyncIterator[None]:
    """Wait until a password or PIN may be tried. Tries for one name wait for each other, with a
    connection each: were there no fewer of them than connections, nobody else would get one.
    """
    async with one_of(request.app.state.secret_turns):
        yield


@asynccontextmanager
async def one_of(turns: asyncio.Semaphore) -> AsyncIterator[None]:
    """Hold one of them meanwhile."""
    try:
        async with asyncio.timeout(WAIT_SECONDS):
            await turns.acquire()
    except TimeoutError:
        raise PoolTimeoutError("no connection to the store became free") from None
    try:
        yield
    finally:
        turns.release()


# Given back when the route has returned, with the connection.
Turn = Annotated[None, Depends(turn, scope="function")]
# Stands before the transaction of a route that looks at a password or PIN.
SecretTurn = Annotated[None, Depends(secret_turn, scope="function")]


def transaction(request: Request, _: Turn) -> Iterator[Session]:
    """One transaction a request: committed when the route returns, undone when it raises."""
    with request.app.state.sessions.begin() as session:
        yield session


# Committed before the answer leaves, so that what was acknowledged is in the store.
Db = Annotated[Session, Depends(transaction, scope="function")]


def current(request: Request, db: Db) -> Person:
    """The signed-in session; raises :class:`SignInNeededError` without one."""
    token = request.cookies.get(COOKIE, "")
    row = accounts.session_of(db, token)
    if row is None:
        raise SignInNeededError
    at_once.remember(token, row)
    request.state.signed_in = row
    if row.name not in request.app.state.called:
        request.app.state.called.update(accounts.called(db))
    return row


SignedIn = Annotated[Person, Depends(current)]


async def guard(request: Request, signed_in: SignedIn) -> Person:
    """The signed-in session of a write: its CSRF token checked, and that its texts are texts."""
    given = request.headers.get("x-csrf-token")
    is_form = request.headers.get("content-type", "").startswith(FORM_KINDS)
    form = await request.form(max_fields=MAX_FIELDS) if is_form else None
    if given is None:
        given = str(form.get("csrf", "")) if form else ""
    require_token(signed_in, given)
    await require_plain(request, form)
    return signed_in


def require_token(signed_in: Person, given: str) -> None:
    """Raise 403 where a write does not carry the token of this sign-in."""
    if not secrets.compare_digest(given.encode(), signed_in.csrf.encode()):
        raise HTTPException(
            403, gettext("This form is no longer valid. Load the page again and repeat.")
        )


Writer = Annotated[Person, Depends(guard)]


async def sender(request: Request, _: Turn) -> Sender:
    """Who sends an entry, as far as the request says; the route has to look whether it holds."""
    token = request.cookies.get(COOKIE, "")
    if not token:
        raise SignInNeededError
    found = Sender(token, request.headers.get("x-csrf-token", ""))
    known = at_once.person_of(found)
    if known is not None:
        require_token(known, found.csrf)
    await require_plain(request)
    return found


# For what is kept at once; the route settles it, or goes on with :func:`writing`.
AtOnce = Annotated[Sender, Depends(sender)]


@contextmanager
def writing(request: Request, sent_by: Sender) -> Iterator[tuple[Session, Person]]:
    """A transaction of somebody who is signed in and may write, as :data:`Db` and :data:`Writer`
    are for other routes.
    """
    with request.app.state.sessions.begin() as db:
        signed_in = current(request, db)
        require_token(signed_in, sent_by.csrf)
        yield db, signed_in


@dataclass(frozen=True)
class Only:
    """Lets through who has one of these roles."""

    roles: tuple[Role, ...]

    def through(self, signed_in: Person) -> Person:
        """The person; raises 403 for another role."""
        if signed_in.role not in self.roles:
            names = either(self.roles)
            raise HTTPException(403, gettext("Only a {names} may do this.", names=names))
        return signed_in


class OnlyWrites(Only):
    """Lets only these roles write."""

    def __call__(self, signed_in: Writer) -> Person:
        """The person who writes."""
        return self.through(signed_in)


class OnlyReads(Only):
    """Lets only these roles read."""

    def __call__(self, signed_in: SignedIn) -> Person:
        """The person who reads."""
        return self.through(signed_in)


Trainer = Annotated[Person, Depends(OnlyWrites((Role.TRAINER,)))]
Lead = Annotated[Person, Depends(OnlyWrites((Role.LEAD,)))]
Reviewer = Annotated[Person, Depends(OnlyWrites((Role.TRAINER, Role.LEAD)))]
TrainerReads = Annotated[Person, Depends(OnlyReads((Role.TRAINER,)))]
LeadReads = Annotated[Person, Depends(OnlyReads((Role.LEAD,)))]


def render(request: Request, template: str, *, status: int = 200, **values: Any) -> HTMLResponse:
    """Render a page; ``user`` and ``csrf`` are there on every one."""
    signed_in = getattr(request.state, "signed_in", None)
    page = templates.get_template(template).render(
        request=request,
        user=signed_in,
        csrf=signed_in.csrf if signed_in else "",
        path=request.url.path,
        status=status,
        **values,
    )
    return HTMLResponse(page, status)


def swaps(request: Request) -> bool:
    """Whether only a part of the page is wanted."""
    return request.headers.get("hx-request") == "true"


# The same crib on the same day is one object: what was worked out from it is found again.
_on_day: ByObject[Crib] = ByObject(4)


def tools_today(session: Session) -> Crib:
    """The crib in force, knowing which calibrations have run out today."""
    tools, day = crib.in_force(session), filters.today()
    return _on_day.of(tools, lambda: tools.on(day), day)
