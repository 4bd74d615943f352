"""Pictures: bilinear lookup in the level that is coarse enough, repeated.

S scene table, t picture, b step, (u, v) the picture's own coordinates, size how far what looks at it reaches there.
"""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import address_of, ask_for, f4, i4, jit, row_f4
from nocturne.engine.kernels.lanes import blended_texels, exponent_of, whole_below
from nocturne.engine.kernels.patterns.hashing import hashed
from nocturne.engine.kernels.vectors import HALF, ONE, PI, TWO, ZERO, along, clamped, mixed, scaled
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import spot as Spot
from nocturne.engine.layout import steps as Steps

NUMBER = Steps.IMAGE
MIRROR, ONCE, OVER = 1, 3, 4
STEPS, HEAD = 256, 3  # of the way back
INV_ROOT_3, HALF_ROOT_3 = f4(1 / math.sqrt(3)), f4(math.sqrt(3) / 2)
LEAST = f4(1e-6)
TEXEL_BYTES = 8
texels_at = address_of["texels"]


@jit
def place(first, tiles, x, y):
    """Return the index of a level's texel (x, y): tiles are 4 across and 2 down."""
    return first + ((((y >> 1) * tiles + (x >> 2)) << 3) | ((y & 1) << 2) | (x & 3))


@jit
def around(S, t, u, v, size):
    """Return the indices of the four texels around (u, v), and how far it lies towards the right and lower ones.

    v points up, the picture repeats. Its pixels are at most as large as `size`, and more than half of it.
    """
    finest = T.tex_i(S)[t, Pattern.FIRST_LEVEL]
    coarsest = T.tex_i(S)[t, Pattern.LEVELS] - 1
    k = finest + min(max(exponent_of(max(size * f4(T.tex_f(S)[t, Pattern.SIDE]), LEAST)), 0), coarsest)
    first = T.level_i(S)[k, Pattern.FIRST_TEXEL]
    w = T.level_i(S)[k, Pattern.WIDTH]
    h = T.level_i(S)[k, Pattern.HEIGHT]
    tiles = T.level_i(S)[k, Pattern.TILES]
    x = (u - whole_below(u)) * f4(w) - HALF
    y = (ONE - (v - whole_below(v))) * f4(h) - HALF
    across = whole_below(x)
    down = whole_below(y)
    x1 = i4(across) + 1
    y1 = i4(down) + 1
    # Whatever the coordinates are, and be they no numbers, no texel outside of the picture is read.
    x0 = x1 - 1 if 0 < x1 <= w else w - 1
    y0 = y1 - 1 if 0 < y1 <= h else h - 1
    x1 = x1 if 0 <= x1 < w else 0
    y1 = y1 if 0 <= y1 < h else 0
    return (
        place(first, tiles, x0, y0),
        place(first, tiles, x1, y0),
        place(first, tiles, x0, y1),
        place(first, tiles, x1, y1),
        x - across,
        y - down,
    )


@jit
def texture(S, t, u, v, size):
    """Return the bilinear value of texture t at (u, v)."""
    a, b, c, d, x, y = around(S, t, u, v, size)
    return scaled(blended_texels(texels_at(S), a, b, c, d, x, y), f4(T.tex_f(S)[t, Pattern.SCALE]))


@jit
def over_all(S, t, u, v):
    """Return coordinates over all tiles of picture t: it may be a set of them."""
    return u * f4(T.tex_f(S)[t, Pattern.PER_SQUARE]), v * f4(T.tex_f(S)[t, Pattern.PER_SQUARE + 1])


@jit
def wrapped(u, v, wrap):
    """Return coordinates brought into one picture as a way of wrapping tells, and 0 where there is none."""
    inside = ONE
    if wrap == MIRROR:
        u = ONE - abs(ONE - (u - TWO * whole_below(u * HALF)))
        v = ONE - abs(ONE - (v - TWO * whole_below(v * HALF)))
    if wrap >= ONCE and not (ZERO <= u < ONE and ZERO <= v < ONE):
        inside = ZERO
    if wrap != 0:
        # Just short of the edge: beyond it the picture would begin anew.
        u = clamped(u, LEAST, ONE - LEAST)
        v = clamped(v, LEAST, ONE - LEAST)
    return u, v, inside


@jit
def ask(S, b, F, u, v, size):
    """Ask for the texels that `value` will read."""
    if f4(F[Steps.IMAGE_HIDE_REPEATS]) > HALF:
        return
    t = T.bind_i(S)[b, Pattern.TEXTURE]
    u, v = over_all(S, t, u, v)
    u, v, _ = wrapped(u, v, i4(F[Steps.IMAGE_WRAP]))
    a, _, _, d, _, _ = around(S, t, u, v, size)
    ask_for(texels_at(S) + TEXEL_BYTES * a)
    ask_for(texels_at(S) + TEXEL_BYTES * d)


@jit
def patch_value(S, t, u, v, x, y, per_unit, turn, size):
    """Return the spread value, less a half, of the patch of number (x, y) at (u, v)."""
    a, b, c = hashed(x, y, 77)
    middle_v = f4(y) * HALF_ROOT_3 / per_unit
    middle_u = f4(x) / per_unit + middle_v * INV_ROOT_3
    angle = PI * turn * (TWO * c - ONE)
    d = math.cos(angle)
    s = math.sin(angle)
    du = u - middle_u
    dv = v - middle_v
    g = texture(S, t, d * du - s * dv + middle_u + a, s * du + d * dv + middle_v + b, size)
    return (g[0] - HALF, g[1] - HALF, g[2] - HALF)


@jit
def taken_back(R, first, k, g):
    """Return what a spread value is along axis k: between two rows of the way back."""
    at = clamped(g, ZERO, ONE) * f4(STEPS - 1)
    i = min(i4(at), STEPS - 2)
    return mixed(f4(R[first + i, k]), f4(R[first + i + 1, k]), at - f4(i))


@jit
def without_repeats(S, b, F, u, v, size):
    """Return the picture of step b without repeats, see `nocturne.scene.patterns.tiling`."""
    t = T.bind_i(S)[b, Pattern.TEXTURE]
    per_unit = ONE / max(f4(F[Steps.IMAGE_PATCH]), f4(1e-3))
    turn = f4(F[Steps.IMAGE_PATCH_TURN])
    x = (u - v * INV_ROOT_3) * per_unit
    y = v * TWO * INV_ROOT_3 * per_unit
    column = i4(math.floor(x))
    row = i4(math.floor(y))
    p = x - f4(column)
    q = y - f4(row)
    r = ONE - p - q
    total = (ZERO, ZERO, ZERO)
    squares = ZERO
    for k in range(3):
        # The corner by itself, then the two beside it: of the lower triangle, or of the upper one.
        if r > ZERO:
            i = column + (1 if k == 2 else 0)
            j = row + (1 if k == 1 else 0)
            w = r if k == 0 else (q if k == 1 else p)
        else:
            i = column + (0 if k == 2 else 1)
            j = row + (0 if k == 1 else 1)
            w = -r if k == 0 else (ONE - q if k == 1 else ONE - p)
        total = along(patch_value(S, t, u, v, i, j, per_unit, turn, size), w, total)
        squares += w * w
    s = ONE / math.sqrt(max(squares, f4(1e-9)))
    coarsest = T.tex_i(S)[t, Pattern.LEVELS] - 1
    level = min(max(exponent_of(max(size * f4(T.tex_f(S)[t, Pattern.SIDE]), LEAST)), 0), coarsest)
    head = T.bind_i(S)[b, Pattern.FIRST_ENTRY]
    first = head + HEAD + STEPS * level
    R = T.entries(S)
    c = taken_back(R, first, 0, HALF + total[0] * s)
    d = taken_back(R, first, 1, HALF + total[1] * s)
    e = taken_back(R, first, 2, HALF + total[2] * s)
    return (
        max(f4(R[head, 0]) * c + f4(R[head, 1]) * d + f4(R[head, 2]) * e + f4(R[head, 3]), ZERO),
        max(f4(R[head + 1, 0]) * c + f4(R[head + 1, 1]) * d + f4(R[head + 1, 2]) * e + f4(R[head + 1, 3]), ZERO),
        max(f4(R[head + 2, 0]) * c + f4(R[head + 2, 1]) * d + f4(R[head + 2, 2]) * e + f4(R[head + 2, 3]), ZERO),
    )


@jit
def value(S, wp, at, b, F, q, size, under):
    """Return the value of step b's picture at q."""
    found, inside = as_it_is(S, wp, at, b, F, q, size)
    if inside == ZERO and i4(F[Steps.IMAGE_WRAP]) == OVER:
        return under
    if f4(F[Steps.IMAGE_GREEN_DOWN]) > HALF:
        return found[0], max(ONE - found[1], ZERO), found[2]
    return found


@jit
def as_it_is(S, wp, at, b, F, q, size):
    """Return the value of step b's picture at q, whichever way its green points, and 0 where there is none, else 1."""
    size = min(size, f4(row_f4(wp)[at + Spot.MOST]))
    t = T.bind_i(S)[b, Pattern.TEXTURE]
    u, v = over_all(S, t, q[0], q[1])
    if f4(F[Steps.IMAGE_HIDE_REPEATS]) > HALF:
        return without_repeats(S, b, F, u, v, size), ONE
    u, v, inside = wrapped(u, v, i4(F[Steps.IMAGE_WRAP]))
    return scaled(texture(S, t, u, v, size), inside), inside


VALUES = {NUMBER: value}
