"""The acts of a tree as they are followed on an engine: where each is done by then.

A coil that went to another cylinder is renewed there; its boot goes with it.
"""

from dataclasses import dataclass, field

from eldrim.core.faults.acts import (
    ALL_PLUGS,
    COIL,
    INJECTOR,
    LEAD,
    PLUG_ITEM,
    REPAIR,
    TEST,
    RepairRow,
    TestRow,
)
from eldrim.core.faults.strategy import Branch, Node
from eldrim.core.run.path import GONE, HANDED

# What is less likely to be come to is not followed: by then the complaint is weighed anew.
LEAST_FOLLOWED = 0.01
# What of a cylinder a cause is about; the rest stay where they are.
ITEM_OF = {"coil": COIL, "boot": COIL, "plug": PLUG_ITEM, "injector": INJECTOR, "lead": LEAD}
LOOKS_AT = {"look-boot": COIL}


@dataclass(frozen=True)
class Act:
    """A test or repair at the cylinders it is done at now; none where nothing is done at one."""

    row: TestRow | RepairRow
    cylinders: tuple[int, ...]

    @property
    def key(self) -> str:
        """What names it in the plan."""
        return "-".join((self.row.key, *map(str, self.cylinders)))

    @property
    def swaps(self) -> str:
        """What changes places, if anything does."""
        return self.row.swaps if isinstance(self.row, TestRow) else ""

    @property
    def renews(self) -> tuple[str, ...]:
        """What is new afterwards, of what could have changed places before."""
        cures = self.row.cures if isinstance(self.row, RepairRow) else ()
        return tuple(one for one in (COIL, PLUG_ITEM, INJECTOR) if one in cures)

    @property
    def hands_over(self) -> bool:
        """Whether it is handed to another."""
        return isinstance(self.row, RepairRow) and self.row.hands_over

    @property
    def runs(self) -> bool:
        """Whether the engine runs at its end."""
        return self.row.runs if isinstance(self.row, TestRow) else not self.row.hands_over

    @property
    def has_hands(self) -> bool:
        """Whether something is changed before its outcome is seen."""
        return bool(self.swaps) if isinstance(self.row, TestRow) else not self.row.hands_over


@dataclass
class Followed:
    """The tree as nodes by id, with the acts they name; ``first`` is where it begins."""

    nodes: dict[str, tuple[str, dict[str, str]]] = field(default_factory=dict)
    acts: dict[str, Act] = field(default_factory=dict)
    first: str = ""


class Follower:
    """Walks a tree once, keeping where everything is."""

    def __init__(
        self, cylinders: tuple[int, ...], partners: dict[str, int], every: tuple[int, ...]
    ):
        """``cylinders`` are those complained of, ``partners`` by test, ``every`` of the engine."""
        self._at = cylinders[0] if cylinders else 0
        self._partners, self._every = partners, every
        self._done = Followed()

    def follow(self, tree: Node) -> Followed:
        """The acts and nodes of a tree."""
        self._done.first = self._node(tree, {})
        return self._done

    def _node(self, node: Node, moved: dict[str, int]) -> str:
        act = self._act(node, moved)
        self._done.acts[act.key] = act
        name = f"n{len(self._done.nodes)}"
        then: dict[str, str] = {}
        self._done.nodes[name] = (act.key, then)
        if act.swaps:
            moved = {**moved, act.swaps: act.cylinders[1]}
            then[GONE] = ""
        for branch in node.outcomes:
            outcome = HANDED if act.hands_over else branch.outcome
            then[outcome] = self._branch(branch, moved)
        return name

    def _branch(self, branch: Branch, moved: dict[str, int]) -> str:
        if branch.node is None or branch.node.chance < LEAST_FOLLOWED:
            return ""
        return self._node(branch.node, moved)

    def _act(self, node: Node, moved: dict[str, int]) -> Act:
        row = TEST.get(node.act) or REPAIR[node.act]
        if row.needs == ALL_PLUGS:
            return Act(row, self._every)
        if not self._at:
            return Act(row, ())
        if isinstance(row, TestRow) and row.swaps:
            return Act(row, (self._at, self._partners[row.key]))
        if isinstance(row, TestRow):
            return Act(row, (moved.get(LOOKS_AT.get(row.key, ""), self._at),))
        places = {moved.get(ITEM_OF.get(cause, ""), self._at) for cause in row.cures}
        return Act(row, tuple(sorted(places)))
