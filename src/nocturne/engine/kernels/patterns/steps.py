"""The kinds of steps: what a step puts out at a place.

Each file of a kind, or of a family of kinds, has `VALUES`: by the number of a kind the function that works it out,
(S, wp, at, b, F, q, size, under) -> three numbers. S scene table, wp address of the work row, at the place in it, b
step, F the step's own row, q its coordinates at the place, size how far what looks reaches in them, under what lies
under it. Pictures and the like are called as they are; each larger family is a unit of its own (`units.STEPS`), so
that it is compiled apart.
"""

from nocturne.engine.kernels import units
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import inlined, jit, row_f4
from nocturne.engine.kernels.patterns import (
    adjust,
    checkerboard,
    geomcolor,
    grown,
    image,
    laid,
    marks,
    noises,
    signs,
    wear,
    where,
)
from nocturne.engine.kernels.patterns.handing import hand_over, taken

AT_HAND = (image, checkerboard, geomcolor)
APART = {
    noises: units.noises,
    marks: units.marks,
    laid: units.laid,
    grown: units.grown,
    signs: units.signs,
    where: units.where,
    wear: units.wear,
    adjust: units.adjust,
}
# By the number of a kind, that of its family: 0 is at hand.
FAMILIES = {number: 0 for family in AT_HAND for number in family.VALUES}
FAMILIES |= {number: k + 1 for k, family in enumerate(APART) for number in family.VALUES}
_at_hand = by_kind({number: value for family in AT_HAND for number, value in family.VALUES.items()})


@inlined
def _here(kind, S, wp, at, b, F, q, size, under):
    return _at_hand(kind, S, wp, at, b, row_f4(F), q, size, under)


def _of_unit(unit):
    @inlined
    def called(kind, S, wp, at, b, F, q, size, under):
        hand_over(wp, under)
        unit(S, wp, kind, at, b, F, q[0], q[1], q[2], size)
        return taken(wp)

    return called


_family = by_kind({0: _here, **{k + 1: _of_unit(unit) for k, unit in enumerate(APART.values())}})


@jit
def value_of_kind(family, kind, S, wp, at, b, F, q, size, under):
    """Return what a step of a kind puts out; F: the address of its row."""
    return _family(family, kind, S, wp, at, b, F, q, size, under)
