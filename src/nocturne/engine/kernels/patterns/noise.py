"""Noise of gradients, as in `nocturne.scene.patterns.hashing`: a unit of its own."""

import math

from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.patterns.hashing import between, eased, hashed
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO

GRADIENT_SCALE = f4(1.5)


@jit
def corner_gradient(x, y, z, fx, fy, fz):
    a, b, c = hashed(x, y, z)
    return ((TWO * a - ONE) * fx + (TWO * b - ONE) * fy + (TWO * c - ONE) * fz) * GRADIENT_SCALE


def noise(px, py, pz):
    """Unit: return noise of gradients at a place, about -1..1 (Perlin 2002, Improving noise)."""
    bx = math.floor(px)
    by = math.floor(py)
    bz = math.floor(pz)
    x = i4(bx)
    y = i4(by)
    z = i4(bz)
    fx = f4(px - f4(bx))
    fy = f4(py - f4(by))
    fz = f4(pz - f4(bz))
    u = eased(fx)
    v = eased(fy)
    total = ZERO
    low = ZERO
    for k in range(2):
        gz = fz - f4(k)
        a = between(u, corner_gradient(x, y, z + k, fx, fy, gz), corner_gradient(x + 1, y, z + k, fx - ONE, fy, gz))
        b = between(
            u,
            corner_gradient(x, y + 1, z + k, fx, fy - ONE, gz),
            corner_gradient(x + 1, y + 1, z + k, fx - ONE, fy - ONE, gz),
        )
        total = between(v, a, b)
        if k == 0:
            low = total
    return between(eased(fz), low, total)
