"""How far a thing is: Embree walks its tree, and calls back with each triangle that may be nearer.

The place of a triangle that is nearest to another: Ericson 2005, Real-Time Collision Detection, 5.1.5.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels import units
from nocturne.engine.kernels.jit import address_of, f4, i4, jit, row_f4, row_i8, row_u4, u4
from nocturne.engine.kernels.path.hit import NONE
from nocturne.engine.kernels.vectors import ZERO, along, dot, length, load, store, subtracted
from nocturne.engine.layout import near as Near
from nocturne.engine.layout import scratch as Scratch

Q, C = Scratch.NEAR_QUERY, Scratch.NEAR_CONTEXT
targets_at = address_of["near"]


@jit
def nearest_of(p, a, b, c):
    """Return the place of triangle a, b, c that is nearest to p."""
    ab = subtracted(b, a)
    ac = subtracted(c, a)
    ap = subtracted(p, a)
    d1 = dot(ab, ap)
    d2 = dot(ac, ap)
    if d1 <= ZERO and d2 <= ZERO:
        return a
    bp = subtracted(p, b)
    d3 = dot(ab, bp)
    d4 = dot(ac, bp)
    if d3 >= ZERO and d4 <= d3:
        return b
    vc = d1 * d4 - d3 * d2
    if vc <= ZERO and d1 >= ZERO and d3 <= ZERO:
        return along(ab, d1 / (d1 - d3), a)
    cp = subtracted(p, c)
    d5 = dot(ab, cp)
    d6 = dot(ac, cp)
    if d6 >= ZERO and d5 <= d6:
        return c
    vb = d5 * d2 - d1 * d6
    if vb <= ZERO and d2 >= ZERO and d6 <= ZERO:
        return along(ac, d2 / (d2 - d6), a)
    va = d3 * d6 - d5 * d4
    if va <= ZERO and d4 - d3 >= ZERO and d5 - d6 >= ZERO:
        return along(subtracted(c, b), (d4 - d3) / ((d4 - d3) + (d5 - d6)), b)
    whole = va + vb + vc
    if whole <= ZERO:
        return a  # a triangle without area
    return along(ab, vb / whole, along(ac, vc / whole, a))


def closer(asked):
    """Unit: called by Embree; look no farther than the triangle that it names, and say whether that is less far."""
    A = row_i8(asked)
    W = row_f4(A[Near.ASKED_QUERY])
    target = row_i8(A[Near.TARGET_ROW])
    t = row_u4(asked)[2 * Near.TRIANGLE]
    V = row_f4(target[Near.VERTICES])
    I = row_u4(target[Near.TRIANGLES])
    p = load(W, Near.PLACE)
    at = nearest_of(
        p, load(V, 3 * i4(I[3 * i4(t)])), load(V, 3 * i4(I[3 * i4(t) + 1])), load(V, 3 * i4(I[3 * i4(t) + 2]))
    )
    far = length(subtracted(at, p))
    if far < f4(W[Near.WITHIN]):
        W[Near.WITHIN] = far
        return True
    return False


@jit
def distance_to(S, wp, target, p, within):
    """Return how far a place is from the target of that row, metres; `within` if it is not that near."""
    W = row_f4(wp)
    I = row_u4(wp)
    store(W, Q + Near.PLACE, p)
    W[Q + Near.TIME] = ZERO
    W[Q + Near.WITHIN] = within
    for k in range(Near.CONTEXT_WIDTH):
        I[C + k] = u4(0)
    I[C + Near.INSTANCE] = NONE
    row = T.near(S)
    at = targets_at(S) + 8 * Near.TARGET_WIDTH * target
    units.nearest(row[target, Near.SCENE], wp + 4 * Q, wp + 4 * C, row[target, Near.CLOSER], at)
    return f4(W[Q + Near.WITHIN])
