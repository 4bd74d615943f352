"""Points that shine in a cone with a soft edge. Names as in choose.py; wi direction to the light."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.lights.point import towards
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped, dot, row_at, scaled
from nocturne.engine.layout import light as Light


@inlined
def sample(S, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, irradiance on what faces it, 1, is delta); density 0 outside of the cone."""
    F = T.light_f(S)
    wi, distance, k = towards(S, l, P)
    c = -dot(row_at(F, l, Light.X), wi)
    inner = f4(F[l, Light.COS_INNER])
    outer = f4(F[l, Light.COS_OUTER])
    t = clamped((c - outer) / max(inner - outer, f4(1e-6)), ZERO, ONE)
    k *= t * t * (f4(3) - TWO * t)
    return wi, distance, scaled(row_at(F, l, Light.RGB), k), ONE if k > ZERO else ZERO, True
