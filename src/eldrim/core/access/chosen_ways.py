"""The ways chosen for a job: what moves, what that lets go, what it answers, and why."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property
from graphlib import TopologicalSorter

from eldrim.core.access.explain import ReasonLine, Reasons, active_hindrances, answered_by
from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.access.solve import WayIn
from eldrim.core.engine import Engine, Target, Way, WorkRound
from eldrim.core.engine.glossary import word
from eldrim.core.engine.joints import HOSES, JointKind
from eldrim.core.engine.parts import Carries, Joint, Part, WayKind
from eldrim.core.words import listed, say


class ChosenWays:
    """Answers every question about the way in that was chosen for one job on one engine."""

    def __init__(self, engine: Engine, problem: AccessProblem, way_in: WayIn) -> None:
        """Keep the question and its answer."""
        self.engine, self.problem, self.way_in = engine, problem, way_in
        self._chains: dict[Option, tuple[ReasonLine, ...]] = {}
        self._released: dict[Option, dict[str, Joint]] = {}
        self._because: dict[Option, tuple[str, ...]] = {}

    @cached_property
    def moves(self) -> list[Option]:
        """The ways taken, by part."""
        return sorted(option for option in self.way_in.chosen if option.is_way)

    @cached_property
    def met(self) -> list[tuple[MetHindrance, Option]]:
        """Every hindrance met, with what answers it."""
        active = active_hindrances(self.problem, self.way_in)
        return [(hindrance, answered_by(hindrance, self.way_in)) for hindrance in active]

    @cached_property
    def reasons(self) -> Reasons:
        """Why each chosen option is there."""
        return Reasons(self.engine, self.met)

    @cached_property
    def answered(self) -> dict[Option, list[MetHindrance]]:
        """The hindrances met that each option answers."""
        found: dict[Option, list[MetHindrance]] = {}
        for hindrance, answer in self.met:
            found.setdefault(answer, []).append(hindrance)
        return found

    @cached_property
    def on_part(self) -> dict[str, list[tuple[MetHindrance, Option]]]:
        """The hindrances met by moving each part, with what answers them."""
        found: dict[str, list[tuple[MetHindrance, Option]]] = {}
        for hindrance, answer in self.met:
            found.setdefault(hindrance.target.part, []).append((hindrance, answer))
        return found

    @cached_property
    def move_of(self) -> dict[str, Option]:
        """The way each moved part takes."""
        return {option.part: option for option in self.moves}

    @cached_property
    def pushed(self) -> dict[str, list[Option]]:
        """For each moved part the moved ones that it is pushed onto, or that are pushed onto it."""
        found: dict[str, set[Option]] = {}
        for option in self.moves:
            for other in map(self.move_of.get, self.part(option).pushes_onto):
                if other is not None:
                    found.setdefault(option.part, set()).add(other)
                    found.setdefault(other.part, set()).add(option)
        return {part: sorted(others) for part, others in found.items()}

    @cached_property
    def opened_holes(self) -> frozenset[str]:
        """The holes that something stood over and stands over no more, or is worked round."""
        return frozenset(hole.target.hole for hole, _ in self.met if hole.target.hole)

    @cached_property
    def depth(self) -> dict[str, int]:
        """The place of each moved part when parts are taken strictly one after the other."""
        waits = {option.part: set[str]() for option in self.moves}
        for part in waits:
            over = (answer for _, answer in self.on_part.get(part, ()) if answer.is_way)
            waits[part] = {answer.part for answer in over}
        order = TopologicalSorter({part: sorted(over) for part, over in sorted(waits.items())})
        order.prepare()
        places: dict[str, int] = {}
        while order.is_active():
            for part in sorted(order.get_ready()):
                places[part] = len(places)
                order.done(part)
        return places

    def part(self, option: Option) -> Part:
        """The part an option speaks of."""
        return self.engine.parts[option.part]

    def way(self, option: Option) -> Way:
        """The way an option chooses."""
        return self.part(option).ways[option.way]

    def released(self, option: Option) -> dict[str, Joint]:
        """The joints that let go for a chosen way."""
        if option not in self._released:
            self._released[option] = self.part(option).released(self.way(option))
        return self._released[option]

    @cached_property
    def all_released(self) -> list[Joint]:
        """The joints that let go for all chosen ways."""
        return [joint for option in self.moves for joint in self.released(option).values()]

    def isolates(self) -> bool:
        """Whether the battery is isolated: for every job, or for a joint that lets go."""
        return any(map(isolates, self.all_released)) or self.engine.layout.isolate

    def opened(self, option: Option) -> tuple[str, ...]:
        """The openings to plug once a chosen way is done."""
        return self.part(option).opened_by(self.way(option))

    def slackened(self, option: Option, joint: Joint) -> bool:
        """Whether a hose of a part that is only shifted stays on its stub, its clamp slackened."""
        shifted = self.way(option).kind is WayKind.LOOSEN_AND_SHIFT
        return shifted and joint.kind in HOSES and not self.opened(option)

    def slack_only(self, option: Option) -> bool:
        """Whether hoses are slackened for a way, and nothing else is let go."""
        joints = [j for j in self.released(option).values() if j.kind is not JointKind.GASKET]
        return bool(joints) and all(self.slackened(option, joint) for joint in joints)

    def reason_lines(self, option: Option) -> tuple[ReasonLine, ...]:
        """The chain of reasons from a move to its holes; empty where it was only asked for."""
        if option not in self._chains:
            self._chains[option] = self.reasons.chain(option)
        return self._chains[option]

    def because(self, option: Option) -> tuple[str, ...]:
        """The chain of reasons in words."""
        if option not in self._because:
            lines = tuple(line.text for line in self.reason_lines(option))
            self._because[option] = lines or (say("because.asked"),)
        return self._because[option]

    def rounds_used(self, target: Target) -> list[Option]:
        """The work-rounds that have to be used at a target."""
        return self._rounds_at.get(target, [])

    def round_minutes(self, target: Target, direction: str) -> float:
        """The extra minutes, ``out`` or ``back``, of working round what stays at a target."""
        return sum(self.minutes_of(option, direction) for option in self.rounds_used(target))

    def minutes_of(self, option: Option, direction: str) -> float:
        """The extra minutes of a work-round at one of its targets, ``out`` or ``back``.

        It is paid for once; where it serves several targets, each carries its share.
        """
        work = self.work_round(option)
        extra = work.out if direction == "out" else work.back
        return extra.mid / self._round_uses[option]

    def round_tools(self, target: Target) -> tuple[str, ...]:
        """The tools, by the names on the sheet, that working round needs at a target."""
        return tuple(t for o in self.rounds_used(target) for t in self.work_round(o).tools)

    def round_notes(self, target: Target) -> str:
        """What to do about the parts that stay in the way at a target, in words."""
        return self.notes_of(self.rounds_used(target))

    def notes_of(self, rounds: Iterable[Option]) -> str:
        """What to do about the parts that these work-rounds leave in place, in words."""
        return " ".join(map(self._round_note, rounds))

    def _round_note(self, option: Option) -> str:
        part, work = self.part(option), self.work_round(option)
        how = work.note or say(f"round.{work.kind}")
        said = say("round", part=part.name, note=f"{how}.")
        return f"{said} {self.skills(work)}" if work.skills else said

    def skills(self, way: Way | WorkRound) -> str:
        """What whoever does it must be able to do, in words; empty where nothing is stated."""
        named = listed([word(self.engine, skill) for skill in way.skills])
        return say("skills", skills=named) if named else ""

    def work_round(self, option: Option) -> WorkRound:
        """The work-round an option chooses."""
        return self.engine.hindrances[option.hindrance].rounds[option.round]

    @cached_property
    def _rounds_at(self) -> dict[Target, list[Option]]:
        found: dict[Target, list[Option]] = {}
        for hindrance, option in self.met:
            if not option.is_way:
                found.setdefault(replace(hindrance.target, pieces=""), []).append(option)
        return found

    @cached_property
    def _round_uses(self) -> Counter[Option]:
        return Counter(option for _, option in self.met if not option.is_way)


def isolates(joint: Joint) -> bool:
    """Whether the battery is off before a joint lets go."""
    return joint.isolate or joint.carries is Carries.FUEL
