"""What cannot follow once a step could not be done: a plug that is still in is not read or fitted.

What can follow stays open: a coil that came off goes back on, whatever became of its plug.
"""

from collections.abc import Mapping

from eldrim.core.operations import OPERATIONS, CautionCause, Operation, PartChange, Phase
from eldrim.core.procedure.model import Plan, Step
from eldrim.core.run.entries import Entry, EntryKind
from eldrim.core.run.readings import outside
from eldrim.core.run.state import RunState
from eldrim.core.step_key import StepKey

Act = Operation
TORQUE = "torque"
_AWAY = frozenset(o for o, rule in OPERATIONS.items() if rule.part is PartChange.AWAY)
_CARRIER_OFF = frozenset({Act.REMOVE_COIL, Act.REMOVE_LEAD})
_CARRIER_ON = frozenset({Act.FIT_COIL, Act.FIT_LEAD})
_PLUG_OUT = frozenset({Act.REMOVE_PLUG})
# An act, and those at the same hole or on the same part without which there is nothing to do.
NEEDS: Mapping[Operation, frozenset[Operation]] = {
    Act.CLEAN_WELL: _CARRIER_OFF,
    Act.REMOVE_PLUG: _CARRIER_OFF,
    Act.READ_PLUG: _PLUG_OUT,
    Act.CHECK_GAP: _PLUG_OUT,
    Act.CHASE_THREAD: _PLUG_OUT,
    Act.PREPARE_THREAD: _PLUG_OUT,
    Act.START_PLUG: _PLUG_OUT,
    Act.TIGHTEN_PLUG: _PLUG_OUT | {Act.START_PLUG},
    Act.READ_COIL: frozenset({Act.REMOVE_COIL}),
    Act.FIT_COIL: frozenset({Act.REMOVE_COIL}),
    Act.FIT_LEAD: frozenset({Act.REMOVE_LEAD}),
    Act.PLUG_OPENING: _AWAY,
    Act.CLEAN_FACES: _AWAY,
    Act.UNPLUG_OPENING: _AWAY,
    Act.RENEW_SEAL: _AWAY,
    Act.FIT_PART: _AWAY,
    Act.BRING_PART_BACK: _AWAY,
    Act.RECONNECT_BATTERY: frozenset({Act.ISOLATE_BATTERY}),
}
# A joint is made up only where it was let go, and where what it holds went back.
RELEASES: Mapping[Operation, tuple[Operation, frozenset[Operation], frozenset[Operation]]] = {
    Act.TIGHTEN_COIL_JOINT: (Act.RELEASE_COIL_JOINT, _CARRIER_OFF, _CARRIER_ON),
    Act.CONNECT_COIL_JOINT: (Act.RELEASE_COIL_JOINT, _CARRIER_OFF, _CARRIER_ON),
    Act.TIGHTEN_LEAD_JOINT: (Act.RELEASE_LEAD_JOINT, _CARRIER_OFF, _CARRIER_ON),
    Act.CONNECT_LEAD_JOINT: (Act.RELEASE_LEAD_JOINT, _CARRIER_OFF, _CARRIER_ON),
    Act.TIGHTEN_JOINT: (Act.RELEASE_JOINT, _AWAY, frozenset({Act.FIT_PART, Act.BRING_PART_BACK})),
    Act.CONNECT_JOINT: (Act.RELEASE_JOINT, _AWAY, frozenset({Act.FIT_PART, Act.BRING_PART_BACK})),
}
# Opening acts follow the one before them, but not a cleaning.
_CLEANING = frozenset({Act.CLEAN_WELL, Act.CLEAN_COILS, Act.CLEAN_LEADS})


def cannot_follow(plan: Plan, left_out: Step) -> tuple[StepKey, ...]:
    """The steps that cannot be done once ``left_out`` could not, in the order of the plan."""
    lost = _Lost(plan, left_out.key)
    for step in plan.steps:
        if step.key not in lost.keys and lost.takes(step):
            lost.keys.add(step.key)
    return tuple(step.key for step in plan.steps if step.key in lost.keys - {left_out.key})


def as_kept(plan: Plan, state: RunState, entry: Entry) -> Entry:
    """An entry as it is kept.

    One that leaves a step out says what it closes beside it, one that does a step what is to be
    done anew. A torque recorded over its window is an ``over``: tightened again it is not mended.
    """
    step = next((s for s in plan.steps if s.key == entry.step), None)
    if step is None:
        return entry.model_copy(update={"carries": (), "resets": ()})
    if entry.kind is EntryKind.SKIP:
        carries = tuple(key for key in cannot_follow(plan, step) if key not in state.closings)
        return entry.model_copy(update={"carries": carries, "resets": ()})
    resets = tuple(step.resets) if entry.kind is EntryKind.DONE else ()
    reading = next((r for r in step.readings if r.key == entry.reading == TORQUE), None)
    over = reading is not None and outside(reading, entry.value) == "over"
    kind = EntryKind.OVER if over and entry.kind is EntryKind.DEVIATION else entry.kind
    return entry.model_copy(update={"carries": (), "resets": resets, "kind": kind})


class _Lost:
    """Steps that cannot be done, as they are found."""

    def __init__(self, plan: Plan, first: StepKey) -> None:
        self.keys: set[StepKey] = {first}
        self.first = first
        self.serves = {move.part: frozenset(move.serves) for move in plan.moves}

    def takes(self, step: Step) -> bool:
        """Whether a step cannot be done for what cannot be done before it."""
        key = step.key
        if key.rule.phase in (Phase.UNCOVER, Phase.PULL) and self._opened_before(step):
            return True
        if key.operation in RELEASES and self._not_made_up(key):
            return True
        if key.operation in _CARRIER_ON and self._plug_is_out(key.hole):
            return True
        if CautionCause.RUN in key.rule.causes and key.rule.phase is Phase.PROVE:
            return self._must_not_run()
        return self._any(NEEDS.get(key.operation, frozenset()), key)

    def _opened_before(self, step: Step) -> bool:
        before = {key for key in step.after if key in self.keys and key.operation not in _CLEANING}
        if step.hole is None:
            return bool(before)
        away = (k.item for k in self.keys if k.operation in _AWAY)
        return bool(before) or any(step.hole in self.serves.get(item, ()) for item in away)

    def _not_made_up(self, key: StepKey) -> bool:
        release, off, back = RELEASES[key.operation]
        if any(k.operation is release and _same_joint(k, key) for k in self.keys):
            return True
        return self._any(back, key) and not self._any(off, key)

    def _plug_is_out(self, hole: str) -> bool:
        """Whether a plug came out of a hole and none is tight in it."""
        held = StepKey(Act.TIGHTEN_PLUG, hole=hole) in self.keys
        return held and StepKey(Act.REMOVE_PLUG, hole=hole) not in self.keys

    def _must_not_run(self) -> bool:
        holes = {key.hole for key in self.keys if key.hole}
        open_plug = any(self._plug_is_out(hole) for hole in holes)
        pairs = ((Act.FIT_COIL, Act.REMOVE_COIL), (Act.FIT_LEAD, Act.REMOVE_LEAD))
        open_carrier = any(
            StepKey(on, hole=hole) in self.keys and StepKey(off, hole=hole) not in self.keys
            for on, off in pairs
            for hole in holes
        )
        return open_plug or open_carrier or self.first.operation is Act.START_ENGINE

    def _any(self, operations: frozenset[Operation], key: StepKey) -> bool:
        """Whether one of these cannot be done at the hole, or on the part, of a step."""
        return any(
            k.operation in operations and (k.hole, k.item) == (key.hole, key.item)
            for k in self.keys
        )


def _same_joint(one: StepKey, other: StepKey) -> bool:
    return (one.hole, one.item, one.joint) == (other.hole, other.item, other.joint)
