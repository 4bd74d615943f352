"""Materials over each other: which one a hit shows, by chance, and the lip where one ends.

Of a layer that half covers what is below it, every other path meets it: each is followed as if there were only that
one. S scene table, W work row, I unsigned, wp its address, u a random number.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, u4
from nocturne.engine.kernels.patterns.drive import read_material
from nocturne.engine.kernels.patterns.relief import raise_by
from nocturne.engine.kernels.random import INV_2_24, combined
from nocturne.engine.kernels.vectors import HALF, ONE, TINY, ZERO, clamped
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import path as Path
from nocturne.engine.layout import scratch as Scratch

P = Scratch.PATH
MOST = 8
GOLDEN = u4(0x9E3779B9)


@inlined
def layer_chance(I, salt):
    """Return a number in [0, 1) for the path's sample, evenly spread over samples; a half where there is no chance."""
    if I[P + Path.PIXEL] == u4(0) and I[P + Path.SAMPLE] == u4(0):
        return HALF
    number = combined(I[P + Path.PIXEL], u4(I[P + Path.STEP] ^ salt))
    return f4(u4(u4(number + u4(I[P + Path.SAMPLE] * GOLDEN)) >> u4(8))) * INV_2_24


@inlined
def shown_below(S, W, I, wp, m, to, at, u):
    """Return which material is shown where the row at `to` is of material m; the row is of that one then."""
    for _ in range(MOST):
        over = T.mat_i(S)[m, Mat.OVER]
        cover = clamped(f4(W[to + Mat.COVER]), ZERO, ONE)
        if over < 0 or u < cover:
            return m
        u = min((u - cover) / max(ONE - cover, TINY), f4(0.9999999))
        m = i4(over)
        read_material(S, W, I, wp, m, to, at)
    return m


@inlined
def settle_layer(S, W, I, wp):
    """Choose which material of several over each other the hit shows, and bend its normal where one of them ends."""
    m = i4(I[Scratch.MATERIAL])
    u = layer_chance(I, u4(0x7F4A7C15))
    for _ in range(MOST):
        over = T.mat_i(S)[m, Mat.OVER]
        if over < 0:
            return
        thick = f4(W[Scratch.MAT + Mat.THICKNESS])
        cover = clamped(f4(W[Scratch.MAT + Mat.COVER]), ZERO, ONE)
        if thick > ZERO and T.mat_i(S)[m, Mat.COVERS] > 0:
            n = T.mat_i(S)[m, Mat.COVERS]
            before = T.mat_i(S)[m, Mat.BINDINGS] - T.mat_i(S)[m, Mat.HEIGHTS] - n
            first = T.mat_i(S)[m, Mat.FIRST_BINDING] + before
            raise_by(S, W, I, wp, first, n, Mat.COVER, f4(T.mat_f(S)[m, Mat.COVER]), thick)
        if u < cover:
            return
        u = min((u - cover) / max(ONE - cover, TINY), f4(0.9999999))
        m = i4(over)
        I[Scratch.MATERIAL] = u4(m)
        read_material(S, W, I, wp, m, Scratch.MAT, Scratch.SPOT)
