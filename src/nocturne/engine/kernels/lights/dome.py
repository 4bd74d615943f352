"""Even light from everywhere, sampled by the cosine where it comes from one side. Names as in choose.py."""

import math

from nocturne.engine.emitters import Far
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.vectors import (
    BIG,
    INV_PI,
    ONE,
    TWO,
    TWO_PI,
    ZERO,
    added,
    dot,
    frame,
    row_at,
    scaled,
    unit,
)
from nocturne.engine.layout import light as Light
from nocturne.scene.lights import chroma
from nocturne.scene.lights.dome import Dome

UNIFORM = f4(1.0 / (4.0 * math.pi))


@inlined
def seen(S, l, N, two_sided, d):
    """Return what comes from direction d, and the density over solid angle of sampling it."""
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if two_sided:
        return rgb, UNIFORM
    return rgb, max(dot(N, d), ZERO) * INV_PI


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta)."""
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if two_sided:
        z = ONE - TWO * u
        s = math.sqrt(max(ONE - z * z, ZERO))
        wi = (s * math.cos(TWO_PI * v), s * math.sin(TWO_PI * v), z)
        return wi, BIG, rgb, UNIFORM, False
    t, b = frame(N)
    s = math.sqrt(u)
    c = math.sqrt(max(ONE - u, ZERO))
    wi = unit(added(scaled(N, c), added(scaled(t, s * math.cos(TWO_PI * v)), scaled(b, s * math.sin(TWO_PI * v)))))
    return wi, BIG, rgb, max(dot(N, wi), ZERO) * INV_PI, False


def far(light: Dome, assets, keep) -> Far:
    """Return what the engine needs of a dome."""
    return Far(Light.DOME, {"RGB": chroma(light) * light.strength()})
