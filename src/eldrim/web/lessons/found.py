"""The steps of a procedure that do not hold, by its newest runs."""

from uuid import UUID

from sqlalchemy.orm import Session

from eldrim.core.lessons.steps import StepLesson, failing_steps
from eldrim.store import gathered

# Runs looked through, the newest: signed, and going on.
RUNS, OPEN = 60, 12


def lessons_of(session: Session, procedure: UUID) -> tuple[tuple[StepLesson, ...], int]:
    """The steps at which something was marked, or that are slow; and by how many runs."""
    going = gathered.going_on(session, procedure, OPEN)
    runs = [*going, *gathered.of_procedure(session, procedure, RUNS)]
    return failing_steps(runs), len(runs)
