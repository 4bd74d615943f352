"""Hard edges shaded as if they were rounded: no geometry changes, and no ray is sent.

A fillet of radius r between two faces touches each where it is r tan(a / 2) from their edge, a being the angle between
the normals. A place nearer than that takes the fillet's normal as seen from its axis, which is the face's normal and
the way towards the other one, as far as the place lies beyond where the fillet begins. Where edges meet, each adds what
the others have not turned already: three at a box's corner give the normals of a ball.

W work row, I unsigned, S scene table.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    ZERO,
    added,
    along,
    clamped,
    dot,
    load,
    negated,
    row_at,
    scaled,
    store,
    subtracted,
    transform_normal,
    transform_point,
    unit,
)
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import rounded as Rounded
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as Spot

MOST_TANGENT = f4(4)


@jit
def round_edges(S, W, I, radius, most_cosine):
    """Bend the shading normal of the hit towards the faces beyond hard edges nearby.

    radius: of the fillet, metres; most_cosine: of the angle between normals from which on an edge is hard.
    """
    mesh = i4(I[Scratch.MESH])
    t = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + i4(I[Scratch.PRIM])
    count = T.round_i(S)[t, Rounded.COUNT]
    if count == 0:
        return
    inst = i4(I[Scratch.INST])
    first = T.round_i(S)[t, Rounded.FIRST]
    X = T.inst_xf(S)
    E = T.round_f(S)
    p = load(W, Scratch.SPOT + Spot.REST)  # edges are where they were before relief moved them
    n = load(W, Scratch.N)
    turn = (ZERO, ZERO, ZERO)
    for k in range(first, first + count):
        a = transform_point(X, inst, row_at(E, k, Rounded.START))
        way = subtracted(transform_point(X, inst, row_at(E, k, Rounded.END)), a)
        s = clamped(dot(subtracted(p, a), way) / max(dot(way, way), TINY), ZERO, ONE)
        off = subtracted(p, along(way, s, a))
        d = math.sqrt(dot(off, off))
        start = row_at(E, k, Rounded.NORMAL_START)
        end = row_at(E, k, Rounded.NORMAL_END)
        other = unit(transform_normal(T.inst_nm(S), inst, added(scaled(start, ONE - s), scaled(end, s))))
        if I[Scratch.INSIDE] != 0:
            other = negated(other)
        c = dot(n, other)
        if c > most_cosine or c < f4(-0.999):
            continue
        tangent = min(math.sqrt((ONE - c) / (ONE + c)), MOST_TANGENT)
        far = tangent - d / radius
        if far <= ZERO:
            continue
        towards = unit(subtracted(other, scaled(n, c)))
        more = far - dot(turn, towards)
        if more > ZERO:
            turn = along(towards, more, turn)
    store(W, Scratch.N, unit(added(n, turn)))


@jit
def round_hit(S, W, I):
    """Round the hit's normal as its material wants, if it does."""
    radius = f4(W[Scratch.MAT + Mat.ROUNDING])
    if radius > ZERO and i4(I[Scratch.MESH]) >= 0:
        round_edges(S, W, I, radius, f4(W[Scratch.MAT + Mat.ROUNDING_COSINE]))
