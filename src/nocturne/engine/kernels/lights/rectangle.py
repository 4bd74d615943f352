"""Rectangles that shine to one side, sampled evenly over the solid angle they fill.

Ureña, Fajardo and King 2013, An area-preserving parametrization for spherical rectangles. Names as in choose.py; wi
direction to the light.
"""

import math

import numpy as np

from nocturne.engine.emitters import Near
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, inlined
from nocturne.engine.kernels.vectors import (
    ONE,
    PI,
    TINY,
    TWO,
    ZERO,
    added,
    along,
    clamped,
    cross,
    dot,
    length,
    row_at,
    scaled,
    subtracted,
)
from nocturne.engine.layout import light as Light
from nocturne.engine.lighttree import Emitter
from nocturne.scene.lights.rect import Rect
from nocturne.scene.shapes import rotation, transform

SMALL_SOLID_ANGLE = f4(2e-3)


@inlined
def seen_from(S, l, P):
    """Return what sampling light l from P needs: axes, near corner, far corner, edge normals' z, solid angle."""
    F = T.light_f(S)
    hx = row_at(F, l, Light.X)
    hy = row_at(F, l, Light.Y)
    lx = length(hx)
    ly = length(hy)
    x = scaled(hx, ONE / lx)
    y = scaled(hy, ONE / ly)
    d = subtracted(row_at(F, l, Light.POS), P)
    z = cross(x, y)
    z0 = dot(d, z)
    if z0 > ZERO:
        z = (-z[0], -z[1], -z[2])
        z0 = -z0
    cx = dot(d, x)
    cy = dot(d, y)
    x0 = cx - lx
    x1 = cx + lx
    y0 = cy - ly
    y1 = cy + ly
    z2 = z0 * z0
    n0 = -y0 / math.sqrt(max(z2 + y0 * y0, TINY))
    n1 = x1 / math.sqrt(max(z2 + x1 * x1, TINY))
    n2 = y1 / math.sqrt(max(z2 + y1 * y1, TINY))
    n3 = -x0 / math.sqrt(max(z2 + x0 * x0, TINY))
    # Vertices' directions: z components of the edge normals give the inner angles.
    n0z = n0
    n1z = n1
    n2z = n2
    n3z = n3
    g0 = math.acos(clamped(-n0z * n1z, -ONE, ONE))
    g1 = math.acos(clamped(-n1z * n2z, -ONE, ONE))
    g2 = math.acos(clamped(-n2z * n3z, -ONE, ONE))
    g3 = math.acos(clamped(-n3z * n0z, -ONE, ONE))
    k = TWO * PI - g2 - g3
    solid = g0 + g1 - k
    return x, y, z, x0, x1, y0, y1, z0, n0z, n2z, k, solid


@inlined
def density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling rectangle l from P towards a point at `distance` along wi."""
    solid = seen_from(S, l, P)[11]
    if solid > SMALL_SOLID_ANGLE:
        return ONE / solid
    c = abs(dot(row_at(T.light_f(S), l, Light.N), wi))
    return distance * distance / max(c * f4(T.light_f(S)[l, Light.AREA]), TINY)


@inlined
def point_on(S, l, P, u, v):
    """Return (direction, distance, density) towards rectangle l."""
    x, y, z, x0, x1, y0, y1, z0, b0, b1, k, solid = seen_from(S, l, P)
    F = T.light_f(S)
    if solid <= SMALL_SOLID_ANGLE:
        p = along(row_at(F, l, Light.X), TWO * u - ONE, row_at(F, l, Light.POS))
        to = subtracted(along(row_at(F, l, Light.Y), TWO * v - ONE, p), P)
        d = length(to)
        wi = scaled(to, ONE / max(d, TINY))
        c = abs(dot(row_at(F, l, Light.N), wi))
        return wi, d, d * d / max(c * f4(F[l, Light.AREA]), TINY)
    au = u * solid + k
    fu = (math.cos(au) * b0 - b1) / math.sin(au)
    cu = ONE / math.sqrt(fu * fu + b0 * b0)
    if fu < ZERO:
        cu = -cu
    cu = clamped(cu, -ONE, ONE)
    xu = clamped(-(cu * z0) / max(math.sqrt(ONE - cu * cu), f4(1e-6)), x0, x1)
    d2 = xu * xu + z0 * z0
    h0 = y0 / math.sqrt(d2 + y0 * y0)
    h1 = y1 / math.sqrt(d2 + y1 * y1)
    hv = h0 + v * (h1 - h0)
    hv2 = hv * hv
    yv = y1
    if hv2 < f4(1.0 - 1e-6):
        yv = hv * math.sqrt(d2) / math.sqrt(ONE - hv2)
    to = added(added(scaled(x, xu), scaled(y, yv)), scaled(z, z0))
    d = length(to)
    return scaled(to, ONE / max(d, TINY)), d, ONE / solid


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    n = row_at(T.light_f(S), l, Light.N)
    rgb = row_at(T.light_f(S), l, Light.RGB)
    if dot(n, subtracted(P, row_at(T.light_f(S), l, Light.POS))) <= ZERO:
        return N, ZERO, rgb, ZERO, False
    wi, distance, d = point_on(S, l, P, u, v)
    if dot(n, wi) >= ZERO:
        return N, ZERO, rgb, ZERO, False
    return wi, distance, rgb, d, False


def near(light: Rect) -> Near:
    """Return what the engine needs of an area light."""
    turn, at = rotation(light.turn_deg), np.array(light.place, float)
    x, y, down = turn[:, 0] * light.width / 2, turn[:, 1] * light.height / 2, -turn[:, 2]
    corners = np.array([at + a * x + b * y for a in (-1, 1) for b in (-1, 1)])
    nit = light.strength()
    return Near(
        Light.RECT,
        {"POS": at, "X": x, "Y": y, "N": down, "AREA": light.area},
        nit,
        Emitter(corners.min(0), corners.max(0), down, 0.0, math.pi / 2, math.pi * nit * light.area),
        "rect",
        transform(light.place, light.turn_deg, (light.width / 2, light.height / 2, 1.0)),
    )
