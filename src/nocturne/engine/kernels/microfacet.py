"""Fresnel equations and the GGX distribution.

Names: c cosine, eta relative index (transmitted / incident), n k complex index, x y GGX alpha along and across the
stretched direction, h half vector, wo wi directions away from the surface in the local frame (z is the normal).
"""

import math

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import FOUR, HALF, ONE, PI, TINY, TWO, TWO_PI, ZERO, unit

F4_7 = f4(1.0 / 7.0)
LEAST_ALPHA = f4(1e-3)


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
def ggx_widths(rough, stretch):
    """Return alpha along and across the stretched direction of a roughness (OpenPBR 1.1)."""
    a = rough * rough
    if stretch <= ZERO:
        return a, a
    left = ONE - stretch
    along = a * math.sqrt(TWO / (ONE + left * left))
    return max(along, LEAST_ALPHA), max(left * along, LEAST_ALPHA)


@jit
def ggx_density(x, y, h):
    """Return D(h) (Heitz 2014, Understanding the masking-shadowing function, eq. 85)."""
    a = h[0] / x
    b = h[1] / y
    d = a * a + b * b + h[2] * h[2]
    return ONE / max(PI * x * y * d * d, TINY)


@jit
def ggx_lambda(x, y, w):
    """Return Smith's auxiliary function for direction w (Heitz 2014, eq. 72 with its section 5.4)."""
    a = x * w[0]
    b = y * w[1]
    return HALF * (math.sqrt(ONE + (a * a + b * b) / max(w[2] * w[2], f4(1e-12))) - ONE)


@jit
def sample_visible_normal(x, y, wo, u1, u2):
    """Return a normal visible from wo (Dupuy and Benyoub 2023, Sampling visible GGX normals with spherical caps)."""
    v = unit((wo[0] * x, wo[1] * y, wo[2]))
    phi = TWO_PI * u1
    z = (ONE - u2) * (ONE + v[2]) - v[2]
    s = math.sqrt(max(ONE - z * z, ZERO))
    h = (s * math.cos(phi) + v[0], s * math.sin(phi) + v[1], z + v[2])
    return unit((h[0] * x, h[1] * y, max(h[2], f4(1e-7))))
