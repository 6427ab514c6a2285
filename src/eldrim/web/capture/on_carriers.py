"""Acts on the coils or the leads, and on the ways of leads."""

from starlette.datastructures import FormData

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, parse
from eldrim.core.capture.carrier import hold_carrier, rehold_carrier, release_carrier, state_carrier
from eldrim.core.capture.lead_routes import add_holder, drop_holder, measure_lead, move_holder
from eldrim.core.capture.shorthand import MAX_LENGTH, understand
from eldrim.core.engine import Engine
from eldrim.core.engine.model import TO_BE_STATED
from eldrim.core.words.messages import gettext
from eldrim.web.capture.act_form import BoardAction, Done, decimal, shift, variant_keys, whole
from eldrim.web.forms import text_field, with_unit


def _carrier(engine: Engine, part: str, form: FormData) -> Done:
    """What is known of the coils or the leads themselves."""
    stated: dict[str, object] = {
        "part_number": text_field(form, "part_number") or TO_BE_STATED,
        "boot_part": text_field(form, "boot_part") or None,
        "boot_greased": text_field(form, "boot_greased") == "yes",
        "short_loom": text_field(form, "short_loom") == "yes",
    }
    if "variants" in form:
        stated["variants"] = tuple(variant_keys(engine, form))
    return state_carrier(engine, whole(form, "place"), **stated), gettext("coils or leads"), part


def _carrier_joint(engine: Engine, part: str, form: FormData) -> Done:
    said = text_field(form, "joint", MAX_LENGTH + 1)
    return (
        hold_carrier(engine, whole(form, "place"), understand(said)),
        gettext("held by: {said}", said=said),
        part,
    )


def _carrier_rejoint(engine: Engine, part: str, form: FormData) -> Done:
    said, place = text_field(form, "joint", MAX_LENGTH + 1), whole(form, "place")
    made = rehold_carrier(engine, place, text_field(form, "key"), understand(said))
    return made, gettext("held by: {said}", said=said), part


def _carrier_unjoint(engine: Engine, part: str, form: FormData) -> Done:
    key = text_field(form, "key")
    return (
        release_carrier(engine, whole(form, "place"), key),
        gettext("joint away: {key}", key=key),
        part,
    )


def _holder(engine: Engine, part: str, form: FormData) -> Done:
    """Move a holder of the lead in hand."""
    lead, place = text_field(form, "lead"), whole(form, "place")
    made = move_holder(engine, lead, place, shift(form))
    return made, gettext("holder of lead {lead} moved", lead=lead), part


def _new_holder(engine: Engine, part: str, form: FormData) -> Done:
    lead, place = text_field(form, "lead"), whole(form, "place")
    made = add_holder(engine, lead, place, (decimal(form, "x"), decimal(form, "y")))
    return made, gettext("holder of lead {lead} put on", lead=lead), part


def _drop_holder(engine: Engine, part: str, form: FormData) -> Done:
    lead = text_field(form, "lead")
    return (
        drop_holder(engine, lead, whole(form, "place")),
        gettext("holder of lead {lead} taken off", lead=lead),
        part,
    )


def _lead_length(engine: Engine, part: str, form: FormData) -> Done:
    """A measured length, in mm unless it says another unit; none: as drawn."""
    lead, said = text_field(form, "lead"), with_unit(text_field(form, "length"), "mm")
    try:
        length = parse(said, Dimension.LENGTH) if said else None
    except QuantityError as error:
        raise EngineError([Problem("length", str(error), gettext("write it as 560 mm"))]) from error
    return measure_lead(engine, lead, length), gettext("lead {lead} measured", lead=lead), part


CARRIER_ACTIONS: dict[str, BoardAction] = {
    "carrier": _carrier,
    "carrier-joint": _carrier_joint,
    "carrier-rejoint": _carrier_rejoint,
    "carrier-unjoint": _carrier_unjoint,
    "holder": _holder,
    "new-holder": _new_holder,
    "drop-holder": _drop_holder,
    "lead-length": _lead_length,
}
