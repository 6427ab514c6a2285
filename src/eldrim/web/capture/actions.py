"""What can be done on the drawing board: each act read from its form, and what undo calls it."""

import re
from collections.abc import Callable
from typing import Any, get_args

from starlette.datastructures import FormData

from eldrim.core.capture import companions, edits, intervals, outlines
from eldrim.core.capture.carrier import hold_carrier, release_carrier, state_carrier
from eldrim.core.capture.companions import read_companions
from eldrim.core.capture.intervals import read_intervals, read_prices, source_needed
from eldrim.core.capture.lead_routes import add_holder, drop_holder, measure_lead, move_holder
from eldrim.core.capture.numbering import renumbered
from eldrim.core.capture.own_codes import read_own_codes
from eldrim.core.capture.propose import HindranceAnswer, answer
from eldrim.core.capture.shared import read_shared
from eldrim.core.capture.shorthand import understand
from eldrim.core.capture.towers import read_towers, read_ways
from eldrim.core.capture.wires import read_pieces, read_timing
from eldrim.core.engine import Engine
from eldrim.core.engine.model import TO_BE_STATED
from eldrim.core.engine.parts import HindranceKind, PartKind, WayKind
from eldrim.core.errors import EngineError, Problem, QuantityError
from eldrim.core.messages import gettext
from eldrim.core.quantity import Dimension, parse
from eldrim.web.forms import decimal_number, minutes_number, text_field, whole_number, with_unit

Done = tuple[Engine, str, str]
BoardAction = Callable[[Engine, str, FormData], Done]


def _add(engine: Engine, part: str, form: FormData) -> Done:
    width, height = engine.layout.plan
    kind = PartKind(text_field(form, "kind"))
    made, key = edits.add_part(engine, kind, (width / 2, height / 2), text_field(form, "name"))
    return made, gettext("put on: {key}", key=made.parts[key].name), key


def _move(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.move(engine, part, _float(form, "dx"), _float(form, "dy"))
    return made, gettext("moved: {part}", part=made.parts[part].name), part


def _resize(engine: Engine, part: str, form: FormData) -> Done:
    made = edits.resize(engine, part, _float(form, "dx"), _float(form, "dy"))
    return made, gettext("sized: {part}", part=made.parts[part].name), part


def _turn(engine: Engine, part: str, form: FormData) -> Done:
    return (
        edits.turn(engine, part),
        gettext("turned: {part}", part=edits.part_of(engine, part).name),
        part,
    )


def _remove(engine: Engine, part: str, form: FormData) -> Done:
    return (
        edits.remove_part(engine, part),
        gettext("taken off: {part}", part=edits.part_of(engine, part).name),
        "",
    )


def _describe(engine: Engine, part: str, form: FormData) -> Done:
    needed = text_field(form, "needed_to_run") == "yes"
    opens = _words(form, "opens")
    made = edits.describe(
        engine,
        part,
        name=text_field(form, "name"),
        kind=text_field(form, "kind"),
        level=_int(form, "level"),
        needed_to_run=needed,
        opens=opens,
        fixed=text_field(form, "fixed") == "yes",
        pushes_onto=[part_key(engine, word) for word in _words(form, "pushes_onto")],
    )
    return made, gettext("described: {part}", part=made.parts[part].name), part


def _words(form: FormData, name: str) -> list[str]:
    """The entries of a field, apart by commas."""
    return [word.strip() for word in text_field(form, name).split(",") if word.strip()]


def part_key(engine: Engine, said: str) -> str:
    """The key of a part said by key or name; what is no part is refused with those there are."""
    for key, part in engine.parts.items():
        if said.lower() in (key, part.name.lower()):
            return key
    known = ", ".join(part.name for part in engine.parts.values())
    raise EngineError(
        [
            Problem(
                "pushes_onto",
                gettext("'{said}' is no part", said=said),
                gettext("one of {known}", known=known),
            )
        ]
    )


def _joint(engine: Engine, part: str, form: FormData) -> Done:
    said = understand(text_field(form, "joint"))
    return (
        edits.add_joint(engine, part, said),
        gettext("held by: {form}", form=text_field(form, "joint")),
        part,
    )


def _unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return edits.remove_joint(engine, part, key), gettext("joint away: {key}", key=key), part


def _way(engine: Engine, part: str, form: FormData) -> Done:
    kind = WayKind(text_field(form, "kind"))
    timed = [_minutes(form, name) for name in ("out", "back")]
    chosen = tuple(str(key) for key in form.getlist("releases"))
    every = set(chosen) == set(edits.part_of(engine, part).joints)
    opens = tuple(_words(form, "opens")) or None
    released = None if every else chosen
    made = edits.set_way(engine, part, kind, timed[0], timed[1], released, opens)
    return made, gettext("way: {kind}", kind=kind.value.replace("_", " ")), part


def _unway(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return edits.remove_way(engine, part, key), gettext("way away: {key}", key=key), part


def _reply(engine: Engine, part: str, form: FormData) -> Done:
    targets = tuple(t for t in text_field(form, "targets").split(",") if t)
    said: HindranceAnswer = next(
        (a for a in get_args(HindranceAnswer) if a == text_field(form, "answer")), "free"
    )
    over = text_field(form, "over")
    return answer(engine, over, targets, said), f"{over}: {said.replace('_', ' ')}", part


def _unhinder(engine: Engine, part: str, form: FormData) -> Done:
    index = _int(form, "index")
    kept = tuple(hindrance for i, hindrance in enumerate(engine.hindrances) if i != index)
    return engine.model_copy(update={"hindrances": kept}), gettext("hindrance away"), part


def _hinder(engine: Engine, part: str, form: FormData) -> Done:
    target, kind = text_field(form, "target"), HindranceKind(text_field(form, "kind"))
    if text_field(form, "turned") and target in engine.parts:
        return (
            edits.hinder(engine, target, part, kind),
            gettext("{target} in the way of {part}", target=target, part=part),
            part,
        )
    if pieces := _words(form, "pieces"):
        target = f"{target}/{','.join(pieces)}"
    return (
        edits.hinder(engine, part, target, kind),
        gettext("in the way of {target}", target=target),
        part,
    )


# A line of several clauses is read this far: what is longer than it may be is refused, not cut.
LINE = 4_000


def _ground_facts(engine: Engine, part: str, form: FormData) -> Done:
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    names = ("timing_end", "stand", "head", "service", "charging", "fuel", "system")
    layout = {
        **plain["layout"],
        **{name: text_field(form, name) for name in names},
        "bulkhead": text_field(form, "bulkhead") or None,
        "diagnosis": text_field(form, "diagnosis") or None,
        "cooling": text_field(form, "cooling") or plain["layout"].get("cooling", "liquid"),
        "mixture": text_field(form, "mixture") or None,
        "isolate": text_field(form, "isolate") == "always",
        "battery": text_field(form, "battery"),
    }
    order = _order(engine, text_field(form, "firing_order"))
    ignition = {**plain["ignition"], "firing_order": order}
    facts: dict[str, Any] = {"format": engine.format, "layout": layout, "ignition": ignition}
    facts["shared"] = read_shared(engine, text_field(form, "shared", LINE))
    if "towers" in form:
        ignition |= read_towers(engine, text_field(form, "towers", LINE))
        facts["lead_runs"] = read_ways(engine, text_field(form, "lead_runs", LINE))
    if "own_codes" in form:
        facts["own_codes"] = read_own_codes(text_field(form, "own_codes", LINE))
    facts["cylinders"] = _marked(plain["cylinders"], text_field(form, "marks"))
    facts["banks"] = {
        key: {**bank, "name": text_field(form, f"bank-{key}") or bank["name"]}
        for key, bank in plain["banks"].items()
    }
    if "timing" in form:
        facts["timing"] = read_timing(text_field(form, "timing", LINE))
    made = Engine.model_validate({**plain, **facts})
    if "pieces" in form:
        made = read_pieces(made, text_field(form, "pieces", LINE))
    # Last: marks and wells are said in the numbers that stood on the page.
    if said := text_field(form, "numbers"):
        made = renumbered(made, [int(word) for word in re.findall(r"\d+", said)])
    return made, gettext("ground facts"), part


def _order(engine: Engine, said: str) -> list[int]:
    """The firing order as it was typed: every cylinder once."""
    order = [int(word) for word in re.split(r"[\s,;–-]+", said.strip()) if word.isdigit()]
    if sorted(order) != sorted(engine.cylinders):
        every = " ".join(map(str, sorted(engine.cylinders)))
        fix = gettext("name each of {every} once", every=every)
        raise EngineError(
            [
                Problem(
                    "firing_order", gettext("'{said}' is no order of this engine", said=said), fix
                )
            ]
        )
    return order


def _marked(cylinders: dict[str, Any], said: str) -> dict[str, Any]:
    """The cylinders with the marks said in their order, apart by commas; none where nothing is."""
    marks = [mark.strip() for mark in said.split(",")] if said else [""] * len(cylinders)
    if len(marks) != len(cylinders):
        fix = gettext(
            "write {cylinders}, apart by commas; leave one empty where nothing stands",
            cylinders=len(cylinders),
        )
        raise EngineError(
            [Problem("marks", gettext("{marks} marks are said", marks=len(marks)), fix)]
        )
    return {
        number: {**cylinder, "mark": mark}
        for (number, cylinder), mark in zip(cylinders.items(), marks, strict=True)
    }


def _wells(engine: Engine, part: str, form: FormData) -> Done:
    """Depth, bore, room, what is felt and a note, one row a hole; a row not sent stays."""
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    for number, cylinder in plain["cylinders"].items():
        wells = cylinder["wells"]
        for place, well in enumerate(wells):
            row = f"{number}-{place}"
            lengths = {
                name: with_unit(text_field(form, f"{name}-{row}"), "mm")
                for name in ("depth", "bore", "room_above")
            }
            well |= {name: length for name, length in lengths.items() if length}
            well |= {
                name: text_field(form, f"{name}-{row}")
                for name in ("sight", "note")
                if f"{name}-{row}" in form
            }
    return Engine.model_validate({**plain, "format": engine.format}), "wells", part


def _carrier(engine: Engine, part: str, form: FormData) -> Done:
    """What is known of the coils or the leads themselves."""
    stated = {
        "part_number": text_field(form, "part_number") or TO_BE_STATED,
        "boot_part": text_field(form, "boot_part") or None,
        "boot_greased": text_field(form, "boot_greased") == "yes",
        "short_loom": text_field(form, "short_loom") == "yes",
    }
    return state_carrier(engine, _int(form, "place"), **stated), gettext("coils or leads"), part


def _carrier_joint(engine: Engine, part: str, form: FormData) -> Done:
    said = text_field(form, "joint")
    return (
        hold_carrier(engine, _int(form, "place"), understand(said)),
        gettext("held by: {said}", said=said),
        part,
    )


def _carrier_unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return (
        release_carrier(engine, _int(form, "place"), key),
        gettext("joint away: {key}", key=key),
        part,
    )


def _holder(engine: Engine, part: str, form: FormData) -> Done:
    """Move a holder of the lead in hand."""
    lead, place = text_field(form, "lead"), _int(form, "place")
    made = move_holder(engine, lead, place, (_float(form, "dx"), _float(form, "dy")))
    return made, gettext("holder of lead {lead} moved", lead=lead), part


def _new_holder(engine: Engine, part: str, form: FormData) -> Done:
    lead, place = text_field(form, "lead"), _int(form, "place")
    made = add_holder(engine, lead, place, (_float(form, "x"), _float(form, "y")))
    return made, gettext("holder of lead {lead} put on", lead=lead), part


def _drop_holder(engine: Engine, part: str, form: FormData) -> Done:
    lead = text_field(form, "lead")
    return (
        drop_holder(engine, lead, _int(form, "place")),
        gettext("holder of lead {lead} taken off", lead=lead),
        part,
    )


def _lead_length(engine: Engine, part: str, form: FormData) -> Done:
    """A measured length, in mm unless it says another unit; none: as drawn."""
    lead, said = text_field(form, "lead"), with_unit(text_field(form, "length"), "mm")
    try:
        length = parse(said, Dimension.LENGTH) if said else None
    except QuantityError as error:
        raise EngineError([Problem("length", str(error), gettext("write it as 560 mm"))]) from error
    return measure_lead(engine, lead, length), gettext("lead {lead} measured", lead=lead), part


def _upkeep(engine: Engine, part: str, form: FormData) -> Done:
    """Companion work, intervals and prices, as they are typed."""
    made = read_companions(engine, text_field(form, "companions", companions.MAX_TEXT + 1))
    stated = read_intervals(text_field(form, "intervals", intervals.MAX_TEXT + 1))
    plain = made.model_dump(mode="json", exclude_defaults=True)
    facts = {
        "format": engine.format,
        "intervals": stated,
        "sources": source_needed(made, stated),
        "prices": read_prices(text_field(form, "prices", intervals.MAX_TEXT + 1)),
    }
    return Engine.model_validate({**plain, **facts}), gettext("companion work and intervals"), part


def _move_corner(engine: Engine, part: str, form: FormData) -> Done:
    by = (_float(form, "dx"), _float(form, "dy"))
    made = outlines.move_corner(engine, part, _int(form, "place"), by)
    return made, gettext("corner moved: {part}", part=made.parts[part].name), part


def _new_corner(engine: Engine, part: str, form: FormData) -> Done:
    at = (_float(form, "x"), _float(form, "y"))
    made = outlines.add_corner(engine, part, _int(form, "place"), at)
    return made, gettext("corner put on: {part}", part=made.parts[part].name), part


def _drop_corner(engine: Engine, part: str, form: FormData) -> Done:
    made = outlines.drop_corner(engine, part, _int(form, "place"))
    return made, gettext("corner taken off: {part}", part=made.parts[part].name), part


def _mirror(engine: Engine, part: str, form: FormData) -> Done:
    made, key = outlines.mirrored(engine, part)
    return made, gettext("mirrored: {part}", part=made.parts[part].name), key


BOARD_ACTIONS: dict[str, BoardAction] = {
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
    "joint": _joint,
    "unjoint": _unjoint,
    "way": _way,
    "unway": _unway,
    "answer": _reply,
    "unhinder": _unhinder,
    "hinder": _hinder,
    "ground": _ground_facts,
    "wells": _wells,
    "carrier": _carrier,
    "carrier-joint": _carrier_joint,
    "carrier-unjoint": _carrier_unjoint,
    "holder": _holder,
    "new-holder": _new_holder,
    "drop-holder": _drop_holder,
    "lead-length": _lead_length,
    "upkeep": _upkeep,
}


def _int(form: FormData, name: str) -> int:
    return whole_number(name, text_field(form, name)) or 0


def _float(form: FormData, name: str) -> float:
    return decimal_number(name, text_field(form, name)) or 0.0


def _minutes(form: FormData, name: str) -> float | None:
    return minutes_number(name, text_field(form, name))
