"""Walks through what scatters light: below a surface, and inside of murky glass or liquid. Names as in loop.py.

One channel chooses how far the path goes before it is turned, by how much it still carries; all channels that could
have gone as far share the weight (balance heuristic over channels, as Veach 1997 over techniques).
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, jit, u4
from nocturne.engine.kernels.path.hit import error_of, find_hit
from nocturne.engine.kernels.path.passes import go_on, only
from nocturne.engine.kernels.random import INV_2_24, combined, hashed
from nocturne.engine.kernels.vectors import (
    BIG,
    HALF,
    ONE,
    TINY,
    TWO,
    TWO_PI,
    ZERO,
    added,
    along,
    clamped,
    dot,
    frame,
    largest,
    load,
    multiplied,
    negated,
    scaled,
    store,
    transform_normal,
)
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value

P = Scratch.PATH
M = Scratch.MAT
MOST_TURNS = 1 << 22  # which one walk in thousands reaches, of those that lose nothing
SURE_TURNS = 16  # before chance may end a walk for the little that it carries
# Of walks that lose nothing in a deep medium a share falling with the root of the turns is still below. With half of
# them ended at this turn and at each four times as late, each octave of turns costs alike, and varies alike.
HALVED_TURN = 256
LEAST_RADIUS = f4(2e-5)  # metres: what is shorter is lost in the rounding of places
MOST_ONWARD = f4(0.98)
ENDED, NOTHING, FOUND = i4(-1), i4(0), i4(1)


@jit
def turned(d, g, u1, u2):
    """Return a direction after scattering with mean cosine g (Henyey and Greenstein 1941)."""
    if abs(g) < f4(1e-3):
        c = ONE - TWO * u1
    else:
        q = (ONE - g * g) / (ONE - g + TWO * g * u1)
        c = clamped((ONE + g * g - q * q) / (TWO * g), -ONE, ONE)
    s = math.sqrt(max(ONE - c * c, ZERO))
    x, y = frame(d)
    phi = TWO_PI * u2
    return added(added(scaled(x, s * math.cos(phi)), scaled(y, s * math.sin(phi))), scaled(d, c))


@jit
def chance_of(number):
    """Return a number in [0, 1) of 32 random bits."""
    return f4(u4(number >> u4(8))) * INV_2_24


@inlined
def is_way_out(S, W, I, d):
    """Return True if what the ray met is the surface that the path went below, from its inside."""
    inst = i4(I[Scratch.RAY + Ray.INSTANCE])
    if T.inst_i(S)[inst, Instance.OBJECT] != i4(I[P + Path.OWNER]):
        return False
    return dot(transform_normal(T.inst_nm(S), inst, load(W, Scratch.RAY + Ray.NORMAL)), d) > ZERO


@inlined
def note_turn(W, I):
    """Count the first turn in a murky inside as an event, and apply the limits of the last one."""
    if I[P + Path.EVENTS] == u4(0):
        share = only(2)
        for k in range(3):
            W[Scratch.SPLIT + Value.DIFFUSE + k] = share[0]
            W[Scratch.SPLIT + Value.REFLECTION + k] = share[1]
            W[Scratch.SPLIT + Value.TRANSMISSION + k] = share[2]
    elif I[P + Path.IS_PENDING] != u4(0):
        I[P + Path.IS_PENDING] = u4(0)
        onward = go_on(W, I[P + Path.EVENTS] == u4(1))
        store(W, P + Path.BETA, multiplied(load(W, P + Path.BETA), onward))
    I[P + Path.EVENTS] = u4(I[P + Path.EVENTS] + u4(1))
    I[P + Path.SCATTERED] = u4(I[P + Path.SCATTERED] + u4(1))
    W[P + Path.DENSITY] = -ONE
    W[P + Path.THROUGH] = ZERO


@jit
def wander(S, W, I, wp, far, mask, is_below):
    """Follow the path through what scatters until its ray meets something: FOUND; NOTHING within `far`; or ENDED.

    is_below: only the surface that it went below counts, met from its inside; it goes through all else.
    """
    o = load(W, P + Path.ORIGIN)
    d = load(W, P + Path.DIRECTION)
    extinction = load(W, P + Path.BELOW_T)
    scattering = load(W, P + Path.BELOW_S)
    g = f4(W[P + Path.BELOW_G])
    is_turned = False
    number = combined(I[P + Path.PIXEL], u4(u4(I[P + Path.SAMPLE] * u4(96)) + u4(I[P + Path.STEP] ^ u4(0x5BD1E995))))
    halved = HALVED_TURN
    for turn in range(MOST_TURNS):
        if turn == halved:
            number = hashed(u4(number + u4(1)))
            if chance_of(number) >= HALF:
                return ENDED
            store(W, P + Path.BETA, scaled(load(W, P + Path.BETA), TWO))
            W[P + Path.LUCK] = f4(W[P + Path.LUCK]) * TWO
            halved *= 4
        beta = load(W, P + Path.BETA)
        carried = beta[0] + beta[1] + beta[2]
        if carried <= TINY:
            return ENDED
        share = scaled(beta, ONE / carried)
        number = hashed(u4(number + u4(1)))
        u = chance_of(number)
        number = hashed(u4(number + u4(1)))
        log = -math.log(ONE - chance_of(number))
        t = extinction[2]
        if u < share[0]:
            t = extinction[0]
        elif u < share[0] + share[1]:
            t = extinction[1]
        reach = min(log / max(t, f4(1e-20)), far)
        is_met = find_hit(S, W, I, wp, o, d, reach, mask)
        way = f4(W[Scratch.RAY + Ray.FAR]) if is_met else reach
        left = (math.exp(-extinction[0] * way), math.exp(-extinction[1] * way), math.exp(-extinction[2] * way))
        far -= way
        if is_met or far <= ZERO:
            weight = ONE / max(dot(share, left), TINY)
            store(W, P + Path.BETA, multiplied(beta, scaled(left, weight)))
            if not is_met:
                return NOTHING
            if not is_below or is_way_out(S, W, I, d):
                store(W, P + Path.ORIGIN, o)
                store(W, P + Path.DIRECTION, d)
                if is_turned:
                    W[P + Path.SINCE_VERTEX] = ZERO
                W[P + Path.SINCE_VERTEX] = f4(W[P + Path.SINCE_VERTEX]) + way
                W[P + Path.WIDTH] = f4(W[P + Path.WIDTH]) + f4(W[P + Path.ANGLE]) * way
                return FOUND
            o = along(d, way + error_of(along(d, way, o)), o)
            continue
        if not is_below and not is_turned:
            if I[P + Path.IS_LAST] != u4(0):
                return ENDED
            note_turn(W, I)
            beta = load(W, P + Path.BETA)
        is_turned = True
        weight = ONE / max(dot(share, multiplied(extinction, left)), TINY)
        beta = multiplied(beta, scaled(multiplied(scattering, left), weight))
        if turn >= SURE_TURNS:
            q = largest(beta) * f4(W[P + Path.SPREAD]) * TWO
            if q < ONE:
                number = hashed(u4(number + u4(1)))
                if chance_of(number) >= q:
                    return ENDED
                beta = scaled(beta, ONE / q)
                W[P + Path.LUCK] = f4(W[P + Path.LUCK]) / q
        store(W, P + Path.BETA, beta)
        o = along(d, way, o)
        number = hashed(u4(number + u4(1)))
        u = chance_of(number)
        number = hashed(u4(number + u4(1)))
        d = turned(d, g, u, chance_of(number))
        if not is_below:
            far = BIG
    return ENDED


@jit
def single_albedo(colour, g):
    """Return the albedo of one scattering by that of a deep medium (Kulla and Conty 2017; OpenPBR 1.1, subsurface)."""
    c = clamped(colour, ZERO, ONE)
    root = math.sqrt(f4(9.59217) + f4(41.6808) * c + f4(17.7126) * c * c)
    s = f4(4.09712) + f4(4.20863) * c - root
    return clamped((ONE - s * s) / (ONE - g * s * s), ZERO, ONE)


@inlined
def go_below(W, I):
    """Begin a walk below the surface in hand."""
    I[P + Path.BELOW] = u4(1)
    I[P + Path.OWNER] = I[Scratch.OBJECT]
    g = clamped(f4(W[M + Mat.SUBSURFACE_G]), -MOST_ONWARD, MOST_ONWARD)
    W[P + Path.BELOW_G] = g
    radius = f4(W[M + Mat.RADIUS]) * f4(1e-3)
    for k in range(3):
        t = ONE / max(radius * f4(W[M + Mat.RADIUS_SCALE + k]), LEAST_RADIUS)
        W[P + Path.BELOW_T + k] = t
        W[P + Path.BELOW_S + k] = t * single_albedo(f4(W[M + Mat.SUBSURFACE_COLOR + k]), g)


@inlined
def turn_over(W, I):
    """Have the surface that the path comes out of looked at from outside."""
    store(W, Scratch.N, negated(load(W, Scratch.N)))
    store(W, Scratch.G, negated(load(W, Scratch.G)))
    store(W, Scratch.WO, load(W, Scratch.N))
    I[Scratch.INSIDE] = u4(0)


@inlined
def come_out(W, I):
    """Make the material in hand what spreads all that comes out from below evenly, and reflects nothing."""
    I[P + Path.BELOW] = u4(0)
    keep = f4(W[M + Mat.NORMAL_AMOUNT])
    for k in range(Mat.COUNT):
        W[M + k] = ZERO
    W[M + Mat.NORMAL_AMOUNT] = keep
    for k in range(3):
        W[M + Mat.BASE + k] = ONE
        W[M + Mat.SPECULAR_COLOR + k] = ONE
    W[M + Mat.ROUGHNESS] = ONE
    W[M + Mat.IOR] = ONE
    W[M + Mat.OPACITY] = ONE
    W[Scratch.ETA] = ONE
    W[Scratch.OUTSIDE] = ONE
    I[Scratch.PARTS] = u4(0)
    store(W, Scratch.WO, load(W, Scratch.N))
