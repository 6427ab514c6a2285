"""What the labels on a unit and on an old plug say, and what a scanned one names."""

import re
from uuid import UUID


def unit_code(key: str, serial: str) -> str:
    """What a unit's label says when it is scanned; it ends with the serial."""
    return f"ELDRIM UNIT {key} {serial}"


def unit_of(label: str) -> str | None:
    """The unit a scanned label names; None when it is no unit's label."""
    found = re.fullmatch(r"ELDRIM UNIT (\S+) .*", label.strip())
    return found[1] if found else None


def plug_code(run: UUID, hole: str) -> str:
    """What an old plug's label says when it is scanned: which run took it out, of which hole."""
    return f"ELDRIM PLUG {run} {hole}"


def plug_of(label: str) -> UUID | None:
    """The run that took out the plug of a scanned label; None when it is no plug's."""
    found = re.fullmatch(r"ELDRIM PLUG ([0-9a-f-]{36}) \S+", label.strip())
    return UUID(found[1]) if found else None
