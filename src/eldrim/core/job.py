"""What is asked of an engine."""

from enum import StrEnum

from pydantic import Field

from eldrim.core.engine import Engine
from eldrim.core.engine.targets import Target
from eldrim.core.errors import JobError, Problem
from eldrim.core.frozen import Frozen
from eldrim.core.language import Language, speaking
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import listed, say


class Work(StrEnum):
    """What is done at each hole."""

    COIL = "coil"
    LEAD = "lead"
    PLUG = "plug"


class Job(Frozen):
    """Cylinders times work, on one variant; the what-if choices are part of the question."""

    cylinders: tuple[int, ...] = Field(min_length=1)
    work: tuple[Work, ...] = Field(min_length=1)
    variant: str = ""
    force: tuple[str, ...] = Field((), description="Ways that must be taken, as part/way.")
    forbid: tuple[str, ...] = Field((), description="Ways (part/way) or parts that must stay.")
    without_tools: tuple[str, ...] = Field(
        (), description="Special tools, or skills, the shop lacks."
    )
    language: Language = Field("en", description="What the procedure is written in.")

    @property
    def title(self) -> str:
        """Say the job as people do: ``Plug and coil, holes 3 and 5``."""
        with speaking(self.language):
            work = listed([say(f"job.{w.value}") for w in sorted(set(self.work), reverse=True)])
            numbers = [str(cylinder) for cylinder in sorted(set(self.cylinders))]
            pattern = "job.hole" if len(numbers) == 1 else "job.holes"
            return say(pattern, work=work[:1].upper() + work[1:], holes=listed(numbers))


def settle_job(job: Job, engine: Engine) -> Job:
    """Return the job with cylinders sorted and the variant named.

    Raises :class:`JobError` for a cylinder, variant or way the sheet does not have, and when the
    sheet has several variants and the job names none: a variant is asked for, never guessed.
    """
    problems = [*_cylinder_problems(job, engine), *_variant_problems(job, engine)]
    problems += [*_work_problems(job, engine), *_choice_problems(job, engine)]
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
        Problem("job.cylinders", f"cylinder {cylinder} does not exist", f"use any of {known}")
        for cylinder in job.cylinders
        if cylinder not in engine.cylinders
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


def carrier(engine: Engine) -> Work:
    """What brings the spark to each plug and can be asked for beside the plug itself."""
    return Work.COIL if engine.ignition.kind == "coil_on_plug" else Work.LEAD


def _work_problems(job: Job, engine: Engine) -> list[Problem]:
    fits = {Work.PLUG, carrier(engine)}
    return [
        Problem(
            "job.work",
            f"this engine has no {w.value} on its plugs",
            f"use {' and '.join(sorted(fits))}",
        )
        for w in job.work
        if w not in fits
    ]


def _choice_problems(job: Job, engine: Engine) -> list[Problem]:
    problems = []
    for field, texts in (("force", job.force), ("forbid", job.forbid)):
        for text in texts:
            part, _, way = text.partition("/")
            stated = engine.parts.get(part)
            if (
                stated is None
                or (way and not _knows(engine, part, way))
                or (field == "force" and way not in stated.ways)
            ):
                problems.append(
                    Problem(f"job.{field}", f"'{text}' is not a way", "write it as part/way")
                )
    return problems


def _knows(engine: Engine, part: str, key: str) -> bool:
    """Whether a way of the part or a work-round of its hindrances has this key."""
    rounds = (
        k for hindrance in engine.hindrances if hindrance.part == part for k in hindrance.rounds
    )
    return key in engine.parts[part].ways or key in rounds


def carrier_cylinders(job: Job, engine: Engine, rules: HouseRules) -> tuple[int, ...]:
    """The cylinders whose coil or lead is taken off: the job's, and more where the house says."""
    school = rules.school("coils")
    if Work.COIL not in job.work or school == "failed":
        return job.cylinders
    banks = {engine.cylinders[cylinder].bank for cylinder in job.cylinders}
    everywhere = school == "all"
    return tuple(key for key, c in engine.cylinders.items() if everywhere or c.bank in banks)


def targets(job: Job, engine: Engine, rules: HouseRules) -> list[Target]:
    """Every hole and item the job must get at; a plug is reached through its coil or lead."""
    found = [
        Target(hole=hole, item=carrier(engine).value)
        for cylinder in carrier_cylinders(job, engine, rules)
        for hole in engine.holes_of(cylinder)
    ]
    plugs = job.cylinders if Work.PLUG in job.work else ()
    return found + [Target(hole=h, item="plug") for plug in plugs for h in engine.holes_of(plug)]
