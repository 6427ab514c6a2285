"""An independent client of the adapter, as a program of its own: prints what it read as JSON."""

import json
import sys

import obd

obd.logger.setLevel("CRITICAL")
link = obd.OBD(sys.argv[1], fast=False, timeout=5)
said = {"connected": link.is_connected(), "protocol": link.protocol_id()}
for name in ("COOLANT_TEMP", "RPM", "CONTROL_MODULE_VOLTAGE"):
    answer = link.query(obd.commands[name], force=True)
    said[name] = None if answer.is_null() else round(float(answer.value.magnitude), 2)
said["codes"] = [code for code, _ in link.query(obd.commands.GET_DTC).value or ()]
frozen = link.query(
    obd.commands.DTC_FREEZE_DTC
    if hasattr(obd.commands, "DTC_FREEZE_DTC")
    else obd.commands.FREEZE_DTC,
    force=True,
)
said["freeze"] = None if frozen.is_null() else list(frozen.value)
if "clear" in sys.argv:
    link.query(obd.commands.CLEAR_DTC, force=True)
    said["left"] = [code for code, _ in link.query(obd.commands.GET_DTC).value or ()]
link.close()
print(json.dumps(said))
