"""Labels to stick on: units with their code, and bags for what comes off."""

from dataclasses import dataclass
from io import BytesIO
from uuid import UUID

import segno
from markupsafe import Markup

from eldrim.core.operations import Operation
from eldrim.core.procedure.model import Plan
from eldrim.core.run.bags import Bag, bags
from eldrim.core.run.unit_label import plug_code
from eldrim.core.words import say
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


def bag_labels(plan: Plan, unit: str, run: str) -> list[Label]:
    """A label for each thing that comes off on the way in, in that order; where it goes back."""
    place: dict[str, int] = {step.key: number for number, step in enumerate(plan.steps, 1)}
    return [
        Label(
            bag.off.text,
            " · ".join([unit, plan.title, str(bag.number), *_back(bag, place)]),
            f"ELDRIM BAG {run} {bag.off.key}",
        )
        for bag in bags(plan)
    ]


def plug_labels(plan: Plan, unit: str, run: UUID, day: str) -> list[Label]:
    """A label for each plug that comes out, where the house keeps them to the re-check."""
    if plan.schools.get("old_plugs") != "keep" or plan.search:
        return []
    out = [s for s in plan.steps if s.key.operation is Operation.REMOVE_PLUG and s.hole]
    return [
        Label(
            say("bay.old_plug", hole=step.hole),
            " · ".join([unit, day, say("bay.old_plug_keep")]),
            plug_code(run, step.hole or ""),
        )
        for step in out
    ]


def _back(bag: Bag, place: dict[str, int]) -> list[str]:
    return [say("bay.goes_back", n=place[bag.back.key])] if bag.back else []


def pdf(labels: list[Label]) -> bytes:
    """The labels on A4, three by eight, 70 by 37 mm each."""
    return paper("labels", labels=labels)
