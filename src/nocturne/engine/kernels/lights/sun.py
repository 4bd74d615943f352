"""The sun: a disc at infinity, even over its cone. Names as in choose.py; d direction to it."""

import math

import numpy as np

from nocturne.engine.emitters import Far
from nocturne.engine.environment import sun_radiance
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lights.cone import cone_density, sample_cone
from nocturne.engine.kernels.vectors import BIG, ZERO, dot, row_at
from nocturne.engine.layout import light as Light
from nocturne.scene.daylight import SUN_RADIUS, sun_direction
from nocturne.scene.lights import chroma
from nocturne.scene.lights.distant import Distant
from nocturne.scene.lights.sun import Sun
from nocturne.scene.shapes import rotation


@inlined
def seen(S, l, N, two_sided, d):
    """Return what comes from direction d, and the density over solid angle of sampling it."""
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if dot(row_at(T.light_f(S), l, Light.X), d) < f4(T.light_f(S)[l, Light.COS_OUTER]):
        rgb = (ZERO, ZERO, ZERO)
    s = f4(T.light_f(S)[l, Light.RADIUS])
    return rgb, cone_density(s * s)


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta)."""
    F = T.light_f(S)
    s = f4(F[l, Light.RADIUS])
    wi, _ = sample_cone(row_at(F, l, Light.X), s * s, u, v)
    return wi, BIG, row_at(F, l, Light.RGB), cone_density(s * s), False


def far(light: Sun | Distant, assets, keep) -> Far:
    """Return what the engine needs of the sun, or of another distant disc."""
    if isinstance(light, Distant):
        rgb, half = chroma(light) * light.strength(), math.radians(light.angle_deg) / 2
        axis = rotation(light.turn_deg)[:, 2]
    else:
        rgb, half = sun_radiance(light, light.strength()), SUN_RADIUS
        axis = np.array(sun_direction(math.radians(light.azimuth_deg), math.radians(light.elevation_deg)))
    return Far(Light.SUN, {"RGB": rgb, "X": axis, "COS_OUTER": math.cos(half), "RADIUS": math.sin(half)})
