"""Random numbers by place, and noise made of them: as in `nocturne.scene.patterns.hashing`. p place, x y z numbers."""

import math

from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, u4
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO
from nocturne.engine.layout import spot as Spot

INV_2_24 = f4(2.0**-24)
SIX, TEN, FIFTEEN = f4(6), f4(10), f4(15)
MEAN_BILLOW = f4(-0.5387)  # of twice the noise's size, less one: over 400,000 places
QUARTER = f4(0.25)


@jit
def hashed(x, y, z):
    """Return three random numbers in [0, 1) for whole ones (Jarzynski and Olano 2020, pcg3d)."""
    a = u4(u4(x) * u4(1664525) + u4(1013904223))
    b = u4(u4(y) * u4(1664525) + u4(1013904223))
    c = u4(u4(z) * u4(1664525) + u4(1013904223))
    a = u4(a + u4(b * c))
    b = u4(b + u4(c * a))
    c = u4(c + u4(a * b))
    a = u4(a ^ (a >> u4(16)))
    b = u4(b ^ (b >> u4(16)))
    c = u4(c ^ (c >> u4(16)))
    a = u4(a + u4(b * c))
    b = u4(b + u4(c * a))
    c = u4(c + u4(a * b))
    return f4(u4(a >> u4(8))) * INV_2_24, f4(u4(b >> u4(8))) * INV_2_24, f4(u4(c >> u4(8))) * INV_2_24


@jit
def eased(t):
    return t * t * t * (t * (t * SIX - FIFTEEN) + TEN)


@jit
def between(t, a, b):
    return a + (b - a) * t


@jit
def noise(p):
    """Return noise of gradients at p, about -1..1."""
    return units.noise(p[0], p[1], p[2])


@jit
def corner_value(x, y, z):
    a, _, _ = hashed(x, y, z)
    return TWO * a - ONE


@jit
def value_noise(p):
    """Return noise of values at p, -1..1."""
    bx = math.floor(p[0])
    by = math.floor(p[1])
    bz = math.floor(p[2])
    x = i4(bx)
    y = i4(by)
    z = i4(bz)
    u = eased(f4(p[0] - f4(bx)))
    v = eased(f4(p[1] - f4(by)))
    total = ZERO
    low = ZERO
    for k in range(2):
        a = between(u, corner_value(x, y, z + k), corner_value(x + 1, y, z + k))
        b = between(u, corner_value(x, y + 1, z + k), corner_value(x + 1, y + 1, z + k))
        total = between(v, a, b)
        if k == 0:
            low = total
    return between(eased(f4(p[2] - f4(bz))), low, total)


@jit
def fractal(p, octaves, lacunarity, diminish, style, size):
    """Return sums of noise at p, 0..1; style 0 soft, 1 billows, 2 ridges (Musgrave 1993).

    size: how far what looks reaches in p: lumps that it cannot tell apart count as what they are on average.
    """
    total = ZERO
    weights = ZERO
    scale = ONE
    weight = ONE
    mean = ZERO if style == 0 else (MEAN_BILLOW if style == 1 else -MEAN_BILLOW)
    for k in range(min(octaves, 12)):
        seen = min(max(TWO - TWO * size * scale, ZERO), ONE)
        n = mean
        if seen > ZERO:
            shift = f4(k) * f4(17.3)
            n = noise((p[0] * scale + shift, p[1] * scale + shift, p[2] * scale + shift))
            if style == 1:
                n = TWO * abs(n) - ONE
            elif style == 2:
                n = ONE - TWO * abs(n)
            n = between(seen, mean, n)
        total += weight * n
        weights += weight
        scale *= lacunarity
        weight *= diminish
    spread = f4(1.4) if style == 0 else ONE
    return min(max(HALF + HALF * total / max(weights, f4(1e-9)) * spread, ZERO), ONE)


@jit
def reach_in_lumps(wp, at, size):
    """Return how far the ray reaches in the largest lumps: behind a bend no more than tells two sizes of them apart.

    As with pictures, rays that are spread all over would else find nothing but the mean.
    """
    return size if f4(row_f4(wp)[at + Spot.MOST]) > ONE else min(size, QUARTER)
