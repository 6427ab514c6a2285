"""Battery and charging as work: each measurement a step, what tells most for least first."""

from eldrim.core.figures.battery import CABLE_DROP, CRANKING, LOAD_DROP, MOST, REST_CHARGED
from eldrim.core.job import Work
from eldrim.core.operations import Operation
from eldrim.core.procedure.job.asked import asked_number
from eldrim.core.procedure.job.job_facts import JobFacts
from eldrim.core.procedure.model import Falls, Reading, Says, Step, StepFigure
from eldrim.core.procedure.steps.part_step import engine_step
from eldrim.core.words import say

Act = Operation
# Over a limit, not at it.
OVER = 1e-6
# Under this, on the 12 V scale, a running unit does not charge at all.
CHARGES = 12.8


def before(facts: JobFacts) -> list[Step]:
    """The battery while it cranks, and what its cables lose; after it was measured at rest."""
    if Work.BATTERY not in facts.job.places:
        return []
    share = facts.engine.layout.system.mid / 12
    figure = facts.figures.plain("cranking", say("figure.cranking"))
    least = figure.min if figure else round(CRANKING * share, 2)
    crank = Reading(
        key="volts_cranking",
        label=say("label.volts_cranking"),
        kind="number",
        unit="V",
        low=least,
        why_limit=say("limit.cranking"),
        says=(
            Says(text=say("says.cranking_low")),
            Says(least=least, text=say("says.cranking_well")),
            Says(least=round(13 * share, 2), text=say("says.wrong_range")),
        ),
    )
    meter = facts.tools.asked("multimeter")
    return [
        engine_step(
            Act.CRANK_BATTERY,
            readings=(crank,),
            figures=(figure,) if figure else (),
            tools=meter,
            causes=facts.rolls,
        ),
        engine_step(
            Act.MEASURE_DROP,
            readings=(_drop("drop_live"), _drop("drop_earth")),
            tools=meter,
            causes=facts.rolls,
        ),
    ]


def _drop(key: str) -> Reading:
    return Reading(
        key=key,
        label=say(f"label.{key}"),
        kind="number",
        unit="V",
        low=0.0,
        high=CABLE_DROP,
        required=False,
        why_limit=say("limit.drop"),
        says=(
            Says(text=say("says.drop_well")),
            Says(least=CABLE_DROP + OVER, text=say("says.drop_over")),
        ),
    )


def running(facts: JobFacts) -> list[Step]:
    """Charging at idle, then with lamps, blower and heater on."""
    figure = facts.figures.plain("charging", say("figure.charging"))
    if Work.CHARGING not in facts.job.places or figure is None:
        return []
    meter = facts.tools.asked("multimeter")
    share = facts.engine.layout.system.mid / 12
    measured = (
        (Act.CHARGE_IDLE, _at_idle(figure, share)),
        (Act.CHARGE_LOADED, _under_load(figure, share)),
    )
    return [
        engine_step(act, readings=(one,), figures=(figure,), tools=meter, causes=facts.rolls)
        for act, one in measured
    ]


def _beyond(figure: StepFigure, share: float) -> tuple[Says, ...]:
    """What a voltage over the window says, and one that no such system has."""
    return (
        Says(least=figure.max + OVER, text=say("says.charging_over")),
        Says(least=round(MOST * share, 2), text=say("says.wrong_range")),
    )


def _at_idle(figure: StepFigure, share: float) -> Reading:
    return asked_number(
        "volts_idle",
        figure,
        "charging",
        says=(
            Says(text=say("says.charging_none")),
            Says(least=round(CHARGES * share, 2), text=say("says.charging_weak")),
            Says(least=figure.min, text=say("says.charging_well")),
            *_beyond(figure, share),
        ),
    )


def _under_load(figure: StepFigure, share: float) -> Reading:
    """Within half a volt of the same as at idle, and never down at rest voltage."""
    rest = round(REST_CHARGED * share, 2)
    least = round(max(figure.min - LOAD_DROP * share, rest), 2)
    return Reading(
        key="volts_loaded",
        label=say("label.volts_loaded"),
        kind="number",
        unit=figure.unit,
        low=least,
        high=figure.max,
        why_limit=say("limit.loaded"),
        falls=Falls(
            under="volts_idle", most=round(LOAD_DROP * share, 2), text=say("says.loaded_far")
        ),
        says=(
            Says(text=say("says.loaded_down")),
            Says(least=rest, text=say("says.loaded_far")),
            Says(least=least, text=say("says.loaded_well")),
            *_beyond(figure, share),
        ),
    )
