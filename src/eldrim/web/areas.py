"""The areas of the desk, by what people do there: prepare, do, look back."""

from dataclasses import dataclass, field

from eldrim.core.words.messages import gettext_lazy


@dataclass(frozen=True)
class Area:
    """What is done, and the places where it is done; ``begins`` where a role begins it."""

    name: str
    places: tuple[tuple[str, str], ...]
    more: tuple[str, ...] = ()
    begins: dict[str, str] = field(default_factory=dict)

    def first(self, role: str) -> str:
        """Where somebody of this role begins."""
        return self.begins.get(role, self.places[0][0])

    def at(self, path: str) -> bool:
        """Whether a page is one of this area's."""
        return any(
            _under(path, place) for place in (*(href for href, _ in self.places), *self.more)
        )

    def stands(self, path: str, place: str) -> bool:
        """Whether a page is of this place."""
        return _under(path, place)


def _under(path: str, place: str) -> bool:
    return path == place or path.startswith(f"{place}/")


AREAS = (
    Area(
        gettext_lazy("Prepare"),
        (
            ("/engines", gettext_lazy("Engines")),
            ("/procedures", gettext_lazy("Procedures")),
            ("/crib", gettext_lazy("Crib")),
            ("/rules", gettext_lazy("House rules")),
            ("/units", gettext_lazy("Units")),
        ),
        more=("/editions", "/capture", "/take-in", "/changed-underneath"),
    ),
    Area(
        gettext_lazy("Do"),
        (
            ("/bay", gettext_lazy("Bay")),
            ("/floor", gettext_lazy("Floor")),
            ("/due", gettext_lazy("Due")),
            ("/week", gettext_lazy("Week")),
            ("/open", gettext_lazy("Still open")),
        ),
        begins={"lead": "/floor"},
    ),
    Area(
        gettext_lazy("Look back"),
        (
            ("/log", gettext_lazy("Log")),
            ("/lessons", gettext_lazy("Lessons")),
            ("/parts", gettext_lazy("Parts")),
        ),
    ),
)
