"""Directions to things that send back much light: a lit shade, a sunlit patch of paper.

They are found while learning: instances that paths got most light from, and how much of it each cell of the set got
from each. Part of the directions from a vertex go to the cones about their spheres; that and material sampling are one
mixture, whose density counts wherever a direction's does (Veach and Guibas 1995, one-sample model).

Names as in loop.py; k which thing, row of the cell, g how much of the row's shares counts here.
"""

import math

import numpy as np

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import added_to, address_of, ask_for, f4, i4, inlined, jit, u4
from nocturne.engine.kernels.path.hit import NONE
from nocturne.engine.kernels.vectors import (
    ONE,
    TINY,
    TWO,
    TWO_PI,
    ZERO,
    added,
    dot,
    frame,
    load,
    luminance,
    row_at,
    scaled,
    subtracted,
    unit,
)
from nocturne.engine.layout import bright as Bright
from nocturne.engine.layout import learned as Learned
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import record as Record
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import vertex as Vertex

P = Scratch.PATH
WIDTH = Record.ROW.width
bright_sums_at = address_of["bright_sums"]
shares_at = address_of["bright_share"]
reached_sums_at = address_of["reached_sums"]


@jit
def cone_of(S, p, k):
    """Return (axis, cosine, solid angle) of the cone from p about a thing's sphere; from inside: cosine -2, all."""
    B = T.bright(S)
    to = subtracted(row_at(B, k, Bright.MIDDLE), p)
    r = f4(B[k, Bright.RADIUS])
    d2 = dot(to, to)
    if d2 <= r * r * f4(1.02):
        return to, -TWO, TWO * TWO_PI
    s2 = r * r / d2
    c = math.sqrt(ONE - s2)
    return scaled(to, ONE / math.sqrt(d2)), c, TWO_PI * s2 / (ONE + c)


@jit
def thing_along(S, p, d):
    """Return the thing with the narrowest cone from p that d lies in, and its solid angle; for none, how many."""
    n = T.bright(S).shape[0]
    found = i4(n)
    least = TWO * TWO_PI
    for k in range(n):
        axis, c, solid = cone_of(S, p, k)
        if solid < least and dot(axis, d) >= c:
            found = i4(k)
            least = solid
    return found, least


@jit
def row_share(S, row):
    """Return the share of directions from a row that go to bright things."""
    B = T.bright_share(S)
    if B.shape[0] <= 1:
        return ZERO
    return f4(B[row, B.shape[1] - 1])


@jit
def ask_for_share(S, row):
    """Ask for a row's shares, which will be read soon."""
    B = T.bright_share(S)
    if B.shape[0] > 1:
        ask_for(shares_at(S) + 4 * ((i4(row) + 1) * B.shape[1] - 1))


@jit
def bright_density(S, row, p, d, g):
    """Return the density of direction d by way of bright things, times their share."""
    B = T.bright_share(S)
    total = ZERO
    for k in range(B.shape[1] - 1):
        q = f4(B[row, k])
        if q > ZERO:
            axis, c, solid = cone_of(S, p, k)
            if dot(axis, d) >= c:
                total += q / solid
    return total * g


@jit
def mixed_density(S, W, I, p, d, density):
    """Return the density of direction d from the vertex in hand, of which `density` is material sampling's own."""
    share = f4(W[Scratch.LV + Vertex.SHARE])
    if share <= ZERO:
        return density
    row = I[Scratch.LV + Vertex.LEARNED]
    g = share / row_share(S, row)
    return (ONE - share) * density + bright_density(S, row, p, d, g)


@jit
def direction_to_bright(S, row, p, pick, u, v):
    """Return a direction to one of the bright things; `pick` in [0, 1) chooses it."""
    B = T.bright_share(S)
    n = B.shape[1] - 1
    pick *= f4(B[row, n])
    chosen = i4(0)
    for k in range(n):
        q = f4(B[row, k])
        if q > ZERO:
            chosen = i4(k)
            if pick < q:
                break
            pick -= q
    axis, c, _ = cone_of(S, p, chosen)
    phi = TWO_PI * v
    if c < -ONE:
        z = ONE - TWO * u
        r = math.sqrt(max(ONE - z * z, ZERO))
        return (r * math.cos(phi), r * math.sin(phi), z)
    z = ONE - u * (ONE - c)
    r = math.sqrt(max(ONE - z * z, ZERO))
    t, b = frame(axis)
    return unit(added(scaled(axis, z), added(scaled(t, r * math.cos(phi)), scaled(b, r * math.sin(phi)))))


# ---- learning ------------------------------------------------------------------------------------------------------


@inlined
def begin_records(I):
    """Forget the path before."""
    I[Scratch.N_RECORDS] = u4(0)


@inlined
def record(S, W, I, d, density, own):
    """Keep that the path goes from the vertex in hand in direction d, of that density; `own`: the material's alone."""
    n = i4(I[Scratch.N_RECORDS])
    if T.bright_sums(S).shape[0] <= 1 or n >= Record.MOST:
        return
    at = Scratch.RECORDS + WIDTH * n
    thing, solid = thing_along(S, load(W, Scratch.P), d)
    W[at + Record.BETA] = luminance(load(W, P + Path.BETA))
    W[at + Record.SUM] = luminance(load(W, Scratch.SAMPLE_SUM))
    I[at + Record.CELL] = I[Scratch.LV + Vertex.LEARNED]
    I[at + Record.THING] = u4(thing)
    W[at + Record.BY_CONE] = density * solid
    W[at + Record.BY_OWN] = density / max(own, TINY)
    I[at + Record.REACHED] = NONE
    I[Scratch.N_RECORDS] = u4(n + 1)


@jit
def count_find(S, row, column, y):
    """Add a squared find to the sums."""
    width = T.bright_sums(S).shape[1]
    most = f4(Bright.MOST_FOUND)
    added_to(bright_sums_at(S) + 8 * (i4(row) * width + column), np.int64(min(y, most) * f4(Bright.ONE)))


@inlined
def note_reached(I):
    """Keep which instance the last direction led to."""
    n = i4(I[Scratch.N_RECORDS])
    if n > 0 and I[P + Path.IS_PENDING] != u4(0):
        at = Scratch.RECORDS + WIDTH * (n - 1) + Record.REACHED
        if I[at] == NONE:
            I[at] = I[Scratch.INST]


@inlined
def learn_path(S, W, I):
    """Count what the path in hand found by way of each direction it took."""
    if T.bright_sums(S).shape[0] <= 1:
        return
    n = T.bright(S).shape[0]
    total = luminance(load(W, Scratch.SAMPLE_SUM))
    per = f4(T.learned_f(S)[Learned.UNIT])
    for k in range(i4(I[Scratch.N_RECORDS])):
        at = Scratch.RECORDS + WIDTH * k
        x = (total - f4(W[at + Record.SUM])) / max(f4(W[at + Record.BETA]), f4(1e-4)) * per
        if not x > ZERO:
            continue
        x = min(x, f4(Bright.BRIGHTEST))
        row = I[at + Record.CELL]
        thing = i4(I[at + Record.THING])
        own = x * x * f4(W[at + Record.BY_OWN])
        if thing < n:
            count_find(S, row, thing, x * x * f4(W[at + Record.BY_CONE]))
            count_find(S, row, i4(n + thing), own)
        else:
            count_find(S, row, i4(2 * n), own)
        if I[at + Record.REACHED] != NONE:
            added_to(reached_sums_at(S) + 8 * i4(I[at + Record.REACHED]), np.int64(x * x * f4(Bright.ONE)))
