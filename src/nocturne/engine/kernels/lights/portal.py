"""Portals: openings through which light at infinity is looked for, one way beside looking for it by itself.

A light at infinity that may come from anywhere (a picture, a dome) has several ways to be sampled: as a whole, and
through each portal, by the solid angle that the opening fills. Which way is taken is chosen as lights are chosen, so
that it is learned where a portal helps; a direction's density counts all ways by which it could have come (Veach 1997,
the one-sample model with the balance heuristic).

Names as in choose.py; q the portal's row, d a direction, way 0 the light as a whole.
"""

import numpy as np

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import i4, inlined, jit
from nocturne.engine.kernels.lights import rectangle
from nocturne.engine.kernels.lights.learned import way_chance
from nocturne.engine.kernels.vectors import ZERO, dot, row_at, scaled, subtracted
from nocturne.engine.layout import learned as Learned
from nocturne.engine.layout import light as Light
from nocturne.scene.lights.portal import Portal
from nocturne.scene.shapes import rotation


@jit
def is_before(S, q, P):
    """Return True if P lies on the side that light comes in to."""
    F = T.light_f(S)
    return dot(row_at(F, q, Light.N), subtracted(P, row_at(F, q, Light.POS))) > ZERO


@inlined
def sample(S, q, P, u, v):
    """Return (direction, density over solid angle) through portal q; density 0: it is not seen from P."""
    if not is_before(S, q, P):
        return row_at(T.light_f(S), q, Light.N), ZERO
    wi, _, density = rectangle.point_on(S, q, P, u, v)
    return wi, density


@jit
def density(S, q, P, d):
    """Return the density over solid angle with which `sample` takes direction d."""
    F = T.light_f(S)
    n = row_at(F, q, Light.N)
    to = subtracted(row_at(F, q, Light.POS), P)
    c = dot(n, d)
    away = dot(n, to)
    if away >= ZERO or c >= ZERO:
        return ZERO
    t = away / c
    at = subtracted(scaled(d, t), to)
    x = row_at(F, q, Light.X)
    y = row_at(F, q, Light.Y)
    if abs(dot(at, x)) > dot(x, x) or abs(dot(at, y)) > dot(y, y):
        return ZERO
    return rectangle.density(S, q, P, d, t, i4(0))


@jit
def density_of_ways(S, l, P, N, two_sided, row, d, whole, taken, own):
    """Return the density of direction d of light l at infinity by all its ways, chances included.

    whole: the density of sampling it as a whole; taken: the way that d came by, of density `own` there; -1: none, it
    was found.
    """
    total = ZERO
    for way in range(T.light_i(S)[l, Light.WAYS]):
        p = whole
        if way == taken:
            p = own
        elif way > 0:
            q = T.slots(S)[T.light_i(S)[l, Light.SLOT] + way, Learned.PORTAL] - 1
            p = density(S, q, P, d)
        if p > ZERO:
            total += p * way_chance(S, l, way, row)
    return total


def row_of(light: Portal) -> dict[str, np.ndarray | float]:
    """Return the parts of a portal's row."""
    turn = rotation(light.turn_deg)
    x, y = turn[:, 0] * light.width / 2, turn[:, 1] * light.height / 2
    return {"POS": np.array(light.place, float), "X": x, "Y": y, "N": -turn[:, 2], "AREA": light.width * light.height}
