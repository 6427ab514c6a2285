"""Keys made from names."""

import re


def free_key(words: str, taken: tuple[str, ...]) -> str:
    """A key made of words that nothing else has."""
    base = re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")[:40] or "part"
    base = f"{base}-part" if base == "hole" else base
    key, number = base, 2
    while key in taken:
        key, number = f"{base}-{number}", number + 1
    return key
