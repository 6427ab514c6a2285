"""The cheapest set of ways for the whole job, exactly.

Depth-first branch and bound over the options of open blocks. A block is settled once one of its
options is chosen; choosing a node opens that node's own blocks. A part moves in at most one way,
and no part may have to be off before itself. The lower bound adds, for open blocks with no option
in common, the cheapest option of each. docs/planner.md tells the method and why it is exact.
"""

from dataclasses import dataclass, field

from eldrim.core.access.problem import AccessProblem, MetHindrance, Option
from eldrim.core.errors import EldrimError

# Past this many search nodes the rest is handed to a general solver; small problems never are.
NODE_LIMIT = 120
SMALL = 60


class NoWayInError(EldrimError):
    """Nothing opens the job; ``chain`` names the parts that end it, outermost first."""

    def __init__(self, chain: tuple[str, ...], loop: bool) -> None:
        """Keep the chain so that the caller can name the parts as people do."""
        self.chain, self.loop = chain, loop
        super().__init__(" → ".join(chain))


@dataclass(frozen=True)
class WayIn:
    """The chosen nodes, their cost, and what is known about cheaper ones.

    ``bound`` is a proven lower limit of any answer's cost; equal to ``cost`` when proven.
    """

    chosen: frozenset[Option]
    cost: int
    bound: int

    @property
    def proven(self) -> bool:
        """Whether no cheaper set exists."""
        return self.bound == self.cost


# One node more is a tie-breaker far below any real cost: of two equal sums the shorter list wins.
_TIE = 1000
LOOP_CUTS = 200


@dataclass
class _State:
    chosen: dict[Option, None] = field(default_factory=dict)
    barred: set[Option] = field(default_factory=set)
    parts: dict[str, Option] = field(default_factory=dict)
    cost: int = 0
    opened: list[MetHindrance] = field(default_factory=list)

    def copy(self) -> "_State":
        return _State(
            dict(self.chosen), set(self.barred), dict(self.parts), self.cost, list(self.opened)
        )


def solve(problem: AccessProblem, node_limit: int = NODE_LIMIT) -> WayIn:
    """Return the cheapest way in.

    Raises :class:`NoWayInError` when none exists. When neither our search nor the general solver
    ends within its limit, the best found is returned with ``bound`` below ``cost``.
    """
    if len(problem.cost) > SMALL:
        found = refine(problem, None)
        # Only our own search can say which parts make an impossible problem impossible.
        return found if found is not None else search(problem)
    first = search(problem, node_limit)
    return first if first.proven else refine(problem, first) or first


def search(problem: AccessProblem, node_limit: int = NODE_LIMIT) -> WayIn:
    """Return what branch and bound finds within ``node_limit`` search nodes, with its bound."""
    return _Search(problem, node_limit).run()


def refine(problem: AccessProblem, start: WayIn | None) -> WayIn | None:
    """Improve ``start`` by CP-SAT until proven or its (deterministic) limit is reached.

    Loops are cut as they turn up: an answer whose parts wait for each other is forbidden, unless
    one way on the loop is dropped or one of its hindrances is worked round, and asked again.
    """
    # Only hard problems come here; the import takes longer than most whole plans.
    from eldrim.core.access.cp_sat import CpSatModel

    model = CpSatModel(problem, _TIE)
    best, bound = start, start.bound if start else 0
    for _ in range(LOOP_CUTS):
        found = model.ask(hint=best.chosen if best else frozenset())
        if found is None:
            break
        bound = max(bound, found.bound)
        loop = find_loop(problem, found.chosen)
        if not loop:
            best = found if best is None or found.cost <= best.cost else best
            break
        model.cut(loop, found.chosen)
    return WayIn(best.chosen, best.cost, min(bound, best.cost)) if best else None


class _Search:
    def __init__(self, problem: AccessProblem, node_limit: int) -> None:
        self.problem, self.left = problem, node_limit
        self.price = {key: c * _TIE + 1 for key, c in problem.cost.items()}
        self.best: _State | None = None
        self.cut_short: list[int] = []
        self.dead_end: tuple[tuple[str, ...], bool] = ((), False)

    def run(self) -> WayIn:
        root = _State(opened=list(self.problem.roots))
        for node in self.problem.forced:
            self._choose(root, node)
        self._branch(root)
        if self.best is None:
            raise NoWayInError(*self.dead_end)
        cost = self.best.cost
        bound = min([cost, *self.cut_short])
        return WayIn(frozenset(self.best.chosen), cost // _TIE, bound // _TIE)

    def _branch(self, state: _State) -> None:
        if not self._propagate(state):
            return
        limit = self.best.cost if self.best else None
        bound = self._bound(state)
        if limit is not None and bound >= limit:
            return
        if not state.opened:
            self._close(state)
            return
        if self.left <= 0 and self.best is not None:
            self.cut_short.append(bound)
            return
        self.left -= 1
        block = min(state.opened, key=lambda b: (len(self._free(state, b)), b.part, str(b.target)))
        for node in self._free(state, block):
            child = state.copy()
            self._choose(child, node)
            self._branch(child)
            state.barred.add(node)

    def _propagate(self, state: _State) -> bool:
        """Settle what is answered, take what is forced; False when a block has no answer."""
        changed = True
        while changed:
            changed = False
            for block in list(state.opened):
                if self._settled(state, block):
                    state.opened.remove(block)
                    continue
                free = self._free(state, block)
                if not free:
                    self._note_dead_end(block, loop=False)
                    return False
                if len(free) == 1:
                    self._choose(state, free[0])
                    changed = True
        return True

    def _settled(self, state: _State, block: MetHindrance) -> bool:
        return any(option in state.chosen for option in block.options)

    def _free(self, state: _State, block: MetHindrance) -> list[Option]:
        """The options still open; a part already moving one way can move in no other."""
        return [
            option
            for option in block.options
            if option not in state.barred and not (option.is_way and option.part in state.parts)
        ]

    def _choose(self, state: _State, node: Option) -> None:
        state.chosen[node] = None
        state.cost += self.price[node]
        if node.is_way:
            state.parts[node.part] = node
        state.opened.extend(self.problem.blocks.get(node, ()))

    def _close(self, state: _State) -> None:
        """Accept a complete choice, or break its loop with one more work-round.

        Every acyclic choice that contains this one answers at least one hindrance on the loop by
        a work-round, so trying each of them in turn misses nothing.
        """
        loop = find_loop(self.problem, frozenset(state.chosen))
        if not loop:
            self.best = state
            return
        self._note_dead_end(loop[0], loop=True, chain=(*(b.part for b in loop), loop[0].part))
        for node in dict.fromkeys(
            option for block in loop for option in block.options if not option.is_way
        ):
            if node not in state.barred:
                child = state.copy()
                self._choose(child, node)
                self._branch(child)
                state.barred.add(node)

    def _note_dead_end(self, block: MetHindrance, loop: bool, chain: tuple[str, ...] = ()) -> None:
        if not self.dead_end[0] or (loop and not self.dead_end[1]):
            self.dead_end = (chain or (str(block.target), block.part), loop)

    def _bound(self, state: _State) -> int:
        total, used = state.cost, set[Option]()
        for block in state.opened:
            free = self._free(state, block)
            if free and not used.intersection(free):
                used.update(free)
                total += min(self.price[option] for option in free)
        return total


def find_loop(problem: AccessProblem, chosen: frozenset[Option]) -> list[MetHindrance]:
    """Return the blocks of one loop of "must be off before" among the chosen ways, or none."""
    before: dict[str, list[MetHindrance]] = {}
    for node in sorted(chosen):
        for block in problem.blocks.get(node, ()):
            round_taken = any(option in chosen for option in block.options if not option.is_way)
            if block.target.part and not round_taken:
                before.setdefault(block.target.part, []).append(block)
    done: set[str] = set()
    return next((loop for part in sorted(before) if (loop := _visit(part, before, [], done))), [])


def _visit(
    part: str, before: dict[str, list[MetHindrance]], trail: list[MetHindrance], done: set[str]
) -> list[MetHindrance]:
    on_trail = [b.target.part for b in trail]
    if part in on_trail:
        return trail[on_trail.index(part) :]
    if part in done:
        return []
    for block in before.get(part, ()):
        loop = _visit(block.part, before, [*trail, block], done)
        if loop:
            return loop
    done.add(part)
    return []
