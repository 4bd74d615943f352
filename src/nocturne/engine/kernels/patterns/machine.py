"""The machine of patterns: steps in order, each reading its own row of numbers and changing another.

S scene table, W work row, wp its address, b step, F the step's own row, at the place, q the step's coordinates there,
size how far what looks reaches in them. A step whose own numbers are driven finds its row copied to a slot of the work
row, where the steps before it have changed it: so a constant costs nothing, and any number can be driven.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import address_of, f4, i4, inlined, jit, row_f4
from nocturne.engine.kernels.patterns import image
from nocturne.engine.kernels.patterns.blend import blended
from nocturne.engine.kernels.patterns.normals import turned_to_uv
from nocturne.engine.kernels.patterns.places import own_normal, own_place
from nocturne.engine.kernels.patterns.steps import value_of_kind
from nocturne.engine.kernels.vectors import (
    HALF,
    INV_PI,
    ONE,
    PI,
    TWO,
    ZERO,
    added,
    clamped,
    length,
    load,
    scaled,
)
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import spot as Spot

WIDTH = Pattern.PLACEMENT.width
rows_at = address_of["bind_f"]
LEAST = f4(1e-6)
NEAREST = f4(1e-6)  # to a camera that throws a picture


@jit
def row_of(S, wp, b):
    """Return the address of the numbers of step b: in the table, or where other steps made them."""
    slot = T.bind_i(S)[b, Pattern.SLOT]
    if slot < 0:
        return rows_at(S) + 4 * WIDTH * b
    return wp + 4 * (Scratch.STEPS + slot * WIDTH)


@jit
def moved(S, b, F, x, y, z, size):
    """Return coordinates repeated, turned and moved as the step tells, and the reach in them."""
    if T.bind_i(S)[b, Pattern.MOVES] != 0:
        turn = f4(F[Pattern.TURN]) * (PI / f4(180))
        c = math.cos(turn)
        s = math.sin(turn)
        x = x * f4(F[Pattern.REPEAT])
        y = y * f4(F[Pattern.REPEAT + 1])
        return (c * x - s * y + f4(F[Pattern.OFFSET]), s * x + c * y + f4(F[Pattern.OFFSET + 1]),
                z + f4(F[Pattern.OFFSET + 2]), size * f4(F[Pattern.STRETCH]))  # fmt: skip
    return (
        f4(F[Pattern.TO_U]) * x + f4(F[Pattern.TO_U + 1]) * y + f4(F[Pattern.OFFSET]),
        f4(F[Pattern.TO_V]) * x + f4(F[Pattern.TO_V + 1]) * y + f4(F[Pattern.OFFSET + 1]),
        z + f4(F[Pattern.OFFSET + 2]),
        size * f4(F[Pattern.STRETCH]),
    )


@jit
def by_uv(S, W, at, b, F, where):
    """Return a step's coordinates and reach by texture coordinates."""
    to = at + Spot.UV if where == Pattern.BY_UV else at + Spot.UV_2
    return moved(S, b, F, f4(W[to]), f4(W[to + 1]), ZERO, f4(W[to + 2]))


@jit
def in_frame(F, p, s):
    """Return p in units about the step's origin; s 1 for a place, 0 for a direction."""
    k = Pattern.TO_X
    m = Pattern.TO_Y
    n = Pattern.TO_Z
    o = Pattern.AT_ORIGIN
    return (
        f4(F[k]) * p[0] + f4(F[k + 1]) * p[1] + f4(F[k + 2]) * p[2] + f4(F[o]) * s,
        f4(F[m]) * p[0] + f4(F[m + 1]) * p[1] + f4(F[m + 2]) * p[2] + f4(F[o + 1]) * s,
        f4(F[n]) * p[0] + f4(F[n + 1]) * p[1] + f4(F[n + 2]) * p[2] + f4(F[o + 2]) * s,
    )


@jit
def around(where, p):
    """Return coordinates around a cylinder or a ball: parts of the whole way round, and up. Or in a camera's picture.

    What is behind the camera is beyond its picture.
    """
    if where == Pattern.CAMERA:
        depth = -p[2]
        if depth < NEAREST:
            return (TWO, TWO, NEAREST)
        return (p[0] / depth + HALF, p[1] / depth + HALF, depth)
    turn = math.atan2(p[1], p[0]) * HALF * INV_PI
    if where == Pattern.CYLINDER:
        return (turn, p[2], math.sqrt(p[0] * p[0] + p[1] * p[1]))
    r = length(p)
    return (turn, math.asin(clamped(p[2] / max(r, f4(1e-9)), -ONE, ONE)) * INV_PI, r)


@jit
def side_shares(n, spread):
    """Return how much the sides along x, y and z count at a normal; they add up to 1."""
    a = (abs(n[0]), abs(n[1]), abs(n[2]))
    low = (ONE - spread) * max(a[0], max(a[1], a[2]))
    x = max(a[0] - low, LEAST) if a[0] >= low else ZERO
    y = max(a[1] - low, LEAST) if a[1] >= low else ZERO
    z = max(a[2] - low, LEAST) if a[2] >= low else ZERO
    whole = ONE / (x + y + z)
    return (x * whole, y * whole, z * whole)


@jit
def seen_from(side, p, n):
    """Return coordinates as seen from along x, y or z: never mirrored, upright where there is an upright."""
    if side == 0:
        return (p[1] if n[0] >= ZERO else -p[1], p[2], p[0])
    if side == 1:
        return (-p[0] if n[1] >= ZERO else p[0], p[2], p[1])
    return (p[0] if n[2] >= ZERO else -p[0], p[1], p[2])


@jit
def placed_value(S, W, wp, at, b, row, under):
    """Return what step b puts out at the place; row: the address of its own row."""
    B = T.bind_i(S)
    F = row_f4(row)
    family = B[b, Pattern.FAMILY]
    where = B[b, Pattern.WHERE]
    if where <= Pattern.BY_UV_2 and f4(W[at + Spot.BARE]) != ZERO:
        where = i4(Pattern.SIDES)  # what has no coordinates is not of the one colour that lies at their origin
    kind = B[b, Pattern.KIND]
    shares = (ONE, ZERO, ZERO)
    x = ZERO
    y = ZERO
    z = ZERO
    size = ZERO
    p = (ZERO, ZERO, ZERO)
    apart = p
    n = (ZERO, ZERO, ONE)
    sides = 1
    if where <= Pattern.BY_UV_2:
        x, y, z, size = by_uv(S, W, at, b, F, where)
    elif where != Pattern.NOWHERE:
        is_set = B[b, Pattern.IN_SET] != 0
        p = in_frame(F, load(W, at + Spot.REST) if is_set else own_place(S, wp, at), ONE)
        apart = p
        if where == Pattern.SIDES:
            sides = 3
            n = in_frame(F, load(W, at + Spot.N) if is_set else own_normal(S, wp, at), ZERO)
            n = (n[0] * f4(F[Pattern.UNIT]), n[1] * f4(F[Pattern.UNIT + 1]), n[2] * f4(F[Pattern.UNIT + 2]))
            shares = side_shares(n, f4(F[Pattern.SPREAD]))
        elif where >= Pattern.CYLINDER:
            p = around(where, p)
    whole = (ZERO, ZERO, ZERO)
    for side in range(sides):
        share = shares[0] if side == 0 else (shares[1] if side == 1 else shares[2])
        if share > ZERO:
            if where >= Pattern.SOLID and where != Pattern.NOWHERE:
                q = seen_from(side, p, n) if sides == 3 else p
                reach = f4(W[at + Spot.REACH]) * f4(F[Pattern.PER_METRE])
                if where == Pattern.CAMERA:
                    reach = reach / q[2]
                x, y, z, size = moved(S, b, F, q[0], q[1], q[2], reach)
            t = value_of_kind(family, kind, S, wp, at, b, row, (x, y, z), size, under)
            if B[b, Pattern.IS_NORMAL] != 0 and where > Pattern.BY_UV_2:
                t = turned_to_uv(S, wp, b, at, F, where, side, apart, n, t)
            whole = added(whole, scaled(t, share))
    if f4(F[Pattern.IS_INVERTED]) > ZERO:
        # A picture may hold values above 1; their negative is black, not less.
        whole = (max(ONE - whole[0], ZERO), max(ONE - whole[1], ZERO), max(ONE - whole[2], ZERO))
    return whole


@inlined
def ask_ahead(S, W, at, first, n):
    """Ask for what pictures will read, so that several are fetched at once."""
    B = T.bind_i(S)
    if f4(W[at + Spot.BARE]) != ZERO:
        return
    for b in range(first, first + n):
        if B[b, Pattern.KIND] == image.NUMBER and B[b, Pattern.SLOT] < 0 and B[b, Pattern.WHERE] <= Pattern.BY_UV_2:
            F = row_f4(rows_at(S) + 4 * WIDTH * b)
            x, y, _, size = by_uv(S, W, at, b, F, B[b, Pattern.WHERE])
            image.ask(S, b, F, x, y, min(size, f4(W[at + Spot.MOST])))


@inlined
def run(S, W, wp, first, n, to, at):
    """Let n steps from the first change the row at `to`, or each other's."""
    B = T.bind_i(S)
    if n > 1:
        ask_ahead(S, W, at, first, n)
    for b in range(first, first + n):
        if B[b, Pattern.KIND] == Pattern.COPY:
            slot = Scratch.STEPS + B[b, Pattern.SLOT] * WIDTH
            F = T.bind_f(S)
            for k in range(WIDTH):
                W[slot + k] = F[b, k]
            continue
        row = row_of(S, wp, b)
        F = row_f4(row)
        into = B[b, Pattern.INTO]
        goal = i4(B[b, Pattern.TARGET] + (to if into < 0 else Scratch.STEPS + into * WIDTH))
        channels = B[b, Pattern.CHANNELS]
        under = (f4(W[goal]), f4(W[goal]), f4(W[goal]))
        if channels == 3:
            under = load(W, goal)
        elif channels == 2:
            under = (f4(W[goal]), f4(W[goal + 1]), ZERO)
        t = placed_value(S, W, wp, at, b, row, under)
        share = clamped(f4(F[Pattern.SHARE]), ZERO, f4(F[Pattern.MOST_SHARE]))
        low = f4(F[Pattern.LOW])
        high = f4(F[Pattern.HIGH])
        t = blended(B[b, Pattern.BLEND], under, t, share)
        W[goal] = clamped(t[0], low, high)
        if channels >= 2:
            W[goal + 1] = clamped(t[1], low, high)
        if channels == 3:
            W[goal + 2] = clamped(t[2], low, high)
