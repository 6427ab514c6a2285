"""What the plan page shows for one question, and the links that ask the next."""

import json
from collections.abc import Collection, Iterable
from functools import cached_property
from hashlib import blake2b
from urllib.parse import urlencode

from pydantic import BaseModel, Field

from eldrim.core.access.alternatives import Alternative
from eldrim.core.access.cost import levels
from eldrim.core.base.errors import JobError
from eldrim.core.base.quantity import format_number
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import WayKind
from eldrim.core.job import Job, Work, carrier, possible_companions, possible_work
from eldrim.core.procedure.model import Plan, RollItem
from eldrim.core.procedure.scrubber_frames import scrubber_frames
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.words import inside, say
from eldrim.core.words.language import page_language
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.drawing import engine_plan, ribbon, tool_roll
from eldrim.web.plans import costs_of, drawn, first_plan, plan_for

LISTS = ("forbid", "force", "without")


# What has been done to a part that was moved in each way.
MOVED = {
    WayKind.REMOVE: gettext_lazy("taken off"),
    WayKind.SWING_ASIDE: gettext_lazy("swung aside"),
    WayKind.UNCLIP: gettext_lazy("unclipped"),
    WayKind.LOOSEN_AND_SHIFT: gettext_lazy("loosened and shifted"),
}


class PlanQuery(BaseModel):
    """The query of the page: cylinders, work, variant, and what-ifs."""

    c: list[int] = Field([], max_length=64)
    work: list[Work] = []
    companions: list[str] = Field([], max_length=32)
    plugs: list[int] = Field([], max_length=64)
    carriers: list[int] = Field([], max_length=64)
    variant: str = ""
    forbid: list[str] = Field([], max_length=32)
    force: list[str] = Field([], max_length=32)
    without: list[str] = Field([], max_length=32)
    feel: str = ""


def _as_json(frames: Iterable[BaseModel]) -> str:
    plain = [frame.model_dump(exclude_defaults=True) for frame in frames]
    return json.dumps(plain, ensure_ascii=False, separators=(",", ":"))


class PlanPage:
    """Everything the plan page shows."""

    def __init__(
        self,
        engine: Engine,
        question: PlanQuery,
        rules: HouseRules,
        crib: Crib,
        *,
        looked_through: bool = False,
    ) -> None:
        """Settle what is asked; what the sheet does not have is left out, and said.

        ``looked_through`` looks for the least job where a first answer would do; on a large engine
        that takes seconds.
        """
        self.engine = engine
        self.both = (carrier(engine), Work.PLUG)
        self._settle(question)
        self.left_out = [*self._lacking(question), *self._not_here(question)]
        self.house = rules
        no_feel = question.feel == "no"
        self.rules = rules.using(work_by_feel="forbidden") if no_feel else rules
        self.crib = crib
        self.problem = ""
        self.looked_through = looked_through
        self.plan = self._answer()

    def _settle(self, question: PlanQuery) -> None:
        """Keep of the question what the sheet has."""
        engine = self.engine
        asked = tuple(w for w in self.both if w in question.work) or self.both
        self.at_holes = list(asked)
        cylinders = sorted({c for c in question.c if c in engine.cylinders})
        stated = question.variant if question.variant in engine.variants else ""
        variant = stated or next(iter(engine.variants))
        self.possible = tuple(w for w in possible_work(engine, variant) if not w.at_holes)
        self.places = [work for work in self.possible if work in question.work]
        self.here = possible_companions(engine, variant)
        along = [key for key in self.here if key in question.companions]
        self.question = question.model_copy(
            update={
                "c": cylinders,
                "work": [*asked, *self.places],
                "companions": along,
                "plugs": self._fewer(question.plugs, cylinders, asked),
                "carriers": self._fewer(question.carriers, cylinders, asked),
                "variant": variant,
            }
        )

    def _lacking(self, question: PlanQuery) -> list[str]:
        """What is asked for and not on the sheet, as by a link from before it changed."""
        strange = sorted({c for c in question.c if c not in self.engine.cylinders})
        said = [gettext("This engine has no cylinder {c}.", c=c) for c in strange]
        if question.variant and question.variant != self.question.variant:
            shown = self.engine.variants[self.question.variant].name
            said.append(
                gettext(
                    "Its sheet has no variant '{variant}': this is {shown}.",
                    variant=question.variant[:40],
                    shown=shown,
                )
            )
        return said

    def _not_here(self, question: PlanQuery) -> list[str]:
        """Work that is asked for and that the sheet cannot answer."""
        known = {*self.both, *self.possible}
        strange = [w for w in dict.fromkeys(question.work) if w not in known]
        said = [
            gettext("Its sheet says too little for: {value}.", value=say(f"job.{work.value}"))
            for work in strange
        ]
        gone = [key for key in dict.fromkeys(question.companions) if key not in self.here]
        return [
            *said,
            *(gettext("Its sheet has no companion work '{key}'.", key=key[:40]) for key in gone),
        ]

    def _fewer(
        self, stated: Collection[int], cylinders: list[int], work: Collection[Work]
    ) -> list[int]:
        """Where one of both kinds of work is done, if not at all cylinders."""
        here = sorted(set(stated) & set(cylinders))
        return here if len(work) > 1 and here != cylinders else []

    def _answer(self) -> Plan | None:
        if not (self.question.c or self.places or self.question.companions):
            return None
        try:
            asked = (self.engine, self.job(what_if=True), self.rules, self.crib)
            if self.looked_through:
                return plan_for(*asked)
            plan, self.looked_through = first_plan(*asked)
        except JobError as error:
            self.problem = "; ".join(problem.message for problem in error.problems)
            return None
        return plan

    def job(self, *, what_if: bool) -> Job:
        """What is asked; with the what-ifs in force, or without."""
        q = self.question
        more = (
            {"forbid": tuple(q.forbid), "force": tuple(q.force), "without_tools": tuple(q.without)}
            if what_if
            else {}
        )
        return Job(
            cylinders=tuple(q.c),
            work=tuple(self.asked_work),
            companions=tuple(q.companions),
            plugs_at=tuple(q.plugs),
            carriers_at=tuple(q.carriers),
            variant=q.variant,
            language=page_language(),
            **more,
        )

    @property
    def asked_work(self) -> list[Work]:
        """The kinds of work of the job: those at holes only where holes are chosen."""
        return self.question.work if self.question.c else self.places

    @property
    def variant(self) -> str:
        """The key of the variant shown."""
        return self.question.variant

    @property
    def asked(self) -> bool:
        """Whether any what-if is in force."""
        return any(getattr(self.question, name) for name in (*LISTS, "feel"))

    @cached_property
    def dearer(self) -> float:
        """Minutes more than the best plan without what-ifs."""
        if not self.asked or self.plan is None:
            return 0.0
        best, _ = first_plan(self.engine, self.job(what_if=False), self.house, self.crib)
        return round(self.plan.minutes - best.minutes, 1)

    @property
    def cheaper(self) -> float:
        """Minutes less than the best plan without what-ifs."""
        return -self.dearer

    @property
    def roll(self) -> str:
        """The tools in order of use."""
        if self.plan is None:
            return ""
        roll = self.plan.roll
        return drawn("roll", self.plan, lambda: tool_roll.draw(roll, columns=4))

    @property
    def to_get(self) -> list[RollItem]:
        """The tools of the plan that the crib lacks."""
        return [i for i in self.plan.roll if i.missing] if self.plan else []

    @cached_property
    def costs(self) -> dict[str, float]:
        """Minutes to get at each hole alone."""
        return costs_of(self.engine, self.variant, self.rules, self.crib)

    @property
    def drawing(self) -> str:
        """The plan from above."""
        said = {
            key: gettext("{cost} min to get here alone", cost=format_number(cost, 0))
            for key, cost in self.costs.items()
        }
        holes = list(self.engine.holes_of_all(self.question.c))
        view = engine_plan.PlanView(
            photo=True,
            chosen=frozenset(holes),
            moves=self.plan.moves if self.plan else (),
            links={h: self.toggle(n) for h, (n, _) in self.engine.holes.items()},
            levels=levels(self.costs),
            costs=said,
            at_towers=bool(self.plan and self.plan.job.at_towers),
        )
        return engine_plan.draw(self.engine, view)

    def small(self, alternative: Alternative) -> str:
        """A small plan of an alternative: what would move."""
        view = engine_plan.PlanView(compact=True, small_moves=alternative.parts)
        return engine_plan.draw(self.engine, view)

    @property
    def ribbon(self) -> str:
        """The steps as widths of minutes."""
        plan = self.plan
        return drawn("ribbon", plan, lambda: ribbon.draw(plan)) if plan else ""

    @property
    def frames(self) -> str:
        """The scrubber's frames as JSON, empty fields left out."""
        plan = self.plan
        assert plan is not None
        return drawn("frames", plan, lambda: _as_json(scrubber_frames(plan)))

    def along(self, work: str, cylinders: Collection[int]) -> str:
        """The address with one kind of work more: at these cylinders, or a companion's."""
        more = self.job(what_if=False).along_with(work, cylinders)
        kinds = [kind for kind in more.work if kind.at_holes] or self.at_holes
        return self.address(
            c=list(more.cylinders),
            work=[*kinds, *(kind for kind in more.work if not kind.at_holes)],
            companions=list(more.companions),
            plugs=list(more.plugs_at),
            carriers=list(more.carriers_at),
        )

    @property
    def along_address(self) -> str:
        """Where what else is worth doing is asked for."""
        path, query = self.address().split("?")
        return f"{path}/along?{query}"

    @property
    def special_tools(self) -> list[tuple[str, str]]:
        """Special tools the way in uses, each with the link that does without it."""
        if self.plan is None:
            return []
        ways = [way.tools for part in self.engine.parts.values() for way in part.ways.values()]
        rounds = [
            r.tools for hindrance in self.engine.hindrances for r in hindrance.rounds.values()
        ]
        asked = (self.crib.find(name) for tools in (*ways, *rounds) for name in tools)
        named = {tool.id for tool in asked if tool}
        used = [tool.name for tool in self.plan.tools if tool.id in named]
        return [(name, self.more("without", name)) for name in used]

    @property
    def by_feel(self) -> bool:
        """Whether the sheet offers any work by feel that a rule could forbid."""
        ways = [way.by_feel for part in self.engine.parts.values() for way in part.ways.values()]
        rounds = [
            r.kind.value == "by_feel"
            for hindrance in self.engine.hindrances
            for r in hindrance.rounds.values()
        ]
        return any(ways + rounds)

    @property
    def what_ifs(self) -> list[tuple[str, str]]:
        """What-ifs in force, as words and the link that takes each back."""
        q = self.question
        said = [
            (self._moved(f, gettext("{part} not {way}")), self._less("forbid", f)) for f in q.forbid
        ]
        said += [
            (self._moved(f, gettext("{part} {way} in any case")), self._less("force", f))
            for f in q.force
        ]
        said += [(gettext("without the {t}", t=t), self._less("without", t)) for t in q.without]
        if q.feel:
            said.append((gettext("no work by feel"), self.address(feel="")))
        return said

    def _moved(self, text: str, words: str) -> str:
        """A part/way key in a sentence: ``Throttle body not swung aside``."""
        part, _, way = text.partition("/")
        known = self.engine.parts.get(part)
        kind = known.ways[way].kind if known and way in known.ways else None
        done = MOVED[kind] if kind else "moved"
        return words.format(part=known.name if known else part, way=done)

    def toggle(self, cylinder: int) -> str:
        """The address with one cylinder chosen or let go."""
        return self._at(cylinder, () if cylinder in self.question.c else self.both)

    def _done_at(self) -> dict[Work, set[int]]:
        """Where each kind of work is done."""
        q = self.question
        stated = {Work.PLUG: q.plugs, self.both[0]: q.carriers}
        asked = self.at_holes
        return {kind: set(stated[kind] or q.c) if kind in asked else set() for kind in self.both}

    def _at(self, cylinder: int, kinds: Collection[Work]) -> str:
        """The address with these kinds of work done at one cylinder."""
        asked = self.at_holes
        kinds = [kind for kind in kinds if kind in asked] or list(asked if kinds else ())
        done = self._done_at()
        for kind, where in done.items():
            (where.add if kind in kinds else where.discard)(cylinder)
        work = [kind for kind in asked if done[kind]] or list(asked)
        cylinders = sorted(set().union(*done.values()))
        return self.address(
            c=cylinders,
            work=[*work, *self.places],
            plugs=self._fewer(done[Work.PLUG], cylinders, work),
            carriers=self._fewer(done[self.both[0]], cylinders, work),
        )

    @property
    def apart(self) -> bool:
        """Whether not the same is done at every hole."""
        return bool(self.question.plugs or self.question.carriers)

    @property
    def work_at_each(self) -> list[tuple[int, list[tuple[str, str, bool]]]]:
        """The work at each cylinder, where both kinds are asked: words, address, if it is so."""
        if len(self.at_holes) < 2:
            return []
        done = self._done_at()
        first = self.both[0]
        kinds = (
            (gettext("plug and {first}", first=gettext(first.value)), self.both),
            (gettext("plug"), (Work.PLUG,)),
            (gettext(first.value), (first,)),
        )
        return [
            (
                number,
                [
                    (words, self._at(number, of), {k for k in done if number in done[k]} == set(of))
                    for words, of in kinds
                ],
            )
            for number in self.question.c
        ]

    def more(self, field: str, text: str) -> str:
        """The address with one more what-if."""
        return self.address(**{field: sorted({*getattr(self.question, field), text})})

    def alternative(self, found: Alternative) -> str:
        """The address that makes an alternative the plan."""
        return self.address(forbid=sorted({*self.question.forbid, *found.forbid}))

    def _less(self, field: str, text: str) -> str:
        return self.address(**{field: [t for t in getattr(self.question, field) if t != text]})

    @property
    def variant_links(self) -> list[tuple[str, str, bool]]:
        """Other variants of this engine."""
        return [
            (value.name, self.address(variant=key), key == self.variant)
            for key, value in self.engine.variants.items()
        ]

    @property
    def work_links(self) -> list[tuple[str, str, bool]]:
        """The kinds of work: words, address, whether it is this one."""
        first = self.both[0].value
        kinds = (
            (list(self.both), gettext("Plug and {first}", first=gettext(first))),
            ([Work.PLUG], gettext("Plug")),
            ([self.both[0]], gettext(first.capitalize())),
        )
        return [
            (
                words,
                self.address(work=[*w, *self.places], plugs=[], carriers=[]),
                w == self.at_holes and bool(self.question.c or not self.places),
            )
            for w, words in kinds
        ]

    @property
    def place_links(self) -> list[tuple[str, str, bool]]:
        """The work that is done at no hole: words, the address with or without it, whether it is
        asked for.
        """
        links = []
        for work in self.possible:
            on = work in self.places
            others = [w for w in self.possible if (w in self.places) != (w is work)]
            links.append(
                (say(f"job.{work.value}"), self.address(work=[*self.at_holes, *others]), on)
            )
        chosen = self.question.companions
        for key in self.here:
            keys = [k for k in self.here if (k in chosen) != (k == key)]
            name = inside(self.engine.companions[key].name)
            links.append((name, self.address(companions=keys), key in chosen))
        return links

    @property
    def group_links(self) -> list[tuple[str, str]]:
        """Whole banks, all, none."""
        cylinders = self.engine.cylinders
        banks = self.engine.banks if len(self.engine.banks) > 1 else {}
        links = [
            (
                bank.name,
                self._same_at([n for n, cylinder in cylinders.items() if cylinder.bank == key]),
            )
            for key, bank in banks.items()
        ]
        return [
            *links,
            (gettext("All"), self._same_at(list(cylinders))),
            (gettext("None"), self._same_at([])),
        ]

    def _same_at(self, cylinders: list[int]) -> str:
        """The address with the same done at each of these cylinders."""
        return self.address(c=cylinders, plugs=[], carriers=[])

    @property
    def weighed(self) -> float:
        """What the choice weighs: minutes of the way in with its risks, and of set-up changes."""
        return self.plan.access_minutes + self.plan.change_minutes if self.plan else 0.0

    @property
    def least_address(self) -> str:
        """Where looking through for a cheaper job is asked for."""
        path, query = self.address().split("?")
        return f"{path}/least?{query}&shown={self.weighed:.2f}&moves={self.moves_digest}"

    @property
    def moves_digest(self) -> str:
        """A short sign of the way in: what moves, in what way, and what is worked round."""
        moved = [f"{move.part}/{move.way}" for move in self.plan.moves] if self.plan else []
        stay = [f"{stay.part}: {stay.why}" for stay in self.plan.stays] if self.plan else []
        return blake2b("\n".join(sorted(moved) + stay).encode(), digest_size=8).hexdigest()

    def address(self, **changes: object) -> str:
        """The page's address with some of the question changed."""
        q = self.question.model_copy(update=changes)
        words = [("c", str(c)) for c in q.c] + [("work", w.value) for w in q.work]
        words += [(name, str(c)) for name in ("plugs", "carriers") for c in getattr(q, name)]
        words += [("companions", key) for key in q.companions]
        words += [("variant", q.variant)]
        words += [(name, t) for name in LISTS for t in getattr(q, name)]
        words += [("feel", q.feel)] if q.feel else []
        return f"/engines/{self.engine.id}?{urlencode(words)}"
