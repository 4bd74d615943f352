"""Directional albedos of microfacet lobes, from the tables of `nocturne.engine.albedo`."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped, mixed


@jit
def table_metal(S, roughness, mu):
    """Return the directional albedo of a GGX metal with F = 1."""
    x = clamped(roughness, ZERO, ONE) * f4(31)
    y = math.sqrt(clamped(mu, ZERO, ONE)) * f4(31)
    i = min(i4(x), i4(30))
    j = min(i4(y), i4(30))
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
