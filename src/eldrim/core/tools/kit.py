"""What a shop can do on one engine with its crib: asked by the planner before it offers a way."""

from eldrim.core.engine.joints import FASTENERS, LORE
from eldrim.core.engine.model import Engine
from eldrim.core.engine.parts import Joint, Part, Way, WorkRound
from eldrim.core.figures.sheet import joint_window
from eldrim.core.figures.torque import Window
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.demand import Act, of_joint
from eldrim.core.tools.reach import Question, reach_of
from eldrim.core.tools.shortage import Shortage, named, shortage


class Kit:
    """One engine and variant, the house rules, one crib."""

    def __init__(self, engine: Engine, variant: str, rules: HouseRules, crib: Crib) -> None:
        """Remember whose tools these are."""
        self.engine, self.variant, self.rules, self.crib = engine, variant, rules, crib
        self.reach = reach_of(crib)
        self._acts: dict[int, list[Question]] = {}
        self._can: dict[int, bool] = {}

    def can(self, way: Way | WorkRound, part: Part) -> bool:
        """Whether every tool a way or work-round takes is in the crib."""
        if any(not self.crib.has(t) for t in way.tools):
            return False
        return all(self._can_do(j) for j in _released(way, part))

    def _can_do(self, joint: Joint) -> bool:
        key = id(joint)
        if key not in self._can:
            self._can[key] = not self.blocked(joint)
        return self._can[key]

    def blocked(self, joint: Joint) -> bool:
        """Whether the crib lacks something for letting a joint go and making it up again."""
        if joint.kind in FASTENERS:
            return not all(self.reach.possible(*asked) for asked in self.acts(joint))
        tool = LORE[joint.kind].tool
        return tool is not None and not self.crib.has(tool)

    def lacks(self, way: Way | WorkRound, part: Part) -> tuple[Shortage, ...]:
        """What keeps this shop from a way or work-round, each with what would help."""
        found = [s for t in way.tools if (s := named(self.crib, t))]
        for joint in _released(way, part):
            found += self.of_joint(joint)
        return tuple(dict.fromkeys(found))

    def of_joint(self, joint: Joint) -> tuple[Shortage, ...]:
        """What is lacking to let one joint go and make it up again."""
        tool = LORE[joint.kind].tool
        if joint.kind not in FASTENERS:
            lacking = named(self.crib, tool) if tool else None
            return (lacking,) if lacking else ()
        found = [shortage(self.reach, *asked) for asked in self.acts(joint)]
        return tuple(s for s in found if s)

    def acts(self, joint: Joint) -> list[Question]:
        """What a fastener asks for: break loose, run out, and torque or tighten."""
        key = id(joint)
        if key not in self._acts:
            self._acts[key] = self._questions(joint)
        return self._acts[key]

    def _questions(self, joint: Joint) -> list[Question]:
        demand = of_joint(self.engine, joint)
        stated = joint_window(self.engine, joint, self.variant, self.rules)
        last: tuple[Act, Window | None] = (Act.TORQUE, stated[1]) if stated else (Act.SNUG, None)
        return [(demand, Act.LOOSE, None), (demand, Act.RUN, None), (demand, *last)]


def _released(way: Way | WorkRound, part: Part) -> list[Joint]:
    if isinstance(way, WorkRound):
        return []
    keys = tuple(part.joints) if way.releases is None else way.releases
    return [part.joints[k] for k in keys]
