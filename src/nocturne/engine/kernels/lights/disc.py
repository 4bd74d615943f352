"""Discs that shine to one side, sampled evenly over their area. Names as in choose.py; wi direction to the light."""

import math

import numpy as np

from nocturne.engine.emitters import Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    TWO_PI,
    ZERO,
    along,
    dot,
    frame,
    length,
    row_at,
    scaled,
    subtracted,
)
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.disc import Disc
from nocturne.scene.shapes import rotation, transform


@jit
def density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling the point at `distance` from P along wi."""
    c = abs(dot(row_at(T.light_f(S), l, Light.N), wi))
    return distance * distance / max(c * f4(T.light_f(S)[l, Light.AREA]), TINY)


@jit
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    F = T.light_f(S)
    n = row_at(F, l, Light.N)
    x, y = frame(n)
    r = math.sqrt(u) * f4(F[l, Light.RADIUS])
    p = along(x, r * math.cos(TWO_PI * v), along(y, r * math.sin(TWO_PI * v), row_at(F, l, Light.POS)))
    to = subtracted(p, P)
    distance = length(to)
    wi = scaled(to, ONE / max(distance, TINY))
    rgb = row_at(F, l, Light.RGB)
    if dot(n, wi) >= ZERO:
        return N, ZERO, rgb, ZERO, False
    return wi, distance, rgb, density(S, l, P, wi, distance, 0), False


def near(light: Disc) -> Near:
    """Return what the engine needs of a round area light."""
    at, down = np.array(light.place, float), -rotation(light.turn_deg)[:, 2]
    r, nit = light.radius, light.strength()
    reach = r * np.sqrt(np.maximum(1 - down**2, 0))
    return Near(
        Light.DISC,
        {"POS": at, "N": down, "RADIUS": r, "AREA": light.area},
        nit,
        Emitter(at - reach, at + reach, down, 0.0, math.pi / 2, math.pi * nit * light.area),
        "disc",
        transform(light.place, light.turn_deg, (r, r, 1.0)),
    )
