"""How long things last: as the sheet states, else by a band of their kind (docs/craft.md §18)."""

from collections.abc import Iterator
from dataclasses import replace

from eldrim.core.base.quantity import Quantity, convert, format_number, working_unit
from eldrim.core.engine import Engine, applies
from eldrim.core.engine.upkeep import Interval, Limits
from eldrim.core.figures.sheet import look_up, plug_of, source_text
from eldrim.core.figures.worth import Fails, Life, Logged, past_interval
from eldrim.core.rules.house import DEFAULT_RULES, HouseRules
from eldrim.core.words import say

# Plug life where the sheet is silent, by construction, in km and h: the lower end.
PLUGS = {
    "nickel": (30_000.0, 500.0),
    "multi_ground": (30_000.0, 500.0),
    "fine_wire": (80_000.0, 1_200.0),
    "surface_gap": (30_000.0, 500.0),
}
# A coil on its plug and its boot: half failed by then, in km, spread wide.
COIL_HALF_KM, COIL_SPREAD = 250_000.0, 0.7
BAND_KINDS = ("coil", "boot")


def life_of(
    engine: Engine,
    variant: str,
    thing: str,
    unit: str,
    rules: HouseRules = DEFAULT_RULES,
    *,
    severe: bool = False,
) -> Life | None:
    """How long a plug, coil, boot, lead, piece or companion lasts, in km or h.

    None where no interval by the meter is stated and no band stands in. An interval stated in the
    other unit alone is converted by the house's rule, and marked as a band.
    """
    fails = Fails(_half_of_coils(unit, rules), COIL_SPREAD) if thing in BAND_KINDS else None
    stated = _stated(engine, variant, thing, unit, rules, severe=severe)
    if stated is not None:
        amount, source, converted = stated
        like = fails or past_interval(amount)
        if converted:
            factor = format_number(rules.km_per_hour, 1)
            source = say("interval.converted", source=source, factor=factor)
        return Life(amount, unit, source, like.survives, band=converted)
    if thing == "plug":
        return _plug_band(engine, variant, unit)
    if fails is None:
        return None
    visit = life_of(engine, variant, "plug", unit, rules, severe=severe)
    assert visit is not None, "plugs have a band where the sheet is silent"
    source = say("interval.band_coil", amount=meter_words(fails.half, unit))
    return Life(fails.half, unit, source, fails.survives, band=True, visit=visit.amount)


def by_log(life: Life | None, logged: Logged | None, unit: str) -> Life | None:
    """A life whose chance of failing is that of the shop's own log, where it has cases enough;
    where nothing else says how long a thing lasts, until half of its kind have failed.
    """
    if logged is None:
        return life
    said = say("interval.by_log", failed=logged.failed, count=logged.count)
    if life is not None:
        return replace(life, survives=logged.survives, source=f"{life.source}; {said}")
    if logged.half is None:
        return None
    return Life(logged.half, unit, said, logged.survives)


def meter_words(value: float, unit: str) -> str:
    """A reading of a meter as people write it: ``48 000 km``, ``1 180 h``."""
    return f"{value:,.0f} {unit}".replace(",", "\u202f")


def _half_of_coils(unit: str, rules: HouseRules) -> float:
    return COIL_HALF_KM if unit == "km" else COIL_HALF_KM / rules.km_per_hour


def _plug_band(engine: Engine, variant: str, unit: str) -> Life:
    km, hours = PLUGS[plug_of(engine, variant).construction]
    amount = km if unit == "km" else hours
    like = past_interval(amount)
    return Life(amount, unit, say("interval.band_plug"), like.survives, band=True)


def _stated(
    engine: Engine, variant: str, thing: str, unit: str, rules: HouseRules, *, severe: bool
) -> tuple[float, str, bool] | None:
    """The shortest interval stated, its source, and whether it was converted."""
    own = list(_own(engine, variant, thing, unit, severe=severe))
    if own:
        return (*min(own), False)
    other = "h" if unit == "km" else "km"
    factor = rules.km_per_hour if unit == "km" else 1 / rules.km_per_hour
    found = list(_own(engine, variant, thing, other, severe=severe))
    if not found:
        return None
    amount, source = min(found)
    return amount * factor, source, True


def _own(
    engine: Engine, variant: str, thing: str, unit: str, *, severe: bool
) -> Iterator[tuple[float, str]]:
    """What is stated in a unit, each with its source."""
    for one in intervals_of(engine, variant, thing):
        value = _amount(one.severe, unit) if severe else None
        value = value or _amount(one, unit)
        if value:
            yield _in(value, unit), source_text(engine, one)
    key = "interval" if unit == "km" else "interval-hours"
    figure = look_up(engine, key, variant) if thing == "plug" else None
    if figure is not None and not figure.fallback:
        yield convert(figure.value.low, _base(figure.value), unit), figure.source


def intervals_of(
    engine: Engine, variant: str, thing: str, act: str = "replace"
) -> tuple[Interval, ...]:
    """The intervals a sheet states for a thing of a variant."""
    return tuple(
        one
        for one in engine.intervals
        if one.of == thing and one.act == act and applies(one.variants, variant)
    )


def _amount(limits: Limits, unit: str) -> Quantity | None:
    return limits.distance if unit == "km" else limits.hours


def _base(value: Quantity) -> str:
    return working_unit(value.dimension).symbol


def _in(value: Quantity, unit: str) -> float:
    return convert(value.low, _base(value), unit)
