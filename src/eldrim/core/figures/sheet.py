"""Looking a figure up on the sheet: which source holds, who disagrees, what stands in."""

from dataclasses import dataclass

from eldrim.core.base.quantity import Quantity
from eldrim.core.engine.model import Engine, Figure, Plug, applies
from eldrim.core.engine.parts import Joint
from eldrim.core.engine.upkeep import Interval
from eldrim.core.figures.bands import band_for
from eldrim.core.figures.torque import Window, window
from eldrim.core.rules.house import HouseRules
from eldrim.core.words import say


@dataclass(frozen=True)
class FigureInForce:
    """A figure found. ``figure`` is None where a band stands in, and ``source`` says so.

    ``rivals`` are sources that disagree with it; while ``settled`` is False nobody has said
    which of them holds.
    """

    value: Quantity
    source: str
    figure: Figure | None = None
    rivals: tuple[Figure, ...] = ()
    settled: bool = True

    @property
    def fallback(self) -> bool:
        """Whether the maker is silent and a band stands in."""
        return self.figure is None


def stated(engine: Engine, key: str, variant: str, lubricated: bool = False) -> tuple[Figure, ...]:
    """Every figure for ``key`` that applies to a variant.

    Figures for lubricated threads are a matter of their own: they never contradict dry ones, and
    stand where no dry one is stated, and the other way round.
    """
    fits = [f for f in engine.figures.get(key, ()) if applies(f.variants, variant)]
    same = [fit for fit in fits if fit.lubricated == lubricated]
    return tuple(same or fits)


def look_up(
    engine: Engine, key: str, variant: str, lubricated: bool = False
) -> FigureInForce | None:
    """The figure in force for ``key``; None where the sheet is silent and no band stands in."""
    found = stated(engine, key, variant, lubricated)
    if not found:
        return _stand_in(engine, key, variant)
    chosen = next((f for f in found if f.settled), found[0])
    rivals = tuple(f for f in found if _differ(f, chosen))
    return FigureInForce(
        chosen.value,
        source_text(engine, chosen),
        chosen,
        rivals,
        settled=not rivals or bool(chosen.settled),
    )


def _differ(one: Figure, other: Figure) -> bool:
    pairs = ((one.value.low, other.value.low), (one.value.high, other.value.high))
    return any(abs(a - b) > 0.005 * max(abs(a), abs(b), 1e-9) for a, b in pairs)


def _stand_in(engine: Engine, key: str, variant: str) -> FigureInForce | None:
    band = band_for(engine, key, variant)
    if band is None or not band.stands_in:
        return None
    said = say("figure.fallback", what=band.what)
    return FigureInForce(band.usual, said)


def source_text(engine: Engine, figure: Figure | Plug | Interval) -> str:
    """Document, edition and page: ``Marlet workshop manual, 4th edition, p. 6-12``."""
    source = engine.sources[figure.source]
    if source.kind == "label":
        return f"{source.document}, {source.edition}"
    return say("figure.page", document=source.document, edition=source.edition, page=figure.page)


def compounded(engine: Engine, plug: Plug, rules: HouseRules) -> bool:
    """Whether thread compound or oil goes on a plug, by the chosen school (docs/craft.md §10)."""
    school = rules.school["thread_compound"]
    bare = plug.plating == "bare" and engine.layout.head == "aluminium"
    return school in ("always", "oil") or (school == "by_plating" and bare)


def plug_of(engine: Engine, variant: str) -> Plug:
    """The plug of a variant; a consistent sheet has exactly one."""
    return next(plug for plug in engine.plugs if applies(plug.variants, variant))


def plug_window(
    engine: Engine, variant: str, rules: HouseRules
) -> tuple[FigureInForce, Window] | None:
    """The plug's torque window by house rule; None where only the angle method is left."""
    greased = compounded(engine, plug_of(engine, variant), rules)
    found = look_up(engine, "plug-torque", variant, greased)
    if found is None:
        return None
    dry = found.figure is None or not found.figure.lubricated
    reduction = rules.compound_reduction if greased and dry else 0.0
    return found, _window(found, rules, reduction)


def joint_window(
    engine: Engine, joint: Joint, variant: str, rules: HouseRules
) -> tuple[FigureInForce, Window] | None:
    """A fastener's torque window; None where the sheet asks for snug."""
    found = look_up(engine, joint.torque, variant) if joint.torque else None
    return None if found is None else (found, _window(found, rules))


def _window(found: FigureInForce, rules: HouseRules, reduction: float = 0.0) -> Window:
    school = "low_third" if rules.school["tightening"] == "low_third" else "mid"
    return window(found.value, school, rules.value_allowance, reduction, rules.compound_floor)
