"""What a reader of a procedure has to know of the whole, before the first step."""

from eldrim.core.procedure.editions.fold import left_out_acts
from eldrim.core.procedure.model import Plan
from eldrim.core.rules.topics import BY_KEY
from eldrim.core.words import say


def standing_notes(plan: Plan, *, left_out: bool = True) -> list[str]:
    """Departures from the house's schools, what was left out, what was accepted, other notes.

    What was left out is not said where the page lists it anyway.
    """
    notes = [
        say("doc.departs", topic=_with_school(topic, gone.school), reason=gone.reason)
        for topic, gone in plan.departures.items()
    ]
    if left_out:
        acts = left_out_acts(plan.left_out)
        notes += [say("doc.left_out", text=o.text, reason=o.reason) for o in acts]
    if plan.accepted:
        points = "; ".join(point.text for point in plan.open_points)
        notes.append(say("doc.accepted", points=points, reason=plan.accepted))
    return [*notes, *plan.notes]


def _with_school(topic: str, school: str) -> str:
    """A topic and the school chosen for it, by their names; one no longer known by its key."""
    known = BY_KEY.get(topic)
    if known is None:
        return topic.replace("_", " ")
    names = {one.key: one.name for one in known.schools}
    return f"{known.name}: {names.get(school, school.replace('_', ' '))}"
