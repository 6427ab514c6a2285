"""What the label on a unit says, and which unit a scanned label names."""

import re


def unit_code(key: str, serial: str) -> str:
    """What a unit's label says when it is scanned; it ends with the serial."""
    return f"ELDRIM UNIT {key} {serial}"


def unit_of(label: str) -> str | None:
    """The unit a scanned label names; None when it is no unit's label."""
    found = re.fullmatch(r"ELDRIM UNIT (\S+) .*", label.strip())
    return found[1] if found else None
