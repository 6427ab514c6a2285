"""Sums of volts, ohms and pressure: battery, charging under load, cranking, coils, compression."""

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.figures.battery import (
    CABLE_DROP,
    CRANKING,
    LEAST,
    LOAD_DROP,
    MOST,
    REST_CHARGED,
    battery,
)
from eldrim.core.sums.field import SHOP, SumResult
from eldrim.core.sums.given import Given
from eldrim.core.sums.torque_sums import number
from eldrim.core.words.messages import gettext

SYSTEMS = ("12", "24", "6")
OHMS_PER_METRE = {"carbon core": (8_000.0, 25_000.0), "wound core": (500.0, 7_000.0)}
COILS = {"coil primary": (0.3, 3.0), "coil secondary": (5_000.0, 20_000.0)}
WHAT = ("lead, carbon core", "lead, wound core", "coil primary", "coil secondary")


def _share(given: Given) -> float:
    return float(given.choice("system")) / 12


def _asked_about(given: Given, name: str, volts: float, least: float = LEAST) -> None:
    """A voltage that the system cannot show is a wrong system or a wrong range of the meter."""
    system = float(given.choice("system"))
    scaled = volts * 12 / system
    if least <= scaled <= MOST:
        return
    fits = [s for s in SYSTEMS if least <= volts * 12 / float(s) <= MOST and float(s) != system]
    said = gettext(
        "{volts} V cannot be read on a {system} V system", volts=number(volts), system=f"{system:g}"
    )
    fix = (
        gettext("is it a {fits} V system?", fits=fits[0])
        if fits
        else gettext("look at the range the meter is set to")
    )
    raise ProblemsError([Problem(name, said, fix)])


def rested(given: Given) -> SumResult:
    """What a battery's voltage says, at rest or running."""
    volts = given.quantity("volts").mid
    running = given.choice("state") == "running"
    _asked_about(given, "volts", volts)
    found = battery(volts, float(given.choice("system")), running=running)
    return SumResult(
        result=found.words,
        formula=gettext(
            "volts × 12 ÷ system, against the bands of a 12 V lead-acid battery near 25 °C"
        ),
        working=(found.sum,),
        source=gettext("{shop} §16; the maker's figures win", shop=SHOP),
        values={"verdict": found.verdict},
    )


def under_load(given: Given) -> SumResult:
    """Charging with lamps, blower and heater on, beside charging without."""
    idle, loaded, share = given.quantity("idle").mid, given.quantity("loaded").mid, _share(given)
    for name, volts in (("idle", idle), ("loaded", loaded)):
        _asked_about(given, name, volts)
    drop = idle - loaded
    down, far = loaded <= REST_CHARGED * share, drop > LOAD_DROP * share + 1e-9
    verdict = "down at rest voltage" if down else "falls too far" if far else "keeps up"
    result = {
        "keeps up": gettext("Keeps up. Nothing to do."),
        "falls too far": gettext(
            "Falls too far. Look at belt, connections and earth, then the alternator."
        ),
        "down at rest voltage": gettext(
            "Down at rest voltage. It does not charge under load: belt, connections, alternator."
        ),
    }[verdict]
    return SumResult(
        result=result,
        formula=gettext(
            "drop = unloaded − loaded; not over half a volt, never down at rest voltage"
        ),
        working=(
            gettext(
                "{idle} − {loaded} = {drop} V; allowed {allowed} V; rest voltage {rest} V",
                idle=number(idle),
                loaded=number(loaded),
                drop=number(drop),
                allowed=number(LOAD_DROP * share),
                rest=number(REST_CHARGED * share),
            ),
        ),
        source=gettext("{shop} §16, scaled by the system", shop=SHOP),
        values={"verdict": verdict, "drop": round(drop, 3)},
    )


def cranking(given: Given) -> SumResult:
    """The battery while the starter turns, and what is lost in a cable."""
    volts, share = given.quantity("volts").mid, _share(given)
    _asked_about(given, "volts", volts, least=3.0)
    least, low = CRANKING * share, volts < CRANKING * share - 1e-9
    lost = None if given.blank("cable") else given.quantity("cable").mid
    over = lost is not None and lost > CABLE_DROP + 1e-9
    said = [
        gettext("Too low: weak battery, a bad joint or a tight engine")
        if low
        else gettext("Turns it well")
    ]
    said += (
        [gettext("the cable loses {lost} V: clean or renew its ends", lost=number(lost))]
        if over and lost
        else []
    )
    return SumResult(
        result=". ".join(word[0].upper() + word[1:] for word in said),
        formula=gettext("not under 9.6 V × system ÷ 12 near 20 °C; not over 0.2 V lost in a cable"),
        working=(
            gettext("{volts} V against {least} V", volts=number(volts), least=number(least)),
            *(
                [
                    gettext(
                        "cable: {lost} V against {cable_drop} V",
                        lost=number(lost),
                        cable_drop=CABLE_DROP,
                    )
                ]
                if lost is not None
                else []
            ),
        ),
        source=f"{SHOP} §16",
        values={"verdict": "low" if low else "good", "cable": "bad" if over else "good"},
    )


def resistance(given: Given) -> SumResult:
    """A coil or a lead against its limits."""
    what, ohms = given.choice("what"), given.quantity("measured").mid
    kind, _, core = what.partition(", ")
    if kind == "lead":
        if given.blank("length"):
            raise given.refuse(
                "length", gettext("a lead's limits go by its length"), gettext("write it as 600 mm")
            )
        metres = given.quantity("length").mid / 1000
        low, high = (end * metres for end in OHMS_PER_METRE[core])
        least, most = (number(end / 1000) for end in OHMS_PER_METRE[core])
        how = gettext(
            "{metres} m × {least} to {most} kΩ/m", metres=number(metres, 3), least=least, most=most
        )
    else:
        low, high = COILS[what]
        how = gettext("general band")
    if not given.blank("limits"):
        stated = given.quantity("limits")
        low, high, how = stated.low, stated.high, gettext("as the maker states")
    side = "under" if ohms < low else "over" if ohms > high else "in"
    return SumResult(
        result=_ohm_verdict(side, kind),
        formula=gettext("low ≤ measured ≤ high, measured cold, leads off at both ends"),
        working=(
            gettext(
                "{ohms} against {low} to {high} ({how})",
                ohms=_ohms(ohms),
                low=_ohms(low),
                high=_ohms(high),
                how=how,
            ),
        ),
        source=gettext("{shop} §14; the maker's figures win", shop=SHOP),
        values={"verdict": side, "low": round(low, 3), "high": round(high, 3), "unit": "Ω"},
    )


def _ohm_verdict(side: str, kind: str) -> str:
    if side == "in":
        return gettext("In its limits: that proves little, look at it under load")
    act = gettext("renew it") if kind == "lead" else gettext("it proves much: renew it")
    if side == "under":
        return gettext("Under its limits: {act}", act=act)
    return gettext("Over its limits: {act}", act=act)


def _ohms(value: float) -> str:
    return f"{number(value / 1000)} kΩ" if value >= 1000 else f"{number(value)} Ω"


EVEN, WATCH = 0.1, 0.25


def compression(given: Given) -> SumResult:
    """How far the cylinders' compressions are apart."""
    found = given.many("readings")
    if len(found) < 2:
        raise given.refuse(
            "readings",
            gettext("one cylinder has no neighbour"),
            gettext("give all, apart by blanks"),
        )
    top, low = max(found), min(found)
    spread = (top - low) / top
    worst = found.index(low) + 1
    verdict = "even" if spread <= EVEN else "watch" if spread <= WATCH else "low"
    act = {
        "even": gettext("They are even."),
        "watch": gettext(
            "Cylinder {worst} is the lowest: measure again warm, with the throttle open.",
            worst=worst,
        ),
        "low": gettext("Cylinder {worst} is low: leak-down test.", worst=worst),
    }[verdict]
    return SumResult(
        result=gettext("{act} Spread {spread} %", act=act, spread=number(spread * 100, 1)),
        formula=gettext("spread = (highest − lowest) ÷ highest; even to 10 %, low from 25 %"),
        working=(f"({number(top)} − {number(low)}) ÷ {number(top)} = {number(spread, 3)}",),
        source=gettext("{shop} §15; the maker's limits win", shop=SHOP),
        values={"verdict": verdict, "spread": round(spread, 5), "lowest": worst},
    )
