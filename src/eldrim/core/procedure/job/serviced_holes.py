"""Which holes a job opens, with what in them, in which order and groups."""

from functools import cached_property

from eldrim.core.access.chosen_ways import ChosenWays
from eldrim.core.engine import Engine, Target, applies
from eldrim.core.engine.model import Coil, Lead, Plug
from eldrim.core.engine.targets import hole_order
from eldrim.core.figures.sheet import plug_of
from eldrim.core.job import Job, Work, carrier_cylinders, renewed_cylinders
from eldrim.core.procedure.job.minutes import FELT_FACTOR, TILTED_FACTOR, TILTED_FROM_DEGREES
from eldrim.core.procedure.job.pieces import piece_joints
from eldrim.core.rules.house import HouseRules

# From so much clear height on a well is in the open, in mm.
ROOMY_MM = 300.0


class ServicedHoles:
    """Answers what is serviced: plug, carrier of the spark, holes, their order and their groups."""

    def __init__(self, engine: Engine, job: Job, rules: HouseRules, ways: ChosenWays) -> None:
        """Keep what the answers follow from."""
        self.engine, self.job, self.rules, self.ways = engine, job, rules, ways

    @cached_property
    def plug(self) -> Plug:
        """The plug of the job's variant."""
        return plug_of(self.engine, self.job.variant)

    @cached_property
    def carrier(self) -> Coil | Lead:
        """What brings the spark to each plug: the coil on it, or its lead."""
        on_plug = self.engine.ignition.kind == "coil_on_plug"
        items: tuple[Coil | Lead, ...] = self.engine.coils if on_plug else self.engine.leads
        return next(item for item in items if applies(item.variants, self.job.variant))

    @property
    def item(self) -> str:
        """The id of the carrier: ``coil`` or ``lead``."""
        return "coil" if isinstance(self.carrier, Coil) else "lead"

    @cached_property
    def renewed(self) -> frozenset[str]:
        """The holes whose coil or lead is renewed."""
        return frozenset(
            self.engine.holes_of_all(renewed_cylinders(self.job, self.engine, self.rules))
        )

    @property
    def connector_while_moving(self) -> bool:
        """Whether the connector comes off, and goes on, while the coil is loose."""
        short = isinstance(self.carrier, Coil) and self.carrier.short_loom
        return short or self.rules.school["coil_joint_first"] == "connector"

    @property
    def boot_greased(self) -> bool:
        """Whether the boots come greased."""
        return isinstance(self.carrier, Coil) and self.carrier.boot_greased

    @property
    def plugs_out(self) -> bool:
        """Whether the job takes plugs out."""
        return Work.PLUG in self.job.work

    @cached_property
    def plug_holes(self) -> frozenset[str]:
        """The holes whose plug comes out."""
        return frozenset(self.engine.holes_of_all(self.job.at(Work.PLUG)))

    @cached_property
    def holes(self) -> list[str]:
        """The holes opened, in the order of the chosen school (docs/craft.md §20)."""
        cylinders = carrier_cylinders(self.job, self.engine, self.rules)
        holes = list(self.engine.holes_of_all(cylinders))
        school = self.rules.school["first_cylinder"]
        if school == "by_number":
            return holes
        sign = 1 if school == "easiest_first" else -1
        return sorted(holes, key=lambda hole: (sign * self.difficulty(hole), holes.index(hole)))

    @property
    def by_number(self) -> list[str]:
        """The holes opened, by their numbers."""
        return sorted(self.holes, key=hole_order)

    def rank(self, hole: str | None) -> int:
        """The place of a hole in the order of the school; 0 for what is at no hole."""
        return self.holes.index(hole) if hole in self.holes else 0

    @cached_property
    def by_bank(self) -> bool:
        """Whether each bank is finished, and started where it can be, before the next."""
        first, start = self.rules.school["first_cylinder"], self.rules.school["first_start"]
        return first == "bank_by_bank" or start == "each_bank"

    def bank_of(self, hole: str) -> str:
        """The bank a hole is in."""
        return self.engine.cylinders[self.engine.holes[hole][0]].bank

    @cached_property
    def groups(self) -> list[list[str]]:
        """The holes that are open together, group after group."""
        banks: dict[str, list[str]] = {}
        for hole in self.holes:
            banks.setdefault(self.bank_of(hole) if self.by_bank else "", []).append(hole)
        groups = list(banks.values())
        stays = self.rules.school["height_reference"] == "one_stays"
        if self._one_at_a_time():
            groups = [[hole] for group in groups for hole in group]
        elif stays and groups and len(groups[-1]) > 1:
            groups[-1:] = [groups[-1][:-1], groups[-1][-1:]]
        return self._together(groups)

    def _together(self, groups: list[list[str]]) -> list[list[str]]:
        """The same with all open at once that companion work needs open."""
        for key in self.job.companions:
            needed = set(self.engine.holes_of_all(self.engine.companions[key].coils_off))
            met = [group for group in groups if needed & set(group)]
            if len(met) > 1:
                joined = [hole for group in met for hole in group]
                groups = [joined if g is met[0] else g for g in groups if g not in met[1:]]
        return groups

    def _one_at_a_time(self) -> bool:
        school = self.rules.school["open_at_once"]
        return school == "one_at_a_time" or (school == "by_ignition" and self.item == "lead")

    def start_between(self) -> bool:
        """Whether the engine can run between two banks: nothing it needs has been moved."""
        moved = map(self.ways.part, self.ways.moves)
        return self.by_bank and not any(part.needed_to_run for part in moved)

    def isolates(self) -> bool:
        """Whether the battery is isolated: for the job, a joint on the way or one at the holes."""
        return self.ways.isolates() or self.isolates_anyway()

    def isolates_anyway(self) -> bool:
        """Whether the battery is isolated whatever is moved to get at the work."""
        joints = [*(self.carrier.joints.values() if self.holes else ())]
        joints += piece_joints(self.job, self.engine)
        return self.engine.layout.isolate or any(joint.isolate for joint in joints)

    @property
    def reference(self) -> str:
        """The hole whose coil stays fitted while the others are out; empty where none does."""
        if self.rules.school["height_reference"] != "one_stays" or self._one_at_a_time():
            return ""
        return self.groups[-1][0] if len(self.groups) > 1 and self.item == "coil" else ""

    def difficulty(self, hole: str) -> float:
        """How hard the work is at a hole itself, in minutes, for ordering.

        By feel or leaning, work-rounds of its own, a tight or narrow place, a deep well. What has
        to be off before counts nothing: it is off by then.
        """
        well = self.engine.holes[hole][1]
        items = (self.item, "plug") if hole in self.plug_holes else (self.item,)
        rounds = sum(
            self.ways.round_minutes(Target(hole=hole, item=item), direction)
            for item in items
            for direction in ("out", "back")
        )
        room = well.room_open or (None if hole in self.ways.opened_holes else well.room_above)
        tight = 0.0 if room is None else max(0.0, ROOMY_MM - room.mid) / ROOMY_MM
        narrow = 0.0 if well.swing is None else max(0.0, 90.0 - well.swing.mid) / 90
        deep = well.depth.mid / 1000
        return 4 * (self.well_factor(hole) - 1) + rounds + tight + narrow + deep

    def well_factor(self, hole: str) -> float:
        """How much longer an act takes in this well than in one that stands open and straight."""
        well = self.engine.holes[hole][1]
        factor = FELT_FACTOR if well.sight == "felt" else 1.0
        return factor * (TILTED_FACTOR if well.tilt.mid > TILTED_FROM_DEGREES else 1.0)
