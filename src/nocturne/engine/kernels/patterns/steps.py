"""The kinds of steps: what a step puts out at a place.

Each file of a kind, or of a family of kinds, has `VALUES`: by the number of a kind the function that works it out,
(S, wp, at, b, F, q, size, under) -> three numbers. S scene table, wp address of the work row, at the place in it, b
step, F the step's own row, q its coordinates at the place, size how far what looks reaches in them, under what lies
under it.
"""

from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import jit
from nocturne.engine.kernels.patterns import (
    adjust,
    checkerboard,
    geomcolor,
    grown,
    image,
    laid,
    marks,
    noises,
    wear,
    where,
)

FAMILIES = (image, noises, marks, laid, grown, where, wear, adjust, checkerboard, geomcolor)
VALUES = {number: value for family in FAMILIES for number, value in family.VALUES.items()}
_value = by_kind(VALUES)


@jit
def value_of_kind(kind, S, wp, at, b, F, q, size, under):
    """Return what a step of a kind puts out."""
    return _value(kind, S, wp, at, b, F, q, size, under)
