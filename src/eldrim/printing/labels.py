"""Labels to stick on: units with their code, and bags for what comes off."""

from dataclasses import dataclass
from io import BytesIO

import segno
from markupsafe import Markup

from eldrim.core.procedure.model import Phase, Plan
from eldrim.printing.paper import paper


@dataclass(frozen=True)
class Label:
    """One label: what is large, what is small below it, and what its code says."""

    large: str
    small: str
    code: str

    @property
    def picture(self) -> Markup:
        """The code as a drawing."""
        out = BytesIO()
        segno.make(self.code, error="m", micro=False).save(
            out, kind="svg", xmldecl=False, svgns=True, omitsize=True, border=2
        )
        return Markup(out.getvalue().decode())


def unit_code(key: str, serial: str) -> str:
    """What a unit's label says when it is scanned; it ends with the serial."""
    return f"ELDRIM UNIT {key} {serial}"


def bags(plan: Plan, unit: str, run: str) -> list[Label]:
    """A label for each thing that comes off on the way in, in that order."""
    return [
        Label(s.text, f"{unit} · {plan.title} · {n}", f"ELDRIM BAG {run} {s.key}")
        for n, s in enumerate((s for s in plan.steps if s.phase is Phase.UNCOVER
                               and s.key.split("/")[0] in ("release", "remove")), 1)
    ]  # fmt: skip


def pdf(labels: list[Label]) -> bytes:
    """The labels on A4, three by eight, 70 by 37 mm each."""
    return paper("labels", labels=labels)
