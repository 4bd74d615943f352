"""Pictures: bilinear lookup, repeated, laid on by a binding. S scene table, t picture, b binding."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import ONE, ZERO, added, scaled
from nocturne.engine.layout import texture as Texture

TEXEL = f4(1.0 / 65535.0)


@jit
def texel(S, first, w, h, x, y):
    x = x % w
    y = y % h
    i = first + y * w + x
    t = T.texels(S)
    r = f4(t[i, 0]) * TEXEL
    g = f4(t[i, 1]) * TEXEL
    b = f4(t[i, 2]) * TEXEL
    return (r * r, g * g, b * b)


@jit
def texture(S, t, u, v):
    """Return the bilinear value of texture t at (u, v); v points up, the picture repeats."""
    first = T.tex_i(S)[t, Texture.FIRST_TEXEL]
    w = T.tex_i(S)[t, Texture.WIDTH]
    h = T.tex_i(S)[t, Texture.HEIGHT]
    x = (u - math.floor(u)) * w - 0.5
    y = (1.0 - (v - math.floor(v))) * h - 0.5
    x0 = math.floor(x)
    y0 = math.floor(y)
    fx = f4(x - x0)
    fy = f4(y - y0)
    a = texel(S, first, w, h, x0, y0)
    b = texel(S, first, w, h, x0 + 1, y0)
    c = texel(S, first, w, h, x0, y0 + 1)
    d = texel(S, first, w, h, x0 + 1, y0 + 1)
    k = f4(T.tex_f(S)[t, Texture.SCALE])
    top = added(scaled(a, ONE - fx), scaled(b, fx))
    low = added(scaled(c, ONE - fx), scaled(d, fx))
    return scaled(added(scaled(top, ONE - fy), scaled(low, fy)), k)


@jit
def bound_texture(S, b, u, v):
    """Return what binding b puts out at (u, v), inverted if it is to be."""
    F = T.bind_f(S)
    t = texture(
        S,
        T.bind_i(S)[b, Texture.TEXTURE],
        f4(F[b, Texture.TO_U]) * u + f4(F[b, Texture.TO_U + 1]) * v + f4(F[b, Texture.TO_U + 2]),
        f4(F[b, Texture.TO_V]) * u + f4(F[b, Texture.TO_V + 1]) * v + f4(F[b, Texture.TO_V + 2]),
    )
    if f4(F[b, Texture.IS_INVERTED]) > ZERO:
        # A picture may hold values above 1; their negative is black, not less.
        t = (max(ONE - t[0], ZERO), max(ONE - t[1], ZERO), max(ONE - t[2], ZERO))
    return t
