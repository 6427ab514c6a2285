"""What can go wrong with a way in."""

from eldrim.core.access.problem import Closed
from eldrim.core.base.errors import EldrimError


class NoWayInError(EldrimError):
    """Nothing opens the job.

    ``chain`` names what ends it, from a hole down; ``loop`` tells that its parts wait for each
    other; ``closed`` are the ways and work-rounds that would open the last of it, and why each is
    not offered.
    """

    def __init__(
        self, chain: tuple[str, ...], loop: bool = False, closed: tuple[Closed, ...] = ()
    ) -> None:
        """Keep the chain so that the caller can name the parts as people do."""
        self.chain, self.loop, self.closed = chain, loop, closed
        super().__init__(" → ".join(chain))


class UndecidedError(NoWayInError):
    """No way in was found within the limits of the search, and none is ruled out."""

    def __init__(self) -> None:
        """There is no chain to name."""
        super().__init__(())
