"""Two people changed the same step: what both did, and what only a person can settle."""

from dataclasses import dataclass

from eldrim.core.procedure.editions.edits import Edit
from eldrim.core.words.messages import gettext_lazy

# What a trainer can change about a step, and how a clash over it is named.
FIELDS = {
    "text": gettext_lazy("Wording"),
    "note": gettext_lazy("Note"),
    "left_out": gettext_lazy("Left out"),
    "hold": gettext_lazy("Hold point"),
    "cautions": gettext_lazy("Cautions added"),
    "detail": gettext_lazy("How"),
    "minutes": gettext_lazy("Minutes"),
    "tools": gettext_lazy("Tools added"),
    "readings": gettext_lazy("Readings added"),
    "photos": gettext_lazy("Photos"),
    "own": gettext_lazy("Step of your own"),
    "placed": gettext_lazy("Place"),
    "apart": gettext_lazy("Goes by itself"),
}
# Where both are worth keeping, one is put after the other.
JOINED = frozenset({"note", "cautions", "photos", "tools", "readings"})


@dataclass(frozen=True)
class Clash:
    """One thing that both changed, each otherwise. ``both`` keeps the two, where that is sense."""

    field: str
    theirs: object
    mine: object
    both: object | None = None

    @property
    def name(self) -> str:
        """What it is called on the page."""
        return FIELDS[self.field]


def merge(base: Edit, theirs: Edit, mine: Edit) -> tuple[Edit, tuple[Clash, ...]]:
    """Return the edit with what each changed since ``base``, and what both changed otherwise.

    Where they clash the merged edit has theirs: nothing of theirs is gone unless a person says so.
    """
    taken: dict[str, object] = {}
    clashes = []
    for name in FIELDS:
        was, one, other = (getattr(e, name) for e in (base, theirs, mine))
        if one == was and other != was:
            taken[name] = other
        elif other not in (was, one):
            clashes.append(Clash(name, one, other, _both(name, one, other)))
    if "text" in taken:
        taken["computed"] = mine.computed
    return theirs.model_copy(update=taken), tuple(clashes)


def _both(name: str, theirs: object, mine: object) -> object | None:
    if name not in JOINED or not (theirs and mine):
        return None
    if isinstance(theirs, str):
        joined = f"{theirs} {mine}"
        return joined if len(joined) <= 1000 else None
    assert isinstance(theirs, tuple)
    assert isinstance(mine, tuple)
    most = 5 if name == "cautions" else 6
    found = tuple(dict.fromkeys((*theirs, *mine)))
    return found if len(found) <= most else None
