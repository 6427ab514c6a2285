"""The least changes of set-up that a choice of ways brings, so that both are weighed in one sum."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from eldrim.core.access.problem import Option


@dataclass(frozen=True)
class ChangeFloor:
    """A lower limit of the set-up changes of any choice, in hundredths of a minute.

    ``own`` is what an option brings by itself. ``kinds`` are the kinds of set-up an option uses;
    each kind costs ``price`` once, however many options use it. ``always`` comes with every choice.
    """

    own: Mapping[Option, int] = field(default_factory=dict)
    kinds: Mapping[Option, frozenset[int]] = field(default_factory=dict)
    price: int = 0
    always: int = 0

    def of(self, chosen: frozenset[Option]) -> int:
        """The lower limit for one choice."""
        used = {kind for option in chosen for kind in self.kinds.get(option, ())}
        alone = sum(self.own.get(option, 0) for option in chosen)
        return self.always + alone + self.price * len(used)


NO_CHANGES = ChangeFloor()
