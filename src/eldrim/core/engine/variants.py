"""Which variant of an engine a unit has: told by serial, engine letters and year, never guessed."""

import re
from dataclasses import dataclass

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import Engine, Figure, Plug, Variant
from eldrim.core.words.messages import either, gettext


@dataclass(frozen=True)
class Plate:
    """What stands on a unit's plate; what is not known is empty."""

    serial: str = ""
    letters: str = ""
    year: int | None = None


@dataclass(frozen=True)
class PlateVerdict:
    """What a plate says of one variant: ``against`` it, or what it leaves ``open``."""

    variant: str
    against: tuple[str, ...] = ()
    open: tuple[str, ...] = ()


def plate_verdicts(engine: Engine, plate: Plate) -> tuple[PlateVerdict, ...]:
    """For each variant, what on the plate speaks against it and what the plate does not say."""
    return tuple(_verdict(key, variant, plate) for key, variant in engine.variants.items())


def candidates(engine: Engine, plate: Plate) -> tuple[str, ...]:
    """The variants nothing on the plate speaks against. One: that is it; else a person is asked."""
    return tuple(t.variant for t in plate_verdicts(engine, plate) if not t.against)


def serial_number(serial: str) -> int | None:
    """The counting part of a serial: its last run of digits; None where there is none."""
    runs = re.findall(r"\d+", serial)
    return int(runs[-1]) if runs else None


def _verdict(key: str, variant: Variant, plate: Plate) -> PlateVerdict:
    against, unsaid = [], []
    for wrong, missing in (
        _serial(variant, plate),
        _letters(variant, plate),
        _year(variant, plate),
    ):
        against += [wrong] if wrong else []
        unsaid += [missing] if missing else []
    return PlateVerdict(key, tuple(against), tuple(unsaid))


def _serial(variant: Variant, plate: Plate) -> tuple[str, str]:
    low, high = variant.serial_from, variant.serial_to
    if low is None and high is None:
        return "", ""
    number = serial_number(plate.serial)
    if number is None:
        return "", "serial"
    if low is not None and number < low:
        return gettext("serial {number} is before {low}", number=number, low=low), ""
    if high is not None and number > high:
        return gettext("serial {number} is after {high}", number=number, high=high), ""
    return "", ""


def _letters(variant: Variant, plate: Plate) -> tuple[str, str]:
    if not variant.letters:
        return "", ""
    said = _folded(plate.letters) or _folded(plate.serial).rstrip("0123456789")
    if not said:
        return "", gettext("engine letters")
    if any(said.startswith(_folded(each)) for each in variant.letters):
        return "", ""
    return gettext(
        "engine letters {said} are not {letters}", said=said, letters=either(variant.letters)
    ), ""


def _year(variant: Variant, plate: Plate) -> tuple[str, str]:
    if variant.years is None:
        return "", ""
    if plate.year is None:
        return "", "year"
    first, last = variant.years
    return (
        ""
        if first <= plate.year <= last
        else gettext("{year} is not {first} to {last}", year=plate.year, first=first, last=last)
    ), ""


def _folded(text: str) -> str:
    return "".join(c for c in text.upper() if c.isalnum())


def put_variant(engine: Engine, key: str, variant: Variant, like: str = "") -> Engine:
    """State a variant. A new one starts with everything that is stated for ``like``."""
    variants = {**engine.variants, key: variant}
    changes: dict[str, object] = {"variants": variants, "revision": engine.revision + 1}
    if key not in engine.variants:
        if like not in engine.variants:
            fix = gettext("start from one of {variants}", variants=", ".join(engine.variants))
            raise EngineError(
                [Problem("like", gettext("a new variant starts from a known one"), fix)]
            )
        changes |= _also_for(engine, key, like)
    return engine.model_copy(update=changes)


def _also_for(engine: Engine, key: str, like: str) -> dict[str, object]:
    def more(variants: tuple[str, ...]) -> dict[str, object]:
        return {"variants": (*variants, key) if like in variants else variants}

    return {
        "figures": {
            k: tuple(figure.model_copy(update=more(figure.variants)) for figure in stated)
            for k, stated in engine.figures.items()
        },
        "plugs": tuple(plug.model_copy(update=more(plug.variants)) for plug in engine.plugs),
        "coils": tuple(coil.model_copy(update=more(coil.variants)) for coil in engine.coils),
        "leads": tuple(lead.model_copy(update=more(lead.variants)) for lead in engine.leads),
        "parts": {
            part_key: part.model_copy(update=more(part.variants))
            for part_key, part in engine.parts.items()
        },
    }


def differences(engine: Engine) -> dict[str, tuple[str, ...]]:
    """For each variant, what is stated for it and not for all: in words, figures first."""
    every: list[tuple[tuple[str, ...], str]] = []
    for key, stated in engine.figures.items():
        every += [(figure.variants, _figure_words(key, figure)) for figure in stated]
    every += [(plug.variants, _plug(plug)) for plug in engine.plugs]
    every += [
        (coil.variants, gettext("coil {part_number}", part_number=coil.part_number))
        for coil in engine.coils
    ]
    every += [
        (lead.variants, gettext("lead {part_number}", part_number=lead.part_number))
        for lead in engine.leads
    ]
    every += [(part.variants, part.name.lower()) for part in engine.parts.values()]
    return {
        key: tuple(words for variants, words in every if key in variants) for key in engine.variants
    }


def _figure_words(key: str, figure: Figure) -> str:
    return f"{key.replace('-', ' ')} {figure.value}"


def _plug(plug: Plug) -> str:
    return gettext(
        "plug {part_number}, heat range {heat_range}",
        part_number=plug.part_number,
        heat_range=plug.heat_range,
    )


def drop_variant(engine: Engine, key: str) -> Engine:
    """Take a variant off the sheet, with all that was stated for it alone."""
    if key not in engine.variants or len(engine.variants) < 2:
        said = gettext("is the only variant, or not there")
        raise EngineError([Problem(f"variants.{key}", said, gettext("an engine keeps one"))])

    def without(variants: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(other for other in variants if other != key)

    def kept(variants: tuple[str, ...]) -> bool:
        return not variants or bool(without(variants))

    changes: dict[str, object] = {
        "variants": {k: variant for k, variant in engine.variants.items() if k != key},
        "revision": engine.revision + 1,
        "figures": {
            k: rest
            for k, stated in engine.figures.items()
            if (
                rest := tuple(
                    figure.model_copy(update={"variants": without(figure.variants)})
                    for figure in stated
                    if kept(figure.variants)
                )
            )
        },
        "parts": {
            part_key: part.model_copy(update={"variants": without(part.variants)})
            for part_key, part in engine.parts.items()
            if kept(part.variants)
        },
    }
    for name in ("plugs", "coils", "leads"):
        changes[name] = tuple(
            x.model_copy(update={"variants": without(x.variants)})
            for x in getattr(engine, name)
            if kept(x.variants)
        )
    return engine.model_copy(update=changes)
