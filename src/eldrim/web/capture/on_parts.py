"""Acts on the parts of the board: put on, moved, shaped, described."""

from starlette.datastructures import FormData

from eldrim.core.capture import edits, outlines
from eldrim.core.capture.part_access import part_of
from eldrim.core.engine import Engine
from eldrim.core.engine.parts import PartKind
from eldrim.core.words.messages import gettext
from eldrim.web.capture.act_form import (
    BoardAction,
    Done,
    decimal,
    part_keys,
    shift,
    variant_keys,
    whole,
    words,
)
from eldrim.web.forms import text_field


def _add(engine: Engine, part: str, form: FormData) -> Done:
    width, height = engine.layout.plan
    kind = PartKind(text_field(form, "kind"))
    made, key = edits.add_part(engine, kind, (width / 2, height / 2), text_field(form, "name"))
    return made, gettext("put on: {key}", key=made.parts[key].name), key


def _move(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.move(engine, part, *shift(form))
    return made, gettext("moved: {part}", part=made.parts[part].name), part


def _resize(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.resize(engine, part, *shift(form))
    return made, gettext("sized: {part}", part=made.parts[part].name), part


def _turn(engine: Engine, part: str, form: FormData) -> Done:
    return (
        edits.turn(engine, part),
        gettext("turned: {part}", part=part_of(engine, part).name),
        part,
    )


def _remove(engine: Engine, part: str, form: FormData) -> Done:
    return (
        edits.remove_part(engine, part),
        gettext("taken off: {part}", part=part_of(engine, part).name),
        "",
    )


def _describe(engine: Engine, part: str, form: FormData) -> Done:
    facts: dict[str, object] = {
        "name": text_field(form, "name"),
        "kind": text_field(form, "kind"),
        "level": whole(form, "level"),
        "needed_to_run": text_field(form, "needed_to_run") == "yes",
        "opens": words(form, "opens"),
        "fixed": text_field(form, "fixed") == "yes",
        "pushes_onto": part_keys(engine, form, "pushes_onto"),
    }
    if "note" in form:
        facts |= {
            "refit_after": part_keys(engine, form, "refit_after"),
            "part_number": text_field(form, "part_number") or None,
            "variants": variant_keys(engine, form),
            "note": text_field(form, "note"),
        }
    made = edits.describe(engine, part, **facts)
    return made, gettext("described: {part}", part=made.parts[part].name), part


def _move_corner(engine: Engine, part: str, form: FormData) -> Done:
    made = outlines.move_corner(engine, part, whole(form, "place"), shift(form))
    return made, gettext("corner moved: {part}", part=made.parts[part].name), part


def _new_corner(engine: Engine, part: str, form: FormData) -> Done:
    at = (decimal(form, "x"), decimal(form, "y"))
    made = outlines.add_corner(engine, part, whole(form, "place"), at)
    return made, gettext("corner put on: {part}", part=made.parts[part].name), part


def _drop_corner(engine: Engine, part: str, form: FormData) -> Done:
    made = outlines.drop_corner(engine, part, whole(form, "place"))
    return made, gettext("corner taken off: {part}", part=made.parts[part].name), part


def _mirror(engine: Engine, part: str, form: FormData) -> Done:
    made, key = outlines.mirrored(engine, part)
    return made, gettext("mirrored: {part}", part=made.parts[part].name), key


PART_ACTIONS: dict[str, BoardAction] = {
    "add": _add,
    "move": _move,
    "resize": _resize,
    "turn": _turn,
    "corner": _move_corner,
    "new-corner": _new_corner,
    "drop-corner": _drop_corner,
    "mirror": _mirror,
    "remove": _remove,
    "describe": _describe,
}
