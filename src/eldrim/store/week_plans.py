"""Weeks laid out, kept as they stand; two who move something at once are told."""

from typing import Any

from pydantic import BaseModel, Field
from sqlalchemy import func
from sqlalchemy.orm import Session

from eldrim.core.interval.week import Placed, Shop, WeekJob
from eldrim.core.words.messages import gettext
from eldrim.store.errors import ConflictError
from eldrim.store.tables import WeekPlanRow


class KeptWeek(BaseModel):
    """A week as it is kept: what was to be done, where and by whom it could be, what stands where.

    ``editions`` is what each job is started by. ``version`` 0 is one nobody kept yet.
    """

    week: str
    version: int = 0
    shop: Shop
    jobs: list[WeekJob] = Field(default_factory=list)
    editions: dict[str, str] = Field(default_factory=dict)
    placed: list[Placed] = Field(default_factory=list)
    left: dict[str, str] = Field(default_factory=dict)
    late: int = 0
    least: int = 0
    moved: bool = Field(False, description="Somebody moved something by hand since.")


def week_plan(session: Session, week: str) -> KeptWeek | None:
    """A week as it is kept; None where it was not laid out."""
    row = session.get(WeekPlanRow, week)
    if row is None:
        return None
    return KeptWeek.model_validate({**row.document, "week": row.week, "version": row.version})


def keep(session: Session, plan: KeptWeek, by: str) -> None:
    """Keep a week made from the version it says.

    Raises :class:`ConflictError` when somebody else kept another since.
    """
    row = session.get(WeekPlanRow, plan.week, with_for_update=True)
    if (row.version if row else 0) != plan.version:
        raise ConflictError(
            gettext("Somebody else changed this week meanwhile. Nothing was overwritten.")
        )
    document: dict[str, Any] = plan.model_dump(mode="json", exclude={"week", "version"})
    if row is None:
        row = WeekPlanRow(week=plan.week, version=0)
        session.add(row)
    row.document, row.by, row.version = document, by, plan.version + 1
    row.at = func.clock_timestamp()
    session.flush()
