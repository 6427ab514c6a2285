"""An engine copied as the beginning of another: its drawing is kept, what was read is not."""

from eldrim.core.engine.model import TO_BE_STATED, TO_STATE, UNSTATED, Engine, Figure
from eldrim.core.words.messages import gettext


def copied(engine: Engine, key: str, make: str, name: str) -> Engine:
    """Return the copy under its own name.

    Under another make no figure, plug or part number of it is a fact: each is to be stated, the
    old value standing as a hint with where it comes from.
    """
    made = engine.model_copy(update={"id": key, "make": make, "name": name, "revision": 1})
    if make.casefold() == engine.make.casefold():
        return made
    document = made.model_dump(mode="json", exclude_defaults=True)
    document["format"] = made.format
    document["sources"] = {TO_STATE: {"document": UNSTATED, "edition": "none"}}
    hint = gettext("as on {make} {engine}", make=engine.make, engine=engine.name)
    document["figures"] = {
        figure: [_hinted(stated, hint) for stated in _one_a_variant(found)]
        for figure, found in made.figures.items()
    }
    for plug in document["plugs"]:
        unread = dict.fromkeys(("part_number", "heat_range"), TO_BE_STATED)
        plug.update(unread, source=TO_STATE, page=hint[:80])
    for carrier in (*document.get("coils", ()), *document.get("leads", ())):
        carrier["part_number"] = TO_BE_STATED
        carrier.pop("boot_part", None)
    for part_key, part in document["parts"].items():
        for joint_key, joint in part.get("joints", {}).items():
            if made.parts[part_key].joints[joint_key].part_number:
                joint["part_number"] = TO_BE_STATED
    return Engine.model_validate(document)


def _one_a_variant(found: tuple[Figure, ...]) -> list[Figure]:
    """The figures without their rivals: of those for the same variants the first."""
    return list({figure.variants: figure for figure in reversed(found)}.values())


def _hinted(figure: Figure, hint: str) -> dict[str, object]:
    """A figure as a hint: its value, and that its source is still to be stated."""
    plain = figure.model_dump(mode="json", exclude_defaults=True)
    for said in ("settled", "confirmed"):
        plain.pop(said, None)
    return {**plain, "source": TO_STATE, "page": hint[:80]}
