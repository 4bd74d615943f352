"""Fresnel equations and the isotropic GGX distribution.

Names: c cosine, eta relative index (transmitted / incident), n k complex index, a GGX alpha, h half vector,
wo wi directions away from the surface in the local frame (z is the normal), mu cosine to the normal.
"""

import math

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import FOUR, HALF, ONE, PI, TINY, TWO, TWO_PI, ZERO, unit

F4_7 = f4(1.0 / 7.0)


@jit
def fresnel_dielectric(c, eta):
    """Return the unpolarised reflectance of a smooth dielectric boundary for 0 <= c <= 1."""
    s2 = (ONE - c * c) / (eta * eta)
    if s2 >= ONE:
        return ONE
    ct = math.sqrt(ONE - s2)
    rs = (c - eta * ct) / (c + eta * ct)
    rp = (eta * c - ct) / (eta * c + ct)
    return min(HALF * (rs * rs + rp * rp), ONE)


@jit
def fresnel_conductor(c, n, k):
    """Return the unpolarised reflectance of a metal with complex index n + ik (Born and Wolf, 14.2)."""
    c2 = c * c
    s2 = ONE - c2
    n2 = n * n
    k2 = k * k
    t0 = n2 - k2 - s2
    a2b2 = math.sqrt(max(t0 * t0 + FOUR * n2 * k2, ZERO))
    t1 = a2b2 + c2
    a = math.sqrt(max(HALF * (a2b2 + t0), ZERO))
    t2 = TWO * a * c
    rs = (t1 - t2) / max(t1 + t2, TINY)
    t3 = c2 * a2b2 + s2 * s2
    t4 = t2 * s2
    rp = rs * (t3 - t4) / max(t3 + t4, TINY)
    return min(HALF * (rs + rp), ONE)


@jit
def fresnel_edge_tint(c, f0, edge):
    """Return Schlick's reflectance bent to `edge` times itself at 82 degrees (OpenPBR, F82-tint)."""
    m = ONE - c
    m2 = m * m
    m5 = m2 * m2 * m
    schlick = f0 + (ONE - f0) * m5
    m7 = ONE - F4_7
    m7p2 = m7 * m7
    m7p5 = m7p2 * m7p2 * m7
    at_edge = f0 + (ONE - f0) * m7p5
    b = at_edge * (ONE - edge) / (F4_7 * m7p5 * m7)
    return min(max(schlick - b * c * m5 * m, ZERO), ONE)


@jit
def ggx_density(a, h):
    """Return D(h) (Walter et al. 2007, eq. 33)."""
    x = h[0] / a
    y = h[1] / a
    d = x * x + y * y + h[2] * h[2]
    return ONE / max(PI * a * a * d * d, TINY)


@jit
def ggx_lambda(a, mu):
    """Return Smith's auxiliary function for direction cosine mu."""
    z2 = max(mu * mu, f4(1e-12))
    return HALF * (math.sqrt(ONE + a * a * (ONE - z2) / z2) - ONE)


@jit
def sample_visible_normal(a, wo, u1, u2):
    """Return a normal visible from wo (Dupuy and Benyoub 2023, Sampling visible GGX normals with spherical caps)."""
    v = unit((wo[0] * a, wo[1] * a, wo[2]))
    phi = TWO_PI * u1
    z = (ONE - u2) * (ONE + v[2]) - v[2]
    s = math.sqrt(max(ONE - z * z, ZERO))
    h = (s * math.cos(phi) + v[0], s * math.sin(phi) + v[1], z + v[2])
    return unit((h[0] * a, h[1] * a, max(h[2], f4(1e-7))))
