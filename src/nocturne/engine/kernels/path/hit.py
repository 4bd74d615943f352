"""Rays and what they hit. W work row, I unsigned, wp its address, S scene table, o d ray, at a ray record's place."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.carried import more_at
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    ZERO,
    added,
    along,
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
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import masks as Masks
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch

NONE = u4(Ray.NOTHING)
CAMERA_RAYS, INDIRECT_RAYS = u4(Masks.CAMERA_RAYS), u4(Masks.INDIRECT_RAYS)
SHADOW_RAYS, CLEAR_SHADOW_RAYS = u4(Masks.SHADOW_RAYS), u4(Masks.CLEAR_SHADOW_RAYS)


@jit
def set_ray(W, I, at, o, d, far, mask):
    store(W, at + Ray.ORIGIN, o)
    W[at + Ray.NEAR] = ZERO
    store(W, at + Ray.DIRECTION, d)
    W[at + Ray.TIME] = ZERO
    W[at + Ray.FAR] = far
    I[at + Ray.MASK] = mask
    I[at + Ray.ID] = u4(0)
    I[at + Ray.FLAGS] = u4(0)
    I[at + Ray.GEOMETRY] = NONE
    I[at + Ray.INSTANCE] = NONE


@inlined
def find_hit(S, W, I, wp, o, d, far, mask):
    set_ray(W, I, Scratch.RAY, o, d, far, mask)
    units.intersect(T.top(S)[0], wp, 0)
    I[Scratch.COUNTERS] = u4(I[Scratch.COUNTERS] + u4(1))
    return I[Scratch.RAY + Ray.GEOMETRY] != NONE


@jit
def error_of(p):
    """Return a distance safely above the rounding error of a hit at p: ten micrometres near the origin."""
    return f4(1e-5) + f4(1.2e-6) * max(abs(p[0]), max(abs(p[1]), abs(p[2])))


@jit
def pushed(W, p, d):
    """Return p moved off its surface to the side of d."""
    g = load(W, Scratch.G)
    e = error_of(p)
    if dot(g, d) < ZERO:
        e = -e
    return along(g, e, p)


@inlined
def read_surface(S, W, I, o, d, width):
    """Fill the hit record: position, normals, tangent direction, texture coordinates and what was hit.

    width: of the ray where it hits, metres.
    """
    inst = i4(I[Scratch.RAY + Ray.INSTANCE])
    prim = i4(I[Scratch.RAY + Ray.PRIMITIVE])
    mesh = T.inst_i(S)[inst, Instance.MESH]
    I[Scratch.INST] = u4(inst)
    I[Scratch.MESH] = u4(mesh)
    I[Scratch.MATERIAL] = u4(T.inst_i(S)[inst, Instance.MATERIAL])
    I[Scratch.LIGHT] = u4(T.inst_i(S)[inst, Instance.LIGHT])
    I[Scratch.OBJECT] = u4(T.inst_i(S)[inst, Instance.OBJECT])
    g = unit(transform_normal(T.inst_nm(S), inst, load(W, Scratch.RAY + Ray.NORMAL)))
    n = g
    p = along(d, f4(W[Scratch.RAY + Ray.FAR]), o)
    W[Scratch.UV] = ZERO
    W[Scratch.UV + 1] = ZERO
    W[Scratch.UV_SIZE] = ZERO
    W[Scratch.UV_2] = ZERO
    W[Scratch.UV_2 + 1] = ZERO
    W[Scratch.UV_2_SIZE] = ZERO
    store(W, Scratch.COLOUR, (ONE, ONE, ONE))
    if mesh >= 0:
        t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
        first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
        a = i4(first + T.tris(S)[t, 0])
        b = i4(first + T.tris(S)[t, 1])
        c = i4(first + T.tris(S)[t, 2])
        u = f4(W[Scratch.RAY + Ray.U])
        v = f4(W[Scratch.RAY + Ray.V])
        w = ONE - u - v
        C = T.corners(S)
        X = T.inst_xf(S)
        pa = row_at(C, a, Corner.POSITION)
        pb = row_at(C, b, Corner.POSITION)
        pc = row_at(C, c, Corner.POSITION)
        p = transform_point(X, inst, added(added(scaled(pa, w), scaled(pb, u)), scaled(pc, v)))
        na = row_at(C, a, Corner.NORMAL)
        nb = row_at(C, b, Corner.NORMAL)
        nc = row_at(C, c, Corner.NORMAL)
        n = unit(transform_normal(T.inst_nm(S), inst, added(added(scaled(na, w), scaled(nb, u)), scaled(nc, v))))
        ua = f4(C[a, Corner.U])
        va = f4(C[a, Corner.V])
        du1 = f4(C[b, Corner.U]) - ua
        dv1 = f4(C[b, Corner.V]) - va
        du2 = f4(C[c, Corner.U]) - ua
        dv2 = f4(C[c, Corner.V]) - va
        W[Scratch.UV] = ua + u * du1 + v * du2
        W[Scratch.UV + 1] = va + u * dv1 + v * dv2
        e1 = transform_vector(X, inst, subtracted(pb, pa))
        e2 = transform_vector(X, inst, subtracted(pc, pa))
        k = du1 * dv2 - du2 * dv1
        per_area = width / math.sqrt(max(length(cross(e1, e2)), TINY))
        W[Scratch.UV_SIZE] = per_area * math.sqrt(abs(k))
        tu, tv = f4(W[Scratch.UV]), f4(W[Scratch.UV + 1])
        more = more_at(S, mesh, a, b, c, w, u, v, tu, tv, f4(W[Scratch.UV_SIZE]), per_area)
        W[Scratch.UV_2] = more[0]
        W[Scratch.UV_2 + 1] = more[1]
        W[Scratch.UV_2_SIZE] = more[2]
        store(W, Scratch.COLOUR, (more[3], more[4], more[5]))
        # Direction of growing u, for normal maps; only its direction matters.
        s = ONE if k >= ZERO else -ONE
        store(W, Scratch.DPDU, subtracted(scaled(e1, dv2 * s), scaled(e2, dv1 * s)))
    I[Scratch.INSIDE] = u4(0)
    if dot(g, d) > ZERO:
        g = negated(g)
        I[Scratch.INSIDE] = u4(1)
    if dot(n, g) < ZERO:
        n = negated(n)
    store(W, Scratch.P, p)
    store(W, Scratch.G, g)
    store(W, Scratch.N, n)
    store(W, Scratch.WO, negated(d))


@inlined
def is_lamp(S, I):
    """Return True if what was hit is a lamp's own shape."""
    inst = i4(I[Scratch.INST])
    return T.inst_i(S)[inst, Instance.MESH] < 0 or T.inst_i(S)[inst, Instance.MATERIAL] < 0
