"""Rays and what they hit. W work row, I unsigned, wp its address, S scene table, o d ray, at a ray record's place."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.spot import face_viewer, fill_spot
from nocturne.engine.kernels.vectors import (
    ZERO,
    along,
    dot,
    load,
    negated,
    store,
    transform_normal,
    unit,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import masks as Masks
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
    I[Scratch.MESH] = u4(mesh)
    I[Scratch.MATERIAL] = u4(T.inst_i(S)[inst, Instance.MATERIAL])
    I[Scratch.LIGHT] = u4(T.inst_i(S)[inst, Instance.LIGHT])
    I[Scratch.OBJECT] = u4(T.inst_i(S)[inst, Instance.OBJECT])
    g = unit(transform_normal(T.inst_nm(S), inst, load(W, Scratch.RAY + Ray.NORMAL)))
    if mesh >= 0:
        u = f4(W[Scratch.RAY + Ray.U])
        v = f4(W[Scratch.RAY + Ray.V])
        fill_spot(S, W, I, Scratch.SPOT, inst, mesh, prim, u, v, width)
    else:
        store(W, Scratch.P, along(d, f4(W[Scratch.RAY + Ray.FAR]), o))
        I[Scratch.INST] = u4(inst)
        store(W, Scratch.N, g)
    I[Scratch.INSIDE] = u4(1) if dot(g, d) > ZERO else u4(0)
    face_viewer(W, Scratch.SPOT, g, negated(d))


@inlined
def is_lamp(S, I):
    """Return True if what was hit is a lamp's own shape."""
    inst = i4(I[Scratch.INST])
    return T.inst_i(S)[inst, Instance.MESH] < 0 or T.inst_i(S)[inst, Instance.MATERIAL] < 0
