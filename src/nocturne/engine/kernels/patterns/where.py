"""Where and what: gradients, place, facing, and random numbers of things and copies. Names as in `steps`."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import hashed
from nocturne.engine.kernels.patterns.nearest import distance_to
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import (
    HALF,
    INV_PI,
    ONE,
    TWO,
    ZERO,
    clamped,
    dot,
    length,
    load,
    scaled,
    subtracted,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import mesh as Mesh
from nocturne.engine.layout import near as Near
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps

TINY = f4(1e-9)
PART = i4(7919)  # between the seeds of a mesh's parts
DEGREES = f4(180 / math.pi)


@jit
def share(low, high, x):
    """Return how far x is on the way from low to high, 0..1."""
    way = high - low
    if abs(way) < TINY:
        way = TINY
    return clamped((x - low) / way, ZERO, ONE)


@jit
def gradient(S, wp, at, b, F, q, size, under):
    """Return grey along a way, out from a middle, or around it."""
    p = scaled(q, ONE / max(f4(F[Steps.RAMPLR_LENGTH]), TINY))
    style = i4(F[Steps.RAMPLR_STYLE])
    if style == 0:
        return grey(clamped(p[0], ZERO, ONE))
    if style == 1:
        return grey(clamped(ONE - abs(TWO * p[0] - ONE), ZERO, ONE))
    if style == 2:
        return grey(min(length(p), ONE))
    t = math.atan2(p[1], p[0]) * HALF * INV_PI
    return grey(f4(t - math.floor(t)))


@jit
def facing(S, wp, at, b, F, q, size, under):
    """Return the cosine to the viewer, to a power."""
    W = row_f4(wp)
    c = clamped(dot(load(W, at + Spot.N), load(W, at + Spot.WO)), ZERO, ONE)
    return grey(c ** max(f4(F[Steps.FACING_POWER]), f4(1e-3)))


@jit
def position(S, wp, at, b, F, q, size, under):
    """Return how far along an axis the place is."""
    axis = i4(F[Steps.POSITION_AXIS])
    x = q[0] if axis == 0 else (q[1] if axis == 1 else q[2])
    return grey(share(f4(F[Steps.POSITION_LOW]), f4(F[Steps.POSITION_HIGH]), x))


@jit
def distance(S, wp, at, b, F, q, size, under):
    """Return how far from a point the place is."""
    way = length(subtracted(q, load(F, Steps.DISTANCE_POINT)))
    return grey(share(f4(F[Steps.DISTANCE_LOW]), f4(F[Steps.DISTANCE_HIGH]), way))


@jit
def nearness(S, wp, at, b, F, q, size, under):
    """Return how far it is to a thing; as far as it is looked if that is nowhere."""
    low = f4(F[Steps.NEARNESS_LOW])
    high = f4(F[Steps.NEARNESS_HIGH])
    target = T.bind_i(S)[b, Pattern.TEXTURE]
    way = max(low, high)
    if target >= 0 and T.near(S)[target, Near.SCENE] != 0:
        way = distance_to(S, wp, target, load(row_f4(wp), at + Spot.P), way)
    return grey(share(low, high, way))


@jit
def faces_a_way(S, wp, at, b, F, q, size, under):
    """Return how the surface faces a way."""
    way = load(F, Steps.NORMAL_WAY)
    c = dot(load(row_f4(wp), at + Spot.N), way) / max(length(way), TINY)
    angle = math.acos(clamped(c, -ONE, ONE)) * DEGREES
    return grey(share(f4(F[Steps.NORMAL_FAR_DEG]), f4(F[Steps.NORMAL_NEAR_DEG]), angle))


@jit
def random(S, wp, at, b, F, q, size, under):
    """Return numbers of the thing's, or the copy's, own."""
    inst = i4(row_u4(wp)[at + Spot.INST])
    of = i4(F[Steps.RANDOM_OF])
    copy = T.inst_i(S)[inst, Instance.COPY_SEED] if of >= 1 else i4(0)
    seed = i4(f4(F[Steps.RANDOM_SEED]) + HALF)
    mesh = T.inst_i(S)[inst, Instance.MESH]
    if of == 2 and mesh >= 0 and T.mesh_i(S)[mesh, Mesh.HAS_PARTS] != 0:
        triangle = T.mesh_i(S)[mesh, Mesh.FIRST_TRIANGLE] + i4(row_u4(wp)[at + Spot.PRIM])
        seed = i4(seed + T.parts(S)[triangle] * PART)
    u, v, w = hashed(T.inst_i(S)[inst, Instance.THING_SEED], copy, seed)
    return (u, v, w) if f4(F[Steps.RANDOM_IN_COLOUR]) > HALF else grey(u)


VALUES = {
    Steps.RAMPLR: gradient,
    Steps.FACING: facing,
    Steps.POSITION: position,
    Steps.DISTANCE: distance,
    Steps.NEARNESS: nearness,
    Steps.NORMAL: faces_a_way,
    Steps.RANDOM: random,
}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
