"""The sun: a disc at infinity, even over its cone. Names as in choose.py; d direction to it."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lights.cone import cone_density, sample_cone
from nocturne.engine.kernels.vectors import BIG, ZERO, dot, row_at
from nocturne.engine.layout import light as Light


@inlined
def seen(S, l, N, two_sided, d):
    """Return what comes from direction d, and the density over solid angle of sampling it."""
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if dot(row_at(T.light_f(S), l, Light.X), d) < f4(T.light_f(S)[l, Light.COS_OUTER]):
        rgb = (ZERO, ZERO, ZERO)
    s = f4(T.light_f(S)[l, Light.RADIUS])
    return rgb, cone_density(s * s)


@inlined
def sample(S, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta)."""
    F = T.light_f(S)
    s = f4(F[l, Light.RADIUS])
    wi, _ = sample_cone(row_at(F, l, Light.X), s * s, u, v)
    return wi, BIG, row_at(F, l, Light.RGB), cone_density(s * s), False
