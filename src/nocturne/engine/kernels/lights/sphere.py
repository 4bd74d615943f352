"""Spheres, sampled evenly over the cone they fill. Names as in choose.py; wi direction to the light."""

import math

import numpy as np

from nocturne.engine.emitters import EVERYWHERE, Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined, jit
from nocturne.engine.kernels.lights.cone import cone_density, sample_cone
from nocturne.engine.kernels.vectors import ONE, TINY, ZERO, dot, length, row_at, scaled, subtracted
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.sphere import Sphere
from nocturne.scene.shapes import transform


@jit
def sin2_from(S, l, P):
    """Return the squared sine of the half angle of the cone that light l fills from P."""
    F = T.light_f(S)
    to = subtracted(row_at(F, l, Light.POS), P)
    r = f4(F[l, Light.RADIUS])
    return r * r / max(dot(to, to), TINY)


@inlined
def density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling wi."""
    s2 = sin2_from(S, l, P)
    if s2 >= ONE:
        return ZERO
    return cone_density(s2)


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    F = T.light_f(S)
    rgb = row_at(F, l, Light.RGB)
    s2 = sin2_from(S, l, P)
    if s2 >= ONE:
        return N, ZERO, rgb, ZERO, False
    to = subtracted(row_at(F, l, Light.POS), P)
    d = length(to)
    wi, c = sample_cone(scaled(to, ONE / d), s2, u, v)
    r = f4(F[l, Light.RADIUS])
    distance = d * c - math.sqrt(max(r * r - d * d * (ONE - c * c), ZERO))
    return wi, distance, rgb, cone_density(s2), False


def near(light: Sphere) -> Near:
    """Return what the engine needs of a glowing ball."""
    return ball(light.place, light.radius, light.strength())


def ball(place: tuple, radius: float, nit: float) -> Near:
    """Return what the engine needs of a ball of a luminance."""
    at = np.array(place, float)
    power = 4 * math.pi**2 * radius**2 * nit
    return Near(
        Light.SPHERE,
        {"POS": at, "RADIUS": radius},
        nit,
        Emitter(at - radius, at + radius, EVERYWHERE, math.pi, math.pi / 2, power),
        "sphere",
        transform(place, (0, 0, 0), (radius,) * 3),
    )
