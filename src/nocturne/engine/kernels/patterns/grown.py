"""Grown and worked stuff: wood, marble, weave, knurl, brushed metal, perforated sheet. Names as in `steps`."""

import math

from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, i4, jit, row_f4
from nocturne.engine.kernels.patterns.handing import put_out, under_it
from nocturne.engine.kernels.patterns.hashing import fractal, hashed, noise, reach_in_lumps
from nocturne.engine.kernels.patterns.noises import grey
from nocturne.engine.kernels.vectors import HALF, ONE, PI, TWO, ZERO, clamped, scaled
from nocturne.engine.layout import steps as Steps

LEAST, TINY, BIG = f4(1e-6), f4(1e-9), f4(1e9)
DEGREE = f4(math.pi / 180)
ROWS = f4(math.sqrt(0.75))  # of a staggered grid, in pitches


@jit
def stretched(p, x, y, z):
    return (p[0] * f4(x), p[1] * f4(y), p[2] * f4(z))


@jit
def wood(S, wp, at, b, F, q, size, under):
    """Return 0 in early wood to 1 in late wood, or a number of the ring."""
    p = scaled(q, ONE / max(f4(F[Steps.WOOD_RING]), LEAST))
    low = noise(stretched(p, 0.09, 0.09, 0.009))
    mid = noise(stretched(p, 0.4, 0.4, 0.04))
    r = math.sqrt(p[0] * p[0] + p[1] * p[1]) + f4(F[Steps.WOOD_WOBBLE]) * (f4(4) * low + mid)
    if f4(F[Steps.WOOD_OUTPUT]) > HALF:
        own, _, _ = hashed(i4(math.floor(r)), 7, 13)
        return grey(own)
    t = f4(r - math.floor(r))
    rise = clamped(t / f4(0.85), ZERO, ONE)
    late = rise * rise * clamped((ONE - t) / f4(0.15), ZERO, ONE)
    grain = f4(F[Steps.WOOD_GRAIN])
    fine = HALF + HALF * noise(stretched(p, 6.0, 6.0, 0.15))
    return grey(clamped(late * (ONE - grain) + fine * grain, ZERO, ONE))


@jit
def marble(S, wp, at, b, F, q, size, under):
    """Return 1 in a vein, or a number of what lies between."""
    s = ONE / max(f4(F[Steps.MARBLE_SCALE]), LEAST)
    p = scaled(q, s)
    wander = TWO * fractal(p, 6, f4(2.1), HALF, 0, reach_in_lumps(wp, at, size * s)) - ONE
    t = p[0] + f4(0.6) * p[1] + f4(0.3) * p[2] + f4(F[Steps.MARBLE_TURBULENCE]) * wander
    if f4(F[Steps.MARBLE_OUTPUT]) > HALF:
        own, _, _ = hashed(i4(math.floor(t)), 17, 13)
        return grey(own)
    vein = max(ONE - abs(math.sin(PI * t)), ZERO)
    return grey(vein ** max(f4(F[Steps.MARBLE_SHARPNESS]), f4(0.01)))


@jit
def top_of(across, along, is_even, fill):
    """Return how high a thread is: across it its round back, along it the way up and down."""
    side = (TWO * across - ONE) / fill
    back = math.sqrt(max(ONE - side * side, ZERO))
    rise = HALF * abs(math.sin(PI * along))
    return back * (HALF + rise if is_even else HALF - rise)


@jit
def weave(S, wp, at, b, F, q, size, under):
    """Return what the thread that lies on top is."""
    s = ONE / max(f4(F[Steps.WEAVE_THREAD]), TINY)
    fill = max(f4(F[Steps.WEAVE_FILL]), f4(0.01))
    x = q[0] * s
    y = q[1] * s
    column = i4(math.floor(x))
    row = i4(math.floor(y))
    is_even = ((column + row) & 1) == 0
    across = top_of(y - f4(row), x, is_even, fill)
    up = top_of(x - f4(column), y, not is_even, fill)
    output = i4(F[Steps.WEAVE_OUTPUT])
    if output == 0:
        return grey(max(across, up))
    if output == 2:
        return grey(ONE if across >= up else ZERO)
    if output == 3:
        return grey(ONE if max(across, up) <= ZERO else ZERO)
    if across >= up:
        a, _, _ = hashed(row, 1, 3)
    else:
        a, _, _ = hashed(column, 2, 3)
    return grey(a)


@jit
def ridge(t):
    return ONE - abs(TWO * f4(t - math.floor(t)) - ONE)


@jit
def knurl(S, wp, at, b, F, q, size, under):
    """Return the height of the diamonds, 0..1, a number of each, or 1 in the grooves."""
    s = ONE / max(f4(F[Steps.KNURL_PITCH]), TINY)
    a = f4(F[Steps.KNURL_ANGLE_DEG]) * DEGREE
    c = math.cos(a) * s
    d = math.sin(a) * s
    x = c * q[0] + d * q[1]
    y = c * q[0] - d * q[1]
    output = i4(F[Steps.KNURL_OUTPUT])
    if output == 1:
        own, _, _ = hashed(i4(math.floor(x)), i4(math.floor(y)), 19)
        return grey(own)
    low = min(ridge(x), ridge(y))
    if output == 2:
        return grey(ONE if low * f4(F[Steps.KNURL_PITCH]) < f4(F[Steps.KNURL_GROOVE]) else ZERO)
    return grey(clamped(low / max(ONE - f4(F[Steps.KNURL_FLAT]), f4(0.05)), ZERO, ONE))


@jit
def brushed(S, wp, at, b, F, q, size, under):
    """Return grey lines, 0..1."""
    t = ONE / max(f4(F[Steps.BRUSHED_WIDTH]), TINY)
    p = (q[0] / max(f4(F[Steps.BRUSHED_LENGTH]), LEAST), q[1] * t, ZERO)
    return grey(fractal(p, 3, f4(2.3), f4(0.6), 0, reach_in_lumps(wp, at, size * t)))


@jit
def perforated(S, wp, at, b, F, q, size, under):
    """Return what the nearest hole is."""
    pitch = max(f4(F[Steps.PERFORATED_PITCH]), TINY)
    hole = max(f4(F[Steps.PERFORATED_HOLE]), TINY)
    is_staggered = f4(F[Steps.PERFORATED_STAGGERED]) > HALF
    tall = pitch * ROWS if is_staggered else pitch
    middle = i4(math.floor(q[1] / tall))
    best = BIG
    own = ZERO
    for row in range(middle - 1, middle + 2):
        shift = HALF * f4(row & 1) if is_staggered else ZERO
        column = i4(math.floor(q[0] / pitch - shift))
        dx = q[0] - (f4(column) + shift + HALF) * pitch
        dy = q[1] - (f4(row) + HALF) * tall
        way = math.sqrt(dx * dx + dy * dy)
        if way < best:
            best = way
            own, _, _ = hashed(column, row, 31)
    output = i4(F[Steps.PERFORATED_OUTPUT])
    if output == 0:
        return grey(ONE if best < HALF * hole else ZERO)
    if output == 1:
        return grey(own)
    t = clamped((best - HALF * hole) / max(f4(F[Steps.PERFORATED_RIM]), TINY), ZERO, ONE)
    return grey(math.sqrt(max(ONE - (ONE - t) * (ONE - t), ZERO)))


VALUES = {
    Steps.WOOD: wood,
    Steps.MARBLE: marble,
    Steps.WEAVE: weave,
    Steps.KNURL: knurl,
    Steps.BRUSHED: brushed,
    Steps.PERFORATED: perforated,
}
choose = by_kind(VALUES)


def step(S, wp, kind, at, b, F, x, y, z, size):
    """Unit: put out what a step of this family does."""
    put_out(wp, choose(kind, S, wp, at, b, row_f4(F), (x, y, z), size, under_it(wp)))
