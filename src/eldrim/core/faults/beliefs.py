"""What a complaint most likely comes from: how common each cause is, times what is known.

Bands and factors are those of docs/craft.md §15; ``docs/faults.md`` lists them.
"""

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.faults.codes import CodeClass
from eldrim.core.faults.complaint import Complaint, Kind, Symptom, Where
from eldrim.core.reading.explanation import abilities

# What a band is worth beside the shop's own proven cases.
PRIOR_CASES = 20
# Less likely than this is not weighed.
LEAST = 0.002
# How common each cause is behind such a complaint.
PRIORS: dict[Kind, dict[str, float]] = {
    Kind.COIL_CIRCUIT: {"coil": 0.70, "connector": 0.22, "driver": 0.05, "plug": 0.03},
    Kind.ONE_WORN: {
        "plug": 0.45, "coil": 0.25, "boot": 0.12, "injector": 0.08, "compression": 0.05,
        "connector": 0.05,
    },
    Kind.ONE_YOUNG: {
        "coil": 0.40, "injector": 0.15, "boot": 0.15, "connector": 0.12, "plug": 0.10,
        "compression": 0.08,
    },
    Kind.ONE_LEAD: {
        "lead": 0.35, "plug": 0.25, "tower": 0.15, "injector": 0.10, "mixture": 0.10,
        "compression": 0.08, "main-coil": 0.07,
    },
    Kind.INJECTOR: {"injector": 0.60, "injector-wiring": 0.30, "driver": 0.10},
    Kind.PAIR: {"pair-coil": 0.65, "supply": 0.20, "lead": 0.08, "plug": 0.07},
    Kind.BANK: {"air-leak": 0.30, "sensor": 0.25, "fuel": 0.20, "exhaust": 0.15, "plugs": 0.10},
    Kind.SEVERAL: {
        "air-leak": 0.20, "fuel": 0.15, "plugs": 0.25, "main-coil": 0.15, "crank-signal": 0.10,
        "supply": 0.10, "engine": 0.05,
    },
}  # fmt: skip
# What the engine must have for a cause to be thought of; the others need nothing.
NEEDS = {
    "coil": "coil", "connector": "coil", "driver": "diagnosis", "injector": "injection",
    "injector-wiring": "injection", "lead": "lead", "tower": "lead", "main-coil": "distributor",
    "mixture": "carburettor", "sensor": "injection", "crank-signal": "diagnosis",
}  # fmt: skip
# Of one cylinder; the rest are of the engine or a bank.
AT_CYLINDER = (
    "coil",
    "connector",
    "driver",
    "plug",
    "boot",
    "injector",
    "injector-wiring",
    "compression",
    "lead",
    "tower",
)
# What each sign, symptom or code makes of the odds of a cause.
BY_SIGN: dict[str, dict[str, float]] = {
    "track": {"boot": 15}, "stain-streaked": {"boot": 4}, "boot-torn": {"boot": 15},
    "boot-burnt": {"boot": 15}, "well-oil": {"boot": 4}, "boot-oily": {"boot": 4},
    "well-water": {"boot": 6}, "coil-cracked": {"coil": 20}, "coil-bulged": {"coil": 20},
    "coil-burnt": {"coil": 20}, "pins-bent": {"connector": 10}, "pins-green": {"connector": 10},
    "gap-wide": {"plug": 4, "plugs": 4}, "rounded": {"plug": 4, "plugs": 4},
    "cracked": {"plug": 10}, "oily": {"compression": 6}, "crust": {"compression": 6},
}  # fmt: skip
BY_SYMPTOM: dict[Symptom, dict[str, float]] = {
    Symptom.WET: {"boot": 4, "lead": 4},
    Symptom.HOT: {"coil": 3, "pair-coil": 3, "main-coil": 3},
    Symptom.LOAD: {"plug": 2, "coil": 2, "plugs": 2},
    Symptom.IDLE: {"compression": 2, "air-leak": 2},
    Symptom.AFTER_JOB: {"connector": 10, "lead": 10, "injector-wiring": 10},
}
BY_CODE: dict[CodeClass, dict[str, float]] = {
    CodeClass.LEAN: {"air-leak": 5},
    CodeClass.SUPPLY: {"supply": 20},
    CodeClass.CRANK: {"crank-signal": 20},
}


class Belief(Frozen):
    """One cause: how likely, from which band, and what speaks for and against it.

    ``band`` is with ``cases``, the shop's own proven ones, weighing in.
    ``speaks_for`` and ``against`` are names of evidence: ``sign.track``, ``symptom.wet``.
    """

    key: str
    cylinder: int = 0
    probability: float
    band: float
    cases: float = 0.0
    speaks_for: tuple[str, ...] = ()
    against: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """What tells it apart: a cause, and its cylinder where it has one."""
        return f"{self.key}@{self.cylinder}" if self.cylinder else self.key


def beliefs(engine: Engine, variant: str, complaint: Complaint, where: Where) -> list[Belief]:
    """Every cause that may be behind a complaint, the likeliest first."""
    bands = _bands(engine, variant, complaint, where)
    factors = evidence(engine, complaint, where)
    odds = dict(bands)
    for _, by_cause in factors:
        for key in odds:
            odds[key] *= by_cause.get(key, 1.0)
    whole = sum(odds.values())
    found, proven = [], complaint.proven.get(where.kind, {})
    for key, value in odds.items():
        cylinder = where.cylinders[0] if key in AT_CYLINDER and where.cylinders else 0
        found.append(
            Belief(
                key=key,
                cylinder=cylinder,
                probability=value / whole,
                band=bands[key],
                cases=proven.get(key, 0.0),
                speaks_for=tuple(name for name, by in factors if key in by),
                against=tuple(
                    name
                    for name, by in factors
                    if by.keys() & odds.keys() - {key} and key not in by
                ),
            )
        )
    likely = [one for one in found if one.probability >= LEAST]
    whole = sum(one.probability for one in likely)
    likely = [one.model_copy(update={"probability": one.probability / whole}) for one in likely]
    return sorted(likely, key=lambda one: (-one.probability, one.key))


def _bands(engine: Engine, variant: str, complaint: Complaint, where: Where) -> dict[str, float]:
    """The band of each cause the engine can have, with the shop's own proven cases weighing in."""
    able = _able(engine, variant)
    possible = {
        key: value for key, value in PRIORS[where.kind].items() if NEEDS.get(key, "") in able | {""}
    }
    whole = sum(possible.values())
    proven = complaint.proven.get(where.kind, {})
    cases = {key: proven.get(key, 0.0) for key in possible}
    every = PRIOR_CASES + sum(cases.values())
    return {
        key: (PRIOR_CASES * value / whole + cases[key]) / every for key, value in possible.items()
    }


def _able(engine: Engine, variant: str) -> frozenset[str]:
    more = {
        "diagnosis": engine.diagnoses_itself(variant),
        "carburettor": not engine.injects(variant),
    }
    return abilities(engine, variant) | {name for name, is_so in more.items() if is_so}


def evidence(
    engine: Engine, complaint: Complaint, where: Where
) -> list[tuple[str, dict[str, float]]]:
    """What is known that shifts the odds, by name, each once."""
    holes = set(engine.holes_of_all(where.cylinders)) if where.cylinders else set(engine.holes)
    seen = {sign for hole, signs in complaint.signs.items() if hole in holes for sign in signs}
    found = [(f"sign.{sign}", by) for sign, by in BY_SIGN.items() if sign in seen]
    found += [(f"symptom.{one}", by) for one, by in BY_SYMPTOM.items() if one in complaint.symptoms]
    for kind, by in BY_CODE.items():
        codes = [code for code in complaint.codes if code.kind is kind]
        if any(not where.bank or code.bank in ("", where.bank) for code in codes):
            found.append((f"code.{kind}", by))
    return found
