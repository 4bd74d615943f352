"""Noise of gradients, as in `nocturne.scene.patterns.hashing`: a unit of its own.

Corners are hashed by one number each, for speed (Teschner et al. 2003, Optimized spatial hashing; Wellons 2018, Hash
prospector): of it ten bits make each part of the gradient.
"""

import math

from nocturne.engine.kernels.jit import f4, i4, jit, u4
from nocturne.engine.kernels.patterns.hashing import between, eased
from nocturne.engine.kernels.vectors import ONE, ZERO

GRADIENT_SCALE = f4(1.5)
TENTH = f4(2 / 1023)


@jit
def along_gradient(h, fx, fy, fz):
    """Return how far a way goes along the gradient of a corner of the hashed number h."""
    h = u4(h ^ (h >> u4(16)))
    h = u4(h * u4(0x7FEB352D))
    h = u4(h ^ (h >> u4(15)))
    h = u4(h * u4(0x846CA68B))
    h = u4(h ^ (h >> u4(16)))
    a = f4(i4(h & u4(1023))) * TENTH - ONE
    b = f4(i4((h >> u4(10)) & u4(1023))) * TENTH - ONE
    c = f4(i4((h >> u4(20)) & u4(1023))) * TENTH - ONE
    return (a * fx + b * fy + c * fz) * GRADIENT_SCALE


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
    x0 = u4(x * 73856093)
    x1 = u4(u4(x0) + u4(73856093))
    y0 = u4(y * 19349663)
    y1 = u4(u4(y0) + u4(19349663))
    z0 = u4(z * 83492791)
    low = ZERO
    high = ZERO
    for k in range(2):
        gz = fz - f4(k)
        a = between(u, along_gradient(x0 ^ y0 ^ z0, fx, fy, gz), along_gradient(x1 ^ y0 ^ z0, fx - ONE, fy, gz))
        b = between(
            u,
            along_gradient(x0 ^ y1 ^ z0, fx, fy - ONE, gz),
            along_gradient(x1 ^ y1 ^ z0, fx - ONE, fy - ONE, gz),
        )
        low = high
        high = between(v, a, b)
        z0 = u4(z0 + u4(83492791))
    return between(eased(fz), low, high)
