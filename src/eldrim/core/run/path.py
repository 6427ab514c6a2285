"""Where a search for a cause stands: the branches taken, what is ruled out, what is done there.

The tablet follows the same tree by the same data (static/bay/rules.js).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from eldrim.core.procedure.model import CauseSearch, Plan, SearchAct, Step
from eldrim.core.run.entries import EntryKind, Recorded

# The reading that says what came of an act, and what it may say.
OUTCOME = "outcome"
YES, NO, GONE, CURED, NOT_CURED, HANDED = "yes", "no", "gone", "cured", "not", "handed"
# The place at which nothing is left to be found; those of an act are ``act/hands`` and ``act/see``.
END, HANDS, SEE = "end", "hands", "see"
Closings = Mapping[str, Recorded]
Values = Mapping[tuple[str, str], Recorded]


@dataclass(frozen=True)
class Taken:
    """One act that came to something; ``outcome`` is empty where it could not be done.

    ``beliefs`` are how likely each cause was after it, ``said`` the entry that says so.
    """

    act: str
    outcome: str
    beliefs: tuple[float, ...]
    said: Recorded | None


@dataclass(frozen=True)
class Path:
    """The branches taken, and where the search stands now."""

    place: str
    taken: tuple[Taken, ...]
    beliefs: tuple[float, ...]

    @property
    def proven(self) -> Taken | None:
        """The act that cured it, or after which it was gone; None while nothing did."""
        last = self.taken[-1] if self.taken else None
        return last if last and last.outcome in (CURED, GONE) else None


def place_of(act: str, stage: str) -> str:
    """The name of a place."""
    return f"{act}/{stage}"


def walk(search: CauseSearch, closings: Closings, values: Values) -> Path:
    """Follow the outcomes written down from the first act to where the search stands."""
    beliefs = tuple(cause.probability for cause in search.causes)
    taken: list[Taken] = []
    node = search.first
    while node in search.nodes:
        name = search.nodes[node].act
        act = search.acts[name]
        if act.hands and act.hands not in closings:
            return Path(place_of(name, HANDS), tuple(taken), beliefs)
        left_out = bool(act.hands) and closings[act.hands or ""].entry.kind is EntryKind.SKIP
        closing = closings.get(act.sees)
        if closing is None and not left_out:
            return Path(place_of(name, SEE), tuple(taken), beliefs)
        said = values.get((act.sees, OUTCOME))
        skipped = left_out or (closing is not None and closing.entry.kind is EntryKind.SKIP)
        outcome = "" if skipped or said is None else str(said.entry.value)
        beliefs = after(act, outcome, beliefs)
        taken.append(Taken(name, outcome, beliefs, said or closing))
        node = search.nodes[node].then.get(outcome, "")
    return Path(END, tuple(taken), beliefs)


def after(act: SearchAct, outcome: str, beliefs: tuple[float, ...]) -> tuple[float, ...]:
    """How likely each cause is once an act came to this; unchanged where it tells nothing."""
    if outcome in (YES, NO):
        told = [yes if outcome == YES else 1 - yes for yes in act.likely]
    elif outcome in (CURED, NOT_CURED):
        told = [float((n in act.cures) == (outcome == CURED)) for n in range(len(beliefs))]
    else:
        return beliefs
    weights = [belief * weight for belief, weight in zip(beliefs, told, strict=True)]
    whole = sum(weights)
    return tuple(weight / whole for weight in weights) if whole > 0 else beliefs


def applying(plan: Plan, closings: Closings, values: Values) -> Callable[[Step], bool]:
    """Tells of a step whether it belongs to the branch a search has taken.

    Every step of a plan that searches for nothing does.
    """
    place = walk(plan.search, closings, values).place if plan.search else ""

    def applies(step: Step) -> bool:
        if step.places and place not in step.places:
            return False
        before = [closings[key] for key in step.only_after if key in closings]
        return not step.only_after or any(c.entry.kind is not EntryKind.SKIP for c in before)

    return applies


def where_now(search: CauseSearch, closings: Closings) -> dict[str, dict[int, int]]:
    """By what changed places: for each cylinder whose part is elsewhere, where it is now.

    What was renewed since is nowhere any more.
    """
    found: dict[str, dict[int, int]] = {}
    done = [act for act in search.acts.values() if act.hands and _was_done(closings, act.hands)]
    for act in done:
        if act.swaps:
            one, other = act.cylinders
            found[act.swaps] = {one: other, other: one}
    for item, at in found.items():
        new = {n for act in done if item in act.renews for n in act.cylinders}
        found[item] = {came: place for came, place in at.items() if place not in new}
    return found


def _was_done(closings: Closings, step: str) -> bool:
    return step in closings and closings[step].entry.kind is not EntryKind.SKIP
