"""Everything a spec sheet lists for one variant, stated or not, in the order of the craft."""

from collections.abc import Iterator
from dataclasses import dataclass

from eldrim.core.base.quantity import Dimension
from eldrim.core.engine.joints import FASTENERS
from eldrim.core.engine.model import Engine, Figure, applies
from eldrim.core.engine.parts import Joint
from eldrim.core.figures.bands import Band, band_for
from eldrim.core.figures.sheet import FigureInForce, joint_window, look_up, plug_window
from eldrim.core.figures.slips import Sibling
from eldrim.core.figures.torque import Window
from eldrim.core.rules.house import HouseRules
from eldrim.core.words.messages import gettext, gettext_lazy

D = Dimension
# Key to its name on the sheet, its dimension, and whether a sheet without it is worth a word.
FIXED: dict[str, tuple[str, Dimension, bool]] = {
    "plug-torque": (gettext_lazy("Plug torque"), D.TORQUE, True),
    "plug-gap": (gettext_lazy("Plug gap"), D.LENGTH, True),
    "plug-angle": (gettext_lazy("Turn after seating"), D.ANGLE, False),
    "work-temperature": (gettext_lazy("Head temperature for work"), D.TEMPERATURE, True),
    "warm-window": (gettext_lazy("Head temperature, slightly warm"), D.TEMPERATURE, False),
    "interval": (gettext_lazy("Plug interval"), D.DISTANCE, True),
    "interval-hours": (gettext_lazy("Plug interval by running time"), D.TIME, False),
    "battery-rest": (gettext_lazy("Battery at rest"), D.VOLTAGE, True),
    "charging": (gettext_lazy("Charging voltage"), D.VOLTAGE, True),
    "idle-speed": (gettext_lazy("Idle speed"), D.SPEED, False),
    "cranking": (gettext_lazy("Battery while cranking"), D.VOLTAGE, False),
    "timing-static": (gettext_lazy("Static timing"), D.ANGLE, True),
    "timing-total": (gettext_lazy("Total advance"), D.ANGLE, False),
    "timing-speed": (gettext_lazy("Speed for the total"), D.SPEED, False),
    "points-gap": (gettext_lazy("Gap of the contact points"), D.LENGTH, False),
    "dwell": (gettext_lazy("Dwell"), D.ANGLE, False),
    "air-gap": (gettext_lazy("Air gap of the pick-up"), D.LENGTH, False),
    "lead-resistance": (gettext_lazy("Resistance of a lead"), D.RESISTANCE, False),
    "coil-primary": (gettext_lazy("Main coil or pack, primary"), D.RESISTANCE, False),
    "coil-secondary": (gettext_lazy("Main coil or pack, secondary"), D.RESISTANCE, False),
}
DIMENSIONS = {key: dimension for key, (_, dimension, _) in FIXED.items()}
OF_A_DISTRIBUTOR = frozenset(
    {"timing-static", "timing-total", "timing-speed", "points-gap", "dwell", "air-gap"}
)
OF_LEADS = frozenset({"lead-resistance", "coil-primary", "coil-secondary"})


@dataclass(frozen=True)
class Row:
    """One line of the spec sheet.

    ``stated`` are all figures for it with their place in the file; ``looked`` is the one in force
    for the variant; ``window`` the torque to aim at by house rule; ``users`` what is held by it.
    """

    key: str
    name: str
    dimension: Dimension
    stated: tuple[tuple[int, Figure], ...]
    looked: FigureInForce | None
    band: Band | None
    window: Window | None = None
    users: tuple[str, ...] = ()
    wanted: bool = False

    @property
    def in_conflict(self) -> bool:
        """Whether sources disagree and nobody has said which holds."""
        return self.looked is not None and not self.looked.settled


def spec_rows(engine: Engine, variant: str, rules: HouseRules) -> tuple[Row, ...]:
    """Every line of the sheet for a variant: the plug, then each fastener, then the rest."""
    users = _fastener_users(engine)
    plug = [_row(engine, k, variant, rules) for k in ("plug-torque", "plug-gap", "plug-angle")]
    bolts = [_row(engine, key, variant, rules, tuple(user)) for key, user in users.items()]
    rest = [k for k in FIXED if not k.startswith("plug-") and _concerns(engine, k)]
    others = [figure for figure in engine.figures if figure not in FIXED and figure not in users]
    return (*plug, *bolts, *(_row(engine, k, variant, rules) for k in (*rest, *others)))


def _concerns(engine: Engine, key: str) -> bool:
    """Whether a figure is one that this engine has: stated, or of what carries its spark."""
    if key in engine.figures:
        return True
    if key in OF_A_DISTRIBUTOR:
        # Points or a pick-up: the one it has is stated.
        points = "air-gap" if {"points-gap", "dwell"} & set(engine.figures) else "points-gap"
        return engine.ignition.kind == "distributor" and key not in ("dwell", points)
    return key not in OF_LEADS or engine.ignition.kind != "coil_on_plug"


def _row(
    engine: Engine, key: str, variant: str, rules: HouseRules, users: tuple[str, ...] = ()
) -> Row:
    stated = tuple(
        (index, f)
        for index, f in enumerate(engine.figures.get(key, ()))
        if applies(f.variants, variant)
    )
    dimension = dimension_of(engine, key)
    timed = key == "interval" and "interval-hours" in engine.figures
    name, _, wanted = FIXED.get(key, (key.replace("-", " ").capitalize(), dimension, bool(users)))
    looked = look_up(engine, key, variant)
    return Row(
        key,
        name,
        dimension,
        stated,
        looked,
        band_for(engine, key, variant, dimension),
        _window(engine, key, variant, rules),
        users,
        wanted and not timed,
    )


def dimension_of(engine: Engine, key: str) -> Dimension:
    """What a figure measures: by its key, by what is stated already, else a torque."""
    if key in FIXED:
        return FIXED[key][1]
    stated = engine.figures.get(key)
    return stated[0].value.dimension if stated else D.TORQUE


def siblings(engine: Engine, key: str, variant: str) -> tuple[Sibling, ...]:
    """The figures a torque is most often mixed up with."""
    if dimension_of(engine, key) is not D.TORQUE:
        return ()
    names = {"plug-torque": gettext("this engine's plug")}
    names |= {
        user: gettext("the {user}", user=user.replace("-", " ")) for user in _fastener_users(engine)
    }
    bands = {name: band_for(engine, name, variant) for name in names if name != key}
    return tuple(Sibling(names[k], band) for k, band in bands.items() if band)


def _window(engine: Engine, key: str, variant: str, rules: HouseRules) -> Window | None:
    if key == "plug-torque":
        found = plug_window(engine, variant, rules)
        return found[1] if found else None
    joint = next((j for j in _joints(engine) if j[1].torque == key), None)
    stated = joint_window(engine, joint[1], variant, rules) if joint else None
    return stated[1] if stated else None


def _fastener_users(engine: Engine) -> dict[str, list[str]]:
    users: dict[str, list[str]] = {}
    for name, joint in _joints(engine):
        if joint.torque:
            users.setdefault(joint.torque, []).append(name)
    return users


def _joints(engine: Engine) -> Iterator[tuple[str, Joint]]:
    for coil in engine.coils:
        yield from (("coil", joint) for joint in coil.joints.values() if joint.kind in FASTENERS)
    for lead in engine.leads:
        yield from (("lead", j) for j in lead.joints.values() if j.kind in FASTENERS)
    for part in engine.parts.values():
        yield from ((part.name, j) for j in part.joints.values() if j.kind in FASTENERS)
