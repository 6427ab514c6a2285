"""What a sum asks and what it answers."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from pydantic import Field as ModelField

from eldrim.core.base.frozen import Frozen
from eldrim.core.base.quantity import Dimension
from eldrim.core.figures.cooling import Cooling
from eldrim.core.figures.gap import Advice
from eldrim.core.tools.stack import Stack
from eldrim.core.tools.wrench_setting import Setting

if TYPE_CHECKING:
    from eldrim.core.sums.given import Given

Value = float | str | bool | None
SHOP = "shop practice, docs/craft.md"


class SumResult(Frozen):
    """A worked sum: the result in words, the formula, the numbers in it, and its source.

    ``values`` are the results as data; the rest carries what a drawing needs: torques in N·m,
    gaps in mm, turns in degrees.
    """

    result: str
    formula: str
    working: tuple[str, ...]
    source: str
    values: dict[str, Value] = ModelField(default_factory=dict)
    setting: Setting | None = None
    window: tuple[float, float, float] | None = None
    cooling: Cooling | None = None
    advice: Advice | None = None
    gap: tuple[float, float, float] | None = None
    reading: float | None = None
    step: float | None = None
    turn: tuple[float, float] | None = None
    stack: Stack | None = None


@dataclass(frozen=True)
class Field:
    """One thing a sum asks.

    ``choices`` are words to choose from. Else it is a quantity of ``dimension``, or a plain number
    in ``unit``, plausible within ``least`` to ``most`` (in the working unit). ``many`` takes
    several, apart by blanks or semicolons; ``optional`` may be left blank and then means none, with
    ``start`` it is filled in at first all the same. ``unit_of`` names the field that says the unit
    of a bare number.
    """

    name: str
    label: str
    example: str
    choices: tuple[str, ...] = ()
    dimension: Dimension | None = None
    unit: str = ""
    least: float = 0.0
    most: float = 0.0
    many: bool = False
    optional: bool = False
    start: bool = False
    unit_of: str = ""


@dataclass(frozen=True)
class Sum:
    """A quick sum."""

    key: str
    name: str
    fields: tuple[Field, ...]
    work: "Callable[[Given], SumResult]"
