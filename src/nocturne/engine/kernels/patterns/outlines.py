"""The exact distance to outlines of straight and quadratic pieces, of those that a grid's cell names.

The table is that of `nocturne.lettering.distance`. p the place, a, b, c begin, handle and end of a piece.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, f8, i4, jit
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped

FAR = f4(1e9)
TURN = 2 * math.pi / 3
LEAST = f4(1e-30)
STRAIGHT = f4(1e-10)  # the square of the second difference, in those of the way to the handle: less is rounding
ALIKE = f4(4e-6)  # squares of distances that differ by less are those to a shared end


@jit
def roots(dx, dy, ex, ey, fx, fy):
    """Return three t where a quadratic piece comes nearest to a place, or turns away (Cardano's formula).

    d from begin to handle, e second difference, f from the place to the begin. In double precision: of a piece that is
    nearly straight the terms are large and take each other away.
    """
    dx, dy, ex, ey, fx, fy = f8(dx), f8(dy), f8(ex), f8(ey), f8(fx), f8(fy)
    cubic = 1.0 / (ex * ex + ey * ey)
    square = 3.0 * (dx * ex + dy * ey) * cubic
    linear = (2.0 * (dx * dx + dy * dy) + fx * ex + fy * ey) * cubic
    rest = (fx * dx + fy * dy) * cubic
    shift = square / 3.0
    m = linear - 3.0 * shift * shift
    n = 2.0 * shift * shift * shift - shift * linear + rest
    under = 0.25 * n * n + m * m * m / 27.0
    if under > 0.0:
        x = -0.5 * n - math.copysign(math.sqrt(under), n)
        u = math.copysign(abs(x) ** (1.0 / 3.0), x)
        t = u - shift
        if u != 0.0:
            t -= m / (3.0 * u)
        return f4(t), f4(t), f4(t)
    size = 2.0 * math.sqrt(max(-m / 3.0, 0.0))
    angle = 0.0
    if size > 0.0:
        angle = math.acos(min(max(3.0 * n / (m * size), -1.0), 1.0)) / 3.0
    return (f4(size * math.cos(angle) - shift), f4(size * math.cos(angle - TURN) - shift),
            f4(size * math.cos(angle - 2.0 * TURN) - shift))  # fmt: skip


@jit
def square_and_side(t, ax, ay, bx, by, cx, cy, px, py):
    """Return the square of the distance to the place at t of a piece, and how far p is to the left of its way there."""
    s = ONE - t
    x = s * s * ax + TWO * s * t * bx + t * t * cx
    y = s * s * ay + TWO * s * t * by + t * t * cy
    if t == ZERO:  # an end as the piece beside it has it
        x = ax
        y = ay
    elif t == ONE:
        x = cx
        y = cy
    wx = s * (bx - ax) + t * (cx - bx)
    wy = s * (by - ay) + t * (cy - by)
    x = px - x
    y = py - y
    return x * x + y * y, (wx * y - wy * x) / math.sqrt(max(wx * wx + wy * wy, LEAST))


@jit
def to_outlines(S, head, x, y):
    """Return the signed distance from (x, y) to the outlines whose table begins at row head."""
    E = T.entries(S)
    count = i4(E[head + 1, 3])
    if count == 0:
        return FAR
    across = i4(E[head, 3])
    scale = f4(E[head, 2])
    i = min(max(i4(clamped((x - f4(E[head, 0])) * scale, -ONE, f4(1e6))), 0), across - 1)
    j = min(max(i4(clamped((y - f4(E[head, 1])) * scale, -ONE, f4(1e6))), 0), i4(E[head + 1, 0]) - 1)
    lists = head + i4(E[head + 1, 1])
    cell = lists - across * i4(E[head + 1, 0]) + j * across + i
    first = i4(E[cell, 0])
    pieces = head + i4(E[head + 1, 2])
    best = f4(1e30)
    best_side = ZERO
    for k in range(first, first + i4(E[cell, 1])):
        at = pieces + 2 * i4(E[lists + k // 4, k % 4])
        ax = f4(E[at, 0])
        ay = f4(E[at, 1])
        bx = f4(E[at, 2])
        by = f4(E[at, 3])
        cx = f4(E[at + 1, 0])
        cy = f4(E[at + 1, 1])
        dx = bx - ax
        dy = by - ay
        ex = ax - TWO * bx + cx
        ey = ay - TWO * by + cy
        if ex * ex + ey * ey <= STRAIGHT * (dx * dx + dy * dy):
            t2 = -((ax - x) * dx + (ay - y) * dy) / max(TWO * (dx * dx + dy * dy), LEAST)
            t3 = t2
            t4 = t2
            many = 3
        else:
            t2, t3, t4 = roots(dx, dy, ex, ey, ax - x, ay - y)
            many = 5
        for n in range(many):
            t = f4(n) if n < 2 else clamped(t2 if n == 2 else (t3 if n == 3 else t4), ZERO, ONE)
            square, side = square_and_side(t, ax, ay, bx, by, cx, cy, x, y)
            if square < best * (ONE - ALIKE) or (square <= best * (ONE + ALIKE) and abs(side) > abs(best_side)):
                best_side = side
                best = min(square, best)
    return -math.sqrt(best) if best_side > ZERO else math.sqrt(best)
