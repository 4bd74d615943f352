"""Pictures: bilinear lookup in the level that is coarse enough, repeated.

S scene table, t picture, b step, (u, v) the picture's own coordinates, size how far what looks at it reaches there.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import address_of, ask_for, f4, i4, jit
from nocturne.engine.kernels.lanes import blended_texels, exponent_of, whole_below
from nocturne.engine.kernels.vectors import HALF, ONE, TWO, ZERO, clamped, scaled
from nocturne.engine.layout import pattern as Pattern
from nocturne.engine.layout import steps as Steps

NUMBER = Steps.IMAGE
MIRROR, ONCE = 1, 3
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
def wrapped(u, v, wrap):
    """Return coordinates brought into one picture as a way of wrapping tells, and 0 where there is none."""
    inside = ONE
    if wrap == MIRROR:
        u = ONE - abs(ONE - (u - TWO * whole_below(u * HALF)))
        v = ONE - abs(ONE - (v - TWO * whole_below(v * HALF)))
    if wrap == ONCE and not (ZERO <= u < ONE and ZERO <= v < ONE):
        inside = ZERO
    if wrap != 0:
        # Just short of the edge: beyond it the picture would begin anew.
        u = clamped(u, LEAST, ONE - LEAST)
        v = clamped(v, LEAST, ONE - LEAST)
    return u, v, inside


@jit
def ask(S, b, F, u, v, size):
    """Ask for the texels that `value` will read."""
    u, v, _ = wrapped(u, v, i4(F[Steps.IMAGE_WRAP]))
    a, _, _, d, _, _ = around(S, T.bind_i(S)[b, Pattern.TEXTURE], u, v, size)
    ask_for(texels_at(S) + TEXEL_BYTES * a)
    ask_for(texels_at(S) + TEXEL_BYTES * d)


@jit
def value(S, wp, at, b, F, q, size, under):
    """Return the value of step b's picture at q."""
    u, v, inside = wrapped(q[0], q[1], i4(F[Steps.IMAGE_WRAP]))
    return scaled(texture(S, T.bind_i(S)[b, Pattern.TEXTURE], u, v, size), inside)


VALUES = {NUMBER: value}
