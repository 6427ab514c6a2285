"""OR-Tools, loaded at the first question that wants it.

It brings pandas with it, half a second of a process's start; most processes answer no such question
at first.
"""

from importlib import import_module
from typing import Any


class LaterModule:
    """Stands for a module that is imported when something in it is first asked for."""

    def __init__(self, name: str) -> None:
        """``name`` is the module's, in full."""
        self._name = name

    def __getattr__(self, name: str) -> Any:
        # The import system lets one thread import while others wait.
        return getattr(import_module(self._name), name)
