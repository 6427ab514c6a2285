"""Everything wrong with a question, gathered in one pass."""

from collections.abc import Callable
from typing import ParamSpec, TypeVar

from eldrim.core.base.errors import Problem, ProblemsError

P = ParamSpec("P")
T = TypeVar("T")


class Gathering:
    """Reads the parts of a question, and keeps what is wrong with each until all are read."""

    def __init__(self) -> None:
        """Nothing is wrong yet."""
        self._problems: list[Problem] = []

    def read(self, default: T, read: Callable[P, T], *given: P.args, **more: P.kwargs) -> T:
        """What ``read`` answers; ``default`` where it refuses, which is kept."""
        try:
            return read(*given, **more)
        except ProblemsError as error:
            self._problems += error.problems
            return default

    def require_nothing_wrong(self) -> None:
        """Raise :class:`ProblemsError` with all that was refused."""
        if self._problems:
            raise ProblemsError(self._problems)
