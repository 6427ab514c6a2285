"""Which way for each thing in the way: the question, the cheapest answer, and why."""

from eldrim.core.access.errors import NoWayInError, UndecidedError
from eldrim.core.access.problem import AccessProblem, MetHindrance, Option, build
from eldrim.core.access.solve import WayIn, solve

__all__ = [
    "AccessProblem",
    "MetHindrance",
    "NoWayInError",
    "Option",
    "UndecidedError",
    "WayIn",
    "build",
    "solve",
]
