"""The crib: the tools a shop owns, as facts that fit, reach and setting are computed from."""

from collections.abc import Iterator
from datetime import date
from functools import cache, cached_property
from typing import Literal

from pydantic import Field, model_validator

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Angle, Length, Quantity, convert, format_number, parse
from eldrim.core.engine.parts import Head, Key, Name, Text
from eldrim.core.engine.sizes import HeadSize
from eldrim.core.words import all_sentences, printed, say
from eldrim.core.words.language import BASE_LANGUAGE, speaking
from eldrim.core.words.messages import gettext

Drive = Literal["1/4", "3/8", "1/2"]
DRIVES: tuple[Drive, ...] = ("1/4", "3/8", "1/2")
DRIVE_FRACTIONS = {"1/4": "¼", "3/8": "⅜", "1/2": "½"}
WRENCH_UNITS = ("N·m", "lbf·ft", "lbf·in", "kgf·m", "kgf·cm")


class Tool(Frozen):
    """What every tool has: its key, how many there are, a guide price to buy one."""

    id: Key
    count: int = Field(1, ge=0, le=50)
    price: float = Field(0, ge=0, le=5000, description="Guide price in euro; 0: not known.")
    mark: Text = Field("", description="What tells it from another that is just like it.")
    note: Text = ""

    @cached_property
    def name(self) -> str:
        """The name in the base language, by which people ask for the tool and tell it apart."""
        with speaking(BASE_LANGUAGE):
            return self.shown

    @property
    def shown(self) -> str:
        """The name in the language in use."""
        return f"{self.kind_name} {self.mark}".rstrip()

    @property
    def kind_name(self) -> str:
        """What it is, without the mark, in the language in use."""
        raise NotImplementedError


class Socket(Tool):
    """A socket or bit. ``depth`` is the clear depth inside, ``outside`` its largest diameter.

    ``length`` is what it adds to a stack, from the fastener's face to the square.
    """

    drive: Drive
    head: Head = Head.HEX
    size: HeadSize
    points: Literal[6, 12] = 6
    length: Length
    depth: Length = Field(parse("12 mm"), description="Clear depth inside.")
    outside: Length
    insert: Literal["none", "rubber", "magnet", "spring"] = "none"
    offset: Length | None = Field(
        None, description="A crow's foot: from its square to the fastener, sideways."
    )

    @property
    def kind_name(self) -> str:
        """Size, kind and drive: ``plug socket 16 mm, ⅜ in``."""
        points = say("tool.points.12") if self.points == 12 else ""
        return say(self._pattern(), size=_sized(self.size), points=points, drive=_drive(self.drive))

    def _pattern(self) -> str:
        if self.offset:
            return "tool.crows_foot"
        if self.head is Head.OUTER_SIX_LOBE:
            return "tool.socket"
        if self.head is not Head.HEX:
            return f"tool.bit.{self.head}"
        if self.grips:
            short = "short" if self.length.mid < SHORT_MM else ""
            thin = "thin" if self.outside.mid - self.size.mid < THIN_MM else ""
            form = "_".join(filter(None, (short, thin)))
            return f"tool.plug_socket.{form}" if form else "tool.plug_socket"
        return "tool.deep_socket" if self.depth.mid >= DEEP_MM else "tool.socket"

    @property
    def grips(self) -> bool:
        """Whether it holds the plug by itself."""
        return self.insert != "none"


# A socket with more clear depth than this takes a stud, or most of a plug.
DEEP_MM = 40.0
# A plug socket shorter than this goes where the common one does not.
SHORT_MM = 55.0
# With less wall than this in all it is a thin-wall socket.
THIN_MM = 4.8


class Extension(Tool):
    """An extension. ``outside`` is its largest diameter, at the ends."""

    drive: Drive
    kind: Literal["plain", "locking", "wobble"] = "plain"
    length: Length
    outside: Length

    @property
    def kind_name(self) -> str:
        """Kind, length and drive."""
        pattern = f"tool.extension.{self.kind}"
        return say(pattern, length=_sized(self.length), drive=_drive(self.drive))


class Swivel(Tool):
    """A universal joint between two pieces."""

    drive: Drive
    length: Length
    outside: Length
    limit: Angle = Field(parse("30°"), description="How far it leans before it binds.")

    @property
    def kind_name(self) -> str:
        """What it is and its drive."""
        return say("tool.swivel", drive=_drive(self.drive))


class Reducer(Tool):
    """Between a handle of one drive and a piece of another."""

    drive: Drive = Field(description="The handle's side.")
    to: Drive = Field(description="The socket's side.")
    length: Length
    outside: Length

    @property
    def kind_name(self) -> str:
        """From drive to drive."""
        return say("tool.reducer", drive=_drive(self.drive), to=_drive(self.to))


class Handle(Tool):
    """What turns a stack. ``head`` is its height over the square, ``swing`` its least stroke."""

    drive: Drive
    kind: Literal["ratchet", "flex_ratchet", "breaker", "t_bar", "spinner"] = "ratchet"
    length: Length
    head: Length
    swing: Angle = Field(parse("15°"), description="Least stroke that gains a tooth.")

    @property
    def kind_name(self) -> str:
        """Kind, and length where two of a kind are usual."""
        kind = "long_ratchet" if self.kind == "ratchet" and self.long else self.kind
        drive = _drive(self.drive)
        return say(f"tool.handle.{kind}", length=_sized(self.length), drive=drive)

    @property
    def long(self) -> bool:
        """Whether it is long enough to break a plug loose with one short sharp pull."""
        return self.length.mid >= LONG_MM


LONG_MM = 200.0


class Wrench(Tool):
    """A torque wrench. Full scale, graduation and least are in its own ``unit``.

    ``tolerance`` is the tool's own, as a share; without one the rule of docs/craft.md §7 holds.
    ``length`` runs from the grip to the drive; ``due`` is the day its calibration ends.
    """

    kind: Literal["click", "dial", "beam", "electronic", "preset"] = "click"
    drive: Drive
    unit: Literal["N·m", "lbf·ft", "lbf·in", "kgf·m", "kgf·cm"] = "N·m"
    least: float = Field(0, ge=0, description="Least the maker trusts it at; 0: by the rule.")
    full_scale: float = Field(gt=0)
    graduation: float = Field(1, gt=0)
    preset: float = Field(0, ge=0, description="The one torque of a preset wrench.")
    tolerance: float = Field(0, ge=0, le=0.2, description="0: by the rule.")
    length: Length
    head: Length
    due: date | None = None
    lapsed: bool = Field(False, description="Its calibration has run out on the day asked of.")

    @model_validator(mode="after")
    def _adds_up(self) -> "Wrench":
        if self.kind == "preset" and not self.preset:
            raise ValueError(gettext("a preset wrench needs its preset torque"))
        if self.least >= self.full_scale:
            raise ValueError(gettext("least must lie below full scale"))
        return self

    @property
    def kind_name(self) -> str:
        """Drive and trusted range in its own unit."""
        low = self.preset if self.kind == "preset" else self.trusted_from
        return say(
            f"tool.wrench.{self.kind}",
            drive=_drive(self.drive),
            low=_n(low),
            high=_n(self.full_scale),
            unit=self.unit,
        )

    @property
    def trusted_from(self) -> float:
        """Where trust begins: the maker's least, else a fifth of full scale (docs/craft.md §7)."""
        return self.least or float(f"{0.2 * self.full_scale:.12g}")

    @property
    def share(self) -> float:
        """The tolerance: the tool's own, else ±4 %, ±6 % up to 10 N·m of full scale."""
        small = convert(self.full_scale, self.unit, "N·m") <= 10
        return self.tolerance or (0.06 if small else 0.04)

    def overdue(self, on: date) -> bool:
        """Whether its calibration has run out on a day."""
        return self.due is not None and self.due < on


class Special(Tool):
    """Anything else that is asked for by name: pliers, props, chasers, gauges."""

    called: Name

    @property
    def kind_name(self) -> str:
        """As it is asked for; a standard tool by its word."""
        key = standard_tool(self.called)
        return say(f"tool.{key}") if key else self.called


class Crib(Frozen):
    """All tools of a shop. ``specials_given`` takes every tool asked for by name to be there."""

    version: int = 1
    sockets: tuple[Socket, ...] = ()
    extensions: tuple[Extension, ...] = ()
    swivels: tuple[Swivel, ...] = ()
    reducers: tuple[Reducer, ...] = ()
    handles: tuple[Handle, ...] = ()
    wrenches: tuple[Wrench, ...] = ()
    specials: tuple[Special, ...] = ()
    specials_given: bool = False

    @model_validator(mode="after")
    def _told_apart(self) -> "Crib":
        seen: set[str] = set()
        for tool in self.all():
            if tool.id in seen:
                raise ValueError(gettext("two tools have the key '{id}'", id=tool.id))
            if fold(tool.name) in seen:
                raise ValueError(
                    gettext("two tools are called '{tool}': mark one, or count two", tool=tool.name)
                )
            seen |= {tool.id, fold(tool.name)}
        return self

    def all(self) -> Iterator[Tool]:
        """Every tool, kind by kind."""
        for kind in KINDS:
            yield from getattr(self, kind)

    @cached_property
    def names(self) -> frozenset[str]:
        """What the shop has at least one of, folded for comparing."""
        return frozenset(fold(t.name) for t in self.all() if t.count)

    def has(self, name: str) -> bool:
        """Whether a tool asked for by name, or by the id of a standard tool, is there."""
        return self.specials_given or asked_name(name) in self.names

    def find(self, asked: str) -> Tool | None:
        """The tool meant by a name or by the id of a standard tool; None where it is not here."""
        return self._by_name.get(asked_name(asked))

    @cached_property
    def _by_name(self) -> dict[str, Tool]:
        return {fold(t.name): t for t in self.all()}

    def on(self, day: date) -> "Crib":
        """This crib on a day: wrenches whose calibration has run out are known as such."""
        late = {wrench.id for wrench in self.wrenches if wrench.overdue(day)}
        if not late:
            return self
        return self._with(
            [
                t.model_copy(update={"lapsed": t.id in late}) if isinstance(t, Wrench) else t
                for t in self.all()
            ]
        )

    def without(self, names: tuple[str, ...]) -> "Crib":
        """This crib with some tools away, by name or key."""
        gone = {fold(name) for name in names}
        if not gone:
            return self
        kept = [t for t in self.all() if fold(t.name) not in gone and t.id not in gone]
        return self._with(kept)

    def plus(self, *tools: Tool) -> "Crib":
        """This crib with tools added; one of the same key or name takes the place of the old."""
        new = {tool.id for tool in tools} | {fold(t.name) for t in tools}
        kept = [t for t in self.all() if not {t.id, fold(t.name)} & new]
        return self._with([*kept, *tools])

    def _with(self, tools: list[Tool]) -> "Crib":
        lists = {
            kind: [tool for tool in tools if type(tool) is model] for kind, model in KINDS.items()
        }
        plain = {"version": self.version, "specials_given": self.specials_given}
        return Crib.model_validate({**plain, **lists})


KINDS: dict[str, type[Tool]] = {
    "sockets": Socket,
    "extensions": Extension,
    "swivels": Swivel,
    "reducers": Reducer,
    "handles": Handle,
    "wrenches": Wrench,
    "specials": Special,
}


STANDARD_TOOLS = {
    key.removeprefix("tool."): name
    for key, name in all_sentences().items()
    if key.startswith("tool.") and "{" not in name and name
}
"""The trade's own tools by id, with the name they are asked for by on a sheet."""


def standard_tool(name: str) -> str:
    """The id of the trade's own tool that a typed name means; empty where it is none."""
    return _standard_ids().get(fold(name), "")


@cache
def _standard_ids() -> dict[str, str]:
    return {fold(name): key for key, name in STANDARD_TOOLS.items()}


def asked_name(asked: str) -> str:
    """The name, folded for comparing, of a tool asked for by name or by a standard id."""
    return fold(STANDARD_TOOLS.get(asked, asked))


def fold(name: str) -> str:
    """A tool's name for comparing: case, commas and spaces do not tell two tools apart."""
    return " ".join(name.replace(",", " ").lower().split())


def kind_of(tool: Tool) -> str:
    """The list of the crib a tool belongs in."""
    return next(kind for kind, model in KINDS.items() if type(tool) is model)


def _n(value: float) -> str:
    return format_number(value, 1)


def _sized(size: Quantity) -> str:
    """A size as a tool's name has it: ``16 mm``, ``5/8 in``."""
    if not size.text.endswith(size.unit):
        return size.text  # the number of a six-lobe, as T30
    number = printed(size.text.removesuffix(size.unit).rstrip())
    return f"{number} {say('unit.in') if size.unit == 'in' else size.unit}"


def _drive(drive: Drive) -> str:
    return f"{DRIVE_FRACTIONS[drive]} {say('unit.in')}"
