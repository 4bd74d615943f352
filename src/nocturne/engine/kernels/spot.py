"""Filling in a place on a mesh that patterns may be asked at. S scene table, W work row, I unsigned, at the record."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.carried import more_at
from nocturne.engine.kernels.jit import f4, i4, inlined, u4
from nocturne.engine.kernels.vectors import (
    BIG,
    ONE,
    TINY,
    ZERO,
    added,
    cross,
    dot,
    length,
    load,
    negated,
    row_at,
    scaled,
    store,
    subtracted,
    transform_normal,
    transform_point,
    transform_vector,
    unit,
)
from nocturne.engine.layout import corner as Corner
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import spot as Spot


@inlined
def face_viewer(W, at, g, wo):
    """Say who looks at a place, and turn its normals to that side; g: the geometric normal, wo: to the viewer."""
    if dot(g, wo) < ZERO:
        g = negated(g)
    n = load(W, at + Spot.N)
    if dot(n, g) < ZERO:
        n = negated(n)
    store(W, at + Spot.G, g)
    store(W, at + Spot.N, n)
    store(W, at + Spot.WO, wo)


@inlined
def fill_spot(S, W, I, at, inst, mesh, prim, u, v, width):
    """Fill in the place at barycentric (u, v) of a triangle of a placed mesh; they may lie outside of it.

    Left to the caller are the geometric normal and the viewer, and to turn the normal to the viewer's side.
    width: of what looks, metres.
    """
    t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
    first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
    a = i4(first + T.tris(S)[t, 0])
    b = i4(first + T.tris(S)[t, 1])
    c = i4(first + T.tris(S)[t, 2])
    w = ONE - u - v
    C = T.corners(S)
    X = T.inst_xf(S)
    pa = row_at(C, a, Corner.POSITION)
    pb = row_at(C, b, Corner.POSITION)
    pc = row_at(C, c, Corner.POSITION)
    store(W, at + Spot.P, transform_point(X, inst, added(added(scaled(pa, w), scaled(pb, u)), scaled(pc, v))))
    na = row_at(C, a, Corner.NORMAL)
    nb = row_at(C, b, Corner.NORMAL)
    nc = row_at(C, c, Corner.NORMAL)
    n = added(added(scaled(na, w), scaled(nb, u)), scaled(nc, v))
    store(W, at + Spot.N, unit(transform_normal(T.inst_nm(S), inst, n)))
    ua = f4(C[a, Corner.U])
    va = f4(C[a, Corner.V])
    du1 = f4(C[b, Corner.U]) - ua
    dv1 = f4(C[b, Corner.V]) - va
    du2 = f4(C[c, Corner.U]) - ua
    dv2 = f4(C[c, Corner.V]) - va
    tu = ua + u * du1 + v * du2
    tv = va + u * dv1 + v * dv2
    W[at + Spot.UV] = tu
    W[at + Spot.UV + 1] = tv
    rest = T.mesh_i(S)[mesh, Mesh.FIRST_REST]
    if rest >= 0:
        R = T.rest(S)
        pa = row_at(R, i4(rest + T.tris(S)[t, 0]), 0)
        pb = row_at(R, i4(rest + T.tris(S)[t, 1]), 0)
        pc = row_at(R, i4(rest + T.tris(S)[t, 2]), 0)
    store(W, at + Spot.REST, transform_point(X, inst, added(added(scaled(pa, w), scaled(pb, u)), scaled(pc, v))))
    e1 = transform_vector(X, inst, subtracted(pb, pa))
    e2 = transform_vector(X, inst, subtracted(pc, pa))
    k = du1 * dv2 - du2 * dv1
    per_area = width / math.sqrt(max(length(cross(e1, e2)), TINY))
    size = per_area * math.sqrt(abs(k))
    W[at + Spot.UV_SIZE] = size
    W[at + Spot.BARE] = f4(T.mesh_i(S)[mesh, Mesh.IS_BARE])
    more = more_at(S, mesh, a, b, c, w, u, v, tu, tv, size, per_area)
    W[at + Spot.UV_2] = more[0]
    W[at + Spot.UV_2 + 1] = more[1]
    W[at + Spot.UV_2_SIZE] = more[2]
    store(W, at + Spot.COLOUR, (more[3], more[4], more[5]))
    W[at + Spot.REACH] = width
    W[at + Spot.MOST] = BIG
    I[at + Spot.INST] = u4(inst)
    I[at + Spot.PRIM] = u4(prim)
    # Direction of growing u, for normal maps; only its direction matters.
    s = ONE if k >= ZERO else -ONE
    store(W, at + Spot.DPDU, subtracted(scaled(e1, dv2 * s), scaled(e2, dv1 * s)))
