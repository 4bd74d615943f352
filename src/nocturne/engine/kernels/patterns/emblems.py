"""Exact distances to simple shapes about the origin, as in `nocturne.scene.patterns.emblems`. F the step's own row."""

import math

from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import HALF, ONE, PI, TWO, ZERO, clamped
from nocturne.engine.layout import steps as Steps

DOT, RING, BAR, FRAME, STAR, POLYGON, ARROW = range(7)
TINY = f4(1e-9)
LEAST = f4(1e-20)


@jit
def box(x, y, a, b, corner):
    """Return the distance to a box of half sides a and b with round corners."""
    r = min(corner, max(min(a, b), ZERO))
    u = abs(x) - a + r
    v = abs(y) - b + r
    p = max(u, ZERO)
    q = max(v, ZERO)
    return min(max(u, v), ZERO) + math.sqrt(p * p + q * q) - r


@jit
def to_segment(x, y, ax, ay, bx, by):
    """Return the distance from (x, y) to what lies between two places."""
    ex = bx - ax
    ey = by - ay
    t = clamped(((x - ax) * ex + (y - ay) * ey) / max(ex * ex + ey * ey, LEAST), ZERO, ONE)
    u = x - ax - t * ex
    v = y - ay - t * ey
    return math.sqrt(u * u + v * v)


@jit
def star(x, y, radius, n, inner):
    """Return the distance to a star with a tip upwards: in one half of a point, its mirror images being the others."""
    half = PI / n
    angle = math.atan2(x, y) + half
    angle = abs(angle - TWO * half * math.floor(angle / (TWO * half)) - half)
    r = math.sqrt(x * x + y * y)
    u = r * math.cos(angle)
    v = r * math.sin(angle)
    bx = radius * inner * math.cos(half)
    by = radius * inner * math.sin(half)
    far = to_segment(u, v, radius, ZERO, bx, by)
    return -far if (bx - radius) * v - by * (u - radius) > ZERO else far


@jit
def arrow(x, y, half, up, shaft, head):
    """Return the distance to an arrow to the right, of its upper half."""
    shaft = min(shaft, up)
    head = min(head, TWO * half)
    neck = half - head
    far = to_segment(x, y, -half, ZERO, -half, shaft)
    far = min(far, to_segment(x, y, -half, shaft, neck, shaft))
    far = min(far, to_segment(x, y, neck, shaft, neck, up))
    far = min(far, to_segment(x, y, neck, up, half, ZERO))
    in_shaft = x >= -half and x <= neck and y <= shaft
    in_head = x > neck and x <= half and y * head <= up * (half - x)
    return -far if in_shaft or in_head else far


@jit
def to_emblem(F, style, x, y, width, height):
    """Return the distance to one shape."""
    half = HALF * height
    corner = f4(F[Steps.EMBLEM_CORNER_RADIUS])
    thickness = f4(F[Steps.EMBLEM_THICKNESS])
    if style == DOT:
        return math.sqrt(x * x + y * y) - half
    if style == RING:
        r = math.sqrt(x * x + y * y)
        return max(r - half, max(half - thickness, ZERO) - r)
    if style == BAR or style == FRAME:
        d = box(x, y, HALF * width, half, corner)
        if style == FRAME and min(HALF * width, half) > thickness:
            d = max(d, -box(x, y, HALF * width - thickness, half - thickness, max(corner - thickness, ZERO)))
        return d
    if style == ARROW:
        return arrow(x, abs(y), HALF * width, half, HALF * thickness, f4(F[Steps.EMBLEM_WAIST]) * height)
    n = max(f4(round(f4(F[Steps.EMBLEM_POINTS]))), f4(3))
    return star(x, y, half, n, math.cos(PI / n) if style == POLYGON else f4(F[Steps.EMBLEM_WAIST]))


@jit
def to_emblems(F, x, y):
    """Return the distance to the nearest of a row of shapes."""
    style = i4(F[Steps.EMBLEM_STYLE])
    width = f4(F[Steps.EMBLEM_WIDTH])
    height = f4(F[Steps.EMBLEM_HEIGHT])
    across = width if style == BAR or style == FRAME or style == ARROW else height
    pitch = across + f4(F[Steps.EMBLEM_GAP])
    last = max(f4(round(f4(F[Steps.EMBLEM_COUNT]))), ONE) - ONE
    middle = HALF * last
    nearest = clamped(f4(math.floor(x / max(pitch, TINY) + middle + HALF)), ZERO, last)
    best = f4(1e30)
    for by in range(-1, 2):
        k = clamped(nearest + f4(by), ZERO, last)
        best = min(best, to_emblem(F, style, x - (k - middle) * pitch, y, width, height))
    return best
