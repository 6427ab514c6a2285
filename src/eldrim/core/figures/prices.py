"""What parts cost: as the sheet says by part number, else the usual price of their kind."""

from eldrim.core.engine import Engine, applies
from eldrim.core.engine.model import Coil, Lead
from eldrim.core.figures.sheet import plug_of

# What is bought for a repair, in the money of the house.
PRICES = {
    "coil": 24.0,
    "plug": 7.2,
    "boot": 6.0,
    "lead": 9.6,
    "connector": 3.6,
    "injector": 48.0,
    "injector-wiring": 3.6,
    "control-unit": 108.0,
    "engine-cylinder": 72.0,
    "cap-rotor": 18.0,
    "pack": 36.0,
    "main-coil": 24.0,
    "mixture": 6.0,
    "leak": 4.8,
    "fuel": 12.0,
    "supply": 3.6,
    "sensor": 36.0,
    "exhaust": 36.0,
    "crank-signal": 24.0,
    "engine": 72.0,
    "plugs": 28.8,
}
# Pieces of the ignition that a repair buys together, or that no repair buys alone.
_PIECES = {"cap": 12.0, "rotor": 6.0, "points": 8.0, "coil-lead": 9.6, "pack": 36.0}

# What has a usual price of its own.
PRICED = frozenset({*PRICES, *_PIECES})


def number_of(engine: Engine, variant: str, kind: str) -> str:
    """The part number of a plug, coil, boot, lead or piece; empty where the sheet has none."""
    if kind == "plug":
        return plug_of(engine, variant).part_number
    if kind in engine.pieces:
        return next((p.part_number or "" for key, p in engine.pieces.items() if key == kind), "")
    carriers: list[Coil | Lead] = [*engine.coils, *engine.leads]
    fits = [one for one in carriers if applies(one.variants, variant)]
    if kind == "boot":
        return next((one.boot_part or "" for one in fits if isinstance(one, Coil)), "")
    return next((one.part_number for one in fits if kind in ("coil", "lead")), "")


def stated_price(engine: Engine, number: str) -> float | None:
    """What a part number costs, as the sheet says; None where it says nothing."""
    stated = engine.prices.get(number)
    return stated.each if stated else None


def price_of(engine: Engine, variant: str, kind: str) -> float:
    """What one plug, coil, boot, lead or piece costs; the usual price where none is stated."""
    stated = stated_price(engine, number_of(engine, variant, kind))
    return {**PRICES, **_PIECES}.get(kind, 0.0) if stated is None else stated


def repair_prices(engine: Engine, variant: str) -> dict[str, float]:
    """What is bought for repairs, where this sheet states a price."""
    kinds = ("coil", "plug", "boot", "lead", "pack")
    stated = {k: stated_price(engine, number_of(engine, variant, k)) for k in kinds}
    found = {kind: price for kind, price in stated.items() if price is not None}
    return found | ({"plugs": found["plug"] * len(engine.holes)} if "plug" in found else {})
