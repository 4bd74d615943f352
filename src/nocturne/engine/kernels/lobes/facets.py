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

_STEP_1, _STEP_2 = f4(0.7548776662), f4(0.5698402910)


def _looks(around, rings):
    """Return a cap's points (cosine, sine, height, weight) over which an uneven boundary is taken, (n, 4) float32.

    Gauss and Legendre's heights, evenly spread around, each ring turned by the golden ratio: of the rules with as many
    points that were tried over 4,000 boundaries this one was nearest (of 99 in 100 off by less than 0.024 with 128
    points, 0.014 with 256; the even sequence of `spread_point` with 64 points: 0.065). From inside of glass, of 300
    boundaries the worst was off by 0.014 with 512 points, by 0.004 with 1,024 as they are taken there.
    """
    height, weight = np.polynomial.legendre.leggauss(rings)
    turn = (np.arange(around)[:, None] + (np.arange(rings) * 0.6180339887 + 0.5) % 1) / around * 2 * np.pi
    points = np.broadcast_arrays(np.cos(turn), np.sin(turn), (height + 1) / 2, weight / (2 * around))
    return np.stack(points, axis=-1).reshape(-1, 4).astype(np.float32)


LOOKS_COATED = _looks(4, 4)
_LOOKS = _looks(8, 16)
_LOOKS_INSIDE = _looks(32, 32)  # where light may be reflected totally, which ends all at once at some normals


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
def turned_to(x, y, wo):
    """Return (the view v as the facets' half sphere has it, the direction ahead that its points are turned to)."""
    v = unit((wo[0] * x, wo[1] * y, wo[2]))
    flat = math.sqrt(v[0] * v[0] + v[1] * v[1])
    ahead = (v[0] / flat, v[1] / flat) if flat > f4(1e-6) else (ONE, ZERO)
    return v, ahead


@jit
def seen_normal(x, y, v, ahead, p, q, height):
    """Return a visible normal as of `sample_visible_normal`, but from a point of `_looks`, turned to the view."""
    z = (ONE - height) * (ONE + v[2]) - v[2]
    s = math.sqrt(max(ONE - z * z, ZERO))
    a = s * (p * ahead[0] - q * ahead[1]) + v[0]
    b = s * (p * ahead[1] + q * ahead[0]) + v[1]
    return unit((a * x, b * y, max(z + v[2], f4(1e-7))))


@jit
def uneven_boundary(x, y, eta, wo, reflecting):
    """Return (all that an uneven rough dielectric returns, what of it is reflected), over the normals that wo sees.

    reflecting: the directional albedo of the same facets with F = 1, from the table; it corrects what they reflect.
    """
    lo = ggx_lambda(x, y, wo)
    v, ahead = turned_to(x, y, wo)
    every = ZERO
    part = ZERO
    through = ZERO
    looks = _LOOKS if eta >= ONE else _LOOKS_INSIDE
    for i in range(looks.shape[0]):
        weight = looks[i, 3]
        h = seen_normal(x, y, v, ahead, looks[i, 0], looks[i, 1], looks[i, 2])
        c = clamped(dot(wo, h), f4(1e-6), ONE)
        f = fresnel_dielectric(c, eta)
        out = weight * shares_out(x, y, wo, h, c, lo)
        every += out
        part += f * out
        through += weight * (ONE - f) * shares_through(x, y, wo, h, c, lo, eta)
    part *= reflecting / max(every, TINY)
    return part + through, part
