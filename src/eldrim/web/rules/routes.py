"""House rules: a school per topic, and what a change does before it is saved."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.datastructures import FormData

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.engine.parts import RiskLevel
from eldrim.core.faults.acts import REPAIR, REPAIRS, TEST, TESTS, RepairRow, TestRow
from eldrim.core.job import Job
from eldrim.core.procedure.editions.difference import difference
from eldrim.core.rules.house import HouseRules
from eldrim.core.rules.topics import BY_KEY, TOPICS
from eldrim.core.words import say
from eldrim.core.words.messages import gettext
from eldrim.store import audit, dues, procedure_store, sheet_store
from eldrim.store import rules as rules_store
from eldrim.web.context import Db, SignedIn, Trainer, Writer, render, tools_today
from eldrim.web.forms import FormFields, decimal_number, problems_of, text_field, whole_number
from eldrim.web.plans import plan_for

router = APIRouter(include_in_schema=False)


@router.get("/rules")
def show(request: Request, db: Db, _: SignedIn) -> Response:
    """Every topic with its schools, and the versions so far."""
    house = rules_store.in_force(db)
    return render(
        request,
        "rules/show.html.jinja",
        topics=TOPICS,
        rules=house,
        next_version=house.version + 1,
        prices=PRICES,
        values=prices(house),
        acts=acts(house),
        procedures=procedure_store.procedures(db),
        titles=sheet_store.titles(db),
        history=rules_store.history(db),
    )


@router.post("/rules/preview")
def preview(request: Request, db: Db, _: Writer, form: FormFields) -> Response:
    """What the chosen schools would change in one procedure."""
    now = rules_store.in_force(db)
    row = procedure_store.procedure(db, UUID(str(form.get("procedure"))))
    sheet, job = sheet_store.sheet(db, row.engine_id), Job.model_validate(row.job)
    crib = tools_today(db)
    found = difference(
        plan_for(sheet, job, now, crib), plan_for(sheet, job, chosen(now, form), crib)
    )
    return render(request, "rules/changes.html.jinja", found=found, title=row.title)


@router.post("/rules")
def save(
    db: Db, signed_in: Trainer, form: FormFields, reason: Annotated[str, Form(max_length=400)] = ""
) -> Response:
    """Keep the choice as a new version."""
    now = rules_store.in_force(db)
    if not reason.strip():
        raise ProblemsError(
            [Problem("reason", gettext("say why the rules change"), gettext("one line"))]
        )
    made = chosen(now, form).model_copy(
        update={"version": whole_number("version", text_field(form, "version")) or 0}
    )
    rules_store.save(db, made, signed_in.name, reason.strip())
    if made.km_per_hour != now.km_per_hour:
        dues.all_unknown(db)
    audit.note(db, signed_in.name, "rules changed", f"version {made.version}", why=reason.strip())
    return RedirectResponse("/rules", 303)


PRICES = (
    ("risk_low", "Low risk", "min"), ("risk_medium", "Medium risk", "min"),
    ("risk_high", "High risk", "min"), ("set_up_minutes", "A change of set-up", "min"),
    ("piece_minutes", "Each piece exchanged at it", "min"),
    ("compound_reduction", "Aim less on lubricated threads", "share"),
    ("compound_floor", "But never below, of the lower limit", "share"),
    ("value_allowance", "A single printed torque is read as ±", "share"),
    ("money_per_minute", "A minute of work, to weigh parts with", "€"),
    ("stop_cost", "An unplanned stop, where a unit says none", "€"),
    ("km_per_hour", "An hour runs, where only the other is known", "km"),
    ("lead_slack", "A lead's slack, both ends", "mm"),
    ("lead_over", "A lead longer than it need be, at most", "mm"),
    ("recheck_km", "Plugs tell again after", "km"),
    ("recheck_hours", "Or after", "h"),
)  # fmt: skip


def prices(rules: HouseRules) -> dict[str, float]:
    """The numbers the house sets, by field of the form."""
    risks = {f"risk_{level.value}": m for level, m in rules.risk_minutes.items()}
    return {**risks, **{key: getattr(rules, key) for key, _, _ in PRICES if hasattr(rules, key)}}


def acts(rules: HouseRules) -> list[tuple[str, str, float, float | None]]:
    """Tests and repairs of a search: field, name, minutes of the craft, and those of the house."""
    named: list[tuple[TestRow | RepairRow, str]] = [
        *((row, say(f"fault.name.{row.key}")) for row in TESTS),
        *((row, say(f"fault.act.{row.key}", cylinder="…")) for row in REPAIRS),
    ]
    return [
        (f"{ACT}{row.key}", name, row.minutes, rules.act_minutes.get(row.key))
        for row, name in named
    ]


# How the fields of their minutes begin.
ACT = "act-"


def _act_minutes(now: HouseRules, fields: dict[str, str]) -> dict[str, float]:
    """The minutes a form states; a field that is empty goes back to those of the craft."""
    said = {key.removeprefix(ACT): value for key, value in fields.items() if key.startswith(ACT)}
    known = {*TEST, *REPAIR}
    kept = {key: minutes for key, minutes in now.act_minutes.items() if key not in said}
    stated = {
        key: decimal_number(f"{ACT}{key}", value) or 0.0
        for key, value in said.items()
        if key in known and value.strip()
    }
    return {**kept, **stated}


# Rules that hold or do not.
YES_OR_NO = ("second_person", "release_on_the_spot")


def _yes(fields: dict[str, str], key: str, now: bool) -> bool:
    """What a form says of such a rule; as it is now where it says nothing."""
    return fields.get(key, "yes" if now else "no") == "yes"


def chosen(now: HouseRules, form: FormData) -> HouseRules:
    """The rules with the schools and prices a form names."""
    fields = {key: str(value) for key, value in form.items()}
    schools = {k: field for k, field in fields.items() if k in BY_KEY}
    numbers = {
        **prices(now),
        **{k: decimal_number(k, fields[k]) for k, _, _ in PRICES if fields.get(k, "").strip()},
    }
    risks = {level: numbers.pop(f"risk_{level.value}") for level in RiskLevel}
    try:
        made = now.with_schools(schools)
        said = {key: _yes(fields, key, getattr(now, key)) for key in YES_OR_NO}
        waste = {"waste_of_life": fields.get("waste_of_life", now.waste_of_life)}
        minutes = _act_minutes(now, fields)
        plain = {**made.model_dump(), **numbers, "risk_minutes": risks, "act_minutes": minutes}
        plain |= {**said, **waste}
        return HouseRules.model_validate(plain)
    except ValidationError as error:
        raise problems_of(error) from error
