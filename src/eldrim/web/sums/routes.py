"""Quick sums: a page, a part of a page for the dialog, and the same as JSON."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from sqlalchemy.orm import Session

from eldrim.core.base.errors import ProblemsError
from eldrim.core.base.quantity import convert
from eldrim.core.sums import SUMS, Shop, SumResult, examples, work_out
from eldrim.drawing import cooling_curve, gap_wedge, torque_rule, turn_dial, well_section
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, SignedIn, render, swaps, tools_today

router = APIRouter()


@router.get("/sums", include_in_schema=False)
def show(request: Request, db: Db, _: SignedIn, sum: str = "torque") -> Response:
    """A sum with its fields, and its answer as they stand; at first with its examples."""
    chosen = SUMS.get(sum) or SUMS["torque"]
    known = {field.name for field in chosen.fields}
    given = {key: typed for key, typed in request.query_params.items() if key in known}
    given = given or examples(chosen.key)
    try:
        answer, problems = work_out(chosen.key, given, _shop(db)), {}
    except ProblemsError as error:
        answer, problems = (
            None,
            {problem.path: f"{problem.message}; {problem.fix}" for problem in error.problems},
        )
    only = request.headers.get("hx-target") == "sum-answer"
    part = "answer" if only else "sum"
    template = f"sums/{part}.html.jinja" if swaps(request) else "sums/show.html.jinja"
    return render(
        request,
        template,
        sums=SUMS,
        chosen=chosen,
        given=given,
        answer=answer,
        problems=problems,
        picture=_picture(answer) if answer else "",
    )


def _shop(db: Session) -> Shop:
    """The house rules and the crib in force."""
    return Shop(rules_store.in_force(db), tools_today(db))


def _picture(answer: SumResult) -> str:
    """What a sum is drawn as, where it is drawn."""
    if answer.cooling:
        return cooling_curve.draw(answer.cooling)
    if answer.setting and answer.window:
        unit = answer.setting.unit
        low, high, aim = (convert(value, "N·m", unit) for value in answer.window)
        return torque_rule.rule(answer.setting, low, high, aim)
    if answer.gap and answer.step:
        return gap_wedge.draw(*answer.gap, answer.reading, answer.step)
    if answer.stack:
        return well_section.draw(answer.stack)
    if answer.turn:
        return turn_dial.draw(*answer.turn)
    return ""


@router.get("/api/v1/sums")
def listing() -> dict[str, Any]:
    """Every quick sum: what it asks, with an example of each field. Needs no sign-in."""
    return {
        s.key: {
            "name": s.name,
            "fields": {
                field.name: {
                    "label": field.label,
                    "example": field.example,
                    "choices": list(field.choices),
                    "optional": field.optional,
                }
                for field in s.fields
            },
        }
        for s in SUMS.values()
    }


@router.post("/api/v1/sums/{key}", response_model=SumResult)
def api(key: str, given: dict[str, str], db: Db) -> SumResult | JSONResponse:
    """Work a sum out by the house rules and crib in force; a field left blank is asked for.

    Keeps nothing. Needs no sign-in.
    """
    try:
        return work_out(key, given, _shop(db))
    except ProblemsError as error:
        found = [
            {"path": problem.path, "message": problem.message, "fix": problem.fix}
            for problem in error.problems
        ]
        return JSONResponse({"problems": found}, 404 if key not in SUMS else 422)
