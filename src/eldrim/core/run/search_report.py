"""What a search for a cause leaves to be watched, and what it says of itself afterwards."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from eldrim.core.procedure.model import CauseSearch, Plan
from eldrim.core.run.path import GONE, OUTCOME, Path, where_now
from eldrim.core.run.state import RunState
from eldrim.core.words import listed, say

# Less likely than this is ruled out.
RULED_OUT = 0.005


@dataclass(frozen=True)
class ActTold:
    """An act of the path with what came of it, when and by whom; and the likeliest cause then."""

    title: str
    outcome: str
    by: str
    at: datetime | None
    likeliest: str


@dataclass(frozen=True)
class SearchTold:
    """A search as it is read: the path, what is likely, what is ruled out and how surely.

    ``likely`` holds causes with their likelihood, ``moved`` where what changed places is.
    """

    complaint: str
    path: tuple[ActTold, ...]
    likely: tuple[tuple[str, float], ...]
    ruled_out: tuple[tuple[str, float], ...]
    moved: tuple[str, ...]
    conclusion: str


def watched(plan: Plan, state: RunState) -> dict[str, str]:
    """What is watched after a proven repair, in words by the step that proved it."""
    path = state.path(plan)
    if plan.search is None or path is None or path.proven is None:
        return {}
    words = say("find.watched", job=plan.title, cause=proven_words(plan.search, path))
    return {plan.search.acts[path.proven.act].sees: words}


def proven_words(search: CauseSearch, path: Path) -> str:
    """The causes that were cured, in words."""
    if path.proven is None:
        return ""
    if path.proven.outcome == GONE:
        return say("find.watch_gone")
    return listed(
        [c.title for c, share in zip(search.causes, path.beliefs, strict=True) if share > RULED_OUT]
    )


def told(plan: Plan, state: RunState, called: Mapping[str, str] | None = None) -> SearchTold | None:
    """A search as it is read in the log and on the run sheet; None for another run.

    ``called`` is how people are called by the name they sign in with.
    """
    path, search = state.path(plan), plan.search
    if path is None or search is None:
        return None
    causes = sorted(
        ((cause.title, share) for cause, share in zip(search.causes, path.beliefs, strict=True)),
        key=lambda one: (-one[1], one[0]),
    )
    proven = proven_words(search, path)
    moved = tuple(
        say(f"find.moved.{what}", cylinder=one, place=other)
        for what, places in where_now(search, state.closings).items()
        for one, other in sorted(places.items())
    )
    return SearchTold(
        complaint=search.complaint,
        path=tuple(_acts(plan, path, called or {})),
        likely=tuple(one for one in causes if one[1] >= RULED_OUT),
        ruled_out=tuple(one for one in causes if one[1] < RULED_OUT),
        moved=moved,
        conclusion=say("find.proven", cause=proven) if proven else say("find.open_end"),
    )


def _acts(plan: Plan, path: Path, called: Mapping[str, str]) -> list[ActTold]:
    assert plan.search is not None
    said = {step.key: step.readings for step in plan.steps}
    found = []
    for taken in path.taken:
        act = plan.search.acts[taken.act]
        reading = next(r for r in said[act.sees] if r.key == OUTCOME)
        words = dict(zip(reading.choices, reading.shown, strict=True))
        best = max(range(len(taken.beliefs)), key=lambda n: taken.beliefs[n])
        found.append(
            ActTold(
                title=act.title,
                outcome=words.get(taken.outcome, say("find.not_said")),
                by=called.get(taken.said.by, taken.said.by) if taken.said else "",
                at=taken.said.written if taken.said else None,
                likeliest=f"{plan.search.causes[best].title} {taken.beliefs[best] * 100:.0f} %",
            )
        )
    return found
