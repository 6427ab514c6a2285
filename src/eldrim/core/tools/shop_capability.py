"""What a shop can do on one engine with its crib: asked by the planner before it offers a way."""

from eldrim.core.base.by_object import ByObject
from eldrim.core.engine.joints import JOINT_RULES
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Joint, Part, Way, WorkRound
from eldrim.core.figures.sheet import joint_window
from eldrim.core.figures.torque import Window
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.demand import Demand, TurnAction, of_joint
from eldrim.core.tools.missing_tools import MissingTool, missing_by_name, missing_for
from eldrim.core.tools.stack_finder import StackQuestion, offers, stack_finder_for
from eldrim.core.words.language import spoken


class ShopCapability:
    """One engine and variant, the house rules, one crib."""

    def __init__(self, engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> None:
        """Remember whose tools these are."""
        self.engine, self.variant, self.rules, self.crib = engine, variant, rules, crib
        self.finder = stack_finder_for(crib)
        self._held: dict[int, Joint] = {}
        self._asked: dict[int, list[StackQuestion]] = {}
        self._can: dict[int, bool] = {}
        self._fewest: dict[int, int] = {}
        self._demands: dict[tuple[Demand, str, str], Demand] = {}

    def can(self, way: Way | WorkRound, part: Part) -> bool:
        """Whether every tool a way or work-round takes is in the crib."""
        if any(not self.crib.has(tool) for tool in way.tools):
            return False
        return all(self._can_do(j) for j in _released(way, part))

    def _can_do(self, joint: Joint) -> bool:
        key = self._key(joint)
        if key not in self._can:
            self._can[key] = not self.blocked(joint)
        return self._can[key]

    def blocked(self, joint: Joint) -> bool:
        """Whether the crib lacks something for letting a joint go and making it up again."""
        if joint.turned:
            return not all(self.finder.possible(*asked) for asked in self.questions(joint))
        tool = JOINT_RULES[joint.kind].tool
        return tool is not None and not self.crib.has(tool)

    def _key(self, joint: Joint) -> int:
        """By what a joint is known; it is held, so that no other comes to have its place."""
        key = id(joint)
        self._held[key] = joint
        return key

    def _same(self, demand: Demand) -> Demand:
        """One object for all fasteners that ask the same: it is compared often."""
        return self._demands.setdefault((demand, demand.id, demand.what), demand)

    def lacks(self, way: Way | WorkRound, part: Part) -> tuple[MissingTool, ...]:
        """What keeps this shop from a way or work-round, each with what would help."""
        found = [s for tool in way.tools if (s := missing_by_name(self.crib, tool))]
        for joint in _released(way, part):
            found += self.of_joint(joint)
        return tuple(dict.fromkeys(found))

    def of_joint(self, joint: Joint) -> tuple[MissingTool, ...]:
        """What is lacking to let one joint go and make it up again."""
        tool = JOINT_RULES[joint.kind].tool
        if not joint.turned:
            lacking = missing_by_name(self.crib, tool) if tool else None
            return (lacking,) if lacking else ()
        found = [missing_for(self.finder, *asked) for asked in self.questions(joint)]
        return tuple(s for s in found if s)

    def questions(self, joint: Joint) -> list[StackQuestion]:
        """What a fastener asks for: break loose, run out, and torque or tighten."""
        key = self._key(joint)
        if key not in self._asked:
            self._asked[key] = self._questions(joint)
        return self._asked[key]

    def fewest_pieces(self, joint: Joint) -> int:
        """The fewest pieces of any stack that turns a fastener; 1 where nothing does."""
        key = self._key(joint)
        if key not in self._fewest:
            offered = [offers(self.finder.answer(*asked)) for asked in self.questions(joint)]
            pieces = [len(choice.stack.ids) for choices in offered for choice in choices]
            self._fewest[key] = min(pieces, default=1)
        return self._fewest[key]

    def _questions(self, joint: Joint) -> list[StackQuestion]:
        demand = self._same(of_joint(self.engine, joint))
        stated = joint_window(self.engine, joint, self.variant, self.rules)
        last: tuple[TurnAction, Window | None] = (
            (TurnAction.TORQUE, stated[1]) if stated else (TurnAction.TIGHTEN, None)
        )
        return [
            (demand, TurnAction.BREAK_LOOSE, None),
            (demand, TurnAction.RUN_OUT, None),
            (demand, *last),
        ]


# What was found of so many engines is kept for the next question on the same one.
MAX_KEPT = 32
_kept: ByObject[ShopCapability] = ByObject(MAX_KEPT)


def capability_for(engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> ShopCapability:
    """What a shop can do on an engine, kept for the next question in the same language."""
    return _kept.of(
        engine,
        lambda: ShopCapability(engine, variant, rules, crib),
        # What is kept holds the rules and the crib, so no others come to have their places.
        *(variant, id(rules), id(crib), spoken()),
    )


def _released(way: Way | WorkRound, part: Part) -> list[Joint]:
    return [] if isinstance(way, WorkRound) else list(part.released(way).values())
