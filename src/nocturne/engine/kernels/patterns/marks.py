"""Marks: scratches, fibres and spots. Names as in `steps`."""

import math

from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import hashed
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, clamped
from nocturne.engine.layout import steps as Steps

LEAST, TINY = f4(1e-6), f4(1e-9)
BIG = f4(1e9)
LAYERS, JOINTS = 3, 4  # strokes over each other, straight pieces of a bent one
DEGREE = f4(math.pi / 180)


@jit
def distance_to_arc(x, y, angle, reach, bend):
    """Return the distance from (x, y) to a bent stroke about the origin, as straight pieces."""
    c = math.cos(angle)
    s = math.sin(angle)
    u = c * x + s * y
    v = c * y - s * x
    best = BIG
    for k in range(JOINTS):
        t0 = f4(-1 + 2 * k / JOINTS)
        t1 = f4(-1 + 2 * (k + 1) / JOINTS)
        ax = t0 * reach
        ay = bend * reach * t0 * t0
        bx = t1 * reach - ax
        by = bend * reach * t1 * t1 - ay
        t = clamped(((u - ax) * bx + (v - ay) * by) / max(bx * bx + by * by, f4(1e-12)), ZERO, ONE)
        dx = u - ax - t * bx
        dy = v - ay - t * by
        best = min(best, math.sqrt(dx * dx + dy * dy))
    return best


@jit
def strokes(q, size, length, width, density, turn, bend):
    """Return 1 on a stroke and 0 beside it; what is finer than what looks is wider and fainter."""
    s = ONE / max(length, LEAST)
    half = max(HALF * width * s, TINY)
    found = ZERO
    for layer in range(LAYERS):
        x = q[0] * s + f4(0.37) * f4(layer)
        y = q[1] * s + f4(0.37) * f4(layer)
        i0 = i4(math.floor(x))
        j0 = i4(math.floor(y))
        for i in range(i0 - 1, i0 + 2):
            for j in range(j0 - 1, j0 + 2):
                d, e, _ = hashed(i, j, 71 + layer)
                if d < density:
                    a, b, c = hashed(i, j, 7 + layer)
                    way = distance_to_arc(
                        x - f4(i) - a,
                        y - f4(j) - b,
                        turn * (TWO * c - ONE) * DEGREE,
                        f4(0.35) + f4(0.4) * d,
                        bend * (TWO * e - ONE),
                    )
                    found = max(found, clamped(f4(1.5) - way / half, ZERO, ONE) * (f4(0.4) + f4(0.6) * c))
    return grey(found)


@jit
def stroked(S, wp, at, b, F, q, size, under):
    """Return 1 on a scratch or a fibre: their rows are alike."""
    return strokes(
        q,
        size,
        f4(F[Steps.SCRATCHES_LENGTH]),
        f4(F[Steps.SCRATCHES_WIDTH]),
        f4(F[Steps.SCRATCHES_DENSITY]),
        f4(F[Steps.SCRATCHES_SCATTER_DEG]),
        f4(F[Steps.SCRATCHES_BEND]),
    )


@jit
def spots(S, wp, at, b, F, q, size, under):
    """Return 1 on a spot."""
    s = ONE / max(f4(F[Steps.SPOTS_SCALE]), LEAST)
    x = q[0] * s
    y = q[1] * s
    i0 = i4(math.floor(x))
    j0 = i4(math.floor(y))
    soft = max(f4(F[Steps.SPOTS_SOFTNESS]), f4(1e-3))
    found = ZERO
    for i in range(i0 - 1, i0 + 2):
        for j in range(j0 - 1, j0 + 2):
            d, _, _ = hashed(i, j, 13)
            if d < f4(F[Steps.SPOTS_DENSITY]):
                a, e, c = hashed(i, j, 3)
                r = max(f4(F[Steps.SPOTS_RADIUS]) * (ONE - f4(F[Steps.SPOTS_VARIATION]) * c), TINY)
                dx = x - f4(i) - a
                dy = y - f4(j) - e
                found = max(found, clamped((ONE - math.sqrt(dx * dx + dy * dy) / r) / soft, ZERO, ONE))
    return grey(found)


VALUES = {Steps.SCRATCHES: stroked, Steps.FIBRES: stroked, Steps.SPOTS: spots}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
