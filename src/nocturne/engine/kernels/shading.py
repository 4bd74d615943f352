"""The shading frame: the normal as a normal map bends it, and directions in its frame. W work row, I unsigned."""

import math

from nocturne.engine.kernels.jit import f4, inlined, jit
from nocturne.engine.kernels.vectors import (
    ONE,
    TWO,
    ZERO,
    added,
    cross,
    dot,
    frame,
    load,
    scaled,
    store,
    subtracted,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import scratch as Scratch

M = Scratch.MAT
DEGREE = f4(math.pi / 180)


@jit
def bend_normal(W):
    """Turn the shading normal by the normal map, and keep it on the viewer's side."""
    amount = f4(W[M + Mat.NORMAL_AMOUNT])
    n = load(W, Scratch.N)
    if amount > ZERO:
        x = (f4(W[M + Mat.NORMAL]) * TWO - ONE) * amount
        y = (f4(W[M + Mat.NORMAL + 1]) * TWO - ONE) * amount
        z = max(f4(W[M + Mat.NORMAL + 2]) * TWO - ONE, f4(0.05))
        du = load(W, Scratch.DPDU)
        t = subtracted(du, scaled(n, dot(n, du)))
        if dot(t, t) > f4(1e-20):
            t = unit(t)
            b = cross(n, t)
            n = unit(added(added(scaled(t, x), scaled(b, y)), scaled(n, z)))
    # A bent or interpolated normal may face away from the viewer; a flat one never does, and stays as it is.
    wo = load(W, Scratch.WO)
    c = dot(n, wo)
    least = min(f4(0.02), dot(load(W, Scratch.G), wo))
    if c < least - f4(1e-6):
        n = unit(added(n, scaled(wo, least - c)))
    store(W, Scratch.N, n)


@jit
def turned_frame(W, n, turn, stretched):
    """Return tangents of normal n: along the stretched direction, `turn` degrees from where u grows, and across it."""
    if stretched:
        du = load(W, Scratch.DPDU)
        t = subtracted(du, scaled(n, dot(n, du)))
        if dot(t, t) > f4(1e-20):
            t = unit(t)
            b = cross(n, t)
            c = math.cos(turn * DEGREE)
            s = math.sin(turn * DEGREE)
            return added(scaled(t, c), scaled(b, s)), subtracted(scaled(b, c), scaled(t, s))
    return frame(n)


@inlined
def place_frame(W):
    """Lay the tangents of the shading normal."""
    stretched = f4(W[M + Mat.ANISOTROPY]) > ZERO
    t, b = turned_frame(W, load(W, Scratch.N), f4(W[M + Mat.ROTATION]), stretched)
    store(W, Scratch.T, t)
    store(W, Scratch.B, b)


@jit
def local(W, v):
    return (dot(v, load(W, Scratch.T)), dot(v, load(W, Scratch.B)), dot(v, load(W, Scratch.N)))


@jit
def world(W, v):
    t = load(W, Scratch.T)
    b = load(W, Scratch.B)
    n = load(W, Scratch.N)
    return (
        t[0] * v[0] + b[0] * v[1] + n[0] * v[2],
        t[1] * v[0] + b[1] * v[1] + n[1] * v[2],
        t[2] * v[0] + b[2] * v[1] + n[2] * v[2],
    )


@jit
def same_side(W, I, wi, mi):
    """Return False where shading and geometric normal disagree about wi being reflected or transmitted."""
    return (dot(load(W, Scratch.G), wi) > ZERO) == (mi > ZERO)
