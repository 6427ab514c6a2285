"""The least there can be: one route, one insert, the same pool; entries are measured by it."""

import os
from uuid import UUID

from fastapi import FastAPI
from pydantic import BaseModel
from sqlalchemy import text

from eldrim.store.database import connect

URL, RUN = "ELDRIM_BENCH_URL", "ELDRIM_BENCH_RUN"
INSERT = text(
    "INSERT INTO entries (id, run_id, body, by, role) VALUES (:id, :run, "
    '\'{"kind": "reading", "step": "ready/unit", "reading": "meter", '
    "\"value\": 1.0}', 'bench', 'technician')"
)


class One(BaseModel):
    """An entry's id."""

    id: UUID


def app() -> FastAPI:
    """The application."""
    made, engine = FastAPI(), connect(os.environ[URL])
    run = UUID(os.environ[RUN])

    @made.post("/")
    def insert(one: One) -> dict[str, str]:
        with engine.begin() as writing:
            writing.execute(INSERT, {"id": one.id, "run": run})
        return {"id": str(one.id)}

    return made
