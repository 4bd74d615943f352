"""Tubes, sampled evenly over the part of their side that is seen. Names as in choose.py; wi direction to the light.

X is half of the axis, RADIUS the tube's. A point at distance d from it sees an arc of half angle acos(RADIUS / d).
"""

import math

import numpy as np

from nocturne.engine.emitters import Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    TWO,
    ZERO,
    added,
    along,
    cross,
    dot,
    length,
    row_at,
    scaled,
    subtracted,
    unit,
)
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.tube import Tube
from nocturne.scene.shapes import rotation, transform


@jit
def seen_from(S, l, P):
    """Return (axis, half of its length, direction from the axis to P, half angle of the arc that is seen)."""
    F = T.light_f(S)
    half = row_at(F, l, Light.X)
    reach = length(half)
    axis = scaled(half, ONE / max(reach, TINY))
    to = subtracted(P, row_at(F, l, Light.POS))
    across = subtracted(to, scaled(axis, dot(to, axis)))
    away = length(across)
    r = f4(F[l, Light.RADIUS])
    if away <= r:
        return axis, reach, axis, ZERO
    return axis, reach, scaled(across, ONE / away), math.acos(r / away)


@jit
def density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling the point at `distance` from P along wi."""
    axis, reach, _, arc = seen_from(S, l, P)
    if arc <= ZERO:
        return ZERO
    F = T.light_f(S)
    p = subtracted(along(wi, distance, P), row_at(F, l, Light.POS))
    n = unit(subtracted(p, scaled(axis, dot(p, axis))))
    area = TWO * arc * f4(F[l, Light.RADIUS]) * TWO * reach
    return distance * distance / max(abs(dot(n, wi)) * area, TINY)


@jit
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    F = T.light_f(S)
    rgb = row_at(F, l, Light.RGB)
    axis, reach, across, arc = seen_from(S, l, P)
    if arc <= ZERO:
        return N, ZERO, rgb, ZERO, False
    a = (TWO * u - ONE) * arc
    side = cross(axis, across)
    n = added(scaled(across, math.cos(a)), scaled(side, math.sin(a)))
    p = along(axis, (TWO * v - ONE) * reach, along(n, f4(F[l, Light.RADIUS]), row_at(F, l, Light.POS)))
    to = subtracted(p, P)
    distance = length(to)
    wi = scaled(to, ONE / max(distance, TINY))
    if dot(n, wi) >= ZERO:
        return N, ZERO, rgb, ZERO, False
    return wi, distance, rgb, density(S, l, P, wi, distance, 0), False


def near(light: Tube) -> Near:
    """Return what the engine needs of a glowing tube."""
    at, x = np.array(light.place, float), rotation(light.turn_deg)[:, 0]
    half, r, nit = light.length / 2, light.radius, light.strength()
    reach = np.abs(x) * half + r * np.sqrt(np.maximum(1 - x**2, 0))
    return Near(
        Light.TUBE,
        {"POS": at, "X": x * half, "RADIUS": r},
        nit,
        # Its faces turn all round the axis: any direction but along it.
        Emitter(at - reach, at + reach, x, math.pi, math.pi / 2, math.pi * nit * light.area),
        "tube",
        transform(light.place, light.turn_deg, (half, r, r)),
    )
