"""Arcs on the crank's pulley and on the distributor's body."""

from math import pi


def arc_length(diameter: float, degrees: float) -> float:
    """How far apart two marks of so many degrees are along a rim of this diameter, in its unit."""
    return pi * diameter * degrees / 360
