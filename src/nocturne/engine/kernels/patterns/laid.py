"""Surfaces laid of pieces: bricks, tiles and planks. Names as in `steps`."""

import math

from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import fractal, hashed, reach_in_lumps
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, clamped, mixed
from nocturne.engine.layout import steps as Steps

LEAST = f4(1e-6)
PART = f4(0.5)  # of what the ray reaches: the samples of a pixel blur it, too
FACE, ID, HEIGHT = 0, 1, 2  # of the choices of what it puts out


@jit
def faces_to(t, whole, face):
    """Return how many metres of faces there are up to t, in pieces with their gaps."""
    column = f4(math.floor(t))
    return column * face + clamped((t - column) * whole - (whole - face) * HALF, ZERO, face)


@jit
def covered(t, whole, face, size):
    """Return how much of a width about t is faces; whole: a piece with its gap, face: without, metres."""
    t -= f4(math.floor(t))  # far out, sums of many pieces would lose what one of them has
    half = HALF * size / whole
    return (faces_to(t + half, whole, face) - faces_to(t - half, whole, face)) / size


@jit
def piece(q, size, output, long, high, gap, edge, shift, disorder):
    """Return what the piece at q is: see the class."""
    wide = max(long + gap, LEAST)
    tall = max(high + gap, LEAST)
    y = q[1] / tall
    row = math.floor(y)
    own, _, _ = hashed(i4(row), 5, 9)
    x = q[0] / wide + shift * f4(row) + disorder * own
    column = math.floor(x)
    dx = (HALF - abs(x - f4(column) - HALF)) * wide - gap * HALF
    dy = (HALF - abs(y - f4(row) - HALF)) * tall - gap * HALF
    inside = min(dx, dy)
    if output == FACE:
        if size < LEAST:
            return grey(ONE if inside > ZERO else ZERO)
        size *= PART
        # Of more than a row those beside it count, too, which are shifted: then only how much of a row is faces.
        across = mixed(covered(x, wide, long, size), long / wide, clamped(size / tall - HALF, ZERO, ONE))
        return grey(across * covered(y, tall, high, size))
    a, b, c = hashed(i4(column), i4(row), 21)
    if output == ID:
        return grey(a)
    if output == HEIGHT:
        t = clamped(inside / max(edge, LEAST), ZERO, ONE)
        return grey(math.sqrt(max(ONE - (ONE - t) * (ONE - t), ZERO)))
    along = (x - f4(column)) * wide / max(long, LEAST) * TWO
    across = (y - f4(row)) * tall / max(high, LEAST) * f4(16)
    p = (along + f4(40) * a, across + f4(40) * b, f4(40) * c)
    return grey(fractal(p, 4, TWO, HALF, 0, size * f4(16) / max(high, LEAST)))


@jit
def laid(S, wp, at, b, F, q, size, under):
    """Return what the brick, tile or board at q is: their rows are alike."""
    tall = max(f4(F[Steps.BRICK_HEIGHT]) + f4(F[Steps.BRICK_GAP]), LEAST)
    return piece(
        q,
        reach_in_lumps(wp, at, size / tall) * tall,
        i4(F[Steps.BRICK_OUTPUT]),
        f4(F[Steps.BRICK_LENGTH]),
        f4(F[Steps.BRICK_HEIGHT]),
        f4(F[Steps.BRICK_GAP]),
        f4(F[Steps.BRICK_EDGE]),
        f4(F[Steps.BRICK_SHIFT]),
        f4(F[Steps.BRICK_DISORDER]),
    )


VALUES = {Steps.BRICK: laid, Steps.TILE: laid, Steps.PLANK: laid}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
