"""Relief: the shading normal as heights bend it that patterns work out (Blinn 1978, Simulation of wrinkled surfaces).

S scene table, W work row, I unsigned, wp its address.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, jit
from nocturne.engine.kernels.patterns.drive import run_steps
from nocturne.engine.kernels.spot import face_viewer, fill_spot
from nocturne.engine.kernels.vectors import (
    BIG,
    ONE,
    TINY,
    ZERO,
    along,
    clamped,
    cross,
    dot,
    frame,
    load,
    negated,
    row_at,
    store,
    subtracted,
    transform_vector,
    unit,
)
from nocturne.engine.layout import corner as Corner
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as Spot

M = Scratch.MAT
PART = f4(0.7)  # of what the ray reaches
LEAST, PER_METRE = f4(1e-5), f4(2e-5)  # finer than that a place is not known


@inlined
def height_at(S, W, I, wp, at, first, n, column, begins, depth):
    """Return the height at a place, metres: what n steps make of a column of the material's row, times the depth."""
    W[M + column] = begins
    run_steps(S, I, wp, first, n, M, at)
    return clamped(f4(W[M + column]), -BIG, BIG) * depth


@inlined
def raise_relief(S, W, I, wp):
    """Bend the shading normal at the hit by the slope of its material's height."""
    m = i4(I[Scratch.MATERIAL])
    n = T.mat_i(S)[m, Mat.HEIGHTS]
    last = T.mat_i(S)[m, Mat.FIRST_BINDING] + T.mat_i(S)[m, Mat.BINDINGS]
    raise_by(S, W, I, wp, last - n, n, Mat.HEIGHT, ZERO, f4(W[M + Mat.RELIEF]))


@jit
def raise_by(S, W, I, wp, first_step, n_steps, column, begins, depth):
    """Bend the shading normal at the hit by the slope of a height that steps make, found by looking a little aside.

    column: of the material's row, which they change from `begins`; depth: how far 1 lies over 0, metres.
    """
    inst = i4(I[Scratch.INST])
    mesh = i4(I[Scratch.MESH])
    prim = i4(I[Scratch.PRIM])
    t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + prim
    first = T.mesh_i(S)[mesh, Mesh.FIRST_VERTEX]
    X = T.inst_xf(S)
    g = load(W, Scratch.G)
    rest = T.mesh_i(S)[mesh, Mesh.FIRST_REST]
    if rest >= 0:
        # Of the surface before it was moved: its normals are those, and all of the relief bends them.
        R = T.rest(S)
        pa = row_at(R, i4(rest + T.tris(S)[t, 0]), 0)
        pb = row_at(R, i4(rest + T.tris(S)[t, 1]), 0)
        pc = row_at(R, i4(rest + T.tris(S)[t, 2]), 0)
    else:
        C = T.corners(S)
        pa = row_at(C, i4(first + T.tris(S)[t, 0]), Corner.POSITION)
        pb = row_at(C, i4(first + T.tris(S)[t, 1]), Corner.POSITION)
        pc = row_at(C, i4(first + T.tris(S)[t, 2]), Corner.POSITION)
    e1 = transform_vector(X, inst, subtracted(pb, pa))
    e2 = transform_vector(X, inst, subtracted(pc, pa))
    a = dot(e1, e1)
    b = dot(e1, e2)
    c = dot(e2, e2)
    whole = a * c - b * b
    if whole <= TINY:
        return
    if rest >= 0:
        was = unit(cross(e1, e2))
        g = was if dot(was, load(W, Scratch.N)) > ZERO else negated(was)
    wo = load(W, Scratch.WO)
    p = load(W, Scratch.P)
    reach = f4(W[Scratch.REACH])
    step = max(PART * reach, LEAST + PER_METRE * max(abs(p[0]), max(abs(p[1]), abs(p[2]))))
    here = height_at(S, W, I, wp, Scratch.SPOT, first_step, n_steps, column, begins, depth)
    n = load(W, Scratch.N)
    side = ONE if I[Scratch.INSIDE] == 0 else -ONE
    tangents = frame(g)
    for k in range(2):
        way = tangents[0] if k == 0 else tangents[1]
        x = dot(way, e1)
        y = dot(way, e2)
        u = f4(W[Scratch.RAY + Ray.U]) + step * (c * x - b * y) / whole
        v = f4(W[Scratch.RAY + Ray.V]) + step * (a * y - b * x) / whole
        fill_spot(S, W, I, Scratch.ASIDE, inst, mesh, prim, u, v, reach)
        face_viewer(W, Scratch.ASIDE, g, wo)
        W[Scratch.ASIDE + Spot.MOST] = W[Scratch.MOST]
        slope = (height_at(S, W, I, wp, Scratch.ASIDE, first_step, n_steps, column, begins, depth) - here) / step
        n = along(way, -side * slope, n)
    store(W, Scratch.N, unit(n))
