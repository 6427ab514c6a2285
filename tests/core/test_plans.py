"""Plans of the demo engines, written down whole: what changes in one is seen, and meant.

`tests/vectors/plans.json` is written anew by `python -m tests.core.test_plans`, and read as a
difference before it is kept.
"""

import json
from functools import cache
from pathlib import Path
from typing import Any

import pytest

from eldrim.core.engine import Engine
from eldrim.core.job import Job, Work
from eldrim.core.procedure.compile import compile_plan
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.demo.load import demo_crib, demo_engines
from tests.core.test_matrices import rich, two_banks, with_leads

FILE = Path(__file__).parents[1] / "vectors" / "plans.json"
TUG = "marlet-34-v6"
# The first way each of these takes, so that the next one is taken.
FORBIDDEN = {
    "brannoch-57-v8": "cowl-panel/pieces",
    "dunmarl-42-six": "coolant-tank/aside",
    "kestwick-900-twin": "air-box/short",
    "sulair-750-triple": "silencer/flex",
}
Question = tuple[Engine, Job, HouseRules]


@cache
def questions() -> dict[str, Question]:
    """The plans that are written down, by name."""
    asked: dict[str, Question] = {}
    for engine in demo_engines():
        carrier = Work.COIL if engine.ignition.kind == "coil_on_plug" else Work.LEAD
        works = (carrier, Work.PLUG)
        for variant in engine.variants:
            every = Job(cylinders=tuple(engine.cylinders), work=works, variant=variant)
            last = every.model_copy(update={"cylinders": (max(engine.cylinders),)})
            asked[f"{engine.id}, {variant}, all"] = (engine, every, DEFAULT_RULES)
            asked[f"{engine.id}, {variant}, last"] = (engine, last, DEFAULT_RULES)
            if engine.id in FORBIDDEN:
                other = every.model_copy(update={"forbid": (FORBIDDEN[engine.id],)})
                asked[f"{engine.id}, {variant}, another way"] = (engine, other, DEFAULT_RULES)
        if engine.id == TUG:
            rear = every.model_copy(update={"cylinders": (1, 3, 5)})
            asked[f"{TUG}, rear bank in German"] = (
                engine,
                rear.model_copy(update={"language": "de"}),
                DEFAULT_RULES,
            )
            asked[f"{TUG}, coils only"] = (
                engine,
                rear.model_copy(update={"work": (Work.COIL,)}),
                DEFAULT_RULES,
            )
    four = Job(cylinders=(1, 2, 3, 4), work=(Work.COIL, Work.PLUG))
    leads = Job(cylinders=(1, 2), work=(Work.LEAD, Work.PLUG))
    asked["everything at once"] = (rich(service="marine", cycle="two_stroke"), four, DEFAULT_RULES)
    asked["with leads"] = (with_leads(rich()), leads, DEFAULT_RULES)
    for school in (
        {"tightening": "seat_plus_angle", "thread_compound": "oil"},
        {"first_start": "each_bank", "height_reference": "one_stays"},
        {"open_at_once": "one_at_a_time", "coil_joint_first": "connector"},
        {"inspect_or_replace": "refit_in_limits", "new_gap": "as_supplied"},
        {"temperature": "maker_warm", "thread_cleaning": "every_hole"},
    ):
        name = ", ".join(f"{topic} {key}" for topic, key in school.items())
        asked[f"two banks, {name}"] = (two_banks(), four, DEFAULT_RULES.with_schools(school))
    return asked


def written(plan: Plan) -> dict[str, Any]:
    """A plan as it is written down: the steps a line each, and what is added up."""
    return {
        "minutes": plan.minutes,
        "tool_changes": plan.tool_changes,
        "phases": [p.minutes for p in plan.phases],
        "moves": [f"{m.number} {m.part} {m.minutes:g}: {m.what}; {m.why}" for m in plan.moves],
        "stays": [f"{s.part}: {s.why}" for s in plan.stays],
        "alternatives": [f"{a.minutes:+g} {a.risk:+g}: {a.words}" for a in plan.alternatives],
        "parts": [f"{p.quantity} × {p.name} {p.part_number}: {p.why}" for p in plan.parts],
        "roll": [
            f"{i.id}: {i.name}, {i.first}, {i.uses} {i.missing} {i.cure}".strip() for i in plan.roll
        ],
        "open": [f"{o.key} {', '.join(o.steps)}: {o.text}" for o in plan.open_points],
        "wants": [f"{w.minutes:g}: {w.words}" for w in plan.wants],
        "notes": list(plan.notes),
        "steps": [_step(s) for s in plan.steps],
    }


def _step(step: Step) -> str:
    parts = [
        f"{step.key} {step.minutes:g}{' *' if step.changes_setup else ''}",
        f"{step.text}. {step.detail}",
        " + ".join(t.id for t in step.tools),
        " ".join(c.key for c in step.cautions),
        " ".join(c.key for c in step.checks),
        "; ".join(f"{r.key} {r.kind} {r.low} {r.high} {r.resolution:g}" for r in step.readings),
        "; ".join(
            f"{f.key} {f.min:g} {f.max:g} {f.aim:g} {f.unit}"
            + (f" set {f.setting.value:g} ×{f.setting.factor:g}" if f.setting else "")
            + " ".join(("", *f.sum, *f.against))
            for f in step.figures
        ),
        "; ".join(
            f"{s.action} {'+'.join(s.ids)} {s.length:g} {s.penalty:g} {s.room_left}"
            for s in step.stacks
        ),
        "after " + " ".join(map(str, step.after)),
        "; ".join(step.because),
    ]
    return " | ".join(parts)


KEPT: dict[str, Any] = json.loads(FILE.read_text()) if FILE.exists() else {}


@pytest.mark.parametrize("name", questions())
def test_a_plan_is_as_it_was_written_down(name: str) -> None:
    """Every step, minute, tool, figure and reason."""
    engine, job, rules = questions()[name]
    made = written(compile_plan(engine, job, rules, demo_crib()))
    for part, value in KEPT[name].items():
        assert made[part] == value, part


def test_no_plan_is_written_down_that_nobody_asks_for() -> None:
    """The file and the questions are the same."""
    assert set(KEPT) == set(questions())


if __name__ == "__main__":
    made = {n: written(compile_plan(e, j, r, demo_crib())) for n, (e, j, r) in questions().items()}
    FILE.write_text(json.dumps(made, ensure_ascii=False, indent=1) + "\n")
