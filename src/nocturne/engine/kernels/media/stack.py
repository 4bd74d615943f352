"""Overlapping closed shapes of transmitting media, ordered by precedence.

The path carries the list of media it is inside of; the one of highest precedence exists (Schmidt and Budge 2002, Simple
nested dielectrics in ray traced images). No two materials rank alike.

MEDIA in the work row: count, then material indices.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit, u4
from nocturne.engine.kernels.vectors import ONE
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import media as Media
from nocturne.engine.layout import scratch as Scratch

HOW_MANY = Scratch.MEDIA + Media.HOW_MANY
ENTRIES = Scratch.MEDIA + Media.ENTRIES


@jit
def existing(S, I, skip):
    """Return the material that exists here, leaving out list entry `skip` (-1: none); -1 for air."""
    best = i4(-1)
    for k in range(i4(I[HOW_MANY])):
        m = i4(I[ENTRIES + k])
        if k != skip and (best < 0 or T.mat_i(S)[m, Mat.PRECEDENCE] > T.mat_i(S)[best, Mat.PRECEDENCE]):
            best = m
    return best


@jit
def index_of(S, m):
    """Return the refractive index of material m, 1 for air (-1)."""
    if m < 0:
        return ONE
    return f4(T.mat_f(S)[m, Mat.IOR])


@jit
def entry_of(I, m):
    """Return the last entry of material m in the list, -1 if it is not there."""
    at = i4(-1)
    for k in range(i4(I[HOW_MANY])):
        if i4(I[ENTRIES + k]) == m:
            at = i4(k)
    return at


@jit
def enter(I, m):
    """Put material m on the list."""
    n = i4(I[HOW_MANY])
    if n < Media.MAX_MEDIA:
        I[ENTRIES + n] = u4(m)
        I[HOW_MANY] = u4(n + 1)


@jit
def leave(I, m):
    """Take material m off the list."""
    at = entry_of(I, m)
    if at < 0:
        return
    n = i4(I[HOW_MANY]) - 1
    for k in range(at, n):
        I[ENTRIES + k] = I[ENTRIES + k + 1]
    I[HOW_MANY] = u4(n)


@jit
def absorbed(S, m, t, beta):
    """Return what goes straight of beta over a way t through material m (Beer and Lambert)."""
    F = T.mat_f(S)
    return (
        beta[0] * math.exp(-f4(F[m, Mat.SIGMA_T]) * t),
        beta[1] * math.exp(-f4(F[m, Mat.SIGMA_T + 1]) * t),
        beta[2] * math.exp(-f4(F[m, Mat.SIGMA_T + 2]) * t),
    )
