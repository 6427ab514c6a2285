"""Engines: the list, a file coming in, and the plan where a job is chosen."""

from functools import cached_property
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, File, Query, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from eldrim.core.access.cost import Companion, access_costs, best_companion, levels
from eldrim.core.engine import Engine
from eldrim.core.errors import Problem, ProblemsError
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import plan as compile_plan
from eldrim.core.procedure.model import Plan
from eldrim.core.quantity import format_number
from eldrim.core.rules.house import DEFAULT_RULES
from eldrim.drawing import engine_plan, ribbon
from eldrim.exchange.engine_file import MAX_BYTES, read_engine, write_engine
from eldrim.store import library
from eldrim.store.errors import ConflictError
from eldrim.web.context import Db, SignedIn, Trainer, render, swaps

router = APIRouter(include_in_schema=False)
Cylinders = Annotated[list[int], Query()]
Works = Annotated[list[Work], Query()]
BOTH = (Work.COIL, Work.PLUG)


@router.get("/engines")
def index(request: Request, db: Db, _: SignedIn) -> Response:
    """All engines, each with its own small plan."""
    rows = library.sheets(db)
    found = [Engine.model_validate(r.document) for r in rows]
    pictures = {e.id: engine_plan.draw(e, engine_plan.PlanView(compact=True)) for e in found}
    return render(
        request, "engines/index.html.jinja", engines=found, pictures=pictures, problems=[], name=""
    )


@router.post("/engines")
def upload(
    request: Request, db: Db, signed_in: Trainer, file: Annotated[UploadFile, File()]
) -> Response:
    """Take in an engine file, or say everything that is wrong with it and take in nothing."""
    try:
        engine = read_engine(file.file.read(MAX_BYTES + 1))
        library.save_sheet(db, engine, signed_in.name)
    except ProblemsError as error:
        return _refused(request, error.problems, file.filename or "")
    except ConflictError as error:
        return _refused(request, [Problem("revision", str(error))], file.filename or "")
    return RedirectResponse(f"/engines/{engine.id}", 303)


def _refused(request: Request, problems: list[Problem], name: str) -> Response:
    return render(
        request, "engines/refused.html.jinja", status=422, problems=problems, name=name[:120]
    )


@router.get("/engines/{engine_id}.engine.yaml")
def download(db: Db, _: SignedIn, engine_id: str) -> Response:
    """The sheet as a file."""
    text = write_engine(library.sheet(db, engine_id))
    return Response(
        text,
        media_type="application/yaml",
        headers={"content-disposition": f'attachment; filename="{engine_id}.engine.yaml"'},
    )


@router.get("/engines/{engine_id}")
def show(
    request: Request, db: Db, _: SignedIn, engine_id: str, c: Cylinders = [], # noqa: B006
    work: Works = [], variant: str = "",  # noqa: B006
) -> Response:  # fmt: skip
    """The plan: holes to choose, what has to move for them, and why."""
    engine = library.sheet(db, engine_id)
    view = _View(engine, c, tuple(work) or BOTH, variant)
    template = "way_in" if swaps(request) else "plan"
    return render(request, f"engines/{template}.html.jinja", engine=engine, view=view)


class _View:
    """Everything the plan page shows."""

    def __init__(
        self, engine: Engine, cylinders: list[int], work: tuple[Work, ...], variant: str
    ) -> None:
        self.engine, self.work = engine, tuple(w for w in Work if w in work)
        self.cylinders = sorted({c for c in cylinders if c in engine.cylinders})
        self.variant = variant if variant in engine.variants else next(iter(engine.variants))
        self.plan = self._compile(self.cylinders) if self.cylinders else None

    def _compile(self, cylinders: list[int]) -> Plan:
        job = Job(cylinders=tuple(cylinders), work=self.work, variant=self.variant)
        return compile_plan(self.engine, job)

    @cached_property
    def costs(self) -> dict[str, float]:
        return access_costs(self.engine, self.variant, DEFAULT_RULES)

    @property
    def drawing(self) -> str:
        costs = self.costs
        said = {h: f"{format_number(c, 0)} min to get here alone" for h, c in costs.items()}
        holes = [h for c in self.cylinders for h in self.engine.holes_of(c)]
        view = engine_plan.PlanView(
            chosen=frozenset(holes),
            moves=self.plan.moves if self.plan else (),
            links={h: self.toggle(n) for h, (n, _) in self.engine.holes.items()},
            levels=levels(costs),
            costs=said,
        )
        return engine_plan.draw(self.engine, view)

    @property
    def ribbon(self) -> str:
        return ribbon.draw(self.plan) if self.plan else ""

    @property
    def companion(self) -> Companion | None:
        """The hole that gains most from the way in being open."""
        if self.plan is None:
            return None
        return best_companion(self.engine, self.plan.job, self.costs, DEFAULT_RULES)

    def toggle(self, cylinder: int) -> str:
        """The address with one cylinder chosen or let go."""
        return self.address(sorted(set(self.cylinders) ^ {cylinder}), self.work)

    @property
    def work_links(self) -> list[tuple[str, str, bool]]:
        kinds = ((BOTH, "Plug and coil"), ((Work.PLUG,), "Plug"), ((Work.COIL,), "Coil"))
        return [(words, self.address(self.cylinders, w), w == self.work) for w, words in kinds]

    @property
    def group_links(self) -> list[tuple[str, str]]:
        links = [
            (bank.name, self.address([n for n, cy in self.engine.cylinders.items()
                                      if cy.bank == key], self.work))
            for key, bank in self.engine.banks.items()
        ]  # fmt: skip
        everything = self.address(list(self.engine.cylinders), self.work)
        return [*links, ("All", everything), ("None", self.address([], self.work))]

    def address(self, cylinders: list[int], work: tuple[Work, ...]) -> str:
        words: list[tuple[str, str]] = [("c", str(c)) for c in cylinders]
        words += [("work", w.value) for w in work] + [("variant", self.variant)]
        return f"/engines/{self.engine.id}?{urlencode(words)}"
