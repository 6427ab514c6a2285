"""What can be wrong, said so that the reader knows the place and the fix."""

from dataclasses import dataclass


@dataclass(frozen=True, order=True)
class Problem:
    """One thing wrong in a document: where it is, what is wrong, how to mend it."""

    path: str
    message: str
    fix: str = ""

    def __str__(self) -> str:
        """Return the problem on one line, as the command line prints it."""
        fix = f" ({self.fix})" if self.fix else ""
        return f"{self.path or 'document'}: {self.message}{fix}"


class EldrimError(Exception):
    """Base of all errors raised by the core."""


class QuantityError(EldrimError, ValueError):
    """A typed quantity cannot be understood, or has the wrong dimension."""


class ProblemsError(EldrimError):
    """A document or a question has problems; ``problems`` lists every one."""

    def __init__(self, problems: list[Problem]) -> None:
        """Keep the problems sorted by path, so the same document reads the same every time."""
        self.problems = sorted(problems)
        super().__init__("\n".join(str(problem) for problem in self.problems))


class EngineError(ProblemsError):
    """An engine sheet is not consistent."""


class JobError(ProblemsError):
    """A job asks for something the engine does not have or that no way reaches."""


class RunError(EldrimError):
    """An entry cannot be accepted in the present state of the run."""
