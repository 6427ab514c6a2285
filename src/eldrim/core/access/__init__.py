"""Which way for each thing in the way: the question, the cheapest answer, and why."""

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option, build
from eldrim.core.access.solve import NoWayInError, WayIn, solve

__all__ = ["AccessProblem", "MetHindrance", "NoWayInError", "Option", "WayIn", "build", "solve"]
