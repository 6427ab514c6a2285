"""A complaint: what was read, noticed and known; and of which kind it is."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from eldrim.core.base.frozen import Frozen
from eldrim.core.engine.model import Engine
from eldrim.core.faults.codes import Code, CodeClass, leading, pointing
from eldrim.core.reading.signs import in_order
from eldrim.core.words import say


class Symptom(StrEnum):
    """What was noticed."""

    COLD = "cold"
    HOT = "hot"
    WET = "wet"
    LOAD = "load"
    IDLE = "idle"
    SMELL = "smell"
    AFTER_JOB = "after-job"


class Kind(StrEnum):
    """Which causes are thought of, and how common each is."""

    COIL_CIRCUIT = "coil-circuit"
    ONE_WORN = "one-worn"
    ONE_YOUNG = "one-young"
    ONE_LEAD = "one-lead"
    INJECTOR = "injector"
    PAIR = "pair"
    BANK = "bank"
    SEVERAL = "several"


@dataclass(frozen=True)
class Complaint:
    """What is complained of. ``signs`` are by hole, those amiss; ``plugs_worn`` whether the plugs
    are past their interval, where that is known; ``proven`` counts what the shop's own log proved
    to be behind complaints, by their kind and by cause.
    """

    codes: tuple[Code, ...] = ()
    symptoms: frozenset[Symptom] = frozenset()
    signs: dict[str, frozenset[str]] = field(default_factory=dict)
    plugs_worn: bool | None = None
    proven: Mapping[str, Mapping[str, float]] = field(default_factory=dict)

    @property
    def name(self) -> str:
        """What tells it from another complaint, in no language: ``P0302; wet; 4=soot``."""
        signs = (
            f"{hole}={','.join(in_order(found))}" for hole, found in sorted(self.signs.items())
        )
        read = sorted(code.text for code in self.codes)
        parts = (" ".join(some) for some in (read, sorted(self.symptoms), signs))
        return "; ".join(filter(None, parts))

    def words(self) -> str:
        """What was complained of, in a line, in the language in use."""
        noticed = [say(f"fault.symptom.{one}") for one in Symptom if one in self.symptoms]
        seen = [
            say("reading.sign.at", sign=say(f"reading.sign.{sign}"), hole=hole)
            for hole, found in self.signs.items()
            for sign in in_order(found)
        ]
        read = [code.text for code in self.codes]
        return "; ".join(", ".join(said) for said in (read, noticed, seen) if said)


class Where(Frozen):
    """The kind of a complaint, and the cylinders or the bank it is about."""

    kind: Kind
    cylinders: tuple[int, ...] = ()
    bank: str = ""


# What a code that names a part of one cylinder makes of a complaint.
POINTED = {CodeClass.COIL: Kind.COIL_CIRCUIT, CodeClass.INJECTOR: Kind.INJECTOR}


def where_of(engine: Engine, complaint: Complaint) -> Where:
    """What a complaint is about: one cylinder, a pair, a bank, or several without a pattern."""
    first = leading(complaint.codes)
    named = _named(engine, complaint)
    if first and first.kind in (CodeClass.SUPPLY, CodeClass.CRANK):
        return Where(kind=Kind.SEVERAL, cylinders=())
    for code in pointing(complaint.codes, first) or (first,) if first else ():
        if code.kind in POINTED and code.cylinder:
            return Where(kind=POINTED[code.kind], cylinders=(code.cylinder,))
    if len(named) == 1:
        return Where(kind=_of_one(engine, complaint), cylinders=named)
    pair = next((p for p in engine.ignition.waste_spark_pairs if set(p) == set(named)), None)
    if pair:
        return Where(kind=Kind.PAIR, cylinders=tuple(sorted(pair)))
    bank = _bank(engine, complaint, named)
    if bank:
        return Where(kind=Kind.BANK, cylinders=named, bank=bank)
    return Where(kind=Kind.SEVERAL, cylinders=named)


def _named(engine: Engine, complaint: Complaint) -> tuple[int, ...]:
    """The cylinders that codes name; without any those whose plug shows something amiss."""
    by_code = {code.cylinder for code in complaint.codes if code.cylinder}
    if by_code or complaint.codes:
        return tuple(sorted(by_code))
    return tuple(
        sorted({engine.holes[hole][0] for hole, signs in complaint.signs.items() if signs})
    )


def _of_one(engine: Engine, complaint: Complaint) -> Kind:
    if engine.ignition.kind != "coil_on_plug":
        return Kind.ONE_LEAD
    return Kind.ONE_WORN if complaint.plugs_worn else Kind.ONE_YOUNG


def _bank(engine: Engine, complaint: Complaint, named: tuple[int, ...]) -> str:
    """The bank that a mixture code names, or that holds all misfires of several."""
    for code in complaint.codes:
        if code.kind in (CodeClass.LEAN, CodeClass.RICH) and code.bank:
            return code.bank
    banks = {engine.cylinders[number].bank for number in named}
    return banks.pop() if len(named) > 1 and len(banks) == 1 and len(engine.banks) > 1 else ""
