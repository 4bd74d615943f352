"""Directional albedos of microfacet lobes, from the tables of `nocturne.engine.albedo`."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped, mixed

TWO_THIRDS = f4(2.0 / 3.0)


@jit
def table_metal(S, roughness, mu):
    """Return the directional albedo of a GGX metal with F = 1."""
    x = clamped(roughness, ZERO, ONE) * f4(63)
    y = math.sqrt(clamped(mu, ZERO, ONE)) * f4(63)
    i = min(i4(x), i4(62))
    j = min(i4(y), i4(62))
    fx = x - f4(i)
    fy = y - f4(j)
    E = T.tab_metal(S)
    a = mixed(f4(E[i, j]), f4(E[i, j + 1]), fy)
    b = mixed(f4(E[i + 1, j]), f4(E[i + 1, j + 1]), fy)
    return mixed(a, b, fx)


@jit
def table_glass(S, eta, roughness, mu):
    """Return (reflected and transmitted, reflected) directional albedo of a rough dielectric boundary."""
    r = clamped((eta - ONE) / (eta + ONE), f4(-0.5), f4(0.5))
    x = math.sqrt(abs(r) * TWO) * f4(16)
    x = f4(16) + (x if r >= ZERO else -x)
    y = clamped(roughness, ZERO, ONE) * f4(31)
    z = math.sqrt(clamped(mu, ZERO, ONE)) * f4(31)
    i = min(i4(x), i4(31))
    j = min(i4(y), i4(30))
    k = min(i4(z), i4(30))
    fx = x - f4(i)
    fy = y - f4(j)
    fz = z - f4(k)
    E = T.tab_glass(S)
    whole = ZERO
    reflected = ZERO
    for a in range(2):
        wx = fx if a == 1 else ONE - fx
        for b in range(2):
            wy = fy if b == 1 else ONE - fy
            w0 = wx * wy * (ONE - fz)
            w1 = wx * wy * fz
            whole += w0 * f4(E[i + a, j + b, k, 0]) + w1 * f4(E[i + a, j + b, k + 1, 0])
            reflected += w0 * f4(E[i + a, j + b, k, 1]) + w1 * f4(E[i + a, j + b, k + 1, 1])
    return whole, reflected


@jit
def table_brushed(S, roughness, stretch, across, mu):
    """Return the directional albedo of uneven facets with F = 1; across: sine of the view's turn from the stretch."""
    least = ONE - clamped(stretch, ZERO, ONE)  # alpha across the stretched direction, over that along it
    square = min(across * across, ONE)
    seen = math.sqrt((ONE - square) + least * least * square)
    x = clamped(roughness, ZERO, ONE) * f4(31)
    y = (ONE - math.sqrt(least)) * f4(21)
    z = math.sqrt(clamped((seen - least) / max(ONE - least, f4(1e-6)), ZERO, ONE)) * f4(15)
    w = math.sqrt(clamped(mu, ZERO, ONE)) * f4(31)
    i = min(i4(x), i4(30))
    j = min(i4(y), i4(20))
    k = min(i4(z), i4(14))
    m = min(i4(w), i4(30))
    x -= f4(i)
    y -= f4(j)
    z -= f4(k)
    w -= f4(m)
    E = T.tab_brushed(S)
    whole = ZERO
    for a in range(2):
        for b in range(2):
            for c in range(2):
                share = (x if a == 1 else ONE - x) * (y if b == 1 else ONE - y) * (z if c == 1 else ONE - z)
                whole += share * mixed(f4(E[i + a, j + b, k + c, m]), f4(E[i + a, j + b, k + c, m + 1]), w)
    return whole * table_metal(S, roughness, mu)


@jit
def table_fuzz(S, roughness, mu):
    """Return the fuzz lobe's transform, a and b, and the share of light that it scatters."""
    x = clamped(roughness, ZERO, ONE) * f4(23)
    y = clamped(mu, ZERO, ONE) ** TWO_THIRDS * f4(23)
    i = min(i4(x), i4(22))
    j = min(i4(y), i4(22))
    x -= f4(i)
    y -= f4(j)
    E = T.tab_fuzz(S)
    p = (ONE - x) * (ONE - y)
    q = (ONE - x) * y
    r = x * (ONE - y)
    s = x * y
    return (
        p * f4(E[i, j, 0]) + q * f4(E[i, j + 1, 0]) + r * f4(E[i + 1, j, 0]) + s * f4(E[i + 1, j + 1, 0]),
        p * f4(E[i, j, 1]) + q * f4(E[i, j + 1, 1]) + r * f4(E[i + 1, j, 1]) + s * f4(E[i + 1, j + 1, 1]),
        p * f4(E[i, j, 2]) + q * f4(E[i, j + 1, 2]) + r * f4(E[i + 1, j, 2]) + s * f4(E[i + 1, j + 1, 2]),
    )
