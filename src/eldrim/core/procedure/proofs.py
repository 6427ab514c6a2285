"""A check by its name: the sentence comes from the table."""

from eldrim.core.procedure.model import Check
from eldrim.core.words import say


def proof(key: str, pattern: str = "", **slots: object) -> Check:
    """The check ``key``; its sentence is that of the same name unless another is named."""
    return Check(key=key, text=say(f"check.{pattern or key}", **slots))
