"""Sets of small numbers, kept as the bits of a whole number."""

from collections.abc import Iterator


def bits(mask: int) -> Iterator[int]:
    """The places of the ones in ``mask``, lowest first."""
    while mask:
        low = mask & -mask
        yield low.bit_length() - 1
        mask ^= low
