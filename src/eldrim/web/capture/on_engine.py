"""Acts on the engine's own facts: ends and ignition, wells, companion work, intervals."""

import re
from typing import Any

from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.capture import companions, intervals
from eldrim.core.capture.companions import read_companions
from eldrim.core.capture.intervals import read_intervals, read_prices, source_needed
from eldrim.core.capture.numbering import renumbered
from eldrim.core.capture.own_codes import read_own_codes
from eldrim.core.capture.plain_facts import read_letters, read_numbers, read_pairs
from eldrim.core.capture.shared import read_shared
from eldrim.core.capture.towers import read_towers, read_ways
from eldrim.core.capture.wires import read_pieces, read_timing
from eldrim.core.engine import Engine
from eldrim.core.words.messages import gettext
from eldrim.web.capture.act_form import LINE, BoardAction, Done
from eldrim.web.forms import text_field, with_unit

# What every well has, and what may be left unsaid of it.
WELL_LENGTHS = ("depth", "bore", "room_above", "surround")
WELL_ANGLES = ("tilt", "line")
WELL_TEXTS = ("sight", "note", "confirmed")


def _ground_facts(engine: Engine, part: str, form: FormData) -> Done:
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    layout = {**plain["layout"], **_laid_out(form, plain["layout"])}
    order = _order(engine, text_field(form, "firing_order"))
    ignition = {**plain["ignition"], "firing_order": order}
    facts: dict[str, Any] = {"format": engine.format, "layout": layout, "ignition": ignition}
    facts["shared"] = read_shared(engine, text_field(form, "shared", LINE))
    if "plan" in form:
        layout |= _drawn(form)
        ignition |= _sparked(form)
        facts |= {name: text_field(form, name) or plain.get(name, "") for name in ("make", "name")}
        facts["note"] = text_field(form, "engine_note")
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


def _laid_out(form: FormData, before: dict[str, Any]) -> dict[str, Any]:
    """What the engine stands in and lives on."""
    names = ("timing_end", "stand", "head", "service", "charging", "fuel", "system")
    return {
        **{name: text_field(form, name) for name in names},
        "bulkhead": text_field(form, "bulkhead") or None,
        "diagnosis": text_field(form, "diagnosis") or None,
        "cooling": text_field(form, "cooling") or before.get("cooling", "liquid"),
        "mixture": text_field(form, "mixture") or None,
        "isolate": text_field(form, "isolate") == "always",
        "battery": text_field(form, "battery"),
    }


def _drawn(form: FormData) -> dict[str, Any]:
    """What the engine is drawn as."""
    return {
        **{name: text_field(form, name) for name in ("shape", "mounting", "cycle")},
        "plan": read_numbers("plan", text_field(form, "plan"), 2),
        "block": read_numbers("block", text_field(form, "block"), 4),
    }


def _sparked(form: FormData) -> dict[str, Any]:
    """Which coil serves which cylinder, as codes and packs name them."""
    main = text_field(form, "main_coil")
    return {
        "coil_letters": read_letters(text_field(form, "coil_letters")),
        "waste_spark_pairs": read_pairs(text_field(form, "waste_spark_pairs")),
        "main_coil": read_numbers("main_coil", main, 2) if main else None,
    }


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
    """What is known of each well, one row a hole; a field that is not sent stays."""
    plain = engine.model_dump(mode="json", exclude_defaults=True)
    for number, cylinder in plain["cylinders"].items():
        cylinder |= _sent(form, number, {"bank": "", "place": ""})
        for place, well in enumerate(cylinder["wells"]):
            row = f"{number}-{place}"
            well |= _sent(form, row, dict.fromkeys(WELL_LENGTHS, "mm"))
            well |= _sent(form, row, dict.fromkeys(WELL_ANGLES, "°"))
            well |= _sent(form, row, dict.fromkeys(WELL_TEXTS, ""), empty="")
            well |= _sent(form, row, {"room_open": "mm", "swing": "°"}, empty=None)
            if at := text_field(form, f"at-{row}"):
                well["at"] = read_numbers(f"at, {row}", at, 2)
    return Engine.model_validate({**plain, "format": engine.format}), gettext("wells"), part


# What stands for a field that was sent empty and keeps what it had.
_KEPT = object()


def _sent(
    form: FormData, row: str, units: dict[str, str], empty: object = _KEPT
) -> dict[str, object]:
    """The fields of a row that were sent, each in its unit where it names none."""
    found: dict[str, object] = {}
    for name, unit in units.items():
        if f"{name}-{row}" not in form:
            continue
        typed = text_field(form, f"{name}-{row}")
        said = with_unit(typed, unit) if unit else typed
        if said or empty is not _KEPT:
            found[name] = said or empty
    return found


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


ENGINE_ACTIONS: dict[str, BoardAction] = {
    "ground": _ground_facts,
    "wells": _wells,
    "upkeep": _upkeep,
}
