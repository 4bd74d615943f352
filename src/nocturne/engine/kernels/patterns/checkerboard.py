"""Squares of two colours in turn. F the step's row, q its coordinates."""

import math

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import load
from nocturne.engine.layout import steps as Steps


@jit
def value(S, wp, at, b, F, q, size, under):
    """Return the colour of the square at q: one repeat is two squares wide and two high."""
    if (math.floor(f4(2) * q[0]) + math.floor(f4(2) * q[1])) % 2 != 0:
        return load(F, Steps.CHECKERBOARD_SECOND)
    return load(F, Steps.CHECKERBOARD_FIRST)


VALUES = {Steps.CHECKERBOARD: value}
