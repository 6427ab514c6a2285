"""The areas of the desk, by what people do there: prepare, do, look back."""

from dataclasses import dataclass, field


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
        "Prepare",
        (
            ("/engines", "Engines"),
            ("/procedures", "Procedures"),
            ("/crib", "Crib"),
            ("/rules", "House rules"),
            ("/units", "Units"),
        ),
        more=("/editions", "/capture", "/take-in", "/changed-underneath"),
    ),
    Area(
        "Do",
        (
            ("/bay", "Bay"),
            ("/floor", "Floor"),
            ("/due", "Due"),
            ("/week", "Week"),
            ("/open", "Still open"),
        ),
        begins={"lead": "/floor"},
    ),
    Area("Look back", (("/log", "Log"), ("/lessons", "Lessons"), ("/parts", "Parts"))),
)
