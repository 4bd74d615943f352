"""Normal maps that lie by something else than texture coordinates: turned to how those would have held them.

A normal map's red and green are ways along the surface where its own coordinates grow. What bends the normal in the end
(`shading.bend_normal`) takes them along the first texture coordinate, so ways are turned from one frame to the other.
Names as in `machine`.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4
from nocturne.engine.kernels.patterns.places import axis
from nocturne.engine.kernels.vectors import (
    HALF,
    ONE,
    PI,
    TWO,
    ZERO,
    added,
    along,
    cross,
    dot,
    frame,
    length,
    load,
    scaled,
    store,
    subtracted,
    unit,
)
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import spot as Spot

LEAST = f4(1e-9)


@jit
def grows(where, side, p, n):
    """Return the two ways in which coordinates grow in the step's frame before they are turned, unit or zero."""
    if where == Pattern.SIDES:
        if side == 0:
            return ((ZERO, ONE if n[0] >= ZERO else -ONE, ZERO), (ZERO, ZERO, ONE))
        if side == 1:
            return ((-ONE if n[1] >= ZERO else ONE, ZERO, ZERO), (ZERO, ZERO, ONE))
        return ((ONE if n[2] >= ZERO else -ONE, ZERO, ZERO), (ZERO, ONE, ZERO))
    if where == Pattern.CYLINDER or where == Pattern.BALL:
        r = math.sqrt(p[0] * p[0] + p[1] * p[1])
        if r < LEAST:
            return ((ZERO, ZERO, ZERO), (ZERO, ZERO, ZERO))
        round_it = (-p[1] / r, p[0] / r, ZERO)
        if where == Pattern.CYLINDER:
            return (round_it, (ZERO, ZERO, ONE))
        far = ONE / max(length(p), LEAST)
        return (round_it, (-p[2] * p[0] / r * far, -p[2] * p[1] / r * far, r * far))
    return ((ONE, ZERO, ZERO), (ZERO, ONE, ZERO))


@jit
def in_world(S, wp, b, at, F, d):
    """Return the way in the set of a way in the step's frame."""
    k = Pattern.TO_X
    m = Pattern.TO_Y
    n = Pattern.TO_Z
    x = d[0] * f4(F[Pattern.UNIT])
    y = d[1] * f4(F[Pattern.UNIT + 1])
    z = d[2] * f4(F[Pattern.UNIT + 2])
    v = (
        x * f4(F[k]) + y * f4(F[m]) + z * f4(F[n]),
        x * f4(F[k + 1]) + y * f4(F[m + 1]) + z * f4(F[n + 1]),
        x * f4(F[k + 2]) + y * f4(F[m + 2]) + z * f4(F[n + 2]),
    )
    if T.bind_i(S)[b, Pattern.IN_SET] != 0:
        return v
    inst = i4(row_u4(wp)[at + Spot.INST])
    X = T.inst_xf(S)
    return along(axis(X, inst, 0), v[0], along(axis(X, inst, 1), v[1], scaled(axis(X, inst, 2), v[2])))


@jit
def on_surface(d, n):
    """Return a way laid on the surface, unit; zero if it stands on it."""
    flat = subtracted(d, scaled(n, dot(n, d)))
    if dot(flat, flat) <= f4(1e-20):  # as `shading.bend_normal` has it
        return (ZERO, ZERO, ZERO)
    return unit(flat)


@jit
def turned_to_uv(S, wp, b, at, F, where, side, p, own_n, t):
    """Return what a normal map's value, as the step's coordinates hold it, is along the first texture coordinate.

    p, own_n: place and normal in the step's frame. A surface without texture coordinates is given a way for them.
    """
    W = row_f4(wp)
    n = load(W, at + Spot.N)
    first, second = grows(where, side, p, own_n)
    turn = f4(F[Pattern.TURN]) * (PI / f4(180))
    c = math.cos(turn)
    s = math.sin(turn)
    flip = -ONE if f4(F[Pattern.REPEAT]) < ZERO else ONE
    flop = -ONE if f4(F[Pattern.REPEAT + 1]) < ZERO else ONE
    u = along(first, c * flip, scaled(second, -s * flop))
    v = along(first, s * flip, scaled(second, c * flop))
    u = on_surface(in_world(S, wp, b, at, F, u), n)
    v = on_surface(in_world(S, wp, b, at, F, v), n)
    x = t[0] * TWO - ONE
    y = t[1] * TWO - ONE
    bent = added(scaled(u, x), scaled(v, y))
    way = on_surface(load(W, at + Spot.DPDU), n)
    if dot(way, way) < HALF:
        way = frame(n)[0]
        store(W, at + Spot.DPDU, way)
    return (dot(bent, way) * HALF + HALF, dot(bent, cross(n, way)) * HALF + HALF, t[2])
