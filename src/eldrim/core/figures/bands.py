"""General workshop bands: what a figure of a kind usually is, and what it can hardly be.

A band catches slips and stands in, marked as that, where the maker is silent. The maker's figure
always wins. Source of all numbers: general workshop guidance,
docs/craft.md §6, §8, §9, §11, §16, §18.
"""

from dataclasses import dataclass

from eldrim.core.base.quantity import Dimension, Quantity, make, working_unit
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.model import Engine, Plug, applies
from eldrim.core.engine.parts import Head, Joint, Part
from eldrim.core.engine.timing import Piece
from eldrim.core.engine.upkeep import Companion
from eldrim.core.words.messages import gettext, gettext_lazy


@dataclass(frozen=True)
class Band:
    """``low`` to ``high`` is usual, ``least`` to ``most`` still plausible, in the working unit.

    ``stands_in`` tells whether the usual band may be used where the maker is silent.
    """

    what: str
    dimension: Dimension
    low: float
    high: float
    least: float
    most: float
    stands_in: bool = False

    @property
    def usual(self) -> Quantity:
        """The usual band as a quantity."""
        return make(self.low, working_unit(self.dimension).symbol, self.high)

    @property
    def usual_words(self) -> str:
        """The usual band as it is read."""
        return self._read(self.usual)

    @property
    def plausible(self) -> Quantity:
        """The plausible band as a quantity."""
        return make(self.least, working_unit(self.dimension).symbol, self.most)

    @property
    def plausible_words(self) -> str:
        """The plausible band as it is read."""
        return self._read(self.plausible)

    def _read(self, band: Quantity) -> str:
        """Running time in hours, as meters count it; anything else in its working unit."""
        return band.printed_in("h") if self.dimension is D.TIME else str(band)

    def holds(self, low: float, high: float) -> bool:
        """Whether both limits are plausible."""
        return self.least <= low <= high <= self.most

    def expects(self, low: float, high: float) -> bool:
        """Whether both limits are usual, give or take a tenth."""
        return 0.9 * self.low <= low <= high <= 1.1 * self.high


# N·m for clean dry threads and a new plug: seat and thread to iron, aluminium (docs/craft.md §9).
_PLUG_TORQUE: dict[tuple[str, str], dict[str, tuple[float, float]]] = {
    ("gasket", "M18"): {"iron": (35, 45), "aluminium": (35, 40)},
    ("gasket", "M14"): {"iron": (25, 35), "aluminium": (25, 30)},
    ("gasket", "M12"): {"iron": (15, 25), "aluminium": (15, 20)},
    ("gasket", "M10"): {"iron": (10, 15), "aluminium": (10, 12)},
    ("gasket", "M8"): {"iron": (8, 10), "aluminium": (8, 10)},
    ("conical", "M18"): {"iron": (20, 30), "aluminium": (20, 30)},
    ("conical", "M14"): {"iron": (15, 25), "aluminium": (10, 20)},
}
# Where the table has no row: what a thread may take at most, whatever its seat, in N·m.
_THREAD_CEILING = {8: 12, 9: 15, 10: 18, 12: 30, 14: 42, 16: 48, 18: 54, 20: 60, 22: 66}
# The makers of small engines and long-reach plugs go well below the band, hardly ever above it.
_BELOW, _ABOVE = 0.55, 1.2
# N·m that a hex of so many mm across flats usually takes: the thread it goes with, steel in alloy.
_FASTENER_TORQUE: tuple[tuple[float, float, float], ...] = (
    (7.5, 1.5, 6),
    (8.5, 3, 10),
    (11.5, 4, 22),
    (13.5, 12, 36),
    (17.5, 20, 80),
    (40, 40, 200),
)
_COIL_BOLT = (4.0, 12.0)
_SCREW = (0.5, 9.0)
_GAP = (0.4, 1.6)
_GAP_USUAL = {"natural": (0.8, 1.1), "forced": (0.6, 0.9)}
D = Dimension


def plug_torque(plug: Plug, head: str) -> Band | None:
    """The band for a plug in a head of ``iron`` or ``aluminium``; None where none is known."""
    thread = plug.thread.partition("×")[0]
    usual = _PLUG_TORQUE.get((plug.seat, thread), {}).get(head)
    if usual is None:
        return _by_thread(thread)
    low, high = usual
    what = gettext(
        "the torque of a new {thread} plug with {seat} seat in {head}, dry",
        thread=thread,
        seat=plug.seat,
        head=head,
    )
    return Band(what, D.TORQUE, low, high, _BELOW * low, _ABOVE * high, stands_in=True)


def _by_thread(thread: str) -> Band | None:
    """What a thread may take where nothing is known of its seat; it never stands in."""
    ceiling = _THREAD_CEILING.get(int(float(thread.removeprefix("M"))))
    if ceiling is None:
        return None
    what = gettext("the torque of any {thread} plug", thread=thread)
    return Band(what, D.TORQUE, 0.35 * ceiling, 0.8 * ceiling, 0.2 * ceiling, ceiling)


def plug_gap(charging: str) -> Band:
    """The band for a gap under natural aspiration or forced induction."""
    low, high = _GAP_USUAL[charging]
    breathing = (
        gettext("forced induction") if charging == "forced" else gettext("natural aspiration")
    )
    return Band(
        gettext("a gap under {breathing}", breathing=breathing),
        D.LENGTH,
        low,
        high,
        *_GAP,
        stands_in=True,
    )


def fastener_torque(joint: Joint, coil: bool) -> Band | None:
    """The band for a fastener by what it is; a coil bolt never takes a plug's torque."""
    if coil:
        low, high = _COIL_BOLT
        return Band(
            gettext("a coil bolt's torque"), D.TORQUE, low, high, 0.5 * low, 1.25 * high, True
        )
    if joint.head in (Head.SLOT, Head.CROSS):
        low, high = _SCREW
        return Band(gettext("a screw's torque"), D.TORQUE, low, high, 0.5 * low, 1.3 * high)
    if joint.size is None or joint.head is not Head.HEX:
        return None
    low, high = next((a, b) for most, a, b in _FASTENER_TORQUE if joint.size.mid <= most)
    what = gettext("the torque of a fastener with a {size} head", size=joint.size)
    return Band(what, D.TORQUE, low, high, 0.6 * low, 1.3 * high)


# What does not depend on plug, fastener or system.
_FIXED = {
    "plug-angle": Band(gettext_lazy("the turn after seating"), D.ANGLE, 20, 240, 15, 270),
    "work-temperature": Band(
        gettext_lazy("a head temperature for work"), D.TEMPERATURE, 0, 45, -15, 60
    ),
    "warm-window": Band(gettext_lazy("a warm head temperature"), D.TEMPERATURE, 20, 50, 0, 70),
    "timing-static": Band(gettext_lazy("a static timing"), D.ANGLE, 0, 20, -15, 35),
    "timing-total": Band(gettext_lazy("a total advance"), D.ANGLE, 20, 40, 8, 55),
    "timing-speed": Band(gettext_lazy("a speed for the total"), D.SPEED, 1500, 4500, 900, 7000),
    "points-gap": Band(
        gettext_lazy("the gap of contact points"), D.LENGTH, 0.35, 0.45, 0.2, 0.7, True
    ),
    "dwell": Band(gettext_lazy("a dwell"), D.ANGLE, 25, 65, 15, 110),
    "air-gap": Band(gettext_lazy("the air gap of a pick-up"), D.LENGTH, 0.2, 0.5, 0.1, 1.0),
    "lead-resistance": Band(
        gettext_lazy("a lead's resistance"), D.RESISTANCE, 500, 15_000, 50, 40_000
    ),
    "coil-primary": Band(gettext_lazy("a coil's primary"), D.RESISTANCE, 0.3, 3, 0.1, 8, True),
    "coil-secondary": Band(
        gettext_lazy("a coil's secondary"), D.RESISTANCE, 5_000, 20_000, 1_500, 40_000, True
    ),
    "idle-speed": Band(gettext_lazy("an idle speed"), D.SPEED, 500, 1400, 350, 2500),
}
# Volts on the 12 V scale.
_VOLTS = {
    "battery-rest": (gettext_lazy("a battery at rest"), 12.3, 12.9, 11.5, 13.3),
    "cranking": (gettext_lazy("a battery while cranking"), 9.6, 12.0, 6.0, 12.6),
    "charging": (gettext_lazy("charging voltage"), 13.5, 14.5, 12.8, 15.3),
}


def fixed(key: str, system_volts: float) -> Band | None:
    """The band of a figure that does not depend on plug or fastener."""
    if key not in _VOLTS:
        return _FIXED.get(key)
    what, *ends = _VOLTS[key]
    low, high, least, most = (end * system_volts / 12 for end in ends)
    return Band(what, D.VOLTAGE, low, high, least, most, stands_in=True)


_INTERVALS = {
    D.DISTANCE: Band(gettext_lazy("a plug interval"), D.DISTANCE, 15_000, 160_000, 4_000, 250_000),
    D.TIME: Band(gettext_lazy("a plug interval"), D.TIME, 3_000, 180_000, 1_200, 6_000_000),
}
_PLUG_LENGTHS = {
    "reach": Band(gettext_lazy("a plug's reach"), D.LENGTH, 9.5, 28, 8, 36),
    "hex": Band(gettext_lazy("a plug's hex"), D.LENGTH, 14, 20.8, 8, 27),
    "height": Band(gettext_lazy("a plug's height over the hex"), D.LENGTH, 38, 60, 25, 90),
    "gap_supplied": Band(gettext_lazy("a gap as supplied"), D.LENGTH, 0.6, 1.1, *_GAP),
}


def plug_length(field: str) -> Band:
    """The band of one length of the plug itself."""
    return _PLUG_LENGTHS[field]


def band_for(
    engine: Engine, key: str, variant: str, dimension: Dimension = D.DISTANCE
) -> Band | None:
    """The band for the figure ``key`` on one variant; None where nothing general can be said.

    ``dimension`` is asked for intervals only, which are distances or times.
    """
    if key.startswith("interval"):
        return _INTERVALS.get(dimension)
    if key == "plug-gap":
        return plug_gap(engine.layout.charging)
    if key == "plug-torque":
        plug = next((p for p in engine.plugs if applies(p.variants, variant)), None)
        return plug_torque(plug, engine.layout.head) if plug else None
    return fixed(key, engine.layout.system.mid) or _of_fastener(engine, key)


def _of_fastener(engine: Engine, key: str) -> Band | None:
    on_coils = [(True, joint) for coil in engine.coils for joint in coil.joints.values()]
    owners: list[Part | Piece | Companion] = [*engine.parts.values(), *engine.pieces.values()]
    owners += engine.companions.values()
    on_parts = [(False, joint) for owner in owners for joint in owner.joints.values()]
    users = [u for u in on_coils + on_parts if u[1].torque == key and u[1].kind in FASTENERS]
    return fastener_torque(users[0][1], users[0][0]) if users else None
