"""Who may do what, read off the routes themselves: the table in docs/roles.md."""

from collections.abc import Callable, Iterable, Iterator
from typing import Any

from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from eldrim.core.run.entries import Role
from eldrim.web.context import current, guard, sender

HEAD = (
    "# Who may do what\n"
    "\n"
    "Read off the routes; `python -m eldrim.web.roles` writes it anew, and a test compares "
    "it. *r* may read, *w* may write, *–* may do neither. A write carries the token of its "
    "form, and none of these rights is the page's alone: the server refuses.\n"
    "\n"
    "Decided: a run is signed by who stands at the tablet, trainer, technician or lead, once "
    "every step, stop and deviation is closed; deviations are judged, hold points released "
    "and work sent back by a lead, at the desk or by PIN. Codes are cleared and stand-ins "
    "played by anyone signed in, and only where stand-ins run. What in a run is a lead's "
    "alone (`/bay/runs/{key}/lead`, `/api/v1/runs/{key}/by-lead`, ending one) is refused by "
    "the core, whichever page sends it; a plate that is known is changed by a trainer or lead "
    "(`/units`). What needs nobody (`nobody`) shows nothing of a workshop: the sign-in, the "
    "health check, the planner and the sums of the interface, which keep nothing.\n"
    "\n"
    "| Address | Method | nobody | technician | trainer | lead |\n"
    "|---|---|---|---|---|---|\n"
)


def table(areas: Iterable[Any]) -> str:
    """The table of every route in ``areas``, by address."""
    routes = [r for area in areas for r in area.routes if isinstance(r, APIRoute)]
    lines = {_line(route, method) for route in routes for method in route.methods or ()}
    return HEAD + "\n".join(sorted(lines)) + "\n"


def _line(route: APIRoute, method: str) -> str:
    calls = list(_calls(route.dependant))
    roles = {role.value for role in Role}
    for call in calls:
        roles &= {str(role) for role in getattr(call, "roles", roles)}
    writes = guard in calls or sender in calls
    right = "w" if writes else "r"
    signed_in = current in calls or writes
    cells = [right if role in roles else "–" for role in ("technician", "trainer", "lead")]
    nobody = "–" if signed_in else "r"
    return f"| `{route.path}` | {method} | {nobody} | {' | '.join(cells)} |"


def _calls(needs: Dependant) -> Iterator[Callable[..., Any]]:
    for needed in needs.dependencies:
        if needed.call is not None:
            yield needed.call
        yield from _calls(needed)


if __name__ == "__main__":
    from pathlib import Path

    from eldrim.web.app import AREAS

    Path("docs/roles.md").write_text(table(AREAS))
