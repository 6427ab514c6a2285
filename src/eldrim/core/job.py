"""What is asked of an engine."""

from collections.abc import Collection, Iterable
from enum import StrEnum
from typing import Any

from pydantic import Field, model_validator

from eldrim.core.base.errors import JobError, Problem
from eldrim.core.base.frozen import Frozen
from eldrim.core.engine import Engine, applies
from eldrim.core.engine.glossary import word
from eldrim.core.engine.parts import WayKind
from eldrim.core.engine.targets import Target
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import inside, listed, say
from eldrim.core.words.language import Language, reading_in
from eldrim.core.words.messages import gettext, gettext_lazy


class Work(StrEnum):
    """What is done: at each hole the first three, once on the engine the others."""

    COIL = "coil"
    LEAD = "lead"
    PLUG = "plug"
    CAP = "cap"
    ROTOR = "rotor"
    POINTS = "points"
    COIL_LEAD = "coil-lead"
    PACK = "pack"
    TIMING = "timing"
    BATTERY = "battery"
    CHARGING = "charging"

    @property
    def at_holes(self) -> bool:
        """Whether it is done at each hole of the job."""
        return self in AT_HOLES


AT_HOLES = frozenset({Work.COIL, Work.LEAD, Work.PLUG})
# What is done at the cap and under it.
UNDER_THE_CAP = frozenset({Work.CAP, Work.ROTOR, Work.POINTS})


class Job(Frozen):
    """Cylinders and work, on one variant; the what-if choices are part of the question.

    Each kind of work at holes is done at every cylinder, unless ``plugs_at`` or ``carriers_at``
    name fewer. A job on the distributor, the pack or the battery alone has no cylinders. Among
    ``work`` companions of the sheet may be named by their keys.
    """

    cylinders: tuple[int, ...] = ()
    work: tuple[Work, ...] = ()
    companions: tuple[str, ...] = Field((), description="Companion work of the sheet, by key.")
    plugs_at: tuple[int, ...] = Field((), description="Where the plugs are done, if not at all.")
    carriers_at: tuple[int, ...] = Field(
        (), description="Where coils or leads are renewed, if not at all."
    )
    variant: str = ""
    force: tuple[str, ...] = Field((), description="Ways that must be taken, as part/way.")
    forbid: tuple[str, ...] = Field((), description="Ways (part/way) or parts that must stay.")
    without_tools: tuple[str, ...] = Field(
        (), description="Special tools, or skills, the shop lacks."
    )
    language: Language = Field("en", description="What the procedure is written in.")

    @model_validator(mode="before")
    @classmethod
    def _companions_apart(cls, said: Any) -> Any:
        """What is no kind of work of every engine is a companion of this one."""
        if not isinstance(said, dict) or not isinstance(said.get("work"), list | tuple):
            return said
        if not isinstance(said.get("companions", ()), list | tuple):
            return said
        known = set(Work)
        named = [w for w in said["work"] if isinstance(w, str) and w not in known]
        rest = [w for w in said["work"] if w not in named]
        return {**said, "work": rest, "companions": (*said.get("companions", ()), *named)}

    @model_validator(mode="after")
    def _asks_something(self) -> "Job":
        if not (self.work or self.companions):
            raise ValueError(
                gettext("names no work; say plug, coil, lead or another that the sheet has")
            )
        return self

    def title(self, engine: Engine) -> str:
        """Say the job as people do: ``Plug and coil, holes 3 and 5``."""
        with reading_in(self.language):
            kinds = sorted({work for work in self.work if work.at_holes}, reverse=True)
            if not (self.plugs_at or self.carriers_at):
                said = [_at_holes(kinds, self.cylinders)] if kinds else []
            else:
                said = [_at_holes([kind], self.at(kind)) for kind in kinds]
            others = [say(f"job.{work.value}") for work in Work if work in self.places]
            others += [inside(word(engine, engine.companions[key].name)) for key in self.companions]
            whole = "; ".join([*said, *([listed(others)] if others else [])])
            return whole[:1].upper() + whole[1:]

    @property
    def places(self) -> frozenset[Work]:
        """The work that is done at no hole."""
        return frozenset(work for work in self.work if not work.at_holes)

    @property
    def cap_off(self) -> bool:
        """Whether the cap of the distributor comes off."""
        return bool(UNDER_THE_CAP & self.places)

    @property
    def at_towers(self) -> bool:
        """Whether something is done at the distributor or the pack."""
        return bool(self.places - {Work.BATTERY, Work.CHARGING})

    def at(self, work: Work) -> tuple[int, ...]:
        """The cylinders where one kind of work is done."""
        if work not in self.work or not work.at_holes:
            return ()
        return (self.plugs_at if work is Work.PLUG else self.carriers_at) or self.cylinders

    def does(self, thing: str, cylinders: Collection[int], *, looks: bool = False) -> bool:
        """Whether it renews a thing at these cylinders; where that is only looked at, whether it
        has it in hand there. A thing is a plug, coil, lead or boot, a piece or a companion.
        """
        if thing == "plug":
            return set(cylinders) <= set(self.at(Work.PLUG))
        if thing in ("coil", "lead", "boot"):
            renewed = {*self.at(Work.COIL), *self.at(Work.LEAD)}
            return set(cylinders) <= (set(self.cylinders) if looks or thing == "boot" else renewed)
        return thing in self.companions or thing in {work.value for work in self.places}

    def along_with(self, work: str, cylinders: Iterable[int] = ()) -> "Job":
        """The same job with one kind of work more: at these cylinders, or a companion's."""
        if work not in set(Work):
            return self.model_copy(update={"companions": (*self.companions, work)})
        kind = Work(work)
        whole = {*self.cylinders, *cylinders} if kind.at_holes else set(self.cylinders)
        at = {one: set(self.at(one)) for one in {*self.work, kind} if one.at_holes}
        if kind.at_holes:
            at[kind] |= set(cylinders)
        carriers = next((where for one, where in at.items() if one is not Work.PLUG), set())
        return self.model_copy(
            update={
                "work": tuple(one for one in Work if one in {*self.work, kind}),
                "cylinders": tuple(sorted(whole)),
                "plugs_at": _apart(at.get(Work.PLUG, set()), whole),
                "carriers_at": _apart(carriers, whole),
            }
        )


def _apart(where: set[int], whole: set[int]) -> tuple[int, ...]:
    """Where one kind of work is done, if not everywhere."""
    return tuple(sorted(where)) if where != whole else ()


def _at_holes(kinds: list[Work], cylinders: tuple[int, ...]) -> str:
    """Kinds of work and where, in words."""
    numbers = [str(cylinder) for cylinder in sorted(set(cylinders))]
    pattern = "job.hole" if len(numbers) == 1 else "job.holes"
    return say(
        pattern, work=listed([say(f"job.{kind.value}") for kind in kinds]), holes=listed(numbers)
    )


def settle_job(job: Job, engine: Engine) -> Job:
    """Return the job with cylinders sorted and the variant named.

    Raises :class:`JobError` for a cylinder, variant or way the sheet does not have, and when the
    sheet has several variants and the job names none: a variant is asked for, never guessed.
    """
    problems = [*_cylinder_problems(job, engine), *_variant_problems(job, engine)]
    problems += _apart_problems(job)
    problems += [*_work_problems(job, engine), *_choice_problems(job, engine)]
    problems += [*_companion_problems(job, engine), *_empty_problems(job)]
    if problems:
        raise JobError(problems)
    return job.model_copy(
        update={
            "cylinders": tuple(sorted(set(job.cylinders))),
            "plugs_at": _fewer(job, job.plugs_at),
            "carriers_at": _fewer(job, job.carriers_at),
            "work": tuple(w for w in Work if w in job.work),
            "companions": tuple(key for key in engine.companions if key in job.companions),
            "variant": job.variant or next(iter(engine.variants)),
        }
    )


def _cylinder_problems(job: Job, engine: Engine) -> list[Problem]:
    known = ", ".join(map(str, sorted(engine.cylinders)))
    return [
        Problem(
            "job.cylinders",
            gettext("cylinder {cylinder} does not exist", cylinder=cylinder),
            gettext("use any of {known}", known=known),
        )
        for cylinder in job.cylinders
        if cylinder not in engine.cylinders
    ]


def _companion_problems(job: Job, engine: Engine) -> list[Problem]:
    """Companions named are on the sheet, and of this variant."""
    variant = job.variant or next(iter(engine.variants))
    here = possible_companions(engine, variant)
    fix = gettext("use {here}", here=", ".join([*possible_work(engine, variant), *here]))
    return [
        Problem("job.work", gettext("'{key}' is no work this sheet knows", key=key[:60]), fix)
        for key in dict.fromkeys(job.companions)
        if key not in here
    ]


def _empty_problems(job: Job) -> list[Problem]:
    """Work at holes names holes, and holes have work."""
    asked = any(work.at_holes for work in job.work)
    if asked and not job.cylinders:
        return [
            Problem("job.cylinders", gettext("names no cylinder"), gettext("name those to work at"))
        ]
    if job.cylinders and not asked:
        said = gettext("nothing is done at the cylinders named")
        return [Problem("job.work", said, gettext("add plug, coil or lead, or name no cylinder"))]
    return []


def _apart_problems(job: Job) -> list[Problem]:
    """What is stated for some cylinders only: of the job's, and something at each of them."""
    if not (job.plugs_at or job.carriers_at):
        return []
    every = set(job.cylinders)
    strange = sorted({*job.plugs_at, *job.carriers_at} - every)
    found = [
        Problem(
            "job.cylinders",
            gettext("cylinder {cylinder} is not in the job", cylinder=cylinder),
            gettext("name it there as well"),
        )
        for cylinder in strange
    ]
    idle = sorted(every - {cylinder for kind in job.work for cylinder in job.at(kind)})
    return found + [
        Problem(
            "job.cylinders",
            gettext("nothing is done at cylinder {cylinder}", cylinder=cylinder),
            gettext("say what, or leave it out"),
        )
        for cylinder in idle
    ]


def _fewer(job: Job, stated: tuple[int, ...]) -> tuple[int, ...]:
    """Some of the job's cylinders in order; none stated where it is all of them."""
    return tuple(sorted(set(stated))) if set(stated) != set(job.cylinders) else ()


def _variant_problems(job: Job, engine: Engine) -> list[Problem]:
    known = ", ".join(engine.variants)
    if not job.variant and len(engine.variants) > 1:
        return [
            Problem(
                "job.variant",
                gettext("the engine has several variants"),
                gettext("name one of {known}", known=known),
            )
        ]
    if job.variant and job.variant not in engine.variants:
        return [
            Problem(
                "job.variant",
                gettext("variant '{variant}' does not exist", variant=job.variant),
                gettext("use one of {known}", known=known),
            )
        ]
    return []


def carrier(engine: Engine) -> Work:
    """What brings the spark to each plug and can be asked for beside the plug itself."""
    return Work.COIL if engine.ignition.kind == "coil_on_plug" else Work.LEAD


def possible_work(engine: Engine, variant: str = "") -> tuple[Work, ...]:
    """The kinds of work a sheet can answer, for a variant or for any, in the order of telling."""
    ignition = engine.ignition
    stated = {
        key
        for key, figures in engine.figures.items()
        if not variant or any(applies(figure.variants, variant) for figure in figures)
    }
    cap, points = ignition.distributor is not None, {"points-gap", "dwell", "air-gap"}
    fits = {
        carrier(engine): True,
        Work.PLUG: True,
        Work.CAP: cap,
        Work.ROTOR: cap,
        Work.POINTS: cap and bool(points & stated),
        Work.COIL_LEAD: cap and ignition.main_coil is not None,
        Work.PACK: ignition.pack is not None,
        Work.TIMING: cap and engine.timing is not None and "timing-static" in stated,
        Work.BATTERY: True,
        Work.CHARGING: True,
    }
    return tuple(work for work in Work if fits.get(work))


def possible_companions(engine: Engine, variant: str) -> tuple[str, ...]:
    """The keys of the companion work a sheet has for a variant, in its order."""
    return tuple(key for key, one in engine.companions.items() if applies(one.variants, variant))


# What a sheet has to state for work that is not offered.
_NEEDS = {
    Work.CAP: gettext_lazy("a distributor"),
    Work.ROTOR: gettext_lazy("a distributor"),
    Work.POINTS: gettext_lazy("a distributor with points-gap, dwell or air-gap"),
    Work.COIL_LEAD: gettext_lazy("a distributor and where its main coil is"),
    Work.PACK: gettext_lazy("a coil pack with its towers"),
    Work.TIMING: gettext_lazy("a distributor, its timing and the figure timing-static"),
}


def _work_problems(job: Job, engine: Engine) -> list[Problem]:
    known = job.variant if job.variant in engine.variants else ""
    only = next(iter(engine.variants)) if len(engine.variants) == 1 else ""
    fits = possible_work(engine, known or only)
    return [_no_such_work(work, fits) for work in job.work if work not in fits]


def _no_such_work(work: Work, fits: tuple[Work, ...]) -> Problem:
    said = gettext("use {fits}", fits=", ".join(fits))
    if work in _NEEDS:
        return Problem(
            "job.work",
            gettext("{work} needs {fact} on the sheet", work=work.value, fact=_NEEDS[work]),
            said,
        )
    return Problem(
        "job.work", gettext("this engine has no {work} on its plugs", work=work.value), said
    )


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
                    Problem(
                        f"job.{field}",
                        gettext("'{text}' is not a way", text=text),
                        gettext("write it as part/way"),
                    )
                )
    return problems


def _knows(engine: Engine, part: str, key: str) -> bool:
    """Whether a way of the part or a work-round of its hindrances has this key."""
    rounds = (
        k for hindrance in engine.hindrances if hindrance.part == part for k in hindrance.rounds
    )
    return key in engine.parts[part].ways or key in rounds


def renewed_cylinders(job: Job, engine: Engine, rules: HouseRules) -> tuple[int, ...]:
    """The cylinders whose coil or lead is renewed: as asked, and more where the house says."""
    asked, school = job.at(carrier(engine)), rules.school["coils"]
    if Work.COIL not in job.work or school == "failed":
        return asked
    banks = {engine.cylinders[cylinder].bank for cylinder in asked}
    everywhere = school == "all"
    return tuple(key for key, c in engine.cylinders.items() if everywhere or c.bank in banks)


def carrier_cylinders(job: Job, engine: Engine, rules: HouseRules) -> tuple[int, ...]:
    """The cylinders whose coil or lead comes off: the job's, all where it is renewed, and those
    that companion work needs off.
    """
    off = {n for key in job.companions for n in engine.companions[key].coils_off}
    off.update(renewed_cylinders(job, engine, rules))
    if off <= set(job.cylinders):
        return job.cylinders
    return tuple(c for c in engine.cylinders if c in off or c in job.cylinders)


def timed(job: Job, engine: Engine) -> bool:
    """Whether the engine is timed: asked for, or since its points were set, which moves it."""
    if Work.TIMING in job.places:
        return True
    return Work.POINTS in job.places and Work.TIMING in possible_work(engine, job.variant)


def _got_at(job: Job, engine: Engine) -> list[Work]:
    """What has to be got at beyond the holes: what is asked for, and what lies over it."""
    more = {
        Work.CAP: job.cap_off,
        Work.ROTOR: bool({Work.ROTOR, Work.POINTS} & job.places),
        Work.TIMING: timed(job, engine),
    }
    return sorted(job.places | {work for work, needed in more.items() if needed})


def cap_way(job: Job, engine: Engine) -> str:
    """The way, as part/way, that has to be taken since the cap is a part of the sheet and comes
    off; empty where it is none, or is said to stay.
    """
    piece = engine.pieces.get("cap")
    part = engine.parts.get(piece.part) if job.cap_off and piece and piece.part else None
    if part is None or piece is None or not applies(part.variants, job.variant):
        return ""
    way = next((key for key, one in part.ways.items() if one.kind is WayKind.REMOVE), "")
    asked = f"{piece.part}/{way}"
    return "" if not way or {asked, piece.part} & set(job.forbid) else asked


def targets(job: Job, engine: Engine, rules: HouseRules) -> list[Target]:
    """Every hole and item the job must get at; a plug is reached through its coil or lead."""
    found = [
        Target(hole=hole, item=carrier(engine).value)
        for cylinder in carrier_cylinders(job, engine, rules)
        for hole in engine.holes_of(cylinder)
    ]
    plugs = job.at(Work.PLUG)
    found += [Target(item=work.value) for work in _got_at(job, engine)]
    found += [Target(item=key) for key in job.companions]
    return found + [Target(hole=h, item="plug") for plug in plugs for h in engine.holes_of(plug)]
