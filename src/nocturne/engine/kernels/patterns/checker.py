"""Squares of two colours in turn. S scene table, b binding, (u, v) the step's own coordinates."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.layout import pattern as Pattern

NUMBER = Pattern.CHECKER


@jit
def value(S, b, u, v, size, more):
    """Return the colour of the square at (u, v): one repeat is two squares wide and two high."""
    F = T.bind_f(S)
    at = Pattern.FIRST
    if (math.floor(f4(2) * u) + math.floor(f4(2) * v)) % 2 != 0:
        at = Pattern.SECOND
    return (f4(F[b, at]), f4(F[b, at + 1]), f4(F[b, at + 2]))


def parts(step):
    """Return what the float row of a checker has beside its placement."""
    return {"FIRST": step.first, "SECOND": step.second}
