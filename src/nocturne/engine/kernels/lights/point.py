"""Lights without a size: no ray finds them. Names as in choose.py; wi direction to the light."""

import math

import numpy as np

from nocturne.engine.emitters import EVERYWHERE, Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lights.sphere import ball
from nocturne.engine.kernels.vectors import ONE, dot, row_at, scaled, subtracted
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.point import Point


@inlined
def towards(S, l, P):
    """Return (direction, distance, one over its square) from P to where light l stands."""
    to = subtracted(row_at(T.light_f(S), l, Light.POS), P)
    d2 = max(dot(to, to), f4(1e-8))
    distance = math.sqrt(d2)
    return scaled(to, ONE / distance), distance, ONE / d2


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, irradiance on what faces it, 1, is delta)."""
    wi, distance, k = towards(S, l, P)
    return wi, distance, scaled(row_at(T.light_f(S), l, Light.RGB), k), ONE, True


def near(light: Point) -> Near:
    """Return what the engine needs of a point; with a size it is a ball of the same intensity."""
    candela = light.strength()
    if light.bulb_radius > 0:
        return ball(light.place, light.bulb_radius, candela / (math.pi * light.bulb_radius**2))
    at = np.array(light.place, float)
    emitter = Emitter(at, at, EVERYWHERE, math.pi, math.pi / 2, 4 * math.pi * candela)
    return Near(Light.POINT, {"POS": at}, candela, emitter)
