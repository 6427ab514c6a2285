"""What is typed into a form, read; what cannot be read is named with the fix."""

from eldrim.core.errors import Problem, ProblemsError


def whole_number(field: str, text: str) -> int | None:
    """A number without decimals; None where nothing was typed."""
    if not text.strip():
        return None
    if not text.strip().isdecimal():
        raise ProblemsError([Problem(field, f"'{text}' is no number", "digits only")])
    return int(text)


def year(field: str, text: str) -> int | None:
    """A year with four digits; None where nothing was typed."""
    found = whole_number(field, text) if text.strip().isdecimal() else None
    if text.strip() and not 1900 <= (found or 0) <= 2100:
        raise ProblemsError([Problem(field, f"'{text}' is no year", "write it as 2019")])
    return found
