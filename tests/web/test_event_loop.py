"""Nothing that waits for the store runs on the event loop, where it would hold up every tablet."""

import inspect

from fastapi.routing import APIRoute

from eldrim.web.app import AREAS
from eldrim.web.context import transaction

ROUTES = [route for area in AREAS for route in area.routes if isinstance(route, APIRoute)]


def has_transaction(route: APIRoute) -> bool:
    """Whether a route's own function is handed a transaction."""
    return any(needed.call is transaction for needed in route.dependant.dependencies)


def test_no_route_with_a_transaction_runs_on_the_event_loop() -> None:
    """Such a route is a plain function, which runs in a thread of its own."""
    working = [route for route in ROUTES if has_transaction(route)]
    assert len(working) > 50
    assert [r.path for r in working if inspect.iscoroutinefunction(r.endpoint)] == []
