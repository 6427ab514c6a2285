"""What is asked of an engine."""

from enum import StrEnum

from pydantic import Field

from eldrim.core.engine import Engine
from eldrim.core.engine.targets import Target
from eldrim.core.errors import JobError, Problem
from eldrim.core.frozen import Frozen


class Work(StrEnum):
    """What is done at each hole."""

    COIL = "coil"
    PLUG = "plug"


class Job(Frozen):
    """Cylinders times work, on one variant; the what-if choices are part of the question."""

    cylinders: tuple[int, ...] = Field(min_length=1)
    work: tuple[Work, ...] = Field(min_length=1)
    variant: str = ""
    force: tuple[str, ...] = Field((), description="Ways that must be taken, as part/way.")
    forbid: tuple[str, ...] = Field((), description="Ways (part/way) or parts that must stay.")
    without_tools: tuple[str, ...] = Field((), description="Special tools the shop lacks.")

    @property
    def title(self) -> str:
        """Say the job as people do: ``Plug and coil, holes 3 and 5``."""
        work = " and ".join(w.value for w in sorted(set(self.work), reverse=True))
        numbers = [str(c) for c in sorted(set(self.cylinders))]
        listed = numbers[0] if len(numbers) == 1 else f"{', '.join(numbers[:-1])} and {numbers[-1]}"
        return f"{work.capitalize()}, {'hole' if len(numbers) == 1 else 'holes'} {listed}"


def settle(job: Job, engine: Engine) -> Job:
    """Return the job with cylinders sorted and the variant named.

    Raises :class:`JobError` for a cylinder, variant or way the sheet does not have, and when the
    sheet has several variants and the job names none: a variant is asked for, never guessed.
    """
    problems = [*_cylinder_problems(job, engine), *_variant_problems(job, engine)]
    problems += _choice_problems(job, engine)
    if problems:
        raise JobError(problems)
    return job.model_copy(
        update={
            "cylinders": tuple(sorted(set(job.cylinders))),
            "work": tuple(w for w in Work if w in job.work),
            "variant": job.variant or next(iter(engine.variants)),
        }
    )


def _cylinder_problems(job: Job, engine: Engine) -> list[Problem]:
    known = ", ".join(map(str, sorted(engine.cylinders)))
    return [
        Problem("job.cylinders", f"cylinder {c} does not exist", f"use any of {known}")
        for c in job.cylinders
        if c not in engine.cylinders
    ]


def _variant_problems(job: Job, engine: Engine) -> list[Problem]:
    known = ", ".join(engine.variants)
    if not job.variant and len(engine.variants) > 1:
        return [Problem("job.variant", "the engine has several variants", f"name one of {known}")]
    if job.variant and job.variant not in engine.variants:
        return [
            Problem("job.variant", f"variant '{job.variant}' does not exist", f"use one of {known}")
        ]
    return []


def _choice_problems(job: Job, engine: Engine) -> list[Problem]:
    problems = []
    for field, texts in (("force", job.force), ("forbid", job.forbid)):
        for text in texts:
            part, _, way = text.partition("/")
            stated = engine.parts.get(part)
            if stated is None or (way and way not in stated.ways) or (field == "force" and not way):
                problems.append(
                    Problem(f"job.{field}", f"'{text}' is not a way", "write it as part/way")
                )
    return problems


def targets(job: Job, engine: Engine) -> list[Target]:
    """Every hole and item the job must get at; a plug is reached through its coil or lead."""
    through = "coil" if engine.ignition.kind == "coil_on_plug" else "lead"
    items = [through] if Work.PLUG in job.work or through in job.work else []
    items += ["coil"] if Work.COIL in job.work and "coil" not in items else []
    items += ["plug"] if Work.PLUG in job.work else []
    if through == "lead" and "coil" in items:
        items.remove("coil")
    return [
        Target(hole=hole, item=item)
        for cylinder in job.cylinders
        for hole in engine.holes_of(cylinder)
        for item in items
    ]
