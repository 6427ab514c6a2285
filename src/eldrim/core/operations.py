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
    BATTERY_OFF = "battery_off"
    FUEL = "fuel"
    RUN = "running_engine"
    ROLL = "may_roll"
    COOLANT = "coolant"
    SPRING = "spring_clamp"
    CHEMICAL = "chemical"
    LIFT = "heavy_lift"
    OPENING = "open_engine"
    ALUMINIUM = "aluminium_thread"
    MARINE = "marine_vapour"
    GAS = "gas_fuel"
    OLD_GASKET = "gasket_dust"
    PRESSURE = "under_pressure"
    CRANK = "cranking"
    TURNING = "turned_by_hand"


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
    THREAD_OUT = "thread_out"
    KEEPS_TURNING = "keeps_turning"
    SHELL_BROKEN = "shell_broken"
    RING_LEFT = "ring_left"
    FASTENER_BROKEN = "fastener_broken"
    FASTENER_ROUNDED = "fastener_rounded"
    TAB_BROKEN = "tab_broken"
    COOLANT_LEAK = "coolant_leak"
    FUEL_SMELL = "fuel_smell"
    RUNS_ROUGH = "runs_rough"
    NO_START = "no_start"


class Places(StrEnum):
    """What stands in a step key behind its operation."""

    NO_ENTRY = ""
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
    SHUT_GAS = "ready/gas"
    ISOLATE_BATTERY = "ready/isolate"
    LAY_OUT_TOOLS = "ready/tools"
    CHECK_PARTS = "ready/parts"
    CRANK_BATTERY = "battery/crank"
    MEASURE_DROP = "battery/drop"
    RELEASE_JOINT = "release"
    REMOVE_PART = "remove"
    SWING_PART = "swing"
    UNCLIP_PART = "unclip"
    SHIFT_PART = "shift"
    PLUG_OPENING = "plug-opening"
    CLEAN_COILS = "clean/coils"
    CLEAN_LEADS = "clean/leads"
    LIFT_CAP = "cap/off"
    READ_CAP = "cap/look"
    TEST_ADVANCE = "rotor/advance"
    REMOVE_ROTOR = "rotor/off"
    READ_ROTOR = "rotor/look"
    READ_POINTS = "points/look"
    SET_POINTS = "points/set"
    SET_AIR_GAP = "points/air-gap"
    FIT_ROTOR = "rotor/on"
    TURN_TO_MARK = "time/mark"
    SET_STATIC = "time/static"
    PROVE_STATIC = "time/again"
    FIT_CAP = "cap/on"
    MOVE_LEADS = "cap/leads"
    READ_COIL_LEAD = "coil-lead/look"
    FIT_COIL_LEAD = "coil-lead/on"
    REMOVE_PACK = "pack/off"
    READ_PACK = "pack/look"
    FIT_PACK = "pack/on"
    COMPANION = "along"
    RELEASE_COIL_JOINT = "release/coil"
    RELEASE_LEAD_JOINT = "release/lead"
    REMOVE_COIL = "remove/coil"
    REMOVE_LEAD = "remove/lead"
    CLEAN_WELL = "clean/well"
    REMOVE_PLUG = "remove/plug"
    READ_PLUG = "read/plug"
    READ_COIL = "read/coil"
    READ_LEAD = "read/lead"
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
    CLEAN_FACES = "faces"
    COUNT_TOOLS = "prove/tools"
    COUNT_TOOLS_AGAIN = "prove/tools-again"
    CHECK_ORDER = "prove/order"
    CHECK_OPENINGS = "prove/openings"
    RECONNECT_BATTERY = "prove/reconnect"
    PRIME_FUEL = "prove/fuel"
    FILL_COOLANT = "prove/coolant"
    VENTILATE = "prove/blower"
    CHECK_LUBRICATION = "prove/lubrication"
    START_ENGINE = "prove/start"
    CHECK_AIR_LEAK = "prove/air-leak"
    CHARGE_IDLE = "charge/idle"
    CHARGE_LOADED = "charge/loaded"
    MEASURE_DWELL = "time/dwell"
    CONNECT_LAMP = "time/lamp"
    TIME_IDLE = "time/idle"
    TIME_TOTAL = "time/total"
    TIME_CURVE = "time/curve"
    END_TIMING = "time/end"
    CLEAR_CODES = "prove/clear-codes"
    TEST_LOAD = "prove/load"
    READ_CODES_AGAIN = "prove/codes-again"
    FIND_HANDS = "find/hands"
    FIND_TEST = "find/test"
    FIND_PROOF = "find/proof"
    FIND_SETTLE = "find/settle"
    SIGN = "prove/sign"
    OWN = "own"


@dataclass(frozen=True)
class OperationRule:
    """What follows from an operation.

    ``minutes`` are for one hole that stands open and straight, or for the whole; None where the
    sheet's way or the joint states them. ``rank`` orders the steps of a phase where nothing about
    the engine does. ``words`` names the sentences of a step that every job words alike. ``item`` is
    what is worked on at a hole. ``causes`` are the cautions it always brings. ``stage`` is how far
    its hole is afterwards; ``part`` what it does to a part as a whole; ``way`` the manner of moving
    a part that it carries out; ``bag`` whether it fills or empties one. ``stops`` can be met at it.
    ``compares`` names, for a reading, the operation and reading of the last run it is held against.
    ``at_bench`` tells that it is done on the bench, however hard its hole is to reach;
    ``required`` that it cannot be left out; ``lists`` that its text only lists tools or parts,
    which are compared on their own; ``movable`` that a trainer may put it elsewhere; ``beside``
    names the step of the same part that it never leaves.
    """

    phase: Phase
    verb: str
    minutes: float | None = None
    rank: float = 0
    words: str = ""
    places: Places = Places.NO_ENTRY
    item: str = ""
    causes: frozenset[CautionCause] = frozenset()
    stage: HoleStage | None = None
    part: PartChange | None = None
    way: WayKind | None = None
    bag: Bagging | None = None
    stops: tuple[StopKind, ...] = ()
    compares: Mapping[str, tuple[Operation, str]] = field(default_factory=dict)
    at_bench: bool = False
    required: bool = False
    lists: bool = False
    movable: bool = False
    beside: Beside | None = None


def _causes(*causes: CautionCause) -> frozenset[CautionCause]:
    return frozenset(causes)


Act, Cause, Row, Stage = Operation, CautionCause, OperationRule, HoleStage
_AWAY, _BACK = PartChange.AWAY, PartChange.BACK
_FILLS, _EMPTIES = Bagging.FILLS, Bagging.EMPTIES
_ITEM, _ITEM_JOINT = Places.ITEM, Places.ITEM_JOINT
_HOLE, _HOLE_JOINT = Places.HOLE, Places.HOLE_JOINT
_WELL_STOPS = (StopKind.OIL_IN_WELL, StopKind.WATER_IN_WELL)
_CARRIER_STOPS = (*_WELL_STOPS, StopKind.BOOT_TORN, StopKind.DROPPED_IN)
_CLEAN_STOPS = (*_WELL_STOPS, StopKind.DROPPED_IN)
_RUNNING_STOPS = (StopKind.RUNS_ROUGH, StopKind.FUEL_SMELL, StopKind.COOLANT_LEAK)
# A joint let go or made up: what holds it may break, what it carries may leak.
_LEAKS = (StopKind.FUEL_SMELL, StopKind.COOLANT_LEAK)
_JOINT_STOPS = (
    StopKind.FASTENER_BROKEN,
    StopKind.FASTENER_ROUNDED,
    StopKind.TAB_BROKEN,
    StopKind.DROPPED_IN,
    *_LEAKS,
)
_MOVE_STOPS = (StopKind.DROPPED_IN, StopKind.TAB_BROKEN, *_LEAKS)
_RUNNING = _causes(Cause.RUN, Cause.SPARK)
# A piece of the ignition: its screw may drop into the distributor, its clip or tab may break.
_PIECE_STOPS = (
    StopKind.DROPPED_IN,
    StopKind.FASTENER_BROKEN,
    StopKind.FASTENER_ROUNDED,
    StopKind.TAB_BROKEN,
)

OPERATIONS: dict[Operation, OperationRule] = {
    Act.CONFIRM_UNIT: Row(Phase.READY, "confirm", 1.0, words="unit", required=True),
    Act.READ_CODES: Row(Phase.READY, "read", 2.0, words="codes"),
    Act.MEASURE_BATTERY: Row(Phase.READY, "measure", 0.5, words="battery",
        causes=_causes(Cause.BATTERY)),
    Act.WARM_UP: Row(Phase.READY, "idle", 3.0, words="warm",
        causes=_causes(Cause.RUN, Cause.HOT, Cause.SPARK)),
    Act.MEASURE_TEMPERATURE: Row(Phase.READY, "measure", 0.5, words="temperature",
        causes=_causes(Cause.HOT)),
    Act.SWITCH_OFF: Row(Phase.READY, "switch off", 0.2, words="key"),
    Act.SHUT_GAS: Row(Phase.READY, "shut", 0.5, words="gas_off", causes=_causes(Cause.GAS),
        stops=(StopKind.FUEL_SMELL,)),
    Act.ISOLATE_BATTERY: Row(Phase.READY, "isolate", 1.0, words="isolate",
        causes=_causes(Cause.BATTERY, Cause.BATTERY_OFF)),
    Act.LAY_OUT_TOOLS: Row(Phase.READY, "count", 2.0, words="tools", required=True, lists=True),
    Act.CHECK_PARTS: Row(Phase.READY, "check", 1.5, words="parts", lists=True),
    Act.CRANK_BATTERY: Row(Phase.READY, "measure", 1.0, words="crank",
        causes=_causes(Cause.BATTERY, Cause.CRANK)),
    Act.MEASURE_DROP: Row(Phase.READY, "measure", 1.5, words="drop",
        causes=_causes(Cause.BATTERY, Cause.CRANK)),
    Act.RELEASE_JOINT: Row(Phase.UNCOVER, "release", rank=0, places=_ITEM_JOINT, bag=_FILLS,
        stops=_JOINT_STOPS, movable=True),
    Act.REMOVE_PART: Row(Phase.UNCOVER, "remove", rank=1, places=_ITEM,
        causes=_causes(Cause.SHARP), part=_AWAY, way=WayKind.REMOVE, bag=_FILLS,
        stops=_MOVE_STOPS, movable=True),
    Act.SWING_PART: Row(Phase.UNCOVER, "swing_aside", rank=1, places=_ITEM,
        causes=_causes(Cause.SHARP), part=_AWAY, way=WayKind.SWING_ASIDE,
        stops=_MOVE_STOPS, movable=True),
    Act.UNCLIP_PART: Row(Phase.UNCOVER, "unclip", rank=1, places=_ITEM,
        causes=_causes(Cause.SHARP), part=_AWAY, way=WayKind.UNCLIP,
        stops=_MOVE_STOPS, movable=True),
    Act.SHIFT_PART: Row(Phase.UNCOVER, "loosen_and_shift", rank=1, places=_ITEM,
        causes=_causes(Cause.SHARP), part=_AWAY, way=WayKind.LOOSEN_AND_SHIFT,
        stops=_MOVE_STOPS, movable=True),
    Act.PLUG_OPENING: Row(Phase.UNCOVER, "plug", 0.3, rank=-1, places=_ITEM,
        causes=_causes(Cause.OPENING), beside=Beside.AFTER),
    Act.CLEAN_COILS: Row(Phase.CLEAN, "clean", 0.3, rank=3, stops=_CLEAN_STOPS),
    Act.CLEAN_LEADS: Row(Phase.CLEAN, "clean", 0.3, rank=3, stops=_CLEAN_STOPS),
    Act.LIFT_CAP: Row(Phase.PULL, "remove", 0.8, words="cap_off", stops=_PIECE_STOPS),
    Act.READ_CAP: Row(Phase.READ, "read", 0.8, words="cap_look"),
    Act.TEST_ADVANCE: Row(Phase.READ, "test", 0.5, words="advance"),
    Act.REMOVE_ROTOR: Row(Phase.PULL, "remove", 0.3, words="rotor_off", stops=_PIECE_STOPS),
    Act.READ_ROTOR: Row(Phase.READ, "read", 0.4, words="rotor_look", at_bench=True),
    Act.READ_POINTS: Row(Phase.READ, "read", 0.4, words="points_look"),
    Act.SET_POINTS: Row(Phase.FIT, "gap", 2.5, words="points_set", stops=_PIECE_STOPS,
        causes=_causes(Cause.TURNING)),
    Act.SET_AIR_GAP: Row(Phase.FIT, "gap", 1.5, words="air_gap", stops=_PIECE_STOPS,
        causes=_causes(Cause.TURNING)),
    Act.FIT_ROTOR: Row(Phase.FIT, "fit", 0.3, words="rotor_on"),
    Act.TURN_TO_MARK: Row(Phase.FIT, "turn", 2.0, words="to_mark", causes=_causes(Cause.TURNING)),
    Act.SET_STATIC: Row(Phase.FIT, "time", 3.0, words="static", causes=_causes(Cause.TURNING),
        stops=_PIECE_STOPS),
    Act.PROVE_STATIC: Row(Phase.FIT, "prove", 1.5, words="static_again",
        causes=_causes(Cause.TURNING), required=True),
    Act.FIT_CAP: Row(Phase.REFIT, "fit", 0.8, words="cap_on", stops=_PIECE_STOPS),
    Act.MOVE_LEADS: Row(Phase.REFIT, "move", 0.4, words="move_leads",
        stops=(StopKind.BOOT_TORN,)),
    Act.READ_COIL_LEAD: Row(Phase.READ, "read", 0.8, words="coil_lead_look"),
    Act.FIT_COIL_LEAD: Row(Phase.REFIT, "fit", 0.4, words="coil_lead_on",
        stops=(StopKind.BOOT_TORN,)),
    Act.REMOVE_PACK: Row(Phase.PULL, "remove", 2.0, words="pack_off", stops=_PIECE_STOPS),
    Act.READ_PACK: Row(Phase.READ, "read", 2.0, words="pack_look"),
    Act.FIT_PACK: Row(Phase.REFIT, "fit", 2.5, words="pack_on", stops=_PIECE_STOPS),
    Act.COMPANION: Row(Phase.FIT, "along", places=_ITEM_JOINT, stops=_JOINT_STOPS),
    Act.RELEASE_COIL_JOINT: Row(Phase.PULL, "release", rank=0, places=_HOLE_JOINT, item="coil",
        stops=_JOINT_STOPS),
    Act.RELEASE_LEAD_JOINT: Row(Phase.PULL, "release", rank=0, places=_HOLE_JOINT, item="lead",
        stops=_JOINT_STOPS),
    Act.REMOVE_COIL: Row(Phase.PULL, "remove", 0.4, rank=2, places=_HOLE, item="coil",
        stage=Stage.OPEN_COIL, stops=_CARRIER_STOPS),
    Act.REMOVE_LEAD: Row(Phase.PULL, "remove", 0.4, rank=2, places=_HOLE, item="lead",
        stage=Stage.OPEN_COIL, stops=_CARRIER_STOPS),
    Act.CLEAN_WELL: Row(Phase.PULL, "clean", 0.5, rank=3, places=_HOLE, item="well",
        stops=_CLEAN_STOPS),
    Act.REMOVE_PLUG: Row(Phase.PULL, "remove", 1.2, rank=2, places=_HOLE, item="plug",
        stage=Stage.OPEN, causes=_causes(Cause.HOT, Cause.CHEMICAL),
        stops=(StopKind.PLUG_BINDS, StopKind.KEEPS_TURNING, StopKind.THREAD_OUT,
            StopKind.SHELL_BROKEN, StopKind.RING_LEFT, StopKind.CRACKED_INSULATOR,
            StopKind.DROPPED_IN)),
    Act.READ_PLUG: Row(Phase.READ, "read", 0.8, places=_HOLE, item="plug", stage=Stage.READ,
        stops=(StopKind.CRACKED_INSULATOR, StopKind.RING_LEFT, StopKind.NO_START),
        compares={"gap_found": (Act.CHECK_GAP, "gap_left")},
        at_bench=True),
    Act.READ_COIL: Row(Phase.READ, "read", 0.4, places=_HOLE, item="coil", at_bench=True),
    Act.READ_LEAD: Row(Phase.READ, "read", 0.8, places=_HOLE, item="lead", at_bench=True),
    Act.CHECK_GAP: Row(Phase.FIT, "gap", 0.6, rank=0, places=_HOLE, item="plug",
        stops=(StopKind.CRACKED_INSULATOR, StopKind.DROPPED_PLUG), at_bench=True),
    Act.CHASE_THREAD: Row(Phase.FIT, "chase", 1.5, rank=0.5, places=_HOLE, item="plug",
        causes=_causes(Cause.OPENING), stops=(StopKind.THREAD_OUT, StopKind.DROPPED_IN)),
    Act.PREPARE_THREAD: Row(Phase.FIT, "prepare", 0.3, rank=1, places=_HOLE, item="plug",
        causes=_causes(Cause.CHEMICAL), at_bench=True),
    Act.START_PLUG: Row(Phase.FIT, "start", 0.6, rank=2, places=_HOLE, item="plug",
        stage=Stage.FITTED,
        stops=(StopKind.CROSS_THREAD, StopKind.DROPPED_PLUG, StopKind.DROPPED_IN)),
    Act.TIGHTEN_PLUG: Row(Phase.FIT, "torque", 0.6, rank=3, places=_HOLE, item="plug",
        stage=Stage.TORQUED,
        stops=(StopKind.KEEPS_TURNING, StopKind.THREAD_OUT, StopKind.SHELL_BROKEN,
            StopKind.CRACKED_INSULATOR)),
    Act.FIT_COIL: Row(Phase.REFIT, "fit", 0.4, rank=1, places=_HOLE, item="coil",
        stage=Stage.COIL_ON, stops=(StopKind.BOOT_TORN,)),
    Act.FIT_LEAD: Row(Phase.REFIT, "fit", 0.4, rank=1, places=_HOLE, item="lead",
        stage=Stage.COIL_ON, stops=(StopKind.BOOT_TORN,)),
    Act.TIGHTEN_COIL_JOINT: Row(Phase.REFIT, "tighten", rank=2, places=_HOLE_JOINT, item="coil",
        stops=_JOINT_STOPS),
    Act.TIGHTEN_LEAD_JOINT: Row(Phase.REFIT, "tighten", rank=2, places=_HOLE_JOINT, item="lead",
        stops=_JOINT_STOPS),
    Act.CONNECT_COIL_JOINT: Row(Phase.REFIT, "connect", rank=3, places=_HOLE_JOINT, item="coil",
        stage=Stage.CONNECTED, stops=(StopKind.TAB_BROKEN,)),
    Act.CONNECT_LEAD_JOINT: Row(Phase.REFIT, "connect", rank=3, places=_HOLE_JOINT, item="lead",
        stage=Stage.CONNECTED, stops=(StopKind.TAB_BROKEN,)),
    Act.CLEAN_FACES: Row(Phase.REFIT, "clean", 0.5, rank=0, places=_ITEM,
        causes=_causes(Cause.OLD_GASKET), movable=True),
    Act.UNPLUG_OPENING: Row(Phase.REFIT, "unplug", 0.3, rank=0.5, places=_ITEM,
        causes=_causes(Cause.OPENING), stops=(StopKind.DROPPED_IN,), beside=Beside.BEFORE),
    Act.RENEW_SEAL: Row(Phase.REFIT, "renew", 0.3, rank=1, places=_ITEM_JOINT,
        beside=Beside.BEFORE),
    Act.FIT_PART: Row(Phase.REFIT, "fit", rank=2, places=_ITEM, part=_BACK, bag=_EMPTIES,
        stops=_MOVE_STOPS, movable=True),
    Act.BRING_PART_BACK: Row(Phase.REFIT, "back", rank=2, places=_ITEM, part=_BACK, bag=_EMPTIES,
        stops=_MOVE_STOPS, movable=True),
    Act.TIGHTEN_JOINT: Row(Phase.REFIT, "tighten", rank=3, places=_ITEM_JOINT, bag=_EMPTIES,
        stops=_JOINT_STOPS, movable=True),
    Act.CONNECT_JOINT: Row(Phase.REFIT, "connect", rank=3, places=_ITEM_JOINT, bag=_EMPTIES,
        stops=_JOINT_STOPS, movable=True),
    Act.START_BETWEEN: Row(Phase.PROVE, "start", 2.0, words="start_between", places=_ITEM,
        causes=_RUNNING, stops=_RUNNING_STOPS),
    Act.COUNT_TOOLS: Row(Phase.PROVE, "count", 1.5, words="count_tools", required=True,
        lists=True),
    Act.COUNT_TOOLS_AGAIN: Row(Phase.PROVE, "count", 1.0, words="count_again", required=True,
        lists=True),
    Act.CHECK_ORDER: Row(Phase.PROVE, "check", 0.3, words="order", required=True),
    Act.CHECK_OPENINGS: Row(Phase.PROVE, "check", 0.3, words="openings", required=True),
    Act.RECONNECT_BATTERY: Row(Phase.PROVE, "connect", 1.0, words="reconnect",
        causes=_causes(Cause.BATTERY, Cause.BATTERY_OFF)),
    Act.PRIME_FUEL: Row(Phase.PROVE, "prime", 1.5, words="fuel", causes=_causes(Cause.FUEL),
        stops=(StopKind.FUEL_SMELL,)),
    Act.FILL_COOLANT: Row(Phase.PROVE, "fill", 2.0, words="coolant",
        causes=_causes(Cause.COOLANT), stops=(StopKind.COOLANT_LEAK,)),
    Act.VENTILATE: Row(Phase.PROVE, "ventilate", 3.0, words="blower",
        causes=_causes(Cause.MARINE), stops=(StopKind.FUEL_SMELL,)),
    Act.CHECK_LUBRICATION: Row(Phase.PROVE, "check", 0.5, words="lubrication"),
    Act.START_ENGINE: Row(Phase.PROVE, "start", 2.0, words="start", causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.CHECK_AIR_LEAK: Row(Phase.PROVE, "check", 1.5, words="air_leak", causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.CHARGE_IDLE: Row(Phase.PROVE, "measure", 1.0, words="charge_idle",
        causes=_RUNNING | _causes(Cause.BATTERY), stops=_RUNNING_STOPS),
    Act.CHARGE_LOADED: Row(Phase.PROVE, "measure", 1.5, words="charge_loaded",
        causes=_RUNNING | _causes(Cause.BATTERY), stops=_RUNNING_STOPS),
    Act.MEASURE_DWELL: Row(Phase.PROVE, "measure", 1.0, words="dwell", causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.CONNECT_LAMP: Row(Phase.PROVE, "connect", 2.0, words="lamp", causes=_RUNNING),
    Act.TIME_IDLE: Row(Phase.PROVE, "time", 2.0, words="time_idle", causes=_RUNNING,
        stops=_RUNNING_STOPS, required=True),
    Act.TIME_TOTAL: Row(Phase.PROVE, "time", 2.0, words="time_total", causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.TIME_CURVE: Row(Phase.PROVE, "measure", 3.0, words="time_curve", causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.END_TIMING: Row(Phase.PROVE, "finish", 1.0, words="time_end", causes=_RUNNING),
    Act.CLEAR_CODES: Row(Phase.PROVE, "clear", 0.3, words="clear_codes"),
    Act.TEST_LOAD: Row(Phase.PROVE, "test", 5.0, words="load", causes=_causes(Cause.RUN),
        stops=_RUNNING_STOPS),
    Act.READ_CODES_AGAIN: Row(Phase.PROVE, "read", 2.0, words="codes_again"),
    Act.FIND_HANDS: Row(Phase.FIT, "change", places=_ITEM, causes=_causes(Cause.HOT),
        stops=(StopKind.BOOT_TORN, StopKind.TAB_BROKEN)),
    Act.FIND_TEST: Row(Phase.READ, "test", places=_ITEM),
    Act.FIND_PROOF: Row(Phase.PROVE, "prove", 8.0, places=_ITEM, causes=_RUNNING,
        stops=_RUNNING_STOPS),
    Act.FIND_SETTLE: Row(Phase.PROVE, "settle", 0.5, places=_ITEM),
    Act.SIGN: Row(Phase.PROVE, "sign", 0.5, words="sign", required=True),
    Act.OWN: Row(Phase.PROVE, "do", places=_ITEM),
}  # fmt: skip

MOVES_BY_WAY: dict[WayKind, Operation] = {
    rule.way: operation for operation, rule in OPERATIONS.items() if rule.way
}
"""The operation that carries out each manner of moving a part."""
