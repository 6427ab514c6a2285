"""What the spec sheet shows for one engine and variant."""

from dataclasses import dataclass
from functools import cached_property

from eldrim.core.base.quantity import Quantity, parse
from eldrim.core.engine import Engine
from eldrim.core.engine.edit import to_be_sourced
from eldrim.core.engine.model import TO_BE_STATED, TO_STATE, Coil, Figure, Lead, Plug
from eldrim.core.engine.variants import differences
from eldrim.core.figures.gap import GAUGE_STEP_MM
from eldrim.core.figures.listing import Row, spec_rows
from eldrim.core.figures.sheet import compounded, plug_of, source_text
from eldrim.core.figures.slips import Held
from eldrim.core.procedure.job.step_figures import ALSO
from eldrim.core.rules.house import HouseRules
from eldrim.core.tools.crib import Crib
from eldrim.core.tools.wrench_choice import against, weigh
from eldrim.core.words.messages import gettext
from eldrim.drawing import gap_wedge, plug_figure, torque_rule, turn_dial


@dataclass(frozen=True)
class Typing:
    """A figure being stated: what was typed, and why it is held."""

    key: str
    index: int | None
    fields: dict[str, str]
    held: Held | None = None
    problem: str = ""


class SpecPage:
    """Everything the spec sheet shows."""

    def __init__(
        self,
        engine: Engine,
        variant: str,
        rules: HouseRules,
        crib: Crib,
        typing: Typing | None = None,
    ) -> None:
        """Settle the variant; the first where none or an unknown one is asked."""
        self.engine, self.rules, self.crib, self.typing = engine, rules, crib, typing
        self.variant = variant if variant in engine.variants else next(iter(engine.variants))

    @cached_property
    def rows(self) -> tuple[Row, ...]:
        """The lines of the sheet."""
        return spec_rows(self.engine, self.variant, self.rules)

    @property
    def differs(self) -> dict[str, tuple[str, ...]]:
        """What each variant states otherwise."""
        return differences(self.engine)

    @property
    def told_by(self) -> str:
        """How the variant is told: serial, engine letters, years."""
        variant = self.engine.variants[self.variant]
        said = []
        if variant.serial_from is not None or variant.serial_to is not None:
            first = variant.serial_from if variant.serial_from is not None else gettext("the first")
            last = variant.serial_to
            said.append(
                gettext("serial {first} on", first=first)
                if last is None
                else gettext("serial {first} to {last}", first=first, last=last)
            )
        said += (
            [gettext("letters {letters}", letters=", ".join(variant.letters))]
            if variant.letters
            else []
        )
        said += (
            [gettext("{first} to {last}", first=variant.years[0], last=variant.years[1])]
            if variant.years
            else []
        )
        return "; ".join(said)

    @property
    def plug(self) -> Plug:
        """The plug of the variant."""
        return plug_of(self.engine, self.variant)

    @property
    def plug_drawing(self) -> str:
        """The plug with its sizes."""
        return plug_figure.draw(self.plug)

    @property
    def plug_source(self) -> str:
        """Where the plug's facts come from."""
        return source_text(self.engine, self.plug)

    @property
    def open_points(self) -> list[str]:
        """What keeps the sheet from being settled, in words."""
        said = [gettext("{r}: two sources disagree", r=r.name) for r in self.rows if r.in_conflict]
        said += [
            gettext("{name}: its source is to be stated", name=name) for _, name in self.unsourced
        ]
        items: list[Plug | Coil | Lead] = [
            *self.engine.plugs,
            *self.engine.coils,
            *self.engine.leads,
        ]
        said += [
            gettext("{name}: its part number is to be stated", name=type(item).__name__.lower())
            for item in items
            if item.part_number == TO_BE_STATED
        ]
        if self.plug.source == TO_STATE:
            said.append(gettext("plug: its source is to be stated"))
        for row in self.rows:
            if row.looked and row.looked.fallback and row.wanted:
                said.append(gettext("{row}: the maker is silent, a band stands in", row=row.name))
            elif row.looked is None and row.wanted:
                said.append(gettext("{row}: not stated", row=row.name))
        return said

    @property
    def unsourced(self) -> list[tuple[str, str]]:
        """The figures without a source: place, and in words."""
        return [
            (place, f"{place.partition('/')[0].replace('-', ' ')} {figure.value}")
            for place, figure in to_be_sourced(self.engine).items()
        ]

    def source(self, figure: Figure) -> str:
        """Document, edition and page of a figure."""
        return source_text(self.engine, figure)

    def kind(self, figure: Figure) -> str:
        """What kind of source it is."""
        return self.engine.sources[figure.source].kind.replace("_", " ")

    def holds(self, row: Row, figure: Figure) -> bool:
        """Whether this is the figure in force."""
        return row.looked is not None and row.looked.figure is figure and row.looked.settled

    def also(self, value: Quantity) -> str:
        """The same in the other unit people think in."""
        return value.printed_in(ALSO[value.unit]) if value.unit in ALSO else ""

    def applies_to(self, figure: Figure) -> str:
        """The variants a figure is for, in words."""
        names = [self.engine.variants[variant].name for variant in figure.variants]
        return ", ".join(names) if names else gettext("all variants")

    def drawing(self, row: Row) -> str:
        """The drawn figure: torque rule with the best wrench, gap wedge, or dial of turns."""
        if row.looked is None:
            return ""
        value = row.looked.value
        if row.key == "plug-gap":
            ends = (value.low, value.high, value.mid)
            return gap_wedge.draw(*ends, None, GAUGE_STEP_MM, value.unit)
        if row.key == "plug-angle":
            return turn_dial.draw(value.low, value.high)
        best = weigh(self.crib, row.window)[:1] if row.window else []
        if not best or row.window is None:
            return ""
        low, high, aim = (
            parse(f"{v:.9f} N·m").printed_in(best[0][1].unit, 6).split()[0]
            for v in (row.window.low, row.window.high, row.window.aim)
        )
        return torque_rule.rule(best[0][1], float(low), float(high), float(aim))

    def wrench(self, row: Row) -> tuple[str, tuple[str, ...]]:
        """The setting on the wrench nearest the aim, and what speaks against the others."""
        if row.window is None:
            return "", ()
        best = weigh(self.crib, row.window)
        if not best:
            return gettext("No wrench in the crib can be set for it"), ()
        dial = best[0][1]
        return gettext("Set {dial} on the {wrench}", dial=dial.text, wrench=dial.wrench), against(
            self.crib, row.window, dial
        )

    @property
    def compound(self) -> str:
        """What the house does to the plug's thread."""
        school = self.rules.school["thread_compound"]
        if not compounded(self.engine, self.plug, self.rules):
            return gettext("The thread stays dry")
        return (
            gettext("Thin oil on the thread")
            if school == "oil"
            else gettext("Thread compound on the thread")
        )
