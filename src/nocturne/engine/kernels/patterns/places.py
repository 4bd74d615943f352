"""Places and directions in a thing's own frame: metres along its axes, whatever its size. S, wp, at as in `machine`."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4
from nocturne.engine.kernels.vectors import ONE, TINY, dot, load, subtracted, unit
from nocturne.engine.layout import spot as Spot


@jit
def axis(X, inst, k):
    """Return the direction in the set of a thing's axis k, unit."""
    a = (f4(X[inst, k]), f4(X[inst, 4 + k]), f4(X[inst, 8 + k]))
    s = ONE / math.sqrt(max(dot(a, a), TINY))
    return (a[0] * s, a[1] * s, a[2] * s)


@jit
def along_axes(S, inst, v):
    """Return a vector of the set by its lengths along a thing's axes."""
    X = T.inst_xf(S)
    return (dot(axis(X, inst, 0), v), dot(axis(X, inst, 1), v), dot(axis(X, inst, 2), v))


@jit
def own_place(S, wp, at):
    """Return the place in the thing's own frame, metres."""
    inst = i4(row_u4(wp)[at + Spot.INST])
    X = T.inst_xf(S)
    middle = (f4(X[inst, 3]), f4(X[inst, 7]), f4(X[inst, 11]))
    return along_axes(S, inst, subtracted(load(row_f4(wp), at + Spot.REST), middle))


@jit
def own_normal(S, wp, at):
    """Return the shading normal in the thing's own frame, unit."""
    inst = i4(row_u4(wp)[at + Spot.INST])
    return unit(along_axes(S, inst, load(row_f4(wp), at + Spot.N)))
