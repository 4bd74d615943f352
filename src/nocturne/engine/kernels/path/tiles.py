"""Samples of pixels, pixels of tiles, and tiles taken off a list by several threads. Names as in loop.py."""

from nocturne.engine.kernels import filmtables as FT
from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import counted_up, f4, i4, jit, row_f4, row_i4, row_u4, u4
from nocturne.engine.kernels.path.bright import learn_path
from nocturne.engine.kernels.path.camera import camera_ray
from nocturne.engine.kernels.path.hit import NONE
from nocturne.engine.kernels.path.loop import trace_path
from nocturne.engine.kernels.path.state import begin, draw_first, first_pair
from nocturne.engine.kernels.random import combined
from nocturne.engine.kernels.vectors import ONE, ZERO, load, luminance
from nocturne.engine.layout import guide as Guide
from nocturne.engine.layout import media as Media
from nocturne.engine.layout import passes as Pass
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import seen as Seen
from nocturne.engine.layout import squares as Squares


@jit
def cover(F, y, x, which, name):
    """Count one sample for an id; of more ids than fit in a pixel the rarest gives way."""
    ids = FT.ids(F)
    n = FT.coverage(F)
    free = i4(-1)
    least = i4(0)
    for k in range(Seen.MOST_IDS):
        c = f4(n[y, x, which, k])
        if c > ZERO and ids[y, x, which, k] == name:
            n[y, x, which, k] = c + ONE
            return
        if c <= ZERO and free < 0:
            free = i4(k)
        if c < f4(n[y, x, which, least]):
            least = i4(k)
    if free < 0:
        if f4(n[y, x, which, least]) > ONE:
            return
        free = least
    ids[y, x, which, free] = name
    n[y, x, which, free] = ONE


@jit
def open_pixel(S, F, W, y, x, groups):
    for g in range(groups):
        for k in range(3):
            W[Scratch.ACC_GROUPS + g * 3 + k] = FT.groups(F)[g, y, x, k]
    for q in range(Pass.COUNT):
        for k in range(3):
            W[Scratch.ACC_PASSES + q * 3 + k] = FT.passes(F)[q, y, x, k]
    for k in range(Guide.COUNT):
        W[Scratch.ACC_GUIDES + k] = FT.guides(F)[y, x, k]


@jit
def close_pixel(S, F, W, y, x, groups):
    for g in range(groups):
        for k in range(3):
            FT.groups(F)[g, y, x, k] = W[Scratch.ACC_GROUPS + g * 3 + k]
    for q in range(Pass.COUNT):
        for k in range(3):
            FT.passes(F)[q, y, x, k] = W[Scratch.ACC_PASSES + q * 3 + k]
    for k in range(Guide.COUNT):
        FT.guides(F)[y, x, k] = W[Scratch.ACC_GUIDES + k]


@jit
def finite(x):
    return x == x and abs(x) < f4(1e18)


@jit
def one_sample(S, F, W, I, wp, y, x, seed, first, groups):
    """Take the pixel's next sample. A sample that is not finite is dropped and counted as black."""
    index = FT.samples(F)[y, x] + first
    pixel = combined(u4(u4(y) * u4(65536) + u4(x)), u4(seed))
    for k in range(3):
        W[Scratch.SAMPLE_SUM + k] = ZERO
    for k in range(Media.COUNT):
        I[Scratch.MEDIA + k] = u4(T.start_medium(S)[k])
    draw_first(wp, pixel, u4(index))
    u1, v1 = first_pair(W, 0)
    u2, v2 = first_pair(W, 1)
    o, d, way = camera_ray(S, x, y, u1, v1, u2, v2)
    begin(S, W, I, o, d, way, pixel, u4(index))
    trace_path(S, W, I, wp)
    learn_path(S, W, I)
    lum = luminance(load(W, Scratch.SAMPLE_SUM))
    ok = finite(lum)
    if ok:
        W[Scratch.FOUND] = f4(W[Scratch.FOUND]) + lum
        FT.variance(F)[y, x, Squares.SUM] += lum
        FT.variance(F)[y, x, Squares.SUM_OF_SQUARES] += lum * lum
        if I[Scratch.FIRST + Seen.OBJECTS] != NONE:
            cover(F, y, x, Seen.OBJECTS, I[Scratch.FIRST + Seen.OBJECTS])
        if I[Scratch.FIRST + Seen.MATERIALS] != NONE:
            cover(F, y, x, Seen.MATERIALS, I[Scratch.FIRST + Seen.MATERIALS])
    return ok


@jit
def render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed, first):
    """Bring every `step`th pixel of a tile up to `target` samples; return how many were taken.

    The film remembers each pixel's count, so a tile that was stopped half-way goes on where it was.
    """
    groups = FT.groups(F).shape[0]
    taken = 0
    for y in range(y0, y1):
        if y % step != 0:
            continue
        for x in range(x0, x1):
            if x % step != 0 or FT.samples(F)[y, x] >= target:
                continue
            if flags[0] != 0 or flags[1] != 0:
                return taken
            open_pixel(S, F, W, y, x, groups)
            while FT.samples(F)[y, x] < target:
                taken += 1
                # Sums first, then the count: whoever reads the film meanwhile never divides by a sample too many.
                if one_sample(S, F, W, I, wp, y, x, seed, first, groups):
                    close_pixel(S, F, W, y, x, groups)
                else:
                    open_pixel(S, F, W, y, x, groups)
                FT.samples(F)[y, x] += 1
    return taken


def render_tiles(S, F, wp, stop, tiles, cursor, n, most, target, step, seed, first):
    """Take tiles off a list that several threads share until it is empty; return how many samples were taken.

    `tiles` is the address of (n, 4) int32 x0, y0, x1, y1; `cursor` of the int64 that counts those that were taken;
    `first` the number of the film's first sample; `stop` the address of two int32 flags that are polled between pixels.
    Returns early, after a tile, from `most` samples on.
    """
    W = row_f4(wp)
    I = row_u4(wp)
    flags = row_i4(stop)
    edges = row_i4(tiles)
    taken = 0
    while taken < most and flags[0] == 0 and flags[1] == 0:
        k = 4 * counted_up(cursor)
        if k >= 4 * n:
            break
        x0, y0, x1, y1 = edges[k], edges[k + 1], edges[k + 2], edges[k + 3]
        taken += render_tile(S, F, W, I, wp, flags, x0, y0, x1, y1, target, step, seed, first)
    return taken
