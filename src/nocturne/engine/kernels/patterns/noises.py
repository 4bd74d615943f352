"""Noises: lumps, sums of lumps, and cells. Names as in `steps`."""

import math

from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import fractal, hashed, noise, reach_in_lumps, value_noise
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, clamped, scaled
from nocturne.engine.layout import steps as Steps

LEAST = f4(1e-6)
BIG = f4(1e9)


@jit
def grey(x):
    return (x, x, x)


@jit
def lumps(S, wp, at, b, F, q, size, under):
    """Return soft lumps, 0..1."""
    per_metre = ONE / max(f4(F[Steps.NOISE3D_SCALE]), LEAST)
    p = scaled(q, per_metre)
    seen = clamped(TWO - TWO * reach_in_lumps(wp, at, size * per_metre), ZERO, ONE)
    if seen == ZERO:
        return (HALF, HALF, HALF)  # what lumps are on average that it cannot tell apart
    n = value_noise(p) if f4(F[Steps.NOISE3D_STYLE]) > HALF else noise(p)
    return grey(clamped(HALF + HALF * n * seen, ZERO, ONE))


@jit
def moved(p, x, y, z):
    return (p[0] + f4(x), p[1] + f4(y), p[2] + f4(z))


@jit
def lumps_on_lumps(S, wp, at, b, F, q, size, under):
    """Return lumps on lumps, 0..1."""
    s = ONE / max(f4(F[Steps.FRACTAL3D_SCALE]), LEAST)
    p = scaled(q, s)
    warp = f4(F[Steps.FRACTAL3D_WARP])
    if warp != ZERO:
        x = noise(moved(p, 31.4, 5.2, 11.7))
        y = noise(moved(p, 7.3, 47.1, 3.9))
        z = noise(moved(p, 17.9, 23.6, 71.2))
        p = (p[0] + warp * x, p[1] + warp * y, p[2] + warp * z)
    octaves = i4(f4(F[Steps.FRACTAL3D_OCTAVES]) + HALF)
    k = Steps.FRACTAL3D_LACUNARITY
    style = i4(F[Steps.FRACTAL3D_STYLE])
    return grey(fractal(p, octaves, f4(F[k]), f4(F[Steps.FRACTAL3D_DIMINISH]), style, reach_in_lumps(wp, at, size * s)))


@jit
def cells(S, wp, at, b, F, q, size, under):
    """Return what the cell at q is (Worley 1996, A cellular texture basis function)."""
    p = scaled(q, ONE / max(f4(F[Steps.WORLEYNOISE3D_SCALE]), LEAST))
    jitter = f4(F[Steps.WORLEYNOISE3D_JITTER])
    x = i4(math.floor(p[0]))
    y = i4(math.floor(p[1]))
    z = i4(math.floor(p[2]))
    first = BIG
    second = BIG
    cx, cy, cz = x, y, z
    for i in range(x - 1, x + 2):
        for j in range(y - 1, y + 2):
            for k in range(z - 1, z + 2):
                u, v, w = hashed(i, j, k)
                dx = f4(i) + HALF + (u - HALF) * jitter - p[0]
                dy = f4(j) + HALF + (v - HALF) * jitter - p[1]
                dz = f4(k) + HALF + (w - HALF) * jitter - p[2]
                d = dx * dx + dy * dy + dz * dz
                if d < first:
                    second = first
                    first = d
                    cx, cy, cz = i4(i), i4(j), i4(k)
                elif d < second:
                    second = d
    output = i4(F[Steps.WORLEYNOISE3D_OUTPUT])
    if output == 0:
        return grey(min(math.sqrt(first), ONE))
    if output == 1:
        return grey(min(math.sqrt(second) - math.sqrt(first), ONE))
    u, v, w = hashed(cx + 101, cy + 101, cz + 101)
    return grey(u) if output == 2 else (u, v, w)


VALUES = {Steps.NOISE3D: lumps, Steps.FRACTAL3D: lumps_on_lumps, Steps.WORLEYNOISE3D: cells}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
