"""What all phases of one procedure share."""

from collections import Counter
from functools import cached_property

from eldrim.core.access.explain import Reason, active_blocks, answered_by, chain, reasons, serves
from eldrim.core.access.problem import AccessProblem, Block, Node
from eldrim.core.access.solve import WayIn
from eldrim.core.engine import Target, Way, WorkRound, applies
from eldrim.core.engine.glossary import word
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.model import Coil, Lead, Plug
from eldrim.core.engine.parts import Joint, Part
from eldrim.core.figures.sheet import Looked, plug_window
from eldrim.core.figures.torque import Window
from eldrim.core.job import Job, Work, carrier_cylinders
from eldrim.core.procedure.figures import Figures
from eldrim.core.procedure.times import FELT, TILT_DEGREES, TILTED
from eldrim.core.tools.crib import fold
from eldrim.core.tools.demand import Act, of_plug
from eldrim.core.tools.kit import Kit
from eldrim.core.tools.reach import Question
from eldrim.core.tools.shortage import shortage
from eldrim.core.tools.toolbox import Toolbox, clamp_questions
from eldrim.core.words import listed, lore, say


class Context:
    """One engine, one settled job, one chosen way in, one set of rules, one crib."""

    def __init__(self, kit: Kit, job: Job, problem: AccessProblem, way_in: WayIn) -> None:
        """Gather what every phase needs."""
        self.kit, self.engine, self.rules, self.job = kit, kit.engine, kit.rules, job
        self.problem, self.way_in = problem, way_in
        self.figures = Figures(kit.engine, job.variant, kit.rules, kit.crib)
        self._because: dict[Node, tuple[str, ...]] = {}
        self._plug_questions: dict[str, list[Question]] = {}
        self.why: dict[Node, list[Reason]] = reasons(problem, way_in)

    @cached_property
    def tools(self) -> Toolbox:
        """The tools of the whole job, chosen together."""
        joints = [j for n in self.moves for j in self.released(n).values()]
        joints += list(self.carrier.joints.values()) if self.holes else []
        asked = [q for j in joints if j.kind in FASTENERS for q in self.kit.acts(j)]
        for hole in sorted(self.plug_holes):
            asked += self.plug_questions(hole)
        return Toolbox(self.kit, (*asked, *(clamp_questions() if self.isolates() else ())))

    def plug_questions(self, hole: str) -> list[Question]:
        """What the plug of a hole asks: break loose, run out, then torque, or by angle."""
        if hole not in self._plug_questions:
            self._plug_questions[hole] = self._asked_of_plug(hole)
        return self._plug_questions[hole]

    def _asked_of_plug(self, hole: str) -> list[Question]:
        rounds = self.rounds(Target(hole=hole, item="plug"))
        using = tuple(sorted({fold(t) for _, work in rounds for t in work.tools}))
        demand = of_plug(self.plug, self.engine.holes[hole][1], hole in self._opened, using)
        last: Question = (demand, Act.SNUG, None)
        if self.plug_torque and self.rules.school("tightening") != "seat_plus_angle":
            asked = (demand, Act.TORQUE, self.plug_torque[1])
            reach = self.kit.reach
            last = asked if reach.possible(*asked) or not reach.possible(*last) else last
        return [(demand, Act.LOOSE, None), (demand, Act.RUN, None), last]

    def no_wrench(self, hole: str) -> str:
        """Why no torque wrench tightens the plug of a hole; empty where one does, or none has to.

        A plug is then turned by angle (handbook §9).
        """
        if self.rules.school("tightening") == "seat_plus_angle":
            return ""
        if self.plug_torque is None:
            return say("figure.no_torque")
        demand, act, _ = self.plug_questions(hole)[-1]
        lacking = shortage(self.kit.reach, demand, Act.TORQUE, self.plug_torque[1])
        return lacking.words if act is Act.SNUG and lacking else ""

    @cached_property
    def plug_torque(self) -> tuple[Looked, Window] | None:
        """The plug's torque window; None where only the angle method is left."""
        return plug_window(self.engine, self.job.variant, self.rules)

    @cached_property
    def _opened(self) -> frozenset[str]:
        """The holes that something stood over and stands over no more, or is worked round."""
        return frozenset(b.target.hole for b, _ in self.blocks if b.target.hole)

    @cached_property
    def moves(self) -> list[Node]:
        """The chosen ways, by part."""
        return sorted(n for n in self.way_in.chosen if n.is_way)

    @cached_property
    def depth(self) -> dict[str, int]:
        """The place of each moved part when parts are taken strictly one after the other."""
        above: dict[str, set[str]] = {n.part: set() for n in self.moves}
        for block, answer in self.blocks:
            if answer.is_way and block.target.part:
                above[block.target.part].add(answer.part)
        layers: dict[str, int] = {}
        while len(layers) < len(above):
            ready = sorted(
                p for p, over in above.items() if p not in layers and over <= set(layers)
            )
            for part in ready:
                layers[part] = len(layers)
        return layers

    @cached_property
    def plug(self) -> Plug:
        """The plug of this variant."""
        return next(p for p in self.engine.plugs if applies(p.variants, self.job.variant))

    @cached_property
    def carrier(self) -> Coil | Lead:
        """What brings the spark to each plug: the coil on it, or its lead."""
        on_plug = self.engine.ignition.kind == "coil_on_plug"
        items: tuple[Coil | Lead, ...] = self.engine.coils if on_plug else self.engine.leads
        return next(c for c in items if applies(c.variants, self.job.variant))

    @property
    def item(self) -> str:
        """The word for the carrier: coil or lead."""
        return "coil" if isinstance(self.carrier, Coil) else "lead"

    @property
    def plugs_out(self) -> bool:
        """Whether the job takes plugs out."""
        return Work.PLUG in self.job.work

    @cached_property
    def plug_holes(self) -> frozenset[str]:
        """The holes whose plug comes out."""
        cylinders = self.job.cylinders if self.plugs_out else ()
        return frozenset(h for c in cylinders for h in self.engine.holes_of(c))

    @cached_property
    def holes(self) -> list[str]:
        """The holes opened, in the order of the chosen school (handbook §20, first cylinder)."""
        cylinders = carrier_cylinders(self.job, self.engine, self.rules)
        holes = [h for c in cylinders for h in self.engine.holes_of(c)]
        school = self.rules.school("first_cylinder")
        if school == "by_number":
            return holes
        sign = 1 if school == "easiest_first" else -1
        return sorted(holes, key=lambda h: (sign * self.difficulty(h), holes.index(h)))

    @cached_property
    def by_bank(self) -> bool:
        """Whether each bank is finished, and started where it can be, before the next."""
        schools = (self.rules.school("first_cylinder"), self.rules.school("first_start"))
        return schools[0] == "bank_by_bank" or schools[1] == "each_bank"

    @cached_property
    def groups(self) -> list[list[str]]:
        """The holes that are open together, group after group."""
        banks: dict[str, list[str]] = {}
        for hole in self.holes:
            bank = self.engine.cylinders[self.engine.holes[hole][0]].bank
            banks.setdefault(bank if self.by_bank else "", []).append(hole)
        groups = list(banks.values())
        if self._one_at_a_time():
            return [[hole] for group in groups for hole in group]
        if self.rules.school("height_reference") == "one_stays" and len(groups[-1]) > 1:
            groups[-1:] = [groups[-1][:-1], groups[-1][-1:]]
        return groups

    def _one_at_a_time(self) -> bool:
        school = self.rules.school("open_at_once")
        return school == "one_at_a_time" or (school == "by_ignition" and self.item == "lead")

    def start_between(self) -> bool:
        """Whether the engine can run between two banks: nothing it needs has been moved."""
        return self.by_bank and not any(self.part(n).needed_to_run for n in self.moves)

    def difficulty(self, hole: str) -> float:
        """What it costs to get at a hole, for ordering: moves that serve it, then the well."""
        moved = sum(self.problem.cost[n] for n in self._served.get(hole, ()))
        return moved + 100 * self.well_factor(hole)

    @cached_property
    def _served(self) -> dict[str, list[Node]]:
        """For each hole, the chosen nodes that serve it."""
        found: dict[str, list[Node]] = {}
        for node in self.why:
            for hole in serves(self.why, node):
                found.setdefault(hole, []).append(node)
        return found

    def well_factor(self, hole: str) -> float:
        """How much longer an act takes in this well than in one that stands open and straight."""
        well = self.engine.holes[hole][1]
        factor = FELT if well.sight == "felt" else 1.0
        return factor * (TILTED if well.tilt.mid > TILT_DEGREES else 1.0)

    def part(self, node: Node) -> Part:
        """The part a node speaks of."""
        return self.engine.parts[node.part]

    def way(self, node: Node) -> Way:
        """The way a node chooses."""
        return self.part(node).ways[node.way]

    def released(self, node: Node) -> dict[str, Joint]:
        """The joints that let go for a chosen way."""
        part, way = self.part(node), self.way(node)
        keys = tuple(part.joints) if way.releases is None else way.releases
        return {k: part.joints[k] for k in keys}

    def because(self, node: Node) -> tuple[str, ...]:
        """The chain of reasons from a move to its holes."""
        if node not in self._because:
            said = chain(self.engine, self.why, node) or (say("because.asked"),)
            self._because[node] = said
        return self._because[node]

    @cached_property
    def blocks(self) -> list[tuple[Block, Node]]:
        """Every hindrance met, with what answers it."""
        return [(b, answered_by(b, self.way_in)) for b in active_blocks(self.problem, self.way_in)]

    def rounds(self, target: Target) -> list[tuple[Part, WorkRound]]:
        """The work-rounds that have to be used at a target."""
        return [
            (self.part(n), self.engine.hindrances[n.index].rounds[n.round])
            for n in self._round_nodes(target)
        ]

    def round_minutes(self, target: Target, way: str) -> float:
        """The extra minutes, out or back, of working round what stays at a target.

        A work-round is paid for once; where it serves several targets, each carries its share.
        """
        total = 0.0
        for node in self._round_nodes(target):
            work = self.engine.hindrances[node.index].rounds[node.round]
            total += (work.out if way == "out" else work.back).mid / self._round_uses[node]
        return total

    def _round_nodes(self, target: Target) -> list[Node]:
        return self._rounds_at.get(target, [])

    @cached_property
    def _rounds_at(self) -> dict[Target, list[Node]]:
        found: dict[Target, list[Node]] = {}
        for block, node in self.blocks:
            if not node.is_way:
                found.setdefault(block.target, []).append(node)
        return found

    @cached_property
    def _round_uses(self) -> Counter[Node]:
        return Counter(n for _, n in self.blocks if not n.is_way)

    def round_notes(self, target: Target) -> str:
        """What to do about the parts that stay in the way at a target."""
        return " ".join(
            say("round", part=part.name, note=f"{work.note or say(f'round.{work.kind.value}')}.")
            + (
                f" {say('skills', skills=listed([word(self.engine, s) for s in work.skills]))}"
                if work.skills
                else ""
            )
            for part, work in self.rounds(target)
        )

    def isolates(self) -> bool:
        """Whether the job calls for the battery to be isolated."""
        joints = [j for n in self.moves for j in self.released(n).values()]
        return any(j.isolate or j.carries.value == "fuel" for j in joints)


def name_of(joint: Joint) -> str:
    """Count and name: ``6 bolts`` or ``connector``."""
    one, many = (joint.name, joint.name) if joint.name else lore(joint.kind).noun
    if joint.count > 1:
        return say("joint.many", count=joint.count, noun=many)
    return say("joint.one", noun=one)
