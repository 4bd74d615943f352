"""Facets that reflect, and what share of light a boundary of them returns.

Names: x y GGX alpha along and across the stretched direction, c cosine of the half vector h, lo Smith's auxiliary
function of wo; others as in surface.py.
"""

import math

import numpy as np

from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.microfacet import fresnel_dielectric, ggx_density, ggx_lambda, sample_visible_normal
from nocturne.engine.kernels.vectors import (
    FOUR,
    HALF,
    ONE,
    TINY,
    TWO,
    ZERO,
    added,
    clamped,
    dot,
    scaled,
    subtracted,
    unit,
)

UNEVEN_LOOKS = 64  # visible normals over which an uneven boundary is taken
_STEP_1, _STEP_2 = f4(0.7548776662), f4(0.5698402910)


@jit
def mirrored(x, y, wo, wi):
    """Return (value times cosine over reflectance, density, half-vector cosine) of two directions on one side."""
    h = unit(added(wo, wi))
    c = clamped(dot(wo, h), f4(1e-6), ONE)
    d = ggx_density(x, y, h)
    lo = ggx_lambda(x, y, wo)
    over = FOUR * wo[2]
    return d / ((ONE + lo + ggx_lambda(x, y, wi)) * over), d / ((ONE + lo) * over), c


@jit
def sample_mirrored(x, y, wo, u1, u2):
    """Return a direction that the facets reflect wo to."""
    h = sample_visible_normal(x, y, wo, u1, u2)
    return subtracted(scaled(h, TWO * dot(wo, h)), wo)


@jit
def spread_point(i):
    """Return the i-th of a sequence of evenly spread points in the unit square (Roberts 2018, as in albedo.py)."""
    u1 = HALF + f4(i + 1) * _STEP_1
    u2 = HALF + f4(i + 1) * _STEP_2
    return u1 - np.floor(u1), u2 - np.floor(u2)


@jit
def shares_out(x, y, wo, h, c, lo):
    """Return what of the light that facet h reflects gets out between the others."""
    wi = subtracted(scaled(h, TWO * c), wo)
    if wi[2] <= ZERO:
        return ZERO
    return (ONE + lo) / (ONE + lo + ggx_lambda(x, y, wi))


@jit
def shares_through(x, y, wo, h, c, lo, eta):
    """Return what of the light that facet h refracts gets through between the others."""
    inv = ONE / eta
    s2 = inv * inv * (ONE - c * c)
    if s2 >= ONE:
        return ZERO
    wi = subtracted(scaled(h, inv * c - math.sqrt(ONE - s2)), scaled(wo, inv))
    if wi[2] >= ZERO:
        return ZERO
    return (ONE + lo) / (ONE + lo + ggx_lambda(x, y, wi))


@jit
def uneven_boundary(x, y, eta, wo, reflecting):
    """Return (all that an uneven rough dielectric returns, what of it is reflected), over the normals that wo sees.

    reflecting: the directional albedo of the same facets with F = 1, from the table; it corrects what they reflect.
    """
    lo = ggx_lambda(x, y, wo)
    every = ZERO
    part = ZERO
    through = ZERO
    for i in range(UNEVEN_LOOKS):
        u1, u2 = spread_point(i)
        h = sample_visible_normal(x, y, wo, u1, u2)
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        f = fresnel_dielectric(c, eta)
        out = shares_out(x, y, wo, h, c, lo)
        every += out
        part += f * out
        through += (ONE - f) * shares_through(x, y, wo, h, c, lo, eta)
    part *= reflecting / max(every, TINY)
    through *= f4(1 / UNEVEN_LOOKS)
    return part + through, part
