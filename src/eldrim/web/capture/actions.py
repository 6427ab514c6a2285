"""What can be done on the drawing board: each act by its name."""

from eldrim.web.capture.act_form import BoardAction
from eldrim.web.capture.on_carriers import CARRIER_ACTIONS
from eldrim.web.capture.on_engine import ENGINE_ACTIONS
from eldrim.web.capture.on_joints import JOINT_ACTIONS
from eldrim.web.capture.on_parts import PART_ACTIONS

BOARD_ACTIONS: dict[str, BoardAction] = {
    **PART_ACTIONS,
    **JOINT_ACTIONS,
    **CARRIER_ACTIONS,
    **ENGINE_ACTIONS,
}
