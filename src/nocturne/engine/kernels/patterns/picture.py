"""Pictures: bilinear lookup, repeated. S scene table, t picture, b binding, (u, v) the picture's own coordinates."""

import math

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.vectors import ONE, added, scaled
from nocturne.engine.layout import pattern as Pattern

NUMBER = Pattern.PICTURE
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
    first = T.tex_i(S)[t, Pattern.FIRST_TEXEL]
    w = T.tex_i(S)[t, Pattern.WIDTH]
    h = T.tex_i(S)[t, Pattern.HEIGHT]
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
    k = f4(T.tex_f(S)[t, Pattern.SCALE])
    top = added(scaled(a, ONE - fx), scaled(b, fx))
    low = added(scaled(c, ONE - fx), scaled(d, fx))
    return scaled(added(scaled(top, ONE - fy), scaled(low, fy)), k)


@jit
def value(S, b, u, v):
    """Return the value of binding b's picture at (u, v)."""
    return texture(S, T.bind_i(S)[b, Pattern.TEXTURE], u, v)


def parts(step):
    """Return what the float row of a picture has beside its placement: nothing."""
    return {}
