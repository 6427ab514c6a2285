"""What the capturing page shows for the present state of an engine."""

from functools import cached_property
from typing import Literal

from eldrim.core.capture.carrier import carriers
from eldrim.core.capture.companions import EXAMPLE, companions_text
from eldrim.core.capture.held import printed_torque
from eldrim.core.capture.intervals import intervals_line, prices_line
from eldrim.core.capture.missing import Missing, missing
from eldrim.core.capture.own_codes import own_codes_line
from eldrim.core.capture.plain_facts import letters_line, numbers_line, pairs_line
from eldrim.core.capture.propose import Proposal, proposals
from eldrim.core.capture.said_back import in_full
from eldrim.core.capture.shared import shared_line
from eldrim.core.capture.shorthand import shorthand
from eldrim.core.capture.towers import towers_line, ways_line
from eldrim.core.capture.wires import pieces_line, timing_line
from eldrim.core.engine import Part
from eldrim.core.engine.model import Coil, Cylinder, Lead, Well
from eldrim.core.engine.parts import Hindrance, Joint, PartKind, Risk, Way, WorkRound
from eldrim.core.job import possible_work
from eldrim.core.leads.ways import lead_ways
from eldrim.core.words import say
from eldrim.core.words.messages import gettext, gettext_lazy
from eldrim.drawing import board
from eldrim.store.drafts import Draft
from eldrim.web.capture.stated import (
    hindrance_words,
    round_words,
    target_words,
    way_name,
    way_words,
)
from eldrim.web.filters import worded

# What can be put on the plan, in the order it is usually met from above.
PALETTE = (
    PartKind.COVER,
    PartKind.DUCT,
    PartKind.AIR_BOX,
    PartKind.PLENUM,
    PartKind.THROTTLE_BODY,
    PartKind.LOOM,
    PartKind.HOSE,
    PartKind.BRACKET,
    PartKind.CHARGE_PIPE,
    PartKind.COOLANT_TANK,
    PartKind.TANK,
    PartKind.SEAT,
    PartKind.PANEL,
    PartKind.OTHER,
)
ANSWERS = {
    "hides": ("h", gettext_lazy("hides them")),
    "blocks_tool": ("b", gettext_lazy("blocks the tool")),
    "blocks_exit": ("e", gettext_lazy("blocks the way out")),
    "holds_short": ("s", gettext_lazy("holds them short")),
    "free": ("n", gettext_lazy("is not in the way")),
}
# What is known of a well: its field, what it is called, and whether it is the cylinder's.
WELL_FIELDS = (
    ("depth", gettext_lazy("Depth"), "well"),
    ("bore", gettext_lazy("Bore"), "well"),
    ("room_above", gettext_lazy("Room over"), "well"),
    ("sight", gettext_lazy("Seen"), "well"),
    ("note", gettext_lazy("Note for its steps"), "well"),
)
MORE_WELL_FIELDS = (
    ("bank", gettext_lazy("Bank"), "cylinder"),
    ("place", gettext_lazy("Place from the timing end"), "cylinder"),
    ("at", gettext_lazy("On the plan, mm"), "well"),
    ("tilt", gettext_lazy("Tilt"), "well"),
    ("room_open", gettext_lazy("Room once open"), "well"),
    ("surround", gettext_lazy("Stands round it"), "well"),
    ("line", gettext_lazy("Line to the handle leans"), "well"),
    ("swing", gettext_lazy("Handle swings"), "well"),
    ("confirmed", gettext_lazy("Why an odd length holds"), "well"),
)


# What is in hand is a lead, not a part: so it begins.
LEAD = "lead/"


class CapturePage:
    """Everything the page shows; ``part`` is the key of the part in hand, or ``lead/HOLE``."""

    def __init__(self, draft: Draft, part: str, said: str = "", problem: str = "") -> None:
        """Settle which part is in hand; none where it has gone."""
        self.draft, self.engine = draft, draft.engine
        self.part = part if part in draft.engine.parts else ""
        self.lead = lead_ways(draft.engine).get(part.removeprefix(LEAD))
        if part.startswith(LEAD) and self.lead:
            self.part = part
        else:
            self.lead = None
        self.said, self.problem = said, problem

    @property
    def drawing(self) -> str:
        """The plan to draw on."""
        return board.draw(self.engine, self.part)

    @property
    def holders(self) -> tuple[tuple[float, float], ...]:
        """The holders of the lead in hand, tower to plug."""
        run = self.engine.lead_runs.get(self.lead.hole) if self.lead else None
        return run.holders if run else ()

    @property
    def in_hand(self) -> Part | None:
        """The part in hand."""
        return self.engine.parts.get(self.part)

    @cached_property
    def questions(self) -> list[Proposal]:
        """What the drawing asks; questions of the part in hand come first."""
        return sorted(proposals(self.engine), key=lambda proposal: proposal.part != self.part)

    @property
    def more_questions(self) -> int:
        """How many questions wait behind the one that is asked."""
        return max(len(self.questions) - 1, 0)

    @cached_property
    def missing(self) -> list[Missing]:
        """What the sheet lacks, without what is asked above."""
        return [m for m in missing(self.engine) if not m.asked]

    @property
    def bars(self) -> bool:
        """Whether anything keeps a procedure on this sheet from being released."""
        return any(m.bars for m in self.missing) or bool(self.questions)

    def torque_of(self, joint: Joint) -> str:
        """The printed torque of a joint."""
        return printed_torque(self.engine, joint)

    def full(self, joint: Joint) -> str:
        """A joint in whole words."""
        return in_full(joint, self.torque_of(joint))

    def line(self, joint: Joint) -> str:
        """A joint as it is typed."""
        return shorthand(joint, self.torque_of(joint))

    def hindered_by(self) -> list[tuple[int, str, Hindrance]]:
        """What the part in hand stands in the way of: place on the sheet, in words, and whole."""
        return [
            (index, hindrance_words(self.engine, hindrance), hindrance)
            for index, hindrance in enumerate(self.engine.hindrances)
            if hindrance.part == self.part
        ]

    def target_words(self, target: str) -> str:
        """What a target is called."""
        return target_words(self.engine, target)

    def minutes_of(self, way: Way | WorkRound | None, name: Literal["out", "back"]) -> str:
        """Its minutes as they are typed; empty where they are estimated, or where none is."""
        if way is None or (isinstance(way, Way) and way.estimated):
            return ""
        return f"{getattr(way, name).mid:g}"

    def way_name(self, key: str, way: Way) -> str:
        """What a way is called among the ways of its part."""
        return way_name(key, way)

    def way_words(self, key: str, way: Way) -> str:
        """All that is stated of a way."""
        return way_words(key, way)

    def round_words(self, stated: WorkRound) -> str:
        """All that is stated of a work-round."""
        return round_words(self.engine, stated)

    def risks_line(self, risks: tuple[Risk, ...]) -> str:
        """Risks as they are typed."""
        return ", ".join(f"{risk.what}: {worded(risk.level)}" for risk in risks)

    def names(self, keys: tuple[str, ...]) -> list[str]:
        """What parts are called."""
        return [self.engine.parts[key].name if key in self.engine.parts else key for key in keys]

    @property
    def carriers(self) -> list[tuple[int, Coil | Lead]]:
        """The coils or leads, each with its place."""
        return list(enumerate(carriers(self.engine)))

    @property
    def carrier_words(self) -> str:
        """What they are called."""
        return (
            gettext("The coil on each plug")
            if self.engine.coils
            else gettext("The lead to each plug")
        )

    @property
    def marks(self) -> str:
        """What stands on the coils, looms or leads, cylinder by cylinder; empty where nothing."""
        marks = [cylinder.mark for cylinder in self.engine.cylinders.values()]
        return ", ".join(marks) if any(marks) else ""

    @property
    def shared(self) -> str:
        """What some cylinders share, as it is typed."""
        return shared_line(self.engine)

    @property
    def towers(self) -> str:
        """The distributor or the pack, as it is typed."""
        return towers_line(self.engine)

    @property
    def lead_ways(self) -> str:
        """The ways of the leads, as they are typed."""
        return ways_line(self.engine)

    @property
    def pieces(self) -> str:
        """Cap, rotor, pack and the like, as they are typed."""
        return pieces_line(self.engine)

    @property
    def timing(self) -> str:
        """The timing, as it is typed."""
        return timing_line(self.engine)

    @property
    def companions(self) -> str:
        """The companion work, as it is typed."""
        return companions_text(self.engine)

    @property
    def example_companion(self) -> str:
        """How one is typed."""
        return EXAMPLE

    @property
    def intervals(self) -> str:
        """The intervals, as they are typed."""
        return intervals_line(self.engine)

    @property
    def prices(self) -> str:
        """The prices, as they are typed."""
        return prices_line(self.engine)

    @property
    def own_codes(self) -> str:
        """The maker's own fault codes, as they are typed."""
        return own_codes_line(self.engine)

    @property
    def coil_letters(self) -> str:
        """The letters of coils, as they are typed."""
        return letters_line(self.engine.ignition.coil_letters)

    @property
    def pairs(self) -> str:
        """What sparks together, as it is typed."""
        return pairs_line(self.engine.ignition.waste_spark_pairs)

    @property
    def main_coil(self) -> str:
        """Where the tower of the main coil is, as it is typed."""
        return numbers_line(self.engine.ignition.main_coil or ())

    @property
    def plan_size(self) -> str:
        """How large the plan is, as it is typed."""
        return numbers_line(self.engine.layout.plan)

    @property
    def block(self) -> str:
        """Where the block is, as it is typed."""
        return numbers_line(self.engine.layout.block)

    def cylinder_of(self, row: str) -> Cylinder:
        """The cylinder a row of the wells belongs to."""
        return self.engine.cylinders[int(row.partition("-")[0])]

    def well_text(self, well: Well, name: str) -> str:
        """One fact of a well, as it is typed."""
        stated = getattr(well, name)
        return numbers_line(stated) if name == "at" else str(stated or "")

    @property
    def wells(self) -> list[tuple[str, str, Well]]:
        """Every well: how its fields are named, its hole, and what is known of it."""
        return [
            (
                f"{number}-{place}",
                f"{number}" if len(cylinder.wells) == 1 else f"{number}.{place + 1}",
                well,
            )
            for number, cylinder in self.engine.cylinders.items()
            for place, well in enumerate(cylinder.wells)
        ]

    @cached_property
    def targets(self) -> list[tuple[str, list[tuple[str, str]]]]:
        """All that the part in hand can be in the way of, whether drawn over it or not."""
        holes = [(f"hole/{hole}", gettext("hole {hole}", hole=hole)) for hole in self.engine.holes]
        parts = [(key, part.name) for key, part in self.engine.parts.items() if key != self.part]
        work = [work.value for work in possible_work(self.engine) if not work.at_holes]
        places = ["distributor", *work] if "cap" in work else work
        at_places = [(f"work/{place}", say(f"place.{place}")) for place in places]
        at_places += [(f"work/{key}", one.name) for key, one in self.engine.companions.items()]
        groups = [
            (gettext("Holes"), holes),
            (gettext("Parts"), parts),
            (gettext("Work"), at_places),
        ]
        groups.append((gettext("One work at a hole"), self.works_at_holes()))
        groups.append((gettext("One way of a part"), self.ways_elsewhere()))
        groups.append((gettext("Joints"), self.joints_elsewhere()))
        return [(name, found) for name, found in groups if found]

    def works_at_holes(self) -> list[tuple[str, str]]:
        """The coil, the plug or the lead of each hole alone."""
        carried = "coil" if self.engine.coils else "lead"
        targets = [f"hole/{h}/{item}" for h in self.engine.holes for item in ("plug", carried)]
        return [(target, self.target_words(target)) for target in targets]

    def ways_elsewhere(self) -> list[tuple[str, str]]:
        """The ways of other parts, each alone."""
        targets = [
            f"{key}/{way}"
            for key, part in self.engine.parts.items()
            if key != self.part
            for way in part.ways
        ]
        return [(target, self.target_words(target)) for target in targets]

    def joints_elsewhere(self) -> list[tuple[str, str]]:
        """The joints of other parts, and of coils and leads, as target and in words."""
        held = [
            (f"joint/{key}/{joint}", gettext("{joint} of {part}", joint=joint, part=part.name))
            for key, part in self.engine.parts.items()
            if key != self.part
            for joint in part.joints
        ]
        fits: list[Coil | Lead] = [*self.engine.coils, *self.engine.leads]
        item = "coil" if self.engine.coils else "lead"
        at_holes = {joint: None for fit in fits for joint in fit.joints}
        return held + [
            (
                f"hole/{hole}/{item}/{joint}",
                gettext("{joint} of {item} {hole}", joint=joint, item=item, hole=hole),
            )
            for hole in self.engine.holes
            for joint in at_holes
        ]
