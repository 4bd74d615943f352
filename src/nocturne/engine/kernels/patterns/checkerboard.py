"""Squares of two colours in turn. F the step's row, q its coordinates."""

import math

from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.hashing import hashed
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, load, mixed
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps

PART = f4(0.5)  # of what the ray reaches: the samples of a pixel blur it, too
SHARP = f4(1e-4)  # of a square: what looks reaches no further


@jit
def risen(x):
    """Return the integral of what is 1 on even squares and -1 on odd ones, from 0 to x."""
    return ONE - abs(x - TWO * f4(math.floor(x * HALF)) - ONE)


@jit
def mean_of(x, wide):
    """Return the mean of that about x, over a width."""
    return (risen(x + HALF * wide) - risen(x - HALF * wide)) / wide


@jit
def value(S, wp, at, b, F, q, size, under):
    """Return the mean of the colours that what looks sees about q: one repeat is two squares wide and two high."""
    if f4(F[Steps.CHECKERBOARD_OUTPUT]) > HALF:
        own, _, _ = hashed(i4(math.floor(TWO * q[0])), i4(math.floor(TWO * q[1])), 23)
        return (own, own, own)
    first = load(F, Steps.CHECKERBOARD_FIRST)
    second = load(F, Steps.CHECKERBOARD_SECOND)
    wide = TWO * PART * min(size, f4(row_f4(wp)[at + Spot.MOST]))
    if wide < SHARP:
        return second if (math.floor(TWO * q[0]) + math.floor(TWO * q[1])) % 2 != 0 else first
    share = HALF + HALF * mean_of(TWO * q[0], wide) * mean_of(TWO * q[1], wide)
    return (
        mixed(second[0], first[0], share),
        mixed(second[1], first[1], share),
        mixed(second[2], first[2], share),
    )


VALUES = {Steps.CHECKERBOARD: value}
