"""Wear: edges, hollows and openness, found by short rays from the hit. Names as in `steps`.

Rays leave in a cosine's distribution, to the outside or into the shape. Near an edge of two faces those into the shape
soon come out again; what they find counts the more the nearer it is. On a right angle's very edge half of them are out
at once, which is 1.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4, row_u4, u4
from nocturne.engine.kernels.path.hit import NONE, error_of, set_ray
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import hashed
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import (
    HALF,
    ONE,
    TINY,
    TWO,
    TWO_PI,
    ZERO,
    along,
    clamped,
    dot,
    frame,
    load,
    negated,
    store,
    transform_normal,
    unit,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import looked as Looked
from nocturne.engine.layout import masks as Masks
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps

THINGS = u4(Masks.SHADOW_RAYS | Masks.CLEAR_SHADOW_RAYS)
PART, QUARTER, SIXTH, THIRD = f4(0.25), f4(0.25), f4(1 / 6), f4(1 / 3)
SEED_STEP, WAVER = f4(7.31), f4(0.35)
GOLDEN = f4(0.6180339887)
FINE = f4(1 << 14)  # parts of a metre that random numbers tell apart
SHEET = f4(0.7)  # cosine between the way into a face and what lies behind it, from where on that is its back


@jit
def found_near(S, wp, at, radius, rays, is_inward):
    """Return how many rays find something within a radius, and the same by how near it is: means over all rays.

    Several parameters are often driven by one wear: what was found last is kept.
    """
    W = row_f4(wp)
    I = row_u4(wp)
    P = Scratch.PROBE
    K = Scratch.LOOKED
    p = load(W, at + Spot.P)
    if f4(W[at + Spot.MOST]) < ONE:
        rays = max(rays * PART, f4(2))  # what is seen by way of other surfaces
    way = ONE if is_inward else TWO
    o = load(W, K + Looked.FROM)
    is_same = o[0] == p[0] and o[1] == p[1] and o[2] == p[2] and f4(W[K + Looked.RADIUS]) == radius
    if is_same and f4(W[K + Looked.RAYS]) == rays and f4(W[K + Looked.WAY]) == way:
        return f4(W[K + Looked.HITS]), f4(W[K + Looked.NEARNESS])
    g = load(W, at + Spot.G)
    n = load(W, at + Spot.N)
    own = T.inst_i(S)[i4(I[at + Spot.INST]), Instance.OBJECT]
    if is_inward:
        g = negated(g)
        n = negated(n)
    o = along(g, error_of(p), p)
    x, y = frame(n)
    a, b, _ = hashed(i4(p[0] * FINE * f4(64)), i4(p[1] * FINE * f4(64)), i4(p[2] * FINE * f4(64)))
    hits = ZERO
    nearness = ZERO
    count = max(i4(rays + HALF), 1)
    for k in range(count):
        # A spiral over the disc, turned by chance: even, and different at each hit.
        r = math.sqrt((f4(k) + b) / f4(count))
        turn = TWO_PI * (a + f4(k) * GOLDEN)
        z = math.sqrt(max(ONE - r * r, ZERO))
        d = along(x, r * math.cos(turn), along(y, r * math.sin(turn), (n[0] * z, n[1] * z, n[2] * z)))
        if dot(d, g) <= ZERO:
            continue
        set_ray(W, I, P, o, d, radius, THINGS)
        units.intersect(T.top(S)[0], wp + 4 * P, 0)
        if I[P + Ray.GEOMETRY] == NONE:
            continue
        if is_inward:
            inst = i4(I[P + Ray.INSTANCE])
            if T.inst_i(S)[inst, Instance.OBJECT] != own:
                continue
            back = unit(transform_normal(T.inst_nm(S), inst, load(W, P + Ray.NORMAL)))
            # Where a ray comes out its way and the normal agree, however the mesh is wound.
            if dot(back, g) * dot(back, d) > SHEET * abs(dot(back, d)):
                continue
        hits += ONE
        nearness += ONE - f4(W[P + Ray.FAR]) / radius
    whole = ONE / f4(count)
    store(W, K + Looked.FROM, p)
    W[K + Looked.RADIUS] = radius
    W[K + Looked.RAYS] = rays
    W[K + Looked.WAY] = way
    W[K + Looked.HITS] = hits * whole
    W[K + Looked.NEARNESS] = nearness * whole
    return hits * whole, nearness * whole


@jit
def worn(S, wp, at, b, F, q, size, under):
    """Return edges, hollows, both, or how open it is: their rows are alike."""
    kind = T.bind_i(S)[b, Pattern.KIND]
    radius = f4(F[Steps.EDGES_RADIUS])
    rays = f4(F[Steps.EDGES_RAYS])
    found = ZERO
    for is_inward in range(2):
        wanted = kind == Steps.CURVATURE or (kind == Steps.EDGES) == (is_inward == 1)
        if wanted:
            hits, near = found_near(S, wp, at, radius, rays, is_inward == 1)
            if kind == Steps.AMBIENTOCCLUSION:
                return grey(ONE - hits)
            near = min(TWO * near, ONE)
            found = found + near if is_inward == 1 or kind == Steps.HOLLOWS else found - near
    return grey(HALF + HALF * found if kind == Steps.CURVATURE else found)


@jit
def far_up(S, wp, o, d, reach):
    """Return how far it is along d to something; reach if there is nothing."""
    W = row_f4(wp)
    I = row_u4(wp)
    P = Scratch.PROBE
    set_ray(W, I, P, o, d, reach, THINGS)
    units.intersect(T.top(S)[0], wp + 4 * P, 0)
    if I[P + Ray.GEOMETRY] == NONE:
        return reach
    return f4(W[P + Ray.FAR])


@jit
def is_over_an_edge(S, wp, g, own):
    """Return True if the last ray of `far_up` came out of that thing where it faces another way than g does.

    A ray behind a face that bends gently comes out of it, too: that is no edge.
    """
    W = row_f4(wp)
    P = Scratch.PROBE
    inst = i4(row_u4(wp)[P + Ray.INSTANCE])
    if T.inst_i(S)[inst, Instance.OBJECT] != own:
        return False
    back = unit(transform_normal(T.inst_nm(S), inst, load(W, P + Ray.NORMAL)))
    return abs(dot(back, g)) < SHEET


@jit
def drips(S, wp, at, b, F, q, size, under):
    """Return how much has run down from what is above: a ledge that stands out, or the thing's own upper edge.

    One ray goes up along the surface a little before it and finds ledges; one a little behind it leaves the thing where
    it ends.
    """
    W = row_f4(wp)
    g = load(W, at + Spot.G)
    p = load(W, at + Spot.P)
    if abs(g[2]) > f4(0.98):
        return (ZERO, ZERO, ZERO)  # nothing runs along what lies flat, or hangs so
    up = unit((-g[2] * g[0], -g[2] * g[1], ONE - g[2] * g[2]))
    reach = f4(F[Steps.DRIPS_RADIUS])
    lip = max(f4(F[Steps.DRIPS_LIP]), error_of(p))
    own = T.inst_i(S)[i4(row_u4(wp)[at + Spot.INST]), Instance.OBJECT]
    below = far_up(S, wp, along(g, lip, p), up, reach)
    edge = far_up(S, wp, along(g, -lip, p), up, reach)
    if edge < below and is_over_an_edge(S, wp, g, own):
        below = edge
    if below >= reach:
        return (ZERO, ZERO, ZERO)
    e = along(up, below, p)
    width = ONE / max(f4(F[Steps.DRIPS_WIDTH]), TINY)
    seed = f4(math.floor(f4(F[Steps.DRIPS_SEED]) + HALF)) * SEED_STEP
    waver = WAVER * units.noise(e[0] * width * QUARTER, e[1] * width * QUARTER, p[2] * width * SIXTH + seed)
    x = e[0] * width + waver
    y = e[1] * width + waver
    n = units.noise(x, y, seed)
    far = units.noise(x * THIRD, y * THIRD, seed + f4(17.3))
    strength = clamped((n - ONE + TWO * f4(F[Steps.DRIPS_DRIPPING])) * f4(2.5) + HALF, ZERO, ONE)
    length = reach * clamped(f4(0.6) + f4(1.3) * far, f4(0.1), ONE)
    fade = clamped(ONE - below / max(length, TINY), ZERO, ONE)
    return grey(strength * strength * (f4(3) - TWO * strength) * fade ** f4(0.75))


VALUES = dict.fromkeys((Steps.EDGES, Steps.HOLLOWS, Steps.CURVATURE, Steps.AMBIENTOCCLUSION), worn)
VALUES[Steps.DRIPS] = drips
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
