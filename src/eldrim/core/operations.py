"""What can be done: one row an operation, with everything that follows from it but its words.

A new operation is one row here and its sentences in the tables of words. What follows from the
engine or the joint worked on (a fuel line, an aluminium head) is added where the step is made.
Source: docs/craft.md §2, §5, §12, §17 and §19.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from eldrim.core.engine.parts import WayKind


class Phase(StrEnum):
    """The eight phases of the job (docs/craft.md §2), in order."""

    READY = "Ready"
    UNCOVER = "Uncover"
    CLEAN = "Clean"
    PULL = "Pull"
    READ = "Read"
    FIT = "Fit"
    REFIT = "Refit"
    PROVE = "Prove"


class CautionCause(StrEnum):
    """What a step does that calls for a caution; cautions are shown in this order."""

    AIR = "compressed_air"
    SHARP = "sharp_edges"
    HOT = "hot_parts"
    SPARK = "ignition_high_voltage"
    BATTERY = "battery"
    FUEL = "fuel"
    RUN = "running_engine"
    COOLANT = "coolant"
    SPRING = "spring_clamp"
    CHEMICAL = "chemical"
    LIFT = "heavy_lift"
    OPENING = "open_engine"
    ALUMINIUM = "aluminium_thread"
    MARINE = "marine_vapour"
    GAS = "gas_fuel"
    OLD_GASKET = "gasket_dust"


class HoleStage(StrEnum):
    """How far the work at a hole has come."""

    CLOSED = "closed"
    OPEN_COIL = "open_coil"
    OPEN = "open"
    READ = "read"
    FITTED = "fitted"
    TORQUED = "torqued"
    COIL_ON = "coil_on"
    CONNECTED = "connected"


class StopKind(StrEnum):
    """A condition at which the work stops until the trade's answer to it is given."""

    CROSS_THREAD = "cross_thread"
    PLUG_BINDS = "plug_binds"
    CRACKED_INSULATOR = "cracked_insulator"
    DROPPED_PLUG = "dropped_plug"
    OIL_IN_WELL = "oil_in_well"
    WATER_IN_WELL = "water_in_well"
    BOOT_TORN = "boot_torn"
    DROPPED_IN = "dropped_in"
    FUEL_SMELL = "fuel_smell"
    RUNS_ROUGH = "runs_rough"


class Places(StrEnum):
    """What stands in a step key behind its operation."""

    NOTHING = ""
    ITEM = "item"
    ITEM_JOINT = "item/joint"
    HOLE = "hole"
    HOLE_JOINT = "hole/joint"


class PartChange(StrEnum):
    """What an operation does to a part as a whole."""

    AWAY = "away"
    BACK = "back"


class Bagging(StrEnum):
    """Whether an operation fills a bag of its own, or takes out what a bag holds."""

    FILLS = "fills"
    EMPTIES = "empties"


class Beside(StrEnum):
    """The step of the same part that another one never leaves."""

    BEFORE = "before"
    AFTER = "after"


class Operation(StrEnum):
    """One kind of act. The value is how the keys of its steps begin."""

    CONFIRM_UNIT = "ready/unit"
    READ_CODES = "ready/codes"
    MEASURE_BATTERY = "ready/battery"
    WARM_UP = "ready/warm"
    MEASURE_TEMPERATURE = "ready/temperature"
    SWITCH_OFF = "ready/key"
    ISOLATE_BATTERY = "ready/isolate"
    LAY_OUT_TOOLS = "ready/tools"
    CHECK_PARTS = "ready/parts"
    RELEASE_JOINT = "release"
    REMOVE_PART = "remove"
    SWING_PART = "swing"
    UNCLIP_PART = "unclip"
    SHIFT_PART = "shift"
    PLUG_OPENING = "plug-opening"
    CLEAN_COILS = "clean/coils"
    CLEAN_LEADS = "clean/leads"
    RELEASE_COIL_JOINT = "release/coil"
    RELEASE_LEAD_JOINT = "release/lead"
    REMOVE_COIL = "remove/coil"
    REMOVE_LEAD = "remove/lead"
    CLEAN_WELL = "clean/well"
    REMOVE_PLUG = "remove/plug"
    READ_PLUG = "read/plug"
    READ_COIL = "read/coil"
    CHECK_GAP = "gap/plug"
    CHASE_THREAD = "chase/plug"
    PREPARE_THREAD = "prepare/plug"
    START_PLUG = "start/plug"
    TIGHTEN_PLUG = "torque/plug"
    FIT_COIL = "fit/coil"
    FIT_LEAD = "fit/lead"
    TIGHTEN_COIL_JOINT = "tighten/coil"
    TIGHTEN_LEAD_JOINT = "tighten/lead"
    CONNECT_COIL_JOINT = "connect/coil"
    CONNECT_LEAD_JOINT = "connect/lead"
    RENEW_SEAL = "renew"
    UNPLUG_OPENING = "unplug-opening"
    FIT_PART = "fit"
    BRING_PART_BACK = "back"
    TIGHTEN_JOINT = "tighten"
    CONNECT_JOINT = "connect"
    START_BETWEEN = "start-between"
    COUNT_TOOLS = "prove/tools"
    CHECK_OPENINGS = "prove/openings"
    RECONNECT_BATTERY = "prove/reconnect"
    PRIME_FUEL = "prove/fuel"
    FILL_COOLANT = "prove/coolant"
    VENTILATE = "prove/blower"
    START_ENGINE = "prove/start"
    CHECK_AIR_LEAK = "prove/air-leak"
    CLEAR_CODES = "prove/clear-codes"
    TEST_LOAD = "prove/load"
    READ_CODES_AGAIN = "prove/codes-again"
    SIGN = "prove/sign"
    OWN = "own"


@dataclass(frozen=True)
class OperationRule:
    """What follows from an operation.

    ``minutes`` are for one hole that stands open and straight, or for the whole; None where the
    sheet's way or the joint states them. ``rank`` orders the steps of a phase where nothing about
    the engine does. ``item`` is what is worked on at a hole. ``causes`` are the cautions it always
    brings. ``words`` names the sentences of a step that every job words alike. ``stage`` is how far its hole is afterwards; ``part`` what it does to a part as a whole;
    ``way`` the manner of moving a part that it carries out. ``stops`` can be met at it.
    ``compares`` names, for a reading, the operation and reading of the last run it is held against.
    ``required`` cannot be left out; ``lists`` tells that its text only lists tools or parts, which
    are compared on their own; ``movable`` that a trainer may put it elsewhere; ``beside`` the step
    of the same part that it never leaves.
    """

    phase: Phase
    verb: str
    minutes: float | None = None
    rank: float = 0
    words: str = ""
    places: Places = Places.NOTHING
    item: str = ""
    causes: frozenset[CautionCause] = frozenset()
    stage: HoleStage | None = None
    part: PartChange | None = None
    way: WayKind | None = None
    bag: Bagging | None = None
    stops: tuple[StopKind, ...] = ()
    compares: Mapping[str, tuple[Operation, str]] = field(default_factory=dict)
    required: bool = False
    lists: bool = False
    movable: bool = False
    beside: Beside | None = None


def _causes(*causes: CautionCause) -> frozenset[CautionCause]:
    return frozenset(causes)


C, H, O, P, R, S, W = CautionCause, HoleStage, Operation, Phase, OperationRule, StopKind, WayKind
_AWAY, _BACK = PartChange.AWAY, PartChange.BACK
_FILLS, _EMPTIES = Bagging.FILLS, Bagging.EMPTIES
_ITEM, _ITEM_JOINT = Places.ITEM, Places.ITEM_JOINT
_HOLE, _HOLE_JOINT = Places.HOLE, Places.HOLE_JOINT
_WELL_STOPS = (S.OIL_IN_WELL, S.WATER_IN_WELL)
_CARRIER_STOPS = (*_WELL_STOPS, S.BOOT_TORN, S.DROPPED_IN)
_CLEAN_STOPS = (*_WELL_STOPS, S.DROPPED_IN)
_RUNNING_STOPS = (S.RUNS_ROUGH,)
_RUNNING = _causes(C.RUN, C.SPARK)

OPERATIONS: dict[Operation, OperationRule] = {
    O.CONFIRM_UNIT: R(P.READY, "confirm", 1.0, words="unit", required=True),
    O.READ_CODES: R(P.READY, "read", 2.0, words="codes"),
    O.MEASURE_BATTERY: R(P.READY, "measure", 0.5, words="battery", causes=_causes(C.BATTERY)),
    O.WARM_UP: R(P.READY, "idle", 3.0, words="warm", causes=_causes(C.RUN, C.HOT, C.SPARK)),
    O.MEASURE_TEMPERATURE: R(P.READY, "measure", 0.5, words="temperature", causes=_causes(C.HOT)),
    O.SWITCH_OFF: R(P.READY, "switch off", 0.2, words="key"),
    O.ISOLATE_BATTERY: R(P.READY, "isolate", 1.0, words="isolate", causes=_causes(C.BATTERY)),
    O.LAY_OUT_TOOLS: R(P.READY, "count", 2.0, words="tools", required=True, lists=True),
    O.CHECK_PARTS: R(P.READY, "check", 1.5, words="parts", lists=True),
    O.RELEASE_JOINT: R(P.UNCOVER, "release", rank=0, places=_ITEM_JOINT, bag=_FILLS,
                       stops=(S.FUEL_SMELL,), movable=True),
    O.REMOVE_PART: R(P.UNCOVER, "remove", rank=1, places=_ITEM, causes=_causes(C.SHARP),
                     part=_AWAY, way=W.REMOVE, bag=_FILLS, stops=(S.DROPPED_IN,), movable=True),
    O.SWING_PART: R(P.UNCOVER, "swing_aside", rank=1, places=_ITEM, causes=_causes(C.SHARP),
                    part=_AWAY, way=W.SWING_ASIDE, movable=True),
    O.UNCLIP_PART: R(P.UNCOVER, "unclip", rank=1, places=_ITEM, causes=_causes(C.SHARP),
                     part=_AWAY, way=W.UNCLIP, movable=True),
    O.SHIFT_PART: R(P.UNCOVER, "loosen_and_shift", rank=1, places=_ITEM, causes=_causes(C.SHARP),
                    part=_AWAY, way=W.LOOSEN_AND_SHIFT, movable=True),
    O.PLUG_OPENING: R(P.UNCOVER, "plug", 0.3, rank=-1, places=_ITEM, causes=_causes(C.OPENING),
                      beside=Beside.AFTER),
    O.CLEAN_COILS: R(P.CLEAN, "clean", 0.3, rank=3, stops=_CLEAN_STOPS),
    O.CLEAN_LEADS: R(P.CLEAN, "clean", 0.3, rank=3, stops=_CLEAN_STOPS),
    O.RELEASE_COIL_JOINT: R(P.PULL, "release", rank=0, places=_HOLE_JOINT, item="coil",
                            stops=(S.FUEL_SMELL,)),
    O.RELEASE_LEAD_JOINT: R(P.PULL, "release", rank=0, places=_HOLE_JOINT, item="lead",
                            stops=(S.FUEL_SMELL,)),
    O.REMOVE_COIL: R(P.PULL, "remove", 0.4, rank=2, places=_HOLE, item="coil",
                     stage=H.OPEN_COIL, stops=_CARRIER_STOPS),
    O.REMOVE_LEAD: R(P.PULL, "remove", 0.4, rank=2, places=_HOLE, item="lead",
                     stage=H.OPEN_COIL, stops=_CARRIER_STOPS),
    O.CLEAN_WELL: R(P.PULL, "clean", 0.5, rank=3, places=_HOLE, item="well", stops=_CLEAN_STOPS),
    O.REMOVE_PLUG: R(P.PULL, "remove", 1.2, rank=2, places=_HOLE, item="plug", stage=H.OPEN,
                     causes=_causes(C.HOT, C.CHEMICAL),
                     stops=(S.PLUG_BINDS, S.CRACKED_INSULATOR, S.DROPPED_IN)),
    O.READ_PLUG: R(P.READ, "read", 0.8, places=_HOLE, item="plug", stage=H.READ,
                   stops=(S.CRACKED_INSULATOR,),
                   compares={"gap_found": (O.CHECK_GAP, "gap_left")}),
    O.READ_COIL: R(P.READ, "read", 0.4, places=_HOLE, item="coil"),
    O.CHECK_GAP: R(P.FIT, "gap", 0.6, rank=0, places=_HOLE, item="plug",
                   stops=(S.CRACKED_INSULATOR, S.DROPPED_PLUG)),
    O.CHASE_THREAD: R(P.FIT, "chase", 1.5, rank=0.5, places=_HOLE, item="plug",
                      causes=_causes(C.OPENING)),
    O.PREPARE_THREAD: R(P.FIT, "prepare", 0.3, rank=1, places=_HOLE, item="plug",
                        causes=_causes(C.CHEMICAL)),
    O.START_PLUG: R(P.FIT, "start", 0.6, rank=2, places=_HOLE, item="plug", stage=H.FITTED,
                    stops=(S.CROSS_THREAD, S.DROPPED_PLUG, S.DROPPED_IN)),
    O.TIGHTEN_PLUG: R(P.FIT, "torque", 0.6, rank=3, places=_HOLE, item="plug", stage=H.TORQUED,
                      causes=_causes(C.HOT), stops=(S.CRACKED_INSULATOR,)),
    O.FIT_COIL: R(P.REFIT, "fit", 0.4, rank=1, places=_HOLE, item="coil", stage=H.COIL_ON,
                  causes=_causes(C.SPARK), stops=(S.BOOT_TORN,)),
    O.FIT_LEAD: R(P.REFIT, "fit", 0.4, rank=1, places=_HOLE, item="lead", stage=H.COIL_ON,
                  causes=_causes(C.SPARK), stops=(S.BOOT_TORN,)),
    O.TIGHTEN_COIL_JOINT: R(P.REFIT, "tighten", rank=2, places=_HOLE_JOINT, item="coil"),
    O.TIGHTEN_LEAD_JOINT: R(P.REFIT, "tighten", rank=2, places=_HOLE_JOINT, item="lead"),
    O.CONNECT_COIL_JOINT: R(P.REFIT, "connect", rank=3, places=_HOLE_JOINT, item="coil",
                            stage=H.CONNECTED),
    O.CONNECT_LEAD_JOINT: R(P.REFIT, "connect", rank=3, places=_HOLE_JOINT, item="lead",
                            stage=H.CONNECTED),
    O.RENEW_SEAL: R(P.REFIT, "renew", 0.3, rank=0, places=_ITEM_JOINT,
                    causes=_causes(C.OLD_GASKET), movable=True),
    O.UNPLUG_OPENING: R(P.REFIT, "unplug", 0.3, rank=1, places=_ITEM, causes=_causes(C.OPENING),
                        stops=(S.DROPPED_IN,), beside=Beside.BEFORE),
    O.FIT_PART: R(P.REFIT, "fit", rank=2, places=_ITEM, part=_BACK, bag=_EMPTIES, movable=True),
    O.BRING_PART_BACK: R(P.REFIT, "back", rank=2, places=_ITEM, part=_BACK, bag=_EMPTIES,
                         movable=True),
    O.TIGHTEN_JOINT: R(P.REFIT, "tighten", rank=3, places=_ITEM_JOINT, bag=_EMPTIES, movable=True),
    O.CONNECT_JOINT: R(P.REFIT, "connect", rank=3, places=_ITEM_JOINT, bag=_EMPTIES, movable=True),
    O.START_BETWEEN: R(P.PROVE, "start", 2.0, words="start_between", places=_ITEM, causes=_RUNNING, stops=_RUNNING_STOPS),
    O.COUNT_TOOLS: R(P.PROVE, "count", 1.5, words="count_tools", required=True, lists=True),
    O.CHECK_OPENINGS: R(P.PROVE, "check", 0.3, words="openings", required=True),
    O.RECONNECT_BATTERY: R(P.PROVE, "connect", 1.0, words="reconnect", causes=_causes(C.BATTERY)),
    O.PRIME_FUEL: R(P.PROVE, "prime", 1.5, words="fuel", causes=_causes(C.FUEL), stops=(S.FUEL_SMELL,)),
    O.FILL_COOLANT: R(P.PROVE, "fill", 2.0, words="coolant", causes=_causes(C.COOLANT)),
    O.VENTILATE: R(P.PROVE, "ventilate", 3.0, words="blower", causes=_causes(C.MARINE), stops=(S.FUEL_SMELL,)),
    O.START_ENGINE: R(P.PROVE, "start", 2.0, words="start", causes=_RUNNING,
                      stops=(S.FUEL_SMELL, S.RUNS_ROUGH)),
    O.CHECK_AIR_LEAK: R(P.PROVE, "check", 1.5, words="air_leak", causes=_RUNNING, stops=_RUNNING_STOPS),
    O.CLEAR_CODES: R(P.PROVE, "clear", 0.3, words="clear_codes"),
    O.TEST_LOAD: R(P.PROVE, "test", 5.0, words="load", causes=_causes(C.RUN), stops=_RUNNING_STOPS),
    O.READ_CODES_AGAIN: R(P.PROVE, "read", 2.0, words="codes_again"),
    O.SIGN: R(P.PROVE, "sign", 0.5, words="sign", required=True),
    O.OWN: R(P.PROVE, "do", places=_ITEM),
}  # fmt: skip

MOVES_BY_WAY: dict[WayKind, Operation] = {
    rule.way: operation for operation, rule in OPERATIONS.items() if rule.way
}
"""The operation that carries out each manner of moving a part."""
