"""Codes on paper that open an edition, or one act of it, on a tablet that looks at them."""

from dataclasses import dataclass
from functools import lru_cache
from io import BytesIO
from uuid import UUID

import segno
from markupsafe import Markup

# The first letters of an edition's id tell it well enough on paper.
SHORT = 10


@dataclass(frozen=True)
class Codes:
    """Where the edition is reached: the address of the server, and the edition's id.

    In capitals a code needs the fewest squares, so that it can be read from a small one.
    """

    server: str
    edition: UUID

    @property
    def address(self) -> str:
        """The address of the edition."""
        return f"{self.server.rstrip('/')}/e/{self.edition.hex[:SHORT]}".upper()

    def of_edition(self) -> Markup:
        """The code of the edition."""
        return drawn(self.address)

    def of_act(self, place: int) -> Markup:
        """The code of the act that begins with the step at this place, from 1 up."""
        return drawn(f"{self.address}/{place}")


@lru_cache(256)
def drawn(text: str) -> Markup:
    """A code as a drawing."""
    out = BytesIO()
    segno.make(text, error="l", micro=False).save(
        out, kind="svg", xmldecl=False, svgns=True, omitsize=True, border=1
    )
    return Markup(out.getvalue().decode())
