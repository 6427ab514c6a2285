"""Is another plug the same plug? By everything that makes it one, never by the number on it.

A number on a plug or in a parts list is no proof: thread, reach, seat, hex, heat range and
resistor must all agree (docs/craft.md §6). A gap set otherwise is the same plug set otherwise.
"""

from pydantic import Field

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Length, Quantity
from eldrim.core.engine.model import Plug
from eldrim.core.words.messages import gettext, gettext_lazy

NEAR_MM = 0.3


class Offered(Frozen):
    """A plug as its box or catalogue describes it."""

    part_number: str = Field("", max_length=120)
    thread: str = Field(max_length=20)
    reach: Length
    seat: str = Field(max_length=20)
    hex: Length
    heat_range: str = Field(max_length=40)
    resistor: bool
    gap_supplied: Length


class Compared(Frozen):
    """One property: what the engine asks for, what is offered, whether it agrees, and why."""

    what: str
    wanted: str
    offered: str
    agrees: bool
    note: str = ""


WHY = {
    "thread": gettext_lazy("it does not screw in, or strips the head"),
    "reach": gettext_lazy("a long one meets the piston, a short one sooty threads"),
    "seat": gettext_lazy("it does not seal, and is tightened by another torque"),
    "hex": gettext_lazy("another socket, and it may not go down the well"),
    "heat range": gettext_lazy("too hot melts, too cold soots"),
    "resistor": gettext_lazy("radio and engine control are disturbed"),
}


def cross_reference(plug: Plug, offered: Offered) -> tuple[Compared, ...]:
    """Compare an offered plug with the one the sheet asks for, property by property."""
    return (
        _same("thread", _thread(plug.thread), _thread(offered.thread)),
        _length("reach", plug.reach, offered.reach),
        _same("seat", plug.seat, offered.seat.strip().lower()),
        _length("hex", plug.hex, offered.hex),
        _same(gettext("heat range"), plug.heat_range.strip(), offered.heat_range.strip()),
        _same("resistor", _yes(plug.resistor), _yes(offered.resistor)),
        _gap(plug.gap_supplied, offered.gap_supplied),
    )


def fits(compared: tuple[Compared, ...]) -> bool:
    """Whether every property agrees; a gap may be set."""
    return all(c.agrees for c in compared)


def _same(what: str, wanted: str, offered: str) -> Compared:
    agrees = wanted == offered
    note = "" if agrees else WHY[what]
    return Compared(what=what, wanted=wanted, offered=offered, agrees=agrees, note=note)


def _length(what: str, wanted: Quantity, offered: Quantity) -> Compared:
    agrees = abs(wanted.mid - offered.mid) <= NEAR_MM
    note = "" if agrees else WHY[what]
    return Compared(what=what, wanted=str(wanted), offered=str(offered), agrees=agrees, note=note)


def _gap(wanted: Quantity, offered: Quantity) -> Compared:
    same = abs(wanted.mid - offered.mid) <= 0.051
    note = (
        ""
        if same
        else gettext("the same plug set otherwise: measure, and set it where that is allowed")
    )
    return Compared(
        what=gettext("gap as supplied"),
        wanted=str(wanted),
        offered=str(offered),
        agrees=True,
        note=note,
    )


def _thread(text: str) -> str:
    return text.strip().upper().replace("X", "×").replace("*", "×").replace(" ", "")


def _yes(value: bool) -> str:
    return "yes" if value else "no"
