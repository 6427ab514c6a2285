"""Nothing that waits for the store runs on the event loop, where it would hold up every tablet."""

import inspect
from collections.abc import Iterator

from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from eldrim.web.app import AREAS
from eldrim.web.context import transaction

ROUTES = [route for area in AREAS for route in area.routes if isinstance(route, APIRoute)]


def below(needs: Dependant) -> Iterator[Dependant]:
    """What a function is handed, and what that is handed, all the way down."""
    for needed in needs.dependencies:
        yield needed
        yield from below(needed)


def has_transaction(route: APIRoute) -> bool:
    """Whether a transaction is open while a route answers."""
    return any(needed.call is transaction for needed in below(route.dependant))


def test_no_route_with_a_transaction_runs_on_the_event_loop() -> None:
    """Such a route is a plain function, which runs in a thread of its own."""
    working = [route for route in ROUTES if has_transaction(route)]
    assert len(working) > 50
    assert [r.path for r in working if inspect.iscoroutinefunction(r.endpoint)] == []


def test_nothing_that_runs_on_the_event_loop_is_handed_a_transaction() -> None:
    """Neither what a route needs."""
    needed = {each.call: each for route in ROUTES for each in below(route.dependant)}
    waiting = [call for call in needed if inspect.iscoroutinefunction(call)]
    assert len(waiting) > 1
    handed = [each.call for call in waiting for each in needed[call].dependencies]
    assert transaction not in handed
