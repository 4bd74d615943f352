"""Glowing meshes, sampled evenly over their area. Names as in choose.py; wi direction to the light."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, row_f4, row_u4, u4
from nocturne.engine.kernels.lobes.undercoat import glow_through
from nocturne.engine.kernels.patterns.drive import read_emission, read_material
from nocturne.engine.kernels.patterns.layers import layer_chance, shown_below
from nocturne.engine.kernels.spot import face_viewer, fill_spot
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    ZERO,
    along,
    cross,
    dot,
    length,
    load,
    multiplied,
    negated,
    row_at,
    scaled,
    search,
    subtracted,
    unit,
)
from nocturne.engine.layout import glow as Glow
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import light as Light
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import scratch as Scratch


@inlined
def density(S, l, P, wi, distance, prim):
    """Return the density over solid angle of sampling the point of triangle `prim` at `distance` from P along wi."""
    i = T.light_i(S)[l, Light.FIRST] + prim
    C = T.mesh_light_cdf(S)
    before = ZERO if prim == 0 else f4(C[i - 1])
    M = T.mesh_light_f(S)
    n = unit(cross(row_at(M, i, Glow.EDGE_1), row_at(M, i, Glow.EDGE_2)))
    c = abs(dot(n, wi))
    return (f4(C[i]) - before) * distance * distance / max(c * f4(M[i, Glow.AREA]), TINY)


@inlined
def sample(S, wp, l, P, N, two_sided, pick, u, v):
    """Return (direction, distance, radiance, density, is delta) of a point of the light; density 0: none."""
    first = i4(T.light_i(S)[l, Light.FIRST])
    i = i4(search(T.mesh_light_cdf(S), first, T.light_i(S)[l, Light.TRIANGLES], pick))
    M = T.mesh_light_f(S)
    s = math.sqrt(u)
    b1 = s * (ONE - v)
    b2 = s * v
    e1 = row_at(M, i, Glow.EDGE_1)
    e2 = row_at(M, i, Glow.EDGE_2)
    to = subtracted(along(e2, b2, along(e1, b1, row_at(M, i, Glow.CORNER))), P)
    distance = length(to)
    wi = scaled(to, ONE / max(distance, TINY))
    out = scaled(cross(e1, e2), f4(M[i, Glow.SIDE]))
    if dot(out, wi) >= ZERO:
        return N, ZERO, row_at(T.light_f(S), l, Light.RGB), ZERO, False
    d = density(S, l, P, wi, distance, i - first)
    material = i4(T.inst_i(S)[T.light_i(S)[l, Light.INSTANCE], Instance.MATERIAL])
    mesh = T.mesh_light_i(S)[i, Glow.MESH]
    prim = T.mesh_light_i(S)[i, Glow.TRIANGLE] - T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE]
    W = row_f4(wp)
    I = row_u4(wp)
    is_layer = T.mat_i(S)[material, Mat.OVER] >= 0
    if T.mat_i(S)[material, Mat.GLOWS] > 0 or is_layer:
        inst = i4(T.light_i(S)[l, Light.INSTANCE])
        fill_spot(S, W, I, Scratch.ASIDE, inst, mesh, prim, b1, b2, ZERO)
        face_viewer(W, Scratch.ASIDE, unit(out), negated(wi))
    if is_layer:
        read_material(S, W, I, wp, material, Scratch.GLOW_MAT, Scratch.ASIDE)
        shown_below(S, W, I, wp, material, Scratch.GLOW_MAT, Scratch.ASIDE, layer_chance(I, u4(0x3C6EF372)))
    else:
        read_emission(S, W, I, wp, material, Scratch.GLOW_MAT, Scratch.ASIDE)
    e = load(W, Scratch.GLOW_MAT + Mat.EMISSION)
    if f4(W[Scratch.GLOW_MAT + Mat.COAT]) > ZERO:
        e = multiplied(e, glow_through(W, Scratch.GLOW_MAT, abs(dot(unit(out), wi))))
    return wi, distance, e, d, False
