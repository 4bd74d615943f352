"""Lamps that shine in a cone with a soft edge. Names as in choose.py; wi direction to the light, c cosine."""

import math

import numpy as np

from nocturne.engine.emitters import Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.lights.point import towards
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped, dot, row_at, scaled
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.spot import Spot
from nocturne.scene.shapes import rotation, transform


@jit
def profile(S, l, c):
    """Return the share of the intensity along the axis that goes where the cosine to the axis is c."""
    F = T.light_f(S)
    inner = f4(F[l, Light.COS_INNER])
    outer = f4(F[l, Light.COS_OUTER])
    t = clamped((c - outer) / max(inner - outer, f4(1e-6)), ZERO, ONE)
    return t * t * (f4(3) - TWO * t)


@jit
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, irradiance on what faces it, 1, is delta); density 0 outside of the cone."""
    F = T.light_f(S)
    wi, distance, k = towards(S, l, P)
    k *= profile(S, l, -dot(row_at(F, l, Light.X), wi))
    return wi, distance, scaled(row_at(F, l, Light.RGB), k), ONE if k > ZERO else ZERO, True


def near(light: Spot) -> Near:
    """Return what the engine needs of a spot; with a size it is an opening that shines with the same intensities."""
    turn, at = rotation(light.turn_deg), np.array(light.place, float)
    down = -turn[:, 2]
    candela = light.strength()
    outer = math.radians(light.outer_deg)
    parts = {
        "POS": at,
        "X": down,
        "COS_INNER": math.cos(math.radians(min(light.inner_deg, light.outer_deg))),
        "COS_OUTER": math.cos(outer),
    }
    # The tree ranks by what arrives at a point: a spot's narrow beam counts with its intensity.
    power = 4 * math.pi * candela
    r = light.bulb_radius
    if r <= 0:
        return Near(Light.SPOT, parts, candela, Emitter(at, at, down, 0.0, outer, power))
    reach = r * np.sqrt(np.maximum(1 - down**2, 0))
    return Near(
        Light.OPENING,
        {**parts, "N": down, "RADIUS": r, "AREA": math.pi * r * r},
        candela / (math.pi * r * r),
        Emitter(at - reach, at + reach, down, 0.0, outer, power),
        "disc",
        transform(light.place, light.turn_deg, (r, r, 1.0)),
    )
